#include <algorithm>
#include <map>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/check.hpp"
#include "kiteknot/tableau_cuts.hpp"
#include "model/lowering_builder.hpp"

namespace kiteknot {
namespace {

using Column = Tableau::Column;

Rational fraction_of(const Rational& value) {
  return value - value.floor();
}

// One row, or the goal's: basic + sum of entry x off = value, where `off` counts how far each other
// is off the limit that it stands at.
struct Line {
  Rational value, step;
  std::vector<CutTerm> terms;
};

Line line_of(const Tableau& t, std::int32_t row) {
  Line line;
  line.value = row < 0 ? t.goal_value() : t.value(t.basics()[at(row)]);
  line.step = row < 0 ? t.goal_step() : t.column(t.basics()[at(row)]).step;
  for (std::size_t k = 0; k < t.others().size(); ++k) {
    const auto place = static_cast<std::int32_t>(k);
    const TableauColumn& c = t.column(t.others()[k]);
    if (c.fixed()) continue;  // never off its limit
    CutTerm term;
    term.column = t.others()[k];
    term.from_high = c.at_high;
    term.entry = row < 0 ? -t.gain(place) : t.entry(row, place);
    if (term.entry.is_zero()) continue;
    if (c.at_high) term.entry = -term.entry;
    // Its limit is one of its whole values, so that it is off by whole steps.
    term.whole = !c.step.is_zero() && (t.value(term.column) / c.step).is_integer();
    term.step = term.whole ? c.step : Rational(1);
    line.terms.push_back(std::move(term));
  }
  return line;
}

std::string row_name(const Tableau& t, std::int32_t row) {
  return row < 0 ? t.goal_name() : t.column(t.basics()[at(row)]).name;
}

bool is_free(const TableauColumn& c) {
  return !c.low.is_finite() && !c.high.is_finite();
}

// Off the limit: x - low, or high - x.
void add_off(TableauSum& sum, const Tableau& t, const CutTerm& term, const Rational& coefficient) {
  const Rational stand = t.value(term.column);
  const Rational by = term.from_high ? -coefficient : coefficient;
  sum.terms.emplace_back(term.column, by);
  sum.limit += by * stand;
}

// By the largest step that all figures are multiples of: they are whole then, and have no divisor.
void make_whole(TableauSum& sum) {
  Rational common = sum.limit.abs();
  for (const auto& [column, c] : sum.terms) common = common_step(common, c);
  if (common.is_zero()) return;
  for (auto& [column, c] : sum.terms) c /= common;
  sum.limit /= common;
}

}  // namespace

TableauSum in_decisions(const Tableau& t, const TableauSum& sum) {
  std::map<Column, Rational> own;
  TableauSum out;
  out.at_least = sum.at_least;
  out.limit = sum.limit;
  for (const auto& [column, coefficient] : sum.terms) {
    const TableauColumn& c = t.column(column);
    if (c.row < 0) {
      own[column] += coefficient;
      continue;
    }
    // terms + sign room = limit
    const TableauRow& row = t.stated()[at(c.row)];
    const Rational by = coefficient * row.sign;
    out.limit -= by * row.limit;
    for (const auto& [j, a] : row.terms) own[j] -= by * a;
  }
  for (const auto& [column, coefficient] : own)
    if (!coefficient.is_zero()) out.terms.emplace_back(column, coefficient);
  return out;
}

Rational value_of(const Tableau& t, const TableauSum& sum) {
  Rational value;
  for (const auto& [column, coefficient] : sum.terms) value += coefficient * t.value(column);
  return value;
}

std::vector<std::int32_t> fractional_rows(const Tableau& t) {
  std::vector<std::int32_t> rows;
  for (std::size_t i = 0; i < t.basics().size(); ++i) {
    const TableauColumn& c = t.column(t.basics()[i]);
    if (!c.is_whole_at(t.value(t.basics()[i]))) rows.push_back(static_cast<std::int32_t>(i));
  }
  std::sort(rows.begin(), rows.end(),
            [&](std::int32_t a, std::int32_t b) { return t.basics()[at(a)] < t.basics()[at(b)]; });
  if (!t.goal_step().is_zero() && !(t.goal_value() / t.goal_step()).is_integer())
    rows.push_back(-1);
  return rows;
}

std::string why_no_fractional_cut(const Tableau& t, std::int32_t row) {
  if (row != -1) (void)t.right_side(row);
  const Line line = line_of(t, row);
  for (const CutTerm& term : line.terms)
    if (!term.whole)
      return fmt::format("{} may take any value, and stands in the row",
                         t.column(term.column).name);
  return {};
}

TableauCut derive_cut(const Tableau& t, std::int32_t row, TableauCut::Kind kind) {
  if (row != -1) (void)t.right_side(row);  // it is there
  Line line = line_of(t, row);
  if (line.step.is_zero())
    throw UsageError(row_name(t, row) + " may take any value: its row gives no cut");
  TableauCut cut;
  cut.kind = kind;
  cut.source = row < 0 ? -1 : t.basics()[at(row)];
  cut.value = line.value;
  cut.step = line.step;
  cut.fraction = fraction_of(line.value / line.step);
  if (cut.fraction.is_zero())
    throw UsageError(row_name(t, row) + " is whole: its row gives no cut");
  for (const CutTerm& term : line.terms)
    if (is_free(t.column(term.column)))
      throw UsageError(t.column(term.column).name + " has no limits, and stands in the row of " +
                       row_name(t, row) + ": it gives no cut");
  if (kind == TableauCut::Kind::fractional)
    if (const std::string why = why_no_fractional_cut(t, row); !why.empty())
      throw UsageError(why + ": a fractional cut asks for whole ones; take a mixed cut");
  // basic / step + sum of a n = value / step with whole n >= 0. Rounded down, the left side is a
  // whole number, and so at most the whole part of the right one; what is left of both is
  //   sum of fraction(a) n >= fraction(value / step).
  // A mixed cut takes fraction(a) - 1 instead where that is better, and any a of what is not whole;
  // what is above 0 and what is below count separately.
  const Rational one = 1, f0 = cut.fraction;
  for (CutTerm& term : line.terms) {
    const Rational a = term.entry * term.step / line.step;
    if (term.whole) {
      term.fraction = fraction_of(a);
      term.coefficient = kind == TableauCut::Kind::fractional || term.fraction <= f0
                             ? term.fraction
                             : f0 * (one - term.fraction) / (one - f0);
    } else {
      term.coefficient = a.sign() > 0 ? a : -a * f0 / (one - f0);
    }
    cut.terms.push_back(term);
  }
  cut.in_others.limit = f0;
  for (const CutTerm& term : cut.terms)
    if (!term.coefficient.is_zero()) add_off(cut.in_others, t, term, term.coefficient / term.step);
  cut.in_decisions = in_decisions(t, cut.in_others);
  make_whole(cut.in_decisions);
  // Told the way most of it points.
  const auto below = std::count_if(cut.in_decisions.terms.begin(), cut.in_decisions.terms.end(),
                                   [](const auto& term) { return term.second.sign() < 0; });
  if (2 * below > static_cast<std::ptrdiff_t>(cut.in_decisions.terms.size())) {
    for (auto& [column, c] : cut.in_decisions.terms) c = -c;
    cut.in_decisions.limit = -cut.in_decisions.limit;
    cut.in_decisions.at_least = false;
  }
  std::int32_t cuts = 1;
  for (const TableauRow& r : t.stated()) cuts += r.from == TableauRow::From::cut;
  cut.name = fmt::format("cut {}", cuts);
  return cut;
}

Column append(Tableau& t, const TableauCut& cut) {
  TableauRow row;
  row.name = cut.name;
  row.from = TableauRow::From::cut;
  row.terms = cut.in_decisions.terms;
  row.limit = cut.in_decisions.limit;
  row.sign = cut.in_decisions.at_least ? -1 : 1;
  return t.add_row(std::move(row));
}

namespace {

// Rooms of cuts that are basic and within their limits: such rows hold nothing back.
std::vector<std::string> drop_idle_cuts(Tableau& t) {
  std::vector<std::string> dropped;
  const std::vector<Column> basics = t.basics();
  for (const Column b : basics) {
    const TableauColumn& c = t.column(b);
    if (c.row < 0 || t.stated()[at(c.row)].from != TableauRow::From::cut) continue;
    if (t.value(b).sign() < 0) continue;
    dropped.push_back(t.stated()[at(c.row)].name);
    t.drop_row(b);
  }
  return dropped;
}

// Whether fractions got longer than anybody reads.
bool too_long(const Tableau& t, std::size_t most) {
  for (std::size_t i = 0; i < t.basics().size(); ++i)
    if (t.right_side(static_cast<std::int32_t>(i)).denominator().text().size() > most) return true;
  return t.goal_right_side().denominator().text().size() > most;
}

}  // namespace

CutRun cut_all_the_way(Tableau& t, StepRule rule, bool mixed, std::int32_t most,
                       std::size_t digits) {
  CutRun out;
  out.first = run(t, rule);
  if (out.first.end != TableauRun::End::optimal) {
    out.end = out.first.end == TableauRun::End::infeasible ? CutRun::End::infeasible
                                                           : CutRun::End::not_optimal;
    return out;
  }
  while (!t.is_whole()) {
    if (static_cast<std::int32_t>(out.rounds.size()) >= most) {
      out.end = CutRun::End::limit;
      return out;
    }
    const std::vector<std::int32_t> rows = fractional_rows(t);
    KITEKNOT_CHECK(!rows.empty(), "what is not whole is basic, or stands at a whole limit");
    // The goal's row first, then by columns: the order of Gomory's proof that this ends.
    const std::int32_t row = rows.back() < 0 ? -1 : rows.front();
    CutRound round;
    round.before = t.goal_value();
    const bool fractional = !mixed && why_no_fractional_cut(t, row).empty();
    round.cut =
        derive_cut(t, row, fractional ? TableauCut::Kind::fractional : TableauCut::Kind::mixed);
    append(t, round.cut);
    round.steps = run(t, rule);
    round.after = t.goal_value();
    for (Column j = 0; j < t.num_own(); ++j) round.point.push_back(t.value(j));
    const TableauRun::End end = round.steps.end;
    if (end == TableauRun::End::optimal) round.dropped = drop_idle_cuts(t);
    out.rounds.push_back(std::move(round));
    if (end != TableauRun::End::optimal) {
      out.end = end == TableauRun::End::infeasible ? CutRun::End::infeasible : CutRun::End::limit;
      return out;
    }
    if (too_long(t, digits)) {
      out.end = CutRun::End::too_long;
      return out;
    }
  }
  return out;
}

}  // namespace kiteknot
