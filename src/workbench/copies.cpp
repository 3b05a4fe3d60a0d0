#include "workbench/copies.hpp"

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"

namespace kiteknot::workbench {
namespace {

using Closing = BranchCopy::Closing;

// Both leave no value of the column out.
bool make_a_whole(const BranchCopy& a, const BranchCopy& b) {
  if (a.parent != b.parent || a.column != b.column || a.at_most == b.at_most) return false;
  const BranchCopy& low = a.at_most ? a : b;
  const BranchCopy& high = a.at_most ? b : a;
  const Rational step = low.tableau->column(low.column).step;
  return high.limit <= low.limit + step;
}

}  // namespace

bool is_done(const BenchState& state, std::int32_t number) {
  for (std::int32_t k = number; k > 0; k = state.copies[at(k - 1)].parent) {
    const Closing c = state.copies[at(k - 1)].closing;
    if (c != Closing::open && (k == number || c != Closing::divided)) return true;
  }
  return false;
}

bool has_other_side(const BenchState& state, const BranchCopy& copy) {
  for (const BranchCopy& other : state.copies)
    if (make_a_whole(copy, other)) return true;
  return false;
}

void mark_divided(BenchState& state) {
  for (const BranchCopy& copy : state.copies) {
    if (copy.parent == 0) continue;
    BranchCopy& parent = state.copies[at(copy.parent - 1)];
    if (parent.closing == Closing::open && has_other_side(state, copy))
      parent.closing = Closing::divided;
  }
}

bool cannot_beat(const BenchState& state, const Rational& bound) {
  if (!state.best_value) return false;
  const Tableau& t = state.tableau();
  Rational reach = bound;
  if (!t.goal_step().is_zero()) {
    const Rational steps = bound / t.goal_step();
    reach = (t.maximize() ? steps.floor() : steps.ceil()) * t.goal_step();
  }
  return t.maximize() ? reach <= *state.best_value : reach >= *state.best_value;
}

bool close(BenchState& state, std::int32_t number) {
  BranchCopy& copy = state.copies[at(number - 1)];
  const Tableau& t = *copy.tableau;
  if (copy.empty || t.empty_column()) {
    copy.closing = Closing::no_plan;
  } else if (copy.bound && t.is_optimal() && t.is_whole() &&
             check_exactly(t.model(), t.plan()).feasible) {
    copy.closing = Closing::whole;
    copy.value = t.goal_value();
  } else if (copy.bound && cannot_beat(state, *copy.bound)) {
    copy.closing = Closing::cannot_beat;
  } else {
    return false;
  }
  return true;
}

}  // namespace kiteknot::workbench

namespace kiteknot {

std::vector<std::int32_t> open_copies(const BenchState& state) {
  std::vector<std::int32_t> open;
  for (const BranchCopy& copy : state.copies)
    if (!workbench::is_done(state, copy.number)) open.push_back(copy.number);
  return open;
}

bool can_be_closed(const BenchState& state, std::int32_t number) {
  if (number < 1 || at(number) > state.copies.size())
    throw UsageError(fmt::format("there is no copy {}", number));
  BenchState trial = state;
  return workbench::close(trial, number);
}

std::vector<std::string> sides_missing(const BenchState& state) {
  std::vector<std::string> missing;
  for (const BranchCopy& copy : state.copies) {
    if (copy.parent == 0 || workbench::is_done(state, copy.parent) ||
        workbench::has_other_side(state, copy))
      continue;
    const TableauColumn& c = copy.tableau->column(copy.column);
    const Rational other = copy.at_most ? copy.limit + c.step : copy.limit - c.step;
    missing.push_back(fmt::format("{} {} {} of copy {}", c.name,
                                  copy.at_most ? ">=" : "<=", fraction(other), copy.parent));
  }
  return missing;
}

}  // namespace kiteknot
