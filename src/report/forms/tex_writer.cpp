#include <algorithm>

#include "report/forms/page.hpp"

namespace kiteknot::report {
namespace {

// Signs that TeX would take for its own.
std::string for_tex(const std::string& text) {
  std::string out;
  for (const char c : text) {
    switch (c) {
      case '\\':
        out += "\\textbackslash{}";
        break;
      case '~':
        out += "\\textasciitilde{}";
        break;
      case '^':
        out += "\\textasciicircum{}";
        break;
      case '<':
        out += "\\ensuremath{<}";
        break;
      case '>':
        out += "\\ensuremath{>}";
        break;
      case '|':
        out += "\\ensuremath{|}";
        break;
      case '"':
        out += "\\textquotedbl{}";
        break;
      case kTie:
        out += '~';
        break;
      default:
        if (std::string("#$%&_{}").find(c) != std::string::npos) out += '\\';
        out += c;
    }
  }
  for (const auto& [sign, tex] : {std::pair{"\\ensuremath{<}=", "\\ensuremath{\\le}"},
                                  std::pair{"\\ensuremath{>}=", "\\ensuremath{\\ge}"}})
    for (std::size_t at = out.find(sign); at != std::string::npos; at = out.find(sign))
      out.replace(at, std::string(sign).size(), tex);
  return out;
}

// "-3/2" alone as a fraction, "-4" with a true minus.
std::string cell(const std::string& text) {
  const std::size_t from = text.starts_with('-') ? 1 : 0;
  const std::size_t slash = text.find('/');
  const auto digits = [&](std::size_t a, std::size_t b) {
    return a < b && std::all_of(text.begin() + static_cast<std::ptrdiff_t>(a),
                                text.begin() + static_cast<std::ptrdiff_t>(b),
                                [](char c) { return c >= '0' && c <= '9'; });
  };
  const std::string minus = from == 1 ? "-" : "";
  if (digits(from, text.size())) return "$" + text + "$";
  if (slash != std::string::npos && digits(from, slash) && digits(slash + 1, text.size()))
    return "$" + minus + "\\frac{" + text.substr(from, slash - from) + "}{" +
           text.substr(slash + 1) + "}$";
  return for_tex(text);
}

class TexWriter final : public PageWriter {
 public:
  void title(const std::string& text, Tone) override {
    text_ += "\n\\section*{" + for_tex(text) + "}\n";
  }
  void heading(const std::string& text) override {
    text_ += "\n\\subsection*{" + for_tex(text) + "}\n";
  }
  void say(const std::string& text, std::size_t) override { text_ += "\n" + for_tex(text) + "\n"; }
  void gap() override {}
  void table(const std::vector<Cells>& rows, const TableShape& shape) override {
    std::size_t columns = 0;
    for (const auto& row : rows) columns = std::max(columns, row.size());
    if (columns == 0) return;
    std::string places;
    for (std::size_t c = 0; c < columns; ++c)
      places +=
          std::find(shape.right.begin(), shape.right.end(), c) != shape.right.end() ? 'r' : 'l';
    // The last column of words wraps.
    if (places.back() == 'l' && !shape.headed) places = places.substr(0, columns - 1) + "p{7cm}";
    // One that is wider than the page is made smaller; one with a wrapping column is not.
    const bool shrinks = places.find('p') == std::string::npos;
    text_ += "\n\\begin{center}";
    if (shrinks)
      text_ += "\\resizebox{\\ifdim\\width>\\linewidth\\linewidth\\else\\width\\fi}{!}{%\n";
    text_ += "\\begin{tabular}{" + places + "}\n";
    for (std::size_t r = 0; r < rows.size(); ++r) {
      for (std::size_t c = 0; c < columns; ++c) {
        if (c > 0) text_ += " & ";
        if (c < rows[r].size()) text_ += cell(rows[r][c]);
      }
      text_ += " \\\\[2pt]\n";
      if (shape.headed && r == 0) text_ += "\\hline\\noalign{\\smallskip}\n";
    }
    text_ += std::string("\\end{tabular}") + (shrinks ? "}" : "") + "\\end{center}\n";
  }
  std::string take() override { return std::move(text_); }

 private:
  std::string text_;
};

}  // namespace

std::unique_ptr<PageWriter> make_tex_writer() {
  return std::make_unique<TexWriter>();
}

}  // namespace kiteknot::report
