#include <algorithm>

#include "report/forms/page.hpp"

namespace kiteknot::report {
namespace {

class TextWriter final : public PageWriter {
 public:
  explicit TextWriter(const PageOptions& options) : options_(options) {}

  void title(const std::string& text, Tone tone) override { text_ += toned(text, tone) + "\n"; }

  void heading(const std::string& text) override {
    gap();
    text_ += (options_.colour ? "\033[1m" + text + "\033[0m" : text) + "\n";
  }

  void say(const std::string& text, std::size_t indent) override {
    text_ += std::string(indent, ' ');
    wrapped(text, indent, indent);
  }

  void gap() override {
    if (!text_.empty() && !text_.ends_with("\n\n")) text_ += '\n';
  }

  void table(const std::vector<Cells>& rows, const TableShape& shape) override {
    if (shape.narrow) return table(with_broken_heads(rows), {shape.right, shape.headed, false});
    constexpr std::size_t kWidest = 44;  // of a column that is not the last
    std::vector<std::size_t> widths;
    for (const auto& row : rows)
      for (std::size_t c = 0; c + 1 < row.size(); ++c) {
        if (widths.size() <= c) widths.resize(c + 1, 0);
        widths[c] = std::max(widths[c], std::min(shown_width(row[c]), kWidest));
      }
    const auto is_right = [&](std::size_t c) {
      return std::find(shape.right.begin(), shape.right.end(), c) != shape.right.end();
    };
    std::size_t last = 0;  // the widest of those at the end, where that is set flush right
    for (const auto& row : rows)
      if (is_right(row.size() - 1)) last = std::max(last, shown_width(row.back()));
    for (const auto& row : rows) {
      std::string line = "  ";
      for (std::size_t c = 0; c + 1 < row.size(); ++c) {
        const std::size_t own = shown_width(row[c]);
        const std::string pad(widths[c] > own ? widths[c] - own : 0, ' ');
        if (widths[c] == 0) continue;  // nothing stands in this column anywhere
        line += is_right(c) ? pad + row[c] : row[c] + pad;
        line += "   ";
      }
      const std::size_t own = shown_width(row.back());
      if (is_right(row.size() - 1) && own < last) line += std::string(last - own, ' ');
      const std::size_t used = shown_width(line);
      text_ += line;
      wrapped(row.back(), used, used);
      while (text_.size() > 1 && text_[text_.size() - 2] == ' ') text_.erase(text_.size() - 2, 1);
    }
  }

  std::string take() override { return std::move(text_); }

 private:
  [[nodiscard]] std::string toned(const std::string& text, Tone tone) const {
    if (!options_.colour || tone == Tone::plain) return text;
    const char* code = tone == Tone::good  ? "\033[1;38;5;31m"
                       : tone == Tone::bad ? "\033[1;38;5;166m"
                                           : "\033[2m";
    return code + text + "\033[0m";
  }

  // The names of columns over several lines, no wider than what they must be.
  static std::vector<Cells> with_broken_heads(const std::vector<Cells>& rows) {
    std::vector<Cells> parts;  // of each name, its lines
    std::size_t lines = 0;
    for (std::size_t c = 0; c < rows[0].size(); ++c) {
      parts.push_back(broken_name(rows[0][c], head_width(rows, c)));
      lines = std::max(lines, parts.back().size());
    }
    std::vector<Cells> out;
    for (std::size_t line = 0; line < lines; ++line) {
      Cells row;
      for (const Cells& part : parts) {  // they stand on the last line
        const std::size_t before = lines - part.size();
        row.push_back(line < before ? "" : part[line - before]);
      }
      out.push_back(std::move(row));
    }
    out.insert(out.end(), rows.begin() + 1, rows.end());
    return out;
  }

  // Appends words; a line break indents by `indent`. `used` columns of the present line are taken.
  void wrapped(const std::string& text, std::size_t used, std::size_t indent) {
    const auto width = static_cast<std::size_t>(std::max(options_.width, 40));
    std::size_t at = 0;
    bool first = true;
    while (at < text.size()) {
      // A break may fall on a space, but not inside a name's brackets.
      std::size_t end = at;
      for (int depth = 0; end < text.size() && (text[end] != ' ' || depth > 0); ++end)
        depth = std::max(0, depth + (text[end] == '[') - (text[end] == ']'));
      const std::string word = text.substr(at, end - at);
      const std::size_t size = shown_width(word);
      if (!first && used + 1 + size > width) {
        text_ += "\n" + std::string(indent, ' ');
        used = indent;
      } else if (!first) {
        text_ += ' ';
        ++used;
      }
      for (const char c : word) text_ += c == kTie ? ' ' : c;
      used += size;
      first = false;
      at = end + 1;
    }
    text_ += '\n';
  }

  PageOptions options_;
  std::string text_;
};

}  // namespace

std::unique_ptr<PageWriter> make_text_writer(const PageOptions& options) {
  return std::make_unique<TextWriter>(options);
}

}  // namespace kiteknot::report
