#pragma once
// The forms that a page can take: plain text, Markdown, a part of an HTML page or of a TeX
// document. Each is told of titles, paragraphs, headings and tables in order.

#include <memory>
#include <string>
#include <vector>

#include "kiteknot/pages.hpp"

namespace kiteknot::report {

enum class Tone { plain, good, bad, quiet };

using Cells = std::vector<std::string>;

struct TableShape {
  std::vector<std::size_t> right{};  // columns set flush right
  bool headed = false;               // the first row names the columns
  bool narrow = false;               // names of columns break, so that figures stand close
};

/// All texts that come in are free of signs that a terminal would obey; kTie is a blank at which no
/// line is broken.
class PageWriter {
 public:
  virtual ~PageWriter() = default;
  virtual void title(const std::string& text, Tone tone) = 0;
  virtual void say(const std::string& text, std::size_t indent) = 0;
  virtual void heading(const std::string& text) = 0;
  virtual void table(const std::vector<Cells>& rows, const TableShape& shape) = 0;
  virtual void gap() = 0;
  [[nodiscard]] virtual std::string take() = 0;
};

std::unique_ptr<PageWriter> make_text_writer(const PageOptions& options);
std::unique_ptr<PageWriter> make_markdown_writer();
std::unique_ptr<PageWriter> make_html_writer();
std::unique_ptr<PageWriter> make_tex_writer();

/// How wide a column of a narrow table is: as its figures, or the longest word of its name.
std::size_t head_width(const std::vector<Cells>& rows, std::size_t column);
/// A name in lines of at most this width, broken between words.
Cells broken_name(const std::string& name, std::size_t width);

/// Data as text of an HTML page or a drawing, whatever they hold.
std::string for_html(const std::string& text);

}  // namespace kiteknot::report
