#include "mip/domain.hpp"

#include <cmath>

#include "base/check.hpp"
#include "base/tolerances.hpp"

namespace kiteknot::mip {

Domain::Domain(const Problem& problem)
    : problem_(&problem),
      state_(at(problem.num_conditions()), State::open),
      is_touched_(at(problem.num_columns()) + at(problem.num_conditions()), 0) {
  for (Index j = 0; j < problem.num_columns(); ++j) {
    lower_.push_back(problem.integer(j) ? std::ceil(problem.lower(j)) : problem.lower(j));
    upper_.push_back(problem.integer(j) ? std::floor(problem.upper(j)) : problem.upper(j));
    const Index c = problem.condition_of_column(j);
    if (c >= 0 && problem.lower(j) == problem.upper(j))
      state_[at(c)] = problem.lower(j) == 1.0 ? State::holds : State::fails;
  }
}

void Domain::touch(Index what) {
  const std::size_t k = what >= 0 ? at(what) : lower_.size() + at(-1 - what);
  if (is_touched_[k]) return;
  is_touched_[k] = 1;
  touched_.push_back(what);
}

void Domain::touch_all() {
  for (Index j = 0; j < problem_->num_columns(); ++j) touch(j);
  for (Index c = 0; c < problem_->num_conditions(); ++c) touch(-1 - c);
}

std::vector<Index> Domain::take_touched() {
  std::vector<Index> taken;
  taken.swap(touched_);
  for (Index what : taken) is_touched_[what >= 0 ? at(what) : lower_.size() + at(-1 - what)] = 0;
  return taken;
}

bool Domain::raise_lower(Index j, double value) {
  KITEKNOT_ASSERT(!std::isnan(value), "a bound is a number");
  if (problem_->integer(j)) value = std::ceil(value);
  if (value <= lower_[at(j)]) return lower_[at(j)] <= upper_[at(j)];
  if (value > upper_[at(j)]) return false;
  trail_.push_back({Change::What::lower, j, lower_[at(j)]});
  lower_[at(j)] = value;
  touch(j);
  const Index c = problem_->condition_of_column(j);
  return c < 0 || settle(c, true);
}

bool Domain::drop_upper(Index j, double value) {
  KITEKNOT_ASSERT(!std::isnan(value), "a bound is a number");
  if (problem_->integer(j)) value = std::floor(value);
  if (value >= upper_[at(j)]) return lower_[at(j)] <= upper_[at(j)];
  if (value < lower_[at(j)]) return false;
  trail_.push_back({Change::What::upper, j, upper_[at(j)]});
  upper_[at(j)] = value;
  touch(j);
  const Index c = problem_->condition_of_column(j);
  return c < 0 || settle(c, false);
}

bool Domain::settle(Index condition, bool holds) {
  const State wanted = holds ? State::holds : State::fails;
  State& state = state_[at(condition)];
  if (state == wanted) return true;
  if (state != State::open) return false;
  trail_.push_back({Change::What::condition, condition, 0.0});
  state = wanted;
  touch(-1 - condition);
  const Index column = problem_->column_of_condition(condition);
  if (column < 0) return true;
  return holds ? raise_lower(column, 1.0) : drop_upper(column, 0.0);
}

bool Domain::apply(const Change& change) {
  switch (change.what) {
    case Change::What::lower:
      return raise_lower(change.index, change.value);
    case Change::What::upper:
      return drop_upper(change.index, change.value);
    case Change::What::condition:
      return settle(change.index, change.value == 1.0);
  }
  return false;
}

bool Domain::cuts_off(std::span<const double> point, std::size_t mark) const {
  const double slack = Tolerances{}.integrality;
  for (std::size_t k = mark; k < trail_.size(); ++k) {
    const Index j = trail_[k].index;
    if (trail_[k].what == Change::What::condition || point[at(j)] < lower(j) - slack ||
        point[at(j)] > upper(j) + slack)
      return true;
  }
  return false;
}

void Domain::check_invariants() const {
  for (Index j = 0; j < problem_->num_columns(); ++j) {
    KITEKNOT_CHECK(lower(j) <= upper(j), "bounds are in order");
    KITEKNOT_CHECK(!problem_->integer(j) ||
                       (lower(j) == std::ceil(lower(j)) && upper(j) == std::floor(upper(j))),
                   "bounds of whole columns are whole");
  }
  for (Index c = 0; c < problem_->num_conditions(); ++c) {
    const Index column = problem_->column_of_condition(c);
    if (column < 0) continue;
    KITEKNOT_CHECK(state(c) != State::holds || lower(column) == 1.0, "a condition that holds is 1");
    KITEKNOT_CHECK(state(c) != State::fails || upper(column) == 0.0, "one that fails is 0");
  }
}

void Domain::undo_to(std::size_t mark) {
  KITEKNOT_ASSERT(mark <= trail_.size(), "what was undone cannot be gone back to");
  (void)take_touched();
  while (trail_.size() > mark) {
    const Change& old = trail_.back();
    switch (old.what) {
      case Change::What::lower:
        lower_[at(old.index)] = old.value;
        break;
      case Change::What::upper:
        upper_[at(old.index)] = old.value;
        break;
      case Change::What::condition:
        state_[at(old.index)] = State::open;
        break;
    }
    trail_.pop_back();
  }
}

}  // namespace kiteknot::mip
