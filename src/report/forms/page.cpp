#include "report/forms/page.hpp"

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/curve_uses.hpp"
#include "model/evaluation.hpp"
#include "report/forms/algebra.hpp"

namespace kiteknot {
std::string shown(const std::string& text) {
  return visible(text);
}
}  // namespace kiteknot

namespace kiteknot::report {

namespace {

int digits_of(const Rational& length) {
  const double size = std::abs(length.to_double());
  return length.is_integer() ? 0 : size < 100.0 ? 3 : size < 1000.0 ? 2 : 1;
}

}  // namespace

std::string measured(double length, const Rational& all) {
  return fmt::format("{:.{}f}", length, digits_of(all));
}

std::string measured(const Rational& length) {
  if (length.is_integer()) return figure(length);
  return figure(Rational::parse(measured(length.to_double(), length)).value_or(length));
}

std::size_t shown_width(const std::string& text) {
  return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) {
    return (static_cast<unsigned char>(c) & 0xC0) != 0x80;
  }));
}

std::size_t head_width(const std::vector<Cells>& rows, std::size_t column) {
  constexpr std::size_t kLeast = 7;
  std::size_t width = kLeast;
  for (std::size_t r = 1; r < rows.size(); ++r)
    width = std::max(width, shown_width(rows[r][column]));
  for (const std::string& word : broken_name(rows[0][column], 0))
    width = std::max(width, shown_width(word));
  return width;
}

Cells broken_name(const std::string& name, std::size_t width) {
  Cells lines = {""};
  std::size_t from = 0;
  while (from < name.size()) {
    const std::size_t end = std::min(name.find(' ', from), name.size());
    const std::string word = name.substr(from, end - from);
    if (lines.back().empty())
      lines.back() = word;
    else if (shown_width(lines.back()) + 1 + shown_width(word) <= width)
      lines.back() += ' ' + word;
    else
      lines.push_back(word);
    from = end + 1;
  }
  return lines;
}

namespace {

std::unique_ptr<PageWriter> writer_for(const PageOptions& options) {
  switch (options.form) {
    case PageForm::markdown:
      return make_markdown_writer();
    case PageForm::html:
      return make_html_writer();
    case PageForm::tex:
      return make_tex_writer();
    default:
      return make_text_writer(options);
  }
}

}  // namespace

Page::Page(const PageOptions& options) : under_(options.under), writer_(writer_for(options)) {}

void Page::title(const std::string& text, Tone tone) {
  writer_->title(visible(text, kTie), tone);
  if (!under_.empty()) say("With " + under_ + ".");
}

void Page::heading(const std::string& text) {
  writer_->heading(visible(text, kTie));
}

void Page::say(const std::string& text, std::size_t indent) {
  writer_->say(visible(text, kTie), indent);
}

void Page::table(const std::vector<Cells>& rows, const std::vector<std::size_t>& right) {
  table(rows, TableShape{right, false, false});
}

void Page::grid(const std::vector<Cells>& rows) {
  std::vector<std::size_t> right;
  for (std::size_t c = 1; !rows.empty() && c < rows[0].size(); ++c) right.push_back(c);
  table(rows, TableShape{right, true, true});
}

void Page::headed_table(const std::vector<Cells>& rows, const std::vector<std::size_t>& right) {
  table(rows, TableShape{right, true, false});
}

void Page::table(std::vector<Cells> rows, const TableShape& shape) {
  for (Cells& row : rows)
    for (std::string& cell : row) cell = visible(cell, kTie);
  writer_->table(rows, shape);
}

std::string told_keys(const std::vector<std::string>& keys) {
  if (keys.size() == 1) return keys[0];
  std::string joined = fmt::format("({})", fmt::join(keys, ", "));
  std::replace(joined.begin(), joined.end(), ' ', kTie);
  return joined;
}

std::string standing(const RuleValue& v) {
  const std::string charge =
      v.soft && !v.met ? fmt::format(", which costs {}", figure(v.charge)) : "";
  if (v.logical) return (v.met ? "holds" : "does not hold") + charge;
  const bool low = v.low.is_finite(), high = v.high.is_finite();
  const bool equal = low && high && v.low == v.high;
  std::string where;
  if (v.two_sided) {
    where = equal ? fmt::format("{} against exactly {}", figure(v.left), figure(v.right))
                  : fmt::format("{} against at {} {}", figure(v.left), high ? "most" : "least",
                                figure(v.right));
  } else if (equal) {
    where = v.met ? fmt::format("{} as it must be", figure(v.value))
                  : fmt::format("{} where exactly {} must be", figure(v.value), figure(v.low));
  } else if (low && high) {
    where = fmt::format("{}, between {} and {}", figure(v.value), figure(v.low), figure(v.high));
  } else if (high) {
    where = fmt::format("{} of {}{}", figure(v.value), v.met ? "" : "at most ", figure(v.high));
  } else if (low) {
    where = fmt::format("{}, at least {}", figure(v.value), figure(v.low));
  } else {
    return figure(v.value);
  }
  if (!v.met) {
    const bool above = high && v.value > v.high;
    return fmt::format("{}: {} too {}{}", where, figure(v.slack.abs()), above ? "much" : "little",
                       charge);
  }
  if (v.binding) return where;
  return fmt::format("{}, {} to spare", where, figure(v.slack));
}

std::vector<std::vector<std::string>> worked_out_rows(const ModelData& model, const Plan& plan) {
  need_plan_of(model, plan);
  const Evaluation at(model, plan.values(), true);
  // Nothing is told of what a curve does not state.
  const auto stated = [&](const Rational& value, std::size_t outside) {
    return at.outside().size() > outside ? "not stated: outside the range of a curve"
                                         : figure(value);
  };
  std::vector<std::vector<std::string>> rows;
  for (const auto& l : model.lets)
    for (Index i = 0; i < l->index.count; ++i) {
      const std::size_t outside = at.outside().size();
      const Rational value = at.value(l->values[static_cast<std::size_t>(i)]);
      if (l->index.count == 1 || !value.is_zero())
        rows.push_back({full_name(l->name, l->index.keys(i)), stated(value, outside)});
    }
  std::set<std::string> seen;
  CurvesNow curves;
  each_curve_use(model, [&](const Derived& use) {
    const Rational x = at.value(use.args[0]);
    const std::string name = fmt::format("{}({})", use.curve->name, figure(x));
    if (!seen.insert(name).second) return;
    const std::vector<CurvePiece>& pieces = curves.pieces(*use.curve, at.numbers());
    const bool inside = x >= pieces.front().from && x <= pieces.back().to;
    rows.push_back({name, inside ? figure(value_at(*use.curve, pieces, x)) : "not stated"});
  });
  return rows;
}

std::vector<std::string> curve_ends(const ModelData& model, const Plan& plan) {
  need_plan_of(model, plan);
  const Evaluation at(model, plan.values(), true);
  Algebra algebra(model);
  CurvesNow curves;
  std::vector<std::string> told;
  each_curve_use(model, [&](const Derived& use) {
    const Rational x = at.value(use.args[0]);
    const std::vector<CurvePiece>& pieces = curves.pieces(*use.curve, at.numbers());
    const Rational &from = pieces.front().from, &to = pieces.back().to;
    const auto [least, most] = reach_of(model, use.args[0]);
    const bool at_end = to.is_finite() && x >= to && most > to,
               at_start = x <= from && least < from;
    if (!at_end && !at_start) return;
    constexpr std::size_t kLongest = 60;
    std::string what = algebra.text(use.args[0]);
    if (what.size() > kLongest) what = "its argument";
    told.push_back(fmt::format("{}: {} is {}, where the curve {}; {} of that is not stated",
                               use.curve->name, what, figure(x), at_end ? "ends" : "begins",
                               at_end ? "more" : "less"));
  });
  return told;
}

std::string told(const ModelData& model, const DecisionFault& fault) {
  if (fault.decision < 0) return fault.what;
  return fmt::format("{} is {} and {}", model.decision_name(fault.decision), figure(fault.value),
                     fault.what);
}

Differences differences(const ModelData& m, const Plan& before, const Plan& after,
                        bool told_instead) {
  Differences d;
  for (Index k = 0; k < m.num_decisions; ++k) {
    const Rational &was = before[k], &is = after[k];
    // Amounts that differ by less than is told are the same to who reads it.
    if (was == is || (!m.whole(k) && figure(was) == figure(is))) continue;
    std::string name = m.decision_name(k);
    if (is.is_zero())
      d.leaves.push_back(std::move(name));
    else if (was.is_zero() && is == Rational(1))
      d.takes.push_back(std::move(name));
    else
      d.others.push_back(told_instead && !was.is_zero()
                             ? fmt::format("{} {} instead of {}", name, figure(is), figure(was))
                             : fmt::format("{} {}", name, figure(is)));
  }
  return d;
}

std::string taking(const std::vector<std::string>& names) {
  const bool echo = std::ranges::any_of(names, [](const auto& n) { return n.starts_with("take"); });
  return echo ? "adds " : "takes ";
}

std::string told(const Differences& d) {
  constexpr std::size_t kMost = 8;
  std::vector<std::string> parts;
  if (!d.takes.empty()) parts.push_back(taking(d.takes) + listed(d.takes, kMost));
  if (!d.leaves.empty()) parts.push_back("leaves out " + listed(d.leaves, kMost));
  if (!d.others.empty()) parts.push_back("has " + listed(d.others, kMost));
  return fmt::format("{}", fmt::join(parts, "; "));
}

std::string first_goal_only(const std::string& first, const std::vector<std::string>& later) {
  if (later.empty()) return "";
  return fmt::format("Only {} is looked at, as if {} were not there.", first, listed(later));
}

}  // namespace kiteknot::report
