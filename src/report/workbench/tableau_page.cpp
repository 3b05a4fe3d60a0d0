#include <algorithm>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "report/workbench/tableau_words.hpp"

namespace kiteknot::report {
namespace {

using Column = Tableau::Column;

// Of names in a sentence; more are counted.
constexpr std::size_t kMostNames = 6;

// A fraction that is long to read has its decimal beside it.
std::string beside_decimal(const Rational& v) {
  constexpr std::size_t kShort = 7;
  std::string text = fraction(v);
  if (text.size() > kShort && text.find('/') != std::string::npos)
    text += fmt::format(" ~ {:.4f}", v.to_double());
  return text;
}

// The tableau as one grid: a column of names, the values, then one column an other.
std::vector<Cells> grid_of(const Tableau& t, std::vector<std::int32_t>& left_out) {
  std::vector<std::int32_t> shown;
  for (std::size_t k = 0; k < t.others().size(); ++k)
    (t.column(t.others()[k]).fixed() ? left_out : shown).push_back(static_cast<std::int32_t>(k));
  bool right_sides = false, stands = false;
  for (std::size_t i = 0; i < t.basics().size(); ++i)
    right_sides =
        right_sides || t.value(t.basics()[i]) != t.right_side(static_cast<std::int32_t>(i));
  for (const std::int32_t k : shown) stands = stands || !t.value(t.others()[at(k)]).is_zero();
  Cells head = {"", "value"};
  if (right_sides) head.emplace_back("right side");
  for (const std::int32_t k : shown) head.push_back(t.column(t.others()[at(k)]).name);
  std::vector<Cells> rows = {head};
  if (stands) {
    Cells row = {"(stands at)", ""};
    if (right_sides) row.emplace_back("");
    for (const std::int32_t k : shown) {
      const TableauColumn& c = t.column(t.others()[at(k)]);
      row.push_back(fraction(t.value(t.others()[at(k)])) + (c.at_high ? " top" : ""));
    }
    rows.push_back(std::move(row));
  }
  for (std::size_t i = 0; i < t.basics().size(); ++i) {
    const auto row = static_cast<std::int32_t>(i);
    Cells line = {t.column(t.basics()[i]).name, beside_decimal(t.value(t.basics()[i]))};
    if (right_sides) line.push_back(fraction(t.right_side(row)));
    for (const std::int32_t k : shown) line.push_back(fraction(t.entry(row, k)));
    rows.push_back(std::move(line));
  }
  Cells goal = {t.goal_name(), beside_decimal(t.goal_value())};
  if (right_sides) goal.push_back(fraction(t.goal_right_side()));
  for (const std::int32_t k : shown) goal.push_back(fraction(t.gain(k)));
  rows.push_back(std::move(goal));
  if (t.in_first_phase()) {
    Cells missing = {"missing", fraction(t.missing())};
    if (right_sides) missing.emplace_back("");
    for (const std::int32_t k : shown) missing.push_back(fraction(t.missing_change(k)));
    rows.push_back(std::move(missing));
  }
  return rows;
}

std::vector<std::string> names_of(const Tableau& t, const std::vector<Column>& columns) {
  std::vector<std::string> names;
  for (const Column c : columns) names.push_back(t.column(c).name);
  return names;
}

std::vector<Column> beyond_limits(const Tableau& t) {
  std::vector<Column> out;
  for (const Column b : t.basics()) {
    if (!t.column(b).admits(t.value(b))) out.push_back(b);
  }
  return out;
}

std::string are(const std::vector<std::string>& names, const char* one, const char* many) {
  return listed(names, kMostNames) + (names.size() == 1 ? one : many);
}

std::string helpful(const Tableau& t) {
  std::vector<std::string> names;
  for (std::size_t k = 0; k < t.others().size(); ++k) {
    const auto place = static_cast<std::int32_t>(k);
    if (!t.column(t.others()[k]).fixed() && ratios(t, place).helps)
      names.push_back(t.column(t.others()[k]).name);
  }
  return listed(names, kMostNames);
}

}  // namespace

std::string sum_text(const Tableau& t, const std::vector<std::pair<Column, Rational>>& terms) {
  std::string text;
  for (const auto& [column, coefficient] : terms) {
    if (coefficient.is_zero()) continue;
    const bool negative = coefficient.sign() < 0;
    text += text.empty() ? (negative ? "-" : "") : negative ? " - " : " + ";
    if (coefficient.abs() != Rational(1)) text += fraction(coefficient.abs()) + kTie;
    text += t.column(column).name;
  }
  return text.empty() ? "0" : text;
}

std::string sum_text(const Tableau& t, const TableauSum& sum) {
  return fmt::format("{} {} {}", sum_text(t, sum.terms),
                     sum.at_least ? ">=" : "<=", fraction(sum.limit));
}

std::string moves(const Tableau& t, Column column, bool up) {
  return fmt::format("{} {} from {}", t.column(column).name, up ? "rises" : "falls",
                     fraction(t.value(column)));
}

std::string capital(std::string text) {
  if (!text.empty() && text[0] >= 'a' && text[0] <= 'z')
    text[0] = static_cast<char>(text[0] - 'a' + 'A');
  return text;
}

void tell_tableau(Page& page, const Tableau& t, const PageOptions& options) {
  std::vector<std::int32_t> left_out;
  const std::vector<Cells> rows = grid_of(t, left_out);
  const bool right_sides = rows[0].size() > 2 && rows[0][2] == "right side";
  const std::size_t kept = right_sides ? 3 : 2;  // columns that every group begins with
  std::size_t names = 0;
  for (const Cells& row : rows) names = std::max(names, shown_width(row[0]));
  const auto width = static_cast<std::size_t>(std::clamp(options.width, 60, 120));
  std::size_t begin = kept;
  do {
    std::size_t used = 2 + names, end = begin;
    for (std::size_t c = 1; c < kept; ++c) used += 3 + head_width(rows, c);
    while (end < rows[0].size()) {
      const std::size_t more = 3 + head_width(rows, end);
      if (used + more > width && end > begin) break;
      used += more;
      ++end;
    }
    std::vector<Cells> group;
    for (const Cells& row : rows) {
      Cells cells(row.begin(), row.begin() + static_cast<std::ptrdiff_t>(kept));
      cells.insert(cells.end(), row.begin() + static_cast<std::ptrdiff_t>(begin),
                   row.begin() + static_cast<std::ptrdiff_t>(end));
      group.push_back(std::move(cells));
    }
    page.gap();
    page.grid(group);
    begin = end;
  } while (begin < rows[0].size());
  page.gap();
  if (!left_out.empty()) {
    std::vector<std::string> fixed;
    for (const std::int32_t k : left_out) {
      const TableauColumn& c = t.column(t.others()[at(k)]);
      fixed.push_back(fmt::format("{} at {}", c.name, fraction(c.low)));
    }
    page.say("Left out, as they stay where they are: " + listed(fixed, kMostNames) + ".");
  }
}

std::string what_next(const Tableau& t) {
  if (const auto empty = t.empty_column())
    return fmt::format("No value of {} is left: there is no plan here.", t.column(*empty).name);
  if (t.in_first_phase()) {
    if (t.missing().is_zero()) return "Nothing is missing any more: 'next' ends the first phase.";
    const std::string names = helpful(t);
    return names.empty()
               ? fmt::format(
                     "{} is missing, and nothing brings that down: no plan meets all "
                     "rules.",
                     fraction(t.missing()))
               : fmt::format("First phase: {} is missing; bringing in {} brings that down.",
                             fraction(t.missing()), names);
  }
  const std::vector<std::string> beyond = names_of(t, beyond_limits(t));
  const char* better = t.maximize() ? "raise" : "lower";
  switch (state(t)) {
    case TableauState::optimal: {
      if (t.is_whole())
        return fmt::format("{} is at its best, {}, and all that has to be whole is.", t.goal_name(),
                           fraction(t.goal_value()));
      std::vector<std::string> parts;
      for (Column j = 0; j < t.num_own(); ++j) {
        const Rational v = t.value(j);
        if (!t.column(j).is_whole_at(v))
          parts.push_back(fmt::format("{} is {}", t.column(j).name, fraction(v)));
      }
      return fmt::format(
          "{} is at its best, {}; but {}, and {} to be whole: a cut or a branch is next.",
          t.goal_name(), fraction(t.goal_value()), listed(parts, kMostNames),
          parts.size() == 1 ? "has" : "have");
    }
    case TableauState::primal:
      return fmt::format("All is within its limits, and bringing in {} would {} {}.", helpful(t),
                         better, t.goal_name());
    case TableauState::dual:
      return fmt::format("{} beyond {}, and nothing would {} {}: dual steps take such rows out.",
                         are(beyond, " is", " are"),
                         beyond.size() == 1 ? "its limit" : "their limits", better, t.goal_name());
    case TableauState::neither:
      return fmt::format(
          "{} beyond {}, and {} could still get better: neither kind of step is safe. "
          "'first phase' brings all within limits first.",
          are(beyond, " is", " are"), beyond.size() == 1 ? "its limit" : "their limits",
          t.goal_name());
    case TableauState::infeasible:
      break;
  }
  return {};
}

void tell_ratios(Page& page, const Tableau& t, const Ratios& r, Column leaves) {
  std::vector<Cells> rows = {{"in its way", "value", "entry", "goes to", "ratio", ""}};
  const TableauColumn& in = t.column(r.entering);
  for (const Ratio& one : r.rows) {
    if (one.entry.is_zero()) continue;
    std::string mark = one.smallest ? (r.ties > 1 ? "smallest, with others" : "the smallest") : "";
    if (one.basic == leaves) mark += mark.empty() ? "leaves" : ": leaves";
    rows.push_back({t.column(one.basic).name, fraction(one.value), fraction(one.entry),
                    one.limit ? fraction(*one.limit) : "no limit",
                    one.ratio ? fraction(*one.ratio) : "", mark});
  }
  if (r.own) {
    const bool first = r.least && *r.own == *r.least;
    rows.push_back(
        {in.name, fraction(t.value(r.entering)), "", fraction(r.up ? in.high : in.low),
         fraction(*r.own),
         first && r.row < 0 ? (leaves < 0 ? "the smallest: its own limit" : "the smallest") : ""});
  }
  page.say(fmt::format("As {}:", moves(t, r.entering, r.up)));
  if (rows.size() == 1) return page.say("nothing is in its way.", 2);
  page.headed_table(rows, {1, 2, 3, 4});
}

void tell_ratios(Page& page, const Tableau& t, const DualRatios& r, Column enters) {
  std::vector<Cells> rows = {{"could come in", "goal by", "entry", "ratio", ""}};
  for (const DualRatio& one : r.places) {
    if (one.entry.is_zero() || t.column(one.other).fixed()) continue;
    std::string mark = one.smallest ? (r.ties > 1 ? "smallest, with others" : "the smallest")
                       : !one.can   ? "moves it the wrong way"
                                    : "";
    if (one.other == enters) mark += mark.empty() ? "comes in" : ": comes in";
    rows.push_back({t.column(one.other).name, fraction(one.gain), fraction(one.entry),
                    one.ratio ? fraction(*one.ratio) : "", mark});
  }
  page.say(fmt::format("{} is {} and has to come {} to {}:", t.column(r.leaving).name,
                       fraction(r.value), r.to_high ? "down" : "up", fraction(r.limit)));
  if (rows.size() == 1) return page.say("nothing in its row could move it.", 2);
  page.headed_table(rows, {1, 2, 3});
}

void tell_derivation(Page& page, const Tableau& t, const TableauCut& cut) {
  const std::string source = cut.source < 0 ? t.goal_name() : t.column(cut.source).name;
  page.say(fmt::format(
      "The row of {}: its value is {}{}, {} above a whole one. By how far each other is "
      "off its limit:",
      source, fraction(cut.value),
      cut.step == Rational(1) ? "" : fmt::format(" in steps of {}", fraction(cut.step)),
      fraction(cut.fraction)));
  std::vector<Cells> rows = {{"off its limit", "entry", "kind", "above whole", "in the cut"}};
  for (const CutTerm& term : cut.terms) {
    const TableauColumn& c = t.column(term.column);
    rows.push_back({term.from_high    ? fmt::format("{} - {}", fraction(c.high), c.name)
                    : c.low.is_zero() ? c.name
                                      : fmt::format("{} - {}", c.name, fraction(c.low)),
                    fraction(term.entry),
                    !term.whole                ? "any value"
                    : term.step == Rational(1) ? "whole"
                                               : fmt::format("steps of {}", fraction(term.step)),
                    term.whole ? fraction(term.fraction) : "", fraction(term.coefficient)});
  }
  page.headed_table(rows, {1, 3, 4});
  page.say(cut.kind == TableauCut::Kind::fractional
               ? fmt::format(
                     "Whole steps only: the parts above whole ones have to make up {}, or that and "
                     "a whole number more. So",
                     fraction(cut.fraction))
               : fmt::format(
                     "Either the row goes down to the whole number below, or up to the one above: "
                     "a part above {} counts as what it lacks, times {}; what may take any value "
                     "counts with its entry above 0, and with {} times its size below. So",
                     fraction(cut.fraction), fraction(cut.fraction / (Rational(1) - cut.fraction)),
                     fraction(cut.fraction / (Rational(1) - cut.fraction))));
  page.table(
      {{"in these", sum_text(t, cut.in_others)}, {"in decisions", sum_text(t, cut.in_decisions)}});
}

}  // namespace kiteknot::report

namespace kiteknot {

std::string tableau_page(const Tableau& tableau, const PageOptions& options) {
  report::Page page(options);
  report::tell_tableau(page, tableau, options);
  page.say(report::what_next(tableau));
  return page.take();
}

}  // namespace kiteknot
