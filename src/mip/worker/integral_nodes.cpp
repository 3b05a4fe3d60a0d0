// What becomes of a node that pivots do not decide: its point is whole, or cannot be trusted, or
// the relaxed goal has no end.

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "mip/propagators/whole_equations.hpp"
#include "mip/relaxation/ray.hpp"
#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

// With a plan and a direction that holds exactly the goal has no end.
NodeOutcome Worker::settle_endless_root() {
  const std::vector<double> ray = relaxation_.ray();
  SearchResult inner = any_plan_of(problem_);
  out_.stopped_by = inner.stopped_by;
  if (inner.outcome == Outcome::infeasible) return hand_out(closed(ClosedBy::relaxation));
  if (!inner.plan) {
    out_.reason =
        "the relaxed goal has no end, and no plan was found that would show it for whole decisions";
    return hand_out(End::stopped);
  }
  take_plan_of(std::move(inner));
  out_.ray = exact_ray(problem_, ray);
  if (!out_.ray)
    out_.reason = "the relaxed goal has no end, but the direction could not be confirmed exactly";
  return hand_out(End::stopped);
}

SearchResult Worker::any_plan_of(Problem problem) {
  problem.clear_goal();
  SearchOptions options = options_;
  options.any_plan = true;
  options.few = {};
  options.symmetry.reset();  // its bounds are others
  options.seconds = options_.seconds - clock_.seconds();
  options.nodes = options_.nodes - nodes_ - out_.counts.nodes;
  options.basis = relaxation_.simplex().basis();
  SearchResult inner = sub_search_(std::move(problem), judge_, std::move(options));
  out_.counts.nodes += inner.counts.nodes;
  out_.counts.pivots += inner.counts.pivots;
  return inner;
}

void Worker::take_plan_of(SearchResult inner) {
  Verdict verdict = judge_(*inner.plan);
  out_.plans.push_back({std::move(*inner.plan), std::move(verdict.goal), std::move(verdict.remarks),
                        inner.found_by, clock_.seconds()});
}

// The relaxation of a node has no end. Once its conditions are settled the direction counts if the
// node has a plan at all.
Worker::End Worker::settle_endless() {
  if (split_condition()) return End::divided;
  Problem here = problem_;
  for (Index j = 0; j < problem_.num_columns(); ++j)
    here.set_bounds(j, domain_.lower(j), domain_.upper(j));
  // Equations without a whole solution would be searched for ever.
  if (equations_unsolvable(here, work_)) return closed(ClosedBy::relaxation);
  const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
  auto ray = exact_ray(here, relaxation_.ray());
  if (!ray) return all_ends_known() ? branch_on_anything(point) : leave_unresolved();
  SearchResult inner = any_plan_of(std::move(here));
  if (inner.outcome == Outcome::infeasible) return closed(ClosedBy::relaxation);
  if (!inner.plan) {
    out_.stopped_by = inner.stopped_by;
    return out_.stopped_by == StoppedBy::nothing ? leave_unresolved() : End::stopped;
  }
  take_plan_of(std::move(inner));
  out_.ray = std::move(ray);
  return End::stopped;
}

bool Worker::all_ends_known() const {
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j) && (std::isinf(domain_.lower(j)) || std::isinf(domain_.upper(j))))
      return false;
  return true;
}

bool Worker::is_whole(std::span<const Rational> point) const {
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j) && !point[at(j)].is_integer()) return false;
  return true;
}

// The relaxed point has no fractional column (or cannot be trusted). It is offered as a plan; the
// node is closed only if its bound says so or nothing is left to decide.
Worker::End Worker::settle_point(bool trusted) {
  const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
  if (trusted) {
    Branching branching;
    for (const auto& d : disjunctions_)
      if (!d->met(domain_, point) && d->split(domain_, point, branching))
        return split(std::move(branching), -1, 0.0);
    (void)try_plan(point, "the relaxation");
    narrow_to_key();
    if (closes(out_.bound)) return closed(ClosedBy::bound);
    if (const auto end = branch_on_key(point)) return *end;
  }
  // The node's own bounds again; those that were rounded outward would blur an exact look.
  const lp::Report again = relax(true);
  if (again.status == lp::Status::infeasible) return closed(ClosedBy::relaxation);
  if (again.status == lp::Status::optimal) sharpen();
  // Tolerances may hide what the node is worth, or that its point is a plan.
  if (!closes(out_.bound)) {
    const lp::Status end = relaxation_.refine(exact_limits());
    if (end == lp::Status::infeasible) return closed(ClosedBy::relaxation);
    if (end == lp::Status::optimal) {
      sharpen();
      const auto vertex = relaxation_.exact_values(exact_limits());
      // A plan that only fractions can say was not known when the bound was sharpened.
      if (vertex && is_whole(*vertex) && judge_plan(*vertex, "the relaxation")) sharpen();
    }
  }
  if (closes(out_.bound)) return closed(ClosedBy::bound);
  // Without a point to go by, parts of an endless range would be looked at for ever.
  return trusted || all_ends_known() ? branch_on_anything(point) : leave_unresolved();
}

// Into the parts in which the first open condition holds or fails; false where none is open.
bool Worker::split_condition() {
  for (Index c = 0; c < problem_.num_conditions(); ++c)
    if (domain_.state(c) == State::open) {
      Branching branching;
      branching.children = {{{Change::What::condition, c, 1.0}},
                            {{Change::What::condition, c, 0.0}}};
      (void)split(std::move(branching), -1, 0.0);
      return true;
    }
  return false;
}

// Of the best few plans: a node holds others beside its best one while some key column is open.
std::optional<Worker::End> Worker::branch_on_key(std::span<const double> point) {
  for (const Index j : few_.key_columns())
    if (!domain_.fixed(j)) return branch_at(j, point[at(j)]);
  return std::nullopt;
}

// Below and above a column's value.
Worker::End Worker::branch_at(Index column, double value) {
  Branching branching;
  const double low = domain_.lower(column), high = domain_.upper(column);
  value = std::round(value);
  if (!std::isfinite(value)) value = std::isfinite(low) ? low : (std::isfinite(high) ? high : 0.0);
  value = std::clamp(value, low, high);
  const double below = value < high ? value : value - 1.0;
  // Beyond 2^53 neighbouring whole numbers are the same double.
  if (!(below < high) || !(below + 1.0 > below)) return leave_unresolved();
  branching.children = {{{Change::What::upper, column, below}},
                        {{Change::What::lower, column, below + 1.0}}};
  return split(std::move(branching), -1, 0.0);
}

// Branches on an integer column at its value, or on a condition, while one is open. Then one point
// of the integers is left: the judge decides about it if all decisions are among them. With real
// ones an exact look at what is stated gives the best of the node; it stays unresolved where that
// is none for the judge.
Worker::End Worker::branch_on_anything(std::span<const double> point) {
  Index widest = -1;
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j) && !domain_.fixed(j) &&
        (widest < 0 ||
         domain_.upper(j) - domain_.lower(j) > domain_.upper(widest) - domain_.lower(widest)))
      widest = j;
  if (widest >= 0) return branch_at(widest, point[at(widest)]);
  if (split_condition()) return End::divided;
  Index whole = 0;
  while (whole < decisions_ && problem_.integer(whole)) ++whole;
  if (whole == decisions_) {
    std::vector<double> only;
    for (Index j = 0; j < problem_.num_columns(); ++j) only.push_back(domain_.lower(j));
    (void)judge_plan(exact_point(only), "branching");
    return closed(ClosedBy::point);
  }
  relaxation_.follow(domain_);
  if (lp::breaks_fixed_row(relaxation_.simplex().program())) return closed(ClosedBy::relaxation);
  relaxation_.follow(domain_, true);
  const Relaxation::ExactLook look = relaxation_.look_at_stated(exact_limits());
  if (look.status == lp::Status::infeasible) return closed(ClosedBy::relaxation);
  if (look.status == lp::Status::optimal && judge_plan(look.values, "the relaxation"))
    return closed(ClosedBy::point);
  return leave_unresolved();
}

Worker::End Worker::leave_unresolved() {
  if (nearly_closes(out_.bound)) return closed(ClosedBy::nearly);  // the gap that the answer states
  if (out_.reason.empty())
    out_.reason = "the arithmetic did not suffice to settle every part of the search";
  return closed(ClosedBy::unresolved);
}

}  // namespace kiteknot::mip
