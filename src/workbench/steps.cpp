#include <fmt/format.h>

#include "base/at.hpp"
#include "base/check.hpp"
#include "kiteknot/tableau_steps.hpp"

namespace kiteknot {
namespace {

using Column = Tableau::Column;

// Which way an other may go, and whether that helps.
struct Way {
  bool up = true, can = false;
  Rational gain;  // of one step that way; above 0: it helps
};

// In the user's sense in the second phase; in the first by what is missing.
Way way_of(const Tableau& t, std::int32_t place) {
  const TableauColumn& c = t.column(t.others()[at(place)]);
  Way way;
  if (c.fixed()) return way;
  Rational gain = t.in_first_phase() ? -t.missing_change(place)
                  : t.maximize()     ? t.gain(place)
                                     : -t.gain(place);
  const Rational stands = t.value(t.others()[at(place)]);
  const bool rises = !c.high.is_finite() || stands < c.high;
  const bool falls = !c.low.is_finite() || stands > c.low;
  // A column at one end has one way; one without ends goes where it helps.
  way.up = rises && (!falls || gain.sign() >= 0);
  way.can = rises || falls;
  way.gain = way.up ? gain : -gain;
  return way;
}

TableauStep begin(const Tableau& t, Column entering, Column leaving, bool dual) {
  TableauStep step;
  step.dual = dual;
  step.first_phase = t.in_first_phase();
  step.entering = entering;
  step.leaving = leaving;
  step.goal_before = t.goal_value();
  step.missing_before = t.missing();
  return step;
}

void end(TableauStep& step, const Tableau& t, const Rational& stood) {
  step.moved = t.value(step.entering) - stood;
  step.goal_after = t.goal_value();
  step.missing_after = t.missing();
}

// The limit of a basic one that a move would bring it to: the one that it is beyond, where it comes
// back to it; else the one in its way.
std::optional<Rational> limit_ahead(const TableauColumn& c, const Rational& value, bool rises) {
  if (value < c.low) return rises ? std::optional(c.low) : std::nullopt;
  if (value > c.high) return rises ? std::nullopt : std::optional(c.high);
  const Rational& limit = rises ? c.high : c.low;
  return limit.is_finite() ? std::optional(limit) : std::nullopt;
}

TableauStep pivot_primal(Tableau& t, const Ratios& r, std::int32_t place, std::int32_t row) {
  const Column in = t.others()[at(place)];
  TableauStep step = begin(t, in, row < 0 ? -1 : t.basics()[at(row)], false);
  const Rational stood = t.value(in);
  step.ratios = r;
  if (row < 0) {
    t.move_to_other_limit(place);
  } else {
    step.entry = t.entry(row, place);
    const Ratio& chosen = r.rows[at(row)];
    const TableauColumn& out = t.column(chosen.basic);
    bool at_high = chosen.limit && out.high.is_finite() && *chosen.limit == out.high;
    if (!chosen.limit) at_high = !out.low.is_finite();
    t.pivot(row, place, at_high && !out.fixed());
  }
  end(step, t, stood);
  return step;
}

TableauStep pivot_dual(Tableau& t, const DualRatios& r, std::int32_t row, std::int32_t place) {
  const Column in = t.others()[at(place)];
  TableauStep step = begin(t, in, r.leaving, true);
  const Rational stood = t.value(in);
  step.dual_ratios = r;
  step.entry = t.entry(row, place);
  t.pivot(row, place, r.to_high);
  end(step, t, stood);
  return step;
}

// How much one choice promises, by the rule; the first of the largest is taken.
Rational promise_of_place(const Tableau& t, std::int32_t place, StepRule rule, const Way& way) {
  switch (rule) {
    case StepRule::first:
      return 1;
    case StepRule::largest:
      return way.gain;
    case StepRule::steepest: {
      Rational length = 1;
      for (std::size_t i = 0; i < t.basics().size(); ++i) {
        const Rational& e = t.entry(static_cast<std::int32_t>(i), place);
        length += e * e;
      }
      return way.gain * way.gain / length;
    }
    case StepRule::best: {
      const std::optional<Rational> least = ratios(t, place).least;
      return least ? way.gain * *least : Rational::infinity();
    }
  }
  return 0;
}

Rational promise_of_row(const Tableau& t, std::int32_t row, StepRule rule, const Rational& by) {
  switch (rule) {
    case StepRule::first:
      return 1;
    case StepRule::largest:
      return by;
    case StepRule::steepest: {
      Rational length = 1;
      for (std::size_t k = 0; k < t.others().size(); ++k) {
        const Rational& e = t.entry(row, static_cast<std::int32_t>(k));
        length += e * e;
      }
      return by * by / length;
    }
    case StepRule::best: {
      const DualRatios r = dual_ratios(t, row);
      return r.place < 0 ? Rational::infinity() : by * *r.places[at(r.place)].ratio;
    }
  }
  return 0;
}

// Among equals, and with the rule of the least index among all, the least column: what Bland's
// proof asks for.
bool takes_over(const Rational& promise, Column column, const Rational& best, Column best_column) {
  return best_column < 0 || promise > best || (promise == best && column < best_column);
}

}  // namespace

std::string_view word(StepRule rule) {
  switch (rule) {
    case StepRule::largest:
      return "largest";
    case StepRule::first:
      return "first";
    case StepRule::steepest:
      return "steepest";
    case StepRule::best:
      return "best";
  }
  return "";
}

Ratios ratios(const Tableau& t, std::int32_t place) {
  (void)t.gain(place);  // it is there
  const Column in = t.others()[at(place)];
  const TableauColumn& c = t.column(in);
  const Way way = way_of(t, place);
  Ratios out;
  out.entering = in;
  out.up = way.up;
  out.helps = way.can && way.gain.sign() > 0;
  if (c.low.is_finite() && c.high.is_finite()) out.own = c.high - c.low;
  out.least = out.own;
  for (std::size_t i = 0; i < t.basics().size(); ++i) {
    Ratio r;
    r.basic = t.basics()[i];
    r.entry = t.entry(static_cast<std::int32_t>(i), place);
    r.value = t.value(r.basic);
    if (!r.entry.is_zero()) {
      r.rises = (r.entry.sign() < 0) == way.up;
      r.limit = limit_ahead(t.column(r.basic), r.value, r.rises);
      if (r.limit) r.ratio = (*r.limit - r.value).abs() / r.entry.abs();
    }
    if (r.ratio && (!out.least || *r.ratio < *out.least)) out.least = r.ratio;
    out.rows.push_back(std::move(r));
  }
  if (!out.least) return out;
  for (std::size_t i = 0; i < out.rows.size(); ++i) {
    Ratio& r = out.rows[i];
    if (!r.ratio || *r.ratio != *out.least) continue;
    r.smallest = true;
    ++out.ties;
    if (out.row < 0 || r.basic < out.rows[at(out.row)].basic)
      out.row = static_cast<std::int32_t>(i);
  }
  // A column that reaches its own other limit as soon as any row does needs no pivot.
  if (out.own && *out.own == *out.least) out.row = -1;
  return out;
}

DualRatios dual_ratios(const Tableau& t, std::int32_t row) {
  (void)t.right_side(row);  // it is there
  const Column leaving = t.basics()[at(row)];
  const TableauColumn& c = t.column(leaving);
  DualRatios out;
  out.leaving = leaving;
  out.value = t.value(leaving);
  if (c.admits(out.value))
    throw UsageError(c.name + " is within its limits: a dual step takes out what is beyond one");
  out.to_high = out.value > c.high;
  out.limit = out.to_high ? c.high : c.low;
  for (std::size_t k = 0; k < t.others().size(); ++k) {
    const auto place = static_cast<std::int32_t>(k);
    DualRatio r;
    r.other = t.others()[k];
    r.entry = t.entry(row, place);
    r.gain = t.gain(place);
    const TableauColumn& o = t.column(r.other);
    if (!r.entry.is_zero() && !o.fixed()) {
      // The basic one has to rise (fall): the other rises where its entry is below (above) 0.
      const bool up = (r.entry.sign() < 0) != out.to_high;
      const Rational stands = t.value(r.other);
      r.can = up ? !o.high.is_finite() || stands < o.high : !o.low.is_finite() || stands > o.low;
    }
    if (r.can) r.ratio = r.gain.abs() / r.entry.abs();
    out.places.push_back(std::move(r));
  }
  for (std::size_t k = 0; k < out.places.size(); ++k) {
    const DualRatio& r = out.places[k];
    if (!r.can) continue;
    const auto* best = out.place < 0 ? nullptr : &out.places[at(out.place)];
    if (best == nullptr || *r.ratio < *best->ratio ||
        (*r.ratio == *best->ratio && r.other < best->other))
      out.place = static_cast<std::int32_t>(k);
  }
  if (out.place < 0) return out;
  const Rational least = *out.places[at(out.place)].ratio;
  for (DualRatio& r : out.places) {
    r.smallest = r.ratio && *r.ratio == least;
    out.ties += r.smallest;
  }
  return out;
}

std::optional<TableauStep> bring_in(Tableau& t, std::int32_t place) {
  (void)t.gain(place);
  const Ratios r = ratios(t, place);
  if (!r.least) return std::nullopt;
  return pivot_primal(t, r, place, r.row);
}

TableauStep bring_in(Tableau& t, std::int32_t place, std::int32_t row) {
  (void)t.entry(row, place);
  return pivot_primal(t, ratios(t, place), place, row);
}

std::optional<TableauStep> take_out(Tableau& t, std::int32_t row) {
  (void)t.right_side(row);
  const DualRatios r = dual_ratios(t, row);
  if (r.place < 0) return std::nullopt;
  return pivot_dual(t, r, row, r.place);
}

TableauStep take_out(Tableau& t, std::int32_t row, std::int32_t place) {
  (void)t.entry(row, place);
  return pivot_dual(t, dual_ratios(t, row), row, place);
}

TableauState state(const Tableau& t) {
  if (t.empty_column()) return TableauState::infeasible;
  const bool feasible = t.missing().is_zero();
  if (t.has_right_signs()) return feasible ? TableauState::optimal : TableauState::dual;
  return feasible ? TableauState::primal : TableauState::neither;
}

std::int32_t next_place(const Tableau& t, StepRule rule) {
  std::int32_t best = -1;
  Rational promise;
  for (std::size_t k = 0; k < t.others().size(); ++k) {
    const auto place = static_cast<std::int32_t>(k);
    const Way way = way_of(t, place);
    if (!way.can || way.gain.sign() <= 0) continue;
    const Rational p = promise_of_place(t, place, rule, way);
    if (takes_over(p, t.others()[k], promise, best < 0 ? -1 : t.others()[at(best)])) {
      best = place;
      promise = p;
    }
  }
  return best;
}

std::int32_t next_row(const Tableau& t, StepRule rule) {
  std::int32_t best = -1;
  Rational promise;
  for (std::size_t i = 0; i < t.basics().size(); ++i) {
    const auto row = static_cast<std::int32_t>(i);
    const TableauColumn& c = t.column(t.basics()[i]);
    const Rational v = t.value(t.basics()[i]);
    if (c.admits(v)) continue;
    const Rational p = promise_of_row(t, row, rule, v < c.low ? c.low - v : v - c.high);
    if (takes_over(p, t.basics()[i], promise, best < 0 ? -1 : t.basics()[at(best)])) {
      best = row;
      promise = p;
    }
  }
  return best;
}

namespace {

// One step of a run, or how it ended.
class Runner {
 public:
  Runner(Tableau& t, StepRule rule) : t_(t), rule_(rule) {}

  TableauRun run(std::int32_t most) {
    while (!over()) {
      if (static_cast<std::int32_t>(out_.steps.size()) >= most) {
        finish(TableauRun::End::limit);
        break;
      }
      mind_circles();
    }
    return std::move(out_);
  }

 private:
  // Takes a step; true where there is none to take.
  bool over() {
    if (t_.in_first_phase()) return first_phase();
    switch (state(t_)) {
      case TableauState::optimal:
        return finish(TableauRun::End::optimal);
      case TableauState::infeasible:
        return finish(TableauRun::End::infeasible, *t_.empty_column());
      case TableauState::neither:
        return finish(TableauRun::End::neither);
      case TableauState::primal: {
        const std::int32_t place = next_place(t_, rule_);
        return took(bring_in(t_, place))
                   ? false
                   : finish(TableauRun::End::unbounded, t_.others()[at(place)]);
      }
      case TableauState::dual: {
        const std::int32_t row = next_row(t_, rule_);
        return took(take_out(t_, row)) ? false
                                       : finish(TableauRun::End::infeasible, t_.basics()[at(row)]);
      }
    }
    return true;
  }

  bool first_phase() {
    if (const auto empty = t_.empty_column()) return finish(TableauRun::End::infeasible, *empty);
    if (t_.missing().is_zero()) {
      t_.set_first_phase(false);
      return finish(TableauRun::End::feasible);
    }
    const std::int32_t place = next_place(t_, rule_);
    if (place < 0) return finish(TableauRun::End::infeasible);
    const bool stepped = took(bring_in(t_, place));
    KITEKNOT_CHECK(stepped, "what is missing has an end");
    return false;
  }

  bool took(std::optional<TableauStep> step) {
    if (step) out_.steps.push_back(std::move(*step));
    return step.has_value();
  }

  bool finish(TableauRun::End end, Column shown_by = -1) {
    out_.end = end;
    out_.shown_by = shown_by;
    return true;
  }

  // Steps that move nothing may go round in a circle, unless they are chosen by the least index.
  void mind_circles() {
    const TableauStep& s = out_.steps.back();
    const bool still = s.goal_before == s.goal_after && s.missing_before == s.missing_after;
    idle_ = still ? idle_ + 1 : 0;
    if (rule_ == StepRule::first || idle_ <= t_.columns().size()) return;
    rule_ = StepRule::first;
    out_.by_first = true;
  }

  Tableau& t_;
  StepRule rule_;
  std::size_t idle_ = 0;
  TableauRun out_;
};

}  // namespace

TableauRun run(Tableau& tableau, StepRule rule, std::int32_t most) {
  return Runner(tableau, rule).run(most);
}

}  // namespace kiteknot
