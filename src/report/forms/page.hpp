#pragma once
// The few shapes that all pages are made of: a title, paragraphs, headings, and small aligned
// tables.

#include <functional>
#include <string>
#include <vector>

#include "kiteknot/pages.hpp"
#include "model/model_data.hpp"
#include "report/forms/page_writer.hpp"

namespace kiteknot::report {

/// What is put in may come from data: signs that a terminal would obey are shown instead.
class Page {
 public:
  explicit Page(const PageOptions& options);
  void title(const std::string& text, Tone tone = Tone::plain);
  /// A paragraph, wrapped.
  void say(const std::string& text, std::size_t indent = 0);
  void heading(const std::string& text);
  /// Rows of cells in aligned columns, two spaces in; the last column wraps under itself. Columns
  /// named in `right` are set flush right.
  void table(const std::vector<Cells>& rows, const std::vector<std::size_t>& right = {});
  /// The same where the first row names the columns.
  void headed_table(const std::vector<Cells>& rows, const std::vector<std::size_t>& right = {});
  /// Figures under names that may be long: the first row and the first column are names, all else
  /// is flush right, and names of columns break over lines.
  void grid(const std::vector<Cells>& rows);
  void gap() { writer_->gap(); }
  [[nodiscard]] std::string take() { return writer_->take(); }

 private:
  void table(std::vector<Cells> rows, const TableShape& shape);
  std::string under_;
  std::unique_ptr<PageWriter> writer_;
};

/// A part of a page that is told besides: where it throws, a line says so.
void tell_besides(Page& page, const std::string& what, const std::function<void()>& tell);

/// Columns that a UTF-8 text takes on a terminal (one a code point).
std::size_t shown_width(const std::string& text);

/// A blank at which no line is broken; pages turn it into a plain one.
inline constexpr char kTie = '\x1f';

/// Keys of one member as people name it where the family is clear: "Dune", "(Dune, poles)"; no line
/// is broken inside.
std::string told_keys(const std::vector<std::string>& keys);

/// A length of the plane or the earth with as many digits as people measure: whole ones as they
/// are, others to about a thousandth of a percent.
std::string measured(const Rational& length);
/// One beside `all`: with as many digits as that.
std::string measured(double length, const Rational& all);

/// "34 of 35, 1 to spare", "1,300 of at most 1,200: 100 too much", "2 too much, which costs 100"
std::string standing(const RuleValue& value);

/// What one plan does that another does not, by name: what it takes up (0, now 1), leaves out (now
/// 0), and has otherwise ("ship[..] 4", or "ship[..] 4 instead of 2" where it was something).
struct Differences {
  std::vector<std::string> takes, leaves, others;
};
Differences differences(const ModelData& model, const Plan& before, const Plan& after,
                        bool told_instead);

/// "takes ", or "adds " where that would say a word of theirs twice.
std::string taking(const std::vector<std::string>& names);
/// "takes a and b; leaves out c; has d 4"; empty where nothing differs.
std::string told(const Differences& differences);

/// Named expressions that are not 0, and every use of a curve in a goal or rule with its value at
/// the plan, recomputed.
std::vector<std::vector<std::string>> worked_out_rows(const ModelData& model, const Plan& plan);

/// A sentence (without its full stop) for every use of a curve that stands at an end of it at the
/// plan, where the decisions' limits would let it go on.
std::vector<std::string> curve_ends(const ModelData& model, const Plan& plan);

/// "Only joy is looked at, as if cost were not there."; empty without later goals.
std::string first_goal_only(const std::string& first, const std::vector<std::string>& later);

/// "run[night glow] is 0.5 and is not whole"
std::string told(const ModelData& model, const DecisionFault& fault);

}  // namespace kiteknot::report
