#include <algorithm>

#include "report/forms/page.hpp"

namespace kiteknot::report {
namespace {

// Signs that Markdown would take for its own.
std::string for_markdown(const std::string& text) {
  std::string out;
  for (std::size_t k = 0; k < text.size(); ++k) {
    const char c = text[k];
    // "](", "][" and "]:" would make a link of what stands in brackets.
    const char next = k + 1 < text.size() ? text[k + 1] : ' ';
    if (c == ']' && (next == '(' || next == '[' || next == ':')) out += '\\';
    if (c == '|' || c == '*' || c == '_' || c == '<' || c == '`') out += '\\';
    out += c == kTie ? ' ' : c;
  }
  return out;
}

class MarkdownWriter final : public PageWriter {
 public:
  void title(const std::string& text, Tone) override {
    text_ += "# " + for_markdown(text) + "\n\n";
  }
  void heading(const std::string& text) override {
    gap();
    text_ += "## " + for_markdown(text) + "\n\n";
  }
  void say(const std::string& text, std::size_t) override {
    gap();
    text_ += for_markdown(text) + "\n";
  }
  void gap() override {
    if (!text_.empty() && !text_.ends_with("\n\n")) text_ += '\n';
  }
  void table(const std::vector<Cells>& rows, const TableShape& shape) override {
    std::size_t columns = 0;
    for (const auto& row : rows) columns = std::max(columns, row.size());
    if (columns == 0) return;
    gap();
    // A heading is what Markdown asks for; where nothing names the columns it is blank.
    line(shape.headed ? rows[0] : Cells(columns, " "), columns);
    text_ += "|";
    for (std::size_t c = 0; c < columns; ++c) text_ += " --- |";
    text_ += "\n";
    for (std::size_t r = shape.headed ? 1 : 0; r < rows.size(); ++r) line(rows[r], columns);
  }
  std::string take() override { return std::move(text_); }

 private:
  void line(const Cells& row, std::size_t columns) {
    text_ += "|";
    for (std::size_t c = 0; c < columns; ++c)
      text_ += " " + (c < row.size() ? for_markdown(row[c]) : "") + " |";
    text_ += "\n";
  }

  std::string text_;
};

}  // namespace

std::unique_ptr<PageWriter> make_markdown_writer() {
  return std::make_unique<MarkdownWriter>();
}

}  // namespace kiteknot::report
