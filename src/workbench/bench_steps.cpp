#include "workbench/bench_steps.hpp"

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "workbench/copies.hpp"
#include "workbench/own_sums.hpp"

namespace kiteknot::workbench {
namespace {

using Column = Tableau::Column;

[[noreturn]] void fail(std::size_t column, const std::string& message) {
  throw StepError{column, message};
}

std::string beyond_text(const Tableau& t, const Tableau& after) {
  for (const Column b : after.basics()) {
    const TableauColumn& c = after.column(b);
    const Rational v = after.value(b);
    const Rational before = t.value(b);
    if (v < c.low && v < before)
      return fmt::format("{} to {}, below {}", c.name, fraction(v), fraction(c.low));
    if (v > c.high && v > before)
      return fmt::format("{} to {}, above {}", c.name, fraction(v), fraction(c.high));
  }
  return {};
}

}  // namespace

BenchSteps::BenchSteps(const BenchState& state) : state_(state), t_(state.tableau()) {}

DeedKind BenchSteps::take(const Step& step) {
  switch (step.kind) {
    case StepKind::bring_in:
      return bring_in(step);
    case StepKind::take_out:
      return take_out(step);
    case StepKind::next:
      return next(step);
    case StepKind::to_the_end:
      return to_the_end(step);
    case StepKind::first_phase:
      return first_phase();
    case StepKind::ratios:
      return ratios(step);
    case StepKind::fractions:
      return deeds::Fractions{};
    case StepKind::cut:
      return cut(step);
    case StepKind::all_the_way:
      return all_the_way(step);
    case StepKind::add:
      return add(step);
    case StepKind::drop:
      return drop(step);
    case StepKind::branch:
      return branch(step);
    case StepKind::copy:
      return go_to(step);
    case StepKind::close:
      return close(step);
    case StepKind::prices:
      return prices();
    case StepKind::copies:
      return deeds::Copies{};
    case StepKind::history:
      return deeds::History{};
    case StepKind::show:
      return deeds::Shown{};
    default:
      return deeds::Help{};
  }
}

std::int32_t BenchSteps::other_place(const Step& step) const {
  const TableauColumn& c = t_.column(*step.name);
  if (c.basic)
    fail(step.name_at,
         c.name + " is basic already; it has a row, and no column that could come in");
  if (c.fixed())
    fail(step.name_at,
         fmt::format("{} can only be {}: it stays where it is", c.name, fraction(c.low)));
  return c.place;
}

std::int32_t BenchSteps::basic_row(Column column, std::size_t where, const char* what) const {
  const TableauColumn& c = t_.column(column);
  if (!c.basic) fail(where, c.name + " is not basic: it has a column, and no row " + what);
  return c.place;
}

DeedKind BenchSteps::one(TableauStep taken, StepRule rule) {
  deeds::Stepped out;
  out.rule = rule;
  out.run.steps.push_back(std::move(taken));
  out.run.end = TableauRun::End::limit;
  changed();
  return out;
}

DeedKind BenchSteps::bring_in(const Step& step) {
  const std::int32_t place = other_place(step);
  if (!step.other) {
    auto taken = kiteknot::bring_in(t_, place);
    if (taken) return one(std::move(*taken), state_.rule);
    deeds::Stepped out;
    const Ratios r = kiteknot::ratios(t_, place);
    out.run.end = r.helps ? TableauRun::End::unbounded : TableauRun::End::limit;
    out.run.shown_by = *step.name;
    if (!r.helps)
      fail(step.name_at, t_.column(*step.name).name +
                             " could go on without end, and the goal would get no better by it");
    return out;
  }
  const std::int32_t row = basic_row(*step.other, step.other_at);
  if (t_.entry(row, place).is_zero())
    fail(step.other_at,
         fmt::format("the entry of {} in the row of {} is 0: there is nothing to turn on",
                     t_.column(*step.name).name, t_.column(*step.other).name));
  const Tableau before = t_;
  TableauStep taken = kiteknot::bring_in(t_, place, row);
  if (!step.anyway && taken.missing_after > taken.missing_before) {
    const Ratios r = kiteknot::ratios(before, place);
    fail(step.other_at,
         fmt::format("that would take {}{}; with 'anyway' behind it, it is done all the same",
                     beyond_text(before, t_),
                     r.row < 0 ? std::string()
                               : fmt::format(" (the smallest ratio is that of {})",
                                             t_.column(r.rows[at(r.row)].basic).name)));
  }
  return one(std::move(taken), state_.rule);
}

DeedKind BenchSteps::take_out(const Step& step) {
  const std::int32_t row = basic_row(*step.name, step.name_at);
  const TableauColumn& c = t_.column(*step.name);
  const Rational v = t_.value(*step.name);
  if (c.admits(v))
    fail(step.name_at,
         fmt::format("{} is {}, within its limits: a dual step takes out what is beyond "
                     "one; 'bring in ... for {}' exchanges it all the same",
                     c.name, fraction(v), c.name));
  if (!step.other) {
    const std::string name = c.name;
    auto taken = kiteknot::take_out(t_, row);
    if (taken) return one(std::move(*taken), state_.rule);
    deeds::Stepped out;
    out.run.end = TableauRun::End::infeasible;
    out.run.shown_by = *step.name;
    changed();
    state_.copies[at(state_.at - 1)].empty = true;
    return out;
  }
  Step other;
  other.name = step.other;
  other.name_at = step.other_at;
  const std::int32_t place = other_place(other);
  const DualRatios r = dual_ratios(t_, row);
  if (!r.places[at(place)].can)
    fail(step.other_at,
         t_.entry(row, place).is_zero()
             ? fmt::format("the entry of {} in the row of {} is 0: there is nothing to turn on",
                           t_.column(*step.other).name, c.name)
             : fmt::format("{} can only move {} further away from its limit",
                           t_.column(*step.other).name, c.name));
  const bool signs = t_.has_right_signs();
  TableauStep taken = kiteknot::take_out(t_, row, place);
  if (!step.anyway && signs && !t_.has_right_signs())
    fail(step.other_at,
         fmt::format("the signs of the goal's row would not be right any more: the smallest "
                     "ratio is that of {}; with 'anyway' behind it, it is done all the same",
                     t_.column(r.places[at(r.place)].other).name));
  return one(std::move(taken), state_.rule);
}

DeedKind BenchSteps::next(const Step& step) {
  if (step.rule) state_.rule = *step.rule;
  deeds::Stepped out;
  out.rule = state_.rule;
  out.run = run(t_, state_.rule, 1);
  out.one = true;
  finish_run(out.run);
  return out;
}

DeedKind BenchSteps::to_the_end(const Step& step) {
  if (step.rule) state_.rule = *step.rule;
  deeds::Stepped out;
  out.rule = state_.rule;
  out.run = run(t_, state_.rule);
  out.one = false;
  if (out.run.end == TableauRun::End::feasible) {  // and on, with the goal
    TableauRun more = run(t_, state_.rule);
    std::vector<TableauStep> steps = std::move(out.run.steps);
    for (TableauStep& s : more.steps) steps.push_back(std::move(s));
    more.steps = std::move(steps);
    more.by_first = more.by_first || out.run.by_first;
    out.run = std::move(more);
  }
  finish_run(out.run);
  return out;
}

void BenchSteps::finish_run(const TableauRun& r) {
  if (r.end == TableauRun::End::infeasible && !state_.copies[at(state_.at - 1)].empty) {
    changed();
    state_.copies[at(state_.at - 1)].empty = true;
  }
  if (!r.steps.empty() || r.end == TableauRun::End::feasible) changed();
}

DeedKind BenchSteps::first_phase() {
  if (t_.in_first_phase())
    fail(1, "this is the first phase already; 'next' and 'to the end' go on with it");
  if (t_.missing().is_zero())
    fail(1, "nothing is outside its limits: a first phase has nothing to do");
  t_.set_first_phase(true);
  changed();
  return deeds::FirstPhase{t_.missing()};
}

DeedKind BenchSteps::ratios(const Step& step) const {
  const TableauColumn& c = t_.column(*step.name);
  deeds::AskedRatios out;
  if (!c.basic) {
    out.ratios = kiteknot::ratios(t_, other_place(step));
    return out;
  }
  const Rational v = t_.value(*step.name);
  if (c.admits(v))
    fail(step.name_at,
         fmt::format("{} is basic and within its limits: there are ratios of what comes "
                     "in, and of a row beyond its limit",
                     c.name));
  out.dual = dual_ratios(t_, c.place);
  return out;
}

DeedKind BenchSteps::cut(const Step& step) {
  const std::int32_t row =
      step.goal_row ? -1 : basic_row(*step.name, step.name_at, "that a cut could be read off");
  deeds::Cut out;
  try {
    out.cut =
        derive_cut(t_, row, step.mixed ? TableauCut::Kind::mixed : TableauCut::Kind::fractional);
  } catch (const UsageError& e) {
    fail(step.name_at, e.what());
  }
  out.now = value_of(t_, out.cut.in_decisions);
  append(t_, out.cut);
  changed();
  return out;
}

DeedKind BenchSteps::all_the_way(const Step& step) {
  deeds::CutAllTheWay out;
  out.mixed = step.mixed;
  constexpr std::int32_t kMostCuts = 100;
  constexpr std::size_t kAnyway = 60;  // digits that still fit a line
  out.run = cut_all_the_way(t_, state_.rule, step.mixed, kMostCuts,
                            step.anyway ? kAnyway : kReadableDigits);
  if (out.run.end == CutRun::End::not_optimal)
    fail(1,
         "cuts are read off a tableau whose goal is at its best, and this one does not get there; "
         "'to "
         "the end' tells why");
  if (!out.run.rounds.empty() || !out.run.first.steps.empty()) changed();
  if (out.run.end == CutRun::End::infeasible) state_.copies[at(state_.at - 1)].empty = true;
  return out;
}

DeedKind BenchSteps::add(const Step& step) {
  deeds::Added out;
  for (const auto& [column, c] : step.sum.terms)
    if (t_.column(column).kind == TableauColumn::Kind::helper)
      fail(step.name_at,
           t_.column(column).name + " is the solver's, and not a decision of the model");
  std::int32_t own = 1;
  for (const TableauRow& r : t_.stated()) own += r.from == TableauRow::From::own;
  out.name = step.title.empty() ? fmt::format("own rule {}", own) : step.title;
  if (t_.find("room of " + out.name) || t_.find("gap of " + out.name))
    fail(step.name_at,
         fmt::format("there is a rule '{}' already; give it another name with 'as'", out.name));
  out.sum = step.sum;
  out.now = value_of(t_, step.sum);
  out.cuts_off_point = step.sum.at_least ? out.now < step.sum.limit : out.now > step.sum.limit;
  look_for_lost_plans(state_, out);
  TableauRow row;
  row.name = out.name;
  row.from = TableauRow::From::own;
  row.terms = step.sum.terms;
  row.limit = step.sum.limit;
  row.sign = step.sum.at_least ? -1 : 1;
  t_.add_row(std::move(row));
  if (out.whole != deeds::Added::Whole::none_lost) state_.narrowed.push_back(out.name);
  changed();
  return out;
}

DeedKind BenchSteps::drop(const Step& step) {
  for (const TableauRow& r : t_.stated()) {
    const TableauColumn& room = t_.column(r.room);
    if (r.name != step.row || room.gone) continue;
    if (r.from == TableauRow::From::branch || r.from == TableauRow::From::limit)
      fail(step.name_at, r.name + " is a limit of this copy, and stays");
    if (!room.basic)
      fail(step.name_at,
           fmt::format("{} holds the tableau where it is: bring in its room first", r.name));
    const std::string name = r.name;
    t_.drop_row(r.room);
    // What the copy was bounded by may have been this very rule.
    state_.copies[at(state_.at - 1)].bound.reset();
    if (state_.copies.size() == 1) std::erase(state_.narrowed, name);
    changed();
    return deeds::Dropped{name};
  }
  return deeds::Dropped{};
}

DeedKind BenchSteps::branch(const Step& step) {
  const Column column = *step.name;
  const TableauColumn& c = t_.column(column);
  const Rational& limit = step.sum.limit;
  const bool at_most = !step.sum.at_least;
  if (c.kind == TableauColumn::Kind::room)
    fail(step.name_at, "branches are made on decisions, and " + c.name + " is none");
  if (!c.step.is_zero() && !(limit / c.step).is_integer())
    fail(step.name_at,
         fmt::format("{} is whole: the branches are {} <= {} and {} >= {}", c.name, c.name,
                     fraction(limit.floor()), c.name, fraction(limit.ceil())));
  BranchCopy copy;
  copy.number = static_cast<std::int32_t>(state_.copies.size()) + 1;
  copy.parent = state_.at;
  copy.condition = fmt::format("{} {} {}", c.name, at_most ? "<=" : ">=", fraction(limit));
  copy.column = column;
  copy.at_most = at_most;
  copy.limit = limit;
  copy.bound = state_.copy().bound;
  copy.empty = state_.copy().empty;
  for (const BranchCopy& other : state_.copies)
    if (other.parent == copy.parent && other.condition == copy.condition)
      fail(step.name_at, fmt::format("{} is open as copy {}; 'copy {}' goes there", copy.condition,
                                     other.number, other.number));
  Tableau own = t_;
  if (own.options().limits_as_rows) {
    TableauRow row;
    row.name = copy.condition;
    row.from = TableauRow::From::branch;
    row.terms = {{column, 1}};
    row.limit = limit;
    row.sign = at_most ? 1 : -1;
    own.add_row(std::move(row));
  } else if (at_most) {
    own.set_limits(column, c.low, std::min(c.high, limit));
  } else {
    own.set_limits(column, std::max(c.low, limit), c.high);
  }
  copy.empty = copy.empty || own.empty_column().has_value();
  copy.tableau = std::make_shared<const Tableau>(own);
  const deeds::Opened out{copy.number, state_.at};
  state_.copies.push_back(std::move(copy));
  state_.at = out.copy;
  mark_divided(state_);
  t_ = std::move(own);
  changed();
  return out;
}

std::int32_t BenchSteps::copy_number(const Step& step) const {
  if (!step.number) return state_.at;
  if (*step.number < 1 || *step.number > static_cast<std::int32_t>(state_.copies.size()))
    fail(step.name_at, fmt::format("there is no copy {}; there {} {}", *step.number,
                                   state_.copies.size() == 1 ? "is" : "are",
                                   state_.copies.size() == 1
                                       ? std::string("copy 1 only")
                                       : fmt::format("copies 1 to {}", state_.copies.size())));
  return *step.number;
}

DeedKind BenchSteps::go_to(const Step& step) {
  const std::int32_t number = copy_number(step);
  if (number == state_.at) fail(step.name_at, fmt::format("copy {} is at hand already", number));
  state_.at = number;
  t_ = state_.tableau();
  is_change_ = true;
  return deeds::WentTo{number};
}

DeedKind BenchSteps::close(const Step& step) {
  const std::int32_t number = copy_number(step);
  BranchCopy& copy = state_.copies[at(number - 1)];
  if (copy.closing == BranchCopy::Closing::divided)
    fail(step.name_at,
         fmt::format("copy {} is divided: it is done with once its parts are", number));
  if (is_done(state_, number)) fail(step.name_at, fmt::format("copy {} is closed already", number));
  if (!workbench::close(state_, number)) {
    const std::string best = state_.best_value
                                 ? fmt::format("the best plan has {}", fraction(*state_.best_value))
                                 : "there is no plan yet to beat";
    fail(step.name_at,
         copy.bound
             ? fmt::format(
                   "nothing shows that copy {} holds no better plan: its {} may be {}, and {}",
                   number, t_.goal_name(), fraction(*copy.bound), best)
             : fmt::format("nothing shows that copy {} holds no better plan: its tableau was not "
                           "brought to the end",
                           number));
  }
  is_change_ = true;
  return deeds::Closed{number};
}

DeedKind BenchSteps::prices() const {
  try {
    return deeds::Prices{relaxed_answer(t_)};
  } catch (const UsageError& e) {
    fail(1, e.what());
  }
}

// The tableau is put back, and what it shows is taken note of.
void BenchSteps::changed() {
  is_change_ = true;
  BranchCopy& copy = state_.copies[at(state_.at - 1)];
  copy.tableau = std::make_shared<const Tableau>(t_);
  // A goal's row with the right signs bounds all plans, feasible or not.
  if (!t_.empty_column() && t_.has_right_signs()) {
    const Rational value = t_.goal_value();
    if (!copy.bound || (t_.maximize() ? value < *copy.bound : value > *copy.bound))
      copy.bound = value;
  }
  if (!t_.is_feasible() || !t_.is_whole()) return;
  const Plan plan = t_.plan();
  const PlanReport report = check_exactly(t_.model(), plan);
  if (!report.feasible) return;
  const Rational value = t_.goal_value();
  if (!state_.best_value ||
      (t_.maximize() ? value > *state_.best_value : value < *state_.best_value)) {
    state_.best = plan;
    state_.best_value = value;
  }
}

}  // namespace kiteknot::workbench
