#include "mip/domain/domain.hpp"

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "base/tolerances.hpp"

namespace kiteknot::mip {
namespace {
// Bounds that creep beyond this are of no use to anybody, and sums over them overflow.
constexpr double kFarthest = 1e100;
}  // namespace

Domain::Domain(const Problem& problem)
    : problem_(&problem), state_(at(problem.num_conditions()), State::open) {
  for (Index j = 0; j < problem.num_columns(); ++j) {
    lower_.push_back(problem.integer(j) ? std::ceil(problem.lower(j)) : problem.lower(j));
    upper_.push_back(problem.integer(j) ? std::floor(problem.upper(j)) : problem.upper(j));
    const Index c = problem.condition_of_column(j);
    if (c >= 0 && problem.lower(j) == problem.upper(j))
      state_[at(c)] = problem.lower(j) == 1.0 ? State::holds : State::fails;
  }
}

std::size_t Domain::add_reader() {
  readers_.push_back({trail_.size(), trail_.size()});
  return readers_.size() - 1;
}

bool Domain::raise_lower(Index j, double value) {
  KITEKNOT_ASSERT(!std::isnan(value), "a bound is a number");
  if (problem_->integer(j)) value = std::ceil(value);
  if (value <= lower_[at(j)]) return lower_[at(j)] <= upper_[at(j)];
  if (value > upper_[at(j)]) return false;
  if (value > kFarthest && reason_.by != Reason::By::decision) return true;
  trail_.push_back({{Change::What::lower, j, value}, lower_[at(j)], reason_});
  lower_[at(j)] = value;
  const Index c = problem_->condition_of_column(j);
  return c < 0 || settle(c, true);
}

bool Domain::drop_upper(Index j, double value) {
  KITEKNOT_ASSERT(!std::isnan(value), "a bound is a number");
  if (problem_->integer(j)) value = std::floor(value);
  if (value >= upper_[at(j)]) return lower_[at(j)] <= upper_[at(j)];
  if (value < lower_[at(j)]) return false;
  if (value < -kFarthest && reason_.by != Reason::By::decision) return true;
  trail_.push_back({{Change::What::upper, j, value}, upper_[at(j)], reason_});
  upper_[at(j)] = value;
  const Index c = problem_->condition_of_column(j);
  return c < 0 || settle(c, false);
}

bool Domain::settle(Index condition, bool holds) {
  const State wanted = holds ? State::holds : State::fails;
  State& state = state_[at(condition)];
  if (state == wanted) return true;
  if (state != State::open) return false;
  trail_.push_back({{Change::What::condition, condition, holds ? 1.0 : 0.0}, 0.0, reason_});
  state = wanted;
  const Index column = problem_->column_of_condition(condition);
  if (column < 0) return true;
  const Reason outer = reason_;
  reason_ = {Reason::By::condition, condition};
  const bool possible = holds ? raise_lower(column, 1.0) : drop_upper(column, 0.0);
  reason_ = outer;
  return possible;
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
    const Index j = trail_[k].change.index;
    if (trail_[k].change.what == Change::What::condition || point[at(j)] < lower(j) - slack ||
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
  while (trail_.size() > mark) {
    const Step& step = trail_.back();
    switch (step.change.what) {
      case Change::What::lower:
        lower_[at(step.change.index)] = step.before;
        break;
      case Change::What::upper:
        upper_[at(step.change.index)] = step.before;
        break;
      case Change::What::condition:
        state_[at(step.change.index)] = State::open;
        break;
    }
    trail_.pop_back();
  }
  for (Reader& r : readers_) r.kept = std::min(r.kept, mark);
}

}  // namespace kiteknot::mip
