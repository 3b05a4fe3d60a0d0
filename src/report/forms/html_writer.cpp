#include <algorithm>

#include "report/forms/page.hpp"

namespace kiteknot::report {

std::string for_html(const std::string& text) {
  std::string out;
  for (const char c : text) {
    switch (c) {
      case '&':
        out += "&amp;";
        break;
      case '<':
        out += "&lt;";
        break;
      case '>':
        out += "&gt;";
        break;
      case '"':
        out += "&quot;";
        break;
      case '\'':
        out += "&#39;";
        break;
      case kTie:
        out += "\u00a0";
        break;
      default:
        // Signs that XML does not take at all.
        out += static_cast<unsigned char>(c) < 0x20 ? ' ' : c;
    }
  }
  return out;
}

namespace {

class HtmlWriter final : public PageWriter {
 public:
  void title(const std::string& text, Tone tone) override {
    const char* kind = tone == Tone::good  ? " class=\"good\""
                       : tone == Tone::bad ? " class=\"bad\""
                                           : "";
    text_ += std::string("<h2") + kind + ">" + for_html(text) + "</h2>\n";
  }
  void heading(const std::string& text) override { text_ += "<h3>" + for_html(text) + "</h3>\n"; }
  void say(const std::string& text, std::size_t) override {
    text_ += "<p>" + for_html(text) + "</p>\n";
  }
  void gap() override {}
  void table(const std::vector<Cells>& rows, const TableShape& shape) override {
    std::size_t columns = 0;
    for (const auto& row : rows) columns = std::max(columns, row.size());
    std::vector<char> filled(columns, 0);
    for (const auto& row : rows)
      for (std::size_t c = 0; c < row.size(); ++c) filled[c] = filled[c] || !row[c].empty();
    if (columns == 0) return;
    text_ += shape.headed ? "<div class=\"wide\"><table class=\"sorts\">\n"
                          : "<div class=\"wide\"><table>\n";
    for (std::size_t r = 0; r < rows.size(); ++r) {
      const bool head = shape.headed && r == 0;
      if (head) text_ += "<thead>";
      text_ += "<tr>";
      for (std::size_t c = 0; c < columns; ++c) {
        if (!filled[c]) continue;
        const bool right =
            std::find(shape.right.begin(), shape.right.end(), c) != shape.right.end();
        const char* tag = head ? "th" : "td";
        text_ += std::string("<") + tag + (right ? " class=\"number\">" : ">") +
                 (c < rows[r].size() ? for_html(rows[r][c]) : "") + "</" + tag + ">";
      }
      text_ += head ? "</tr></thead>\n" : "</tr>\n";
    }
    text_ += "</table></div>\n";
  }
  std::string take() override { return std::move(text_); }

 private:
  std::string text_;
};

}  // namespace

std::unique_ptr<PageWriter> make_html_writer() {
  return std::make_unique<HtmlWriter>();
}

}  // namespace kiteknot::report
