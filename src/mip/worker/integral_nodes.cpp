// What becomes of a node that pivots do not decide: its point is whole, or cannot be trusted, or
// the relaxed goal has no end.

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "mip/problem/exact_rows.hpp"
#include "mip/propagators/whole_equations.hpp"
#include "mip/relaxation/ray.hpp"
#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

// With a plan and a direction that holds exactly the goal has no end.
NodeOutcome Worker::settle_endless_root() {
  const std::vector<double> ray = space_.relaxation.ray();
  SearchResult inner = any_plan_of(space_.problem);
  node_.out.stopped_by = inner.stopped_by;
  if (inner.outcome == Outcome::infeasible) return hand_out(closed(ClosedBy::relaxation));
  if (!inner.plan) {
    node_.out.reason =
        "the relaxed goal has no end, and no plan was found that would show it for whole decisions";
    return hand_out(End::stopped);
  }
  take_plan_of(std::move(inner));
  node_.out.ray = exact_ray(space_.problem, ray);
  if (!node_.out.ray)
    node_.out.reason =
        "the relaxed goal has no end, but the direction could not be confirmed exactly";
  return hand_out(End::stopped);
}

SearchResult Worker::any_plan_of(Problem problem) {
  problem.clear_goal();
  SearchOptions options = setting_.options;
  options.any_plan = true;
  options.few = {};
  options.given.symmetry.reset();  // its bounds are others
  options.budget =
      options.budget.less(setting_.clock.seconds(), node_.nodes + node_.out.counts.nodes);
  options.given.basis = space_.relaxation.simplex().basis();
  SearchResult inner = setting_.sub_search(std::move(problem), setting_.judge, std::move(options));
  node_.out.counts.nodes += inner.counts.nodes;
  node_.out.counts.pivots += inner.counts.pivots;
  return inner;
}

void Worker::take_plan_of(SearchResult inner) {
  Verdict verdict = setting_.judge(*inner.plan);
  node_.out.plans.push_back({std::move(*inner.plan), std::move(verdict.goal),
                             std::move(verdict.remarks), inner.found_by, setting_.clock.seconds()});
}

// The relaxation of a node has no end. Once its conditions are settled the direction counts if the
// node has a plan at all.
Worker::End Worker::settle_endless() {
  if (split_condition()) return End::divided;
  Problem here = space_.problem;
  for (Index j = 0; j < space_.problem.num_columns(); ++j)
    here.set_bounds(j, space_.domain.lower(j), space_.domain.upper(j));
  // Equations without a whole solution would be searched for ever.
  if (equations_unsolvable(here, space_.work)) return closed(ClosedBy::relaxation);
  const std::vector<double> point(space_.relaxation.point().begin(),
                                  space_.relaxation.point().end());
  auto ray = exact_ray(here, space_.relaxation.ray());
  if (!ray) return all_ends_known() ? branch_on_anything(point) : leave_unresolved();
  SearchResult inner = any_plan_of(std::move(here));
  if (inner.outcome == Outcome::infeasible) return closed(ClosedBy::relaxation);
  if (!inner.plan) {
    node_.out.stopped_by = inner.stopped_by;
    return node_.out.stopped_by == StoppedBy::nothing ? leave_unresolved() : End::stopped;
  }
  take_plan_of(std::move(inner));
  node_.out.ray = std::move(ray);
  return End::stopped;
}

bool Worker::all_ends_known() const {
  for (Index j = 0; j < space_.problem.num_columns(); ++j)
    if (space_.problem.integer(j) &&
        (std::isinf(space_.domain.lower(j)) || std::isinf(space_.domain.upper(j))))
      return false;
  return true;
}

// The relaxed point has no fractional column (or cannot be trusted). It is offered as a plan; the
// node is closed only if its bound says so or nothing is left to decide.
Worker::End Worker::settle_point(bool trusted) {
  const std::vector<double> point(space_.relaxation.point().begin(),
                                  space_.relaxation.point().end());
  if (!space_.problem.exact()) return settle_smooth_point(point);
  if (trusted) {
    Branching branching;
    for (const auto& d : space_.disjunctions)
      if (!d->met(space_.domain, point) && d->split(space_.domain, point, branching))
        return split(std::move(branching));
    (void)finder_.try_point(point, "the relaxation");
    known_.narrow_to_key(space_.domain);
    if (known_.closes(node_.out.bound)) return closed(ClosedBy::bound);
    if (const auto end = branch_on_key(point)) return *end;
  }
  // The node's own bounds again; those that were rounded outward would blur an exact look.
  const lp::Report again = relax(true);
  if (again.status == lp::Status::infeasible) return closed(ClosedBy::relaxation);
  if (again.status == lp::Status::optimal) sharpen();
  // Tolerances may hide what the node is worth, or that its point is a plan.
  if (!known_.closes(node_.out.bound)) {
    const lp::Status end = space_.relaxation.refine(space_.exact);
    if (end == lp::Status::infeasible) return closed(ClosedBy::relaxation);
    if (end == lp::Status::optimal) {
      sharpen();
      const auto vertex = space_.relaxation.exact_values(space_.exact);
      // A plan that only fractions can say was not known when the bound was sharpened.
      if (vertex && is_whole(space_.problem, *vertex) && finder_.judge(*vertex, "the relaxation"))
        sharpen();
    }
  }
  if (known_.closes(node_.out.bound)) return closed(ClosedBy::bound);
  // Without a point to go by, parts of an endless range would be looked at for ever.
  return trusted || all_ends_known() ? branch_on_anything(point) : leave_unresolved();
}

// Fractions do not tell the plans of such a problem: from the point a local search looks for one,
// and the node is divided until its bound says that nothing better is left in it.
Worker::End Worker::settle_smooth_point(std::span<const double> point) {
  const bool near = std::ranges::all_of(
      space_.disjunctions, [&](const auto& d) { return d->met(space_.domain, point); });
  if (!near || !finder_.judge(space_.exact_point(point), "the relaxation"))
    finder_.look_locally(point, near);
  known_.narrow_to_key(space_.domain);
  if (known_.closes(node_.out.bound)) return closed(ClosedBy::bound);
  for (const bool broken : {true, false}) {  // then whatever can be divided at all
    for (const auto& d : space_.disjunctions) {
      Branching branching;
      if (d->met(space_.domain, point) != broken && d->split(space_.domain, point, branching))
        return split(std::move(branching));
    }
    if (!broken) break;
    if (const auto end = branch_on_key(point)) return *end;
  }
  return all_ends_known() ? branch_on_anything(point) : leave_unresolved();
}

// Into the parts in which the first open condition holds or fails; false where none is open.
bool Worker::split_condition() {
  for (Index c = 0; c < space_.problem.num_conditions(); ++c)
    if (space_.domain.state(c) == State::open) {
      Branching branching;
      branching.children = {{{Change::What::condition, c, 1.0}},
                            {{Change::What::condition, c, 0.0}}};
      (void)split(std::move(branching));
      return true;
    }
  return false;
}

// Of the best few plans: a node holds others beside its best one while some key column is open.
std::optional<Worker::End> Worker::branch_on_key(std::span<const double> point) {
  for (const Index j : known_.key_columns())
    if (!space_.domain.fixed(j)) return branch_at(j, point[at(j)]);
  return std::nullopt;
}

// Below and above a column's value.
Worker::End Worker::branch_at(Index column, double value) {
  Branching branching;
  const double low = space_.domain.lower(column), high = space_.domain.upper(column);
  value = std::round(value);
  if (!std::isfinite(value)) value = std::isfinite(low) ? low : (std::isfinite(high) ? high : 0.0);
  value = std::clamp(value, low, high);
  const double below = value < high ? value : value - 1.0;
  // Beyond 2^53 neighbouring whole numbers are the same double.
  if (!(below < high) || !(below + 1.0 > below)) return leave_unresolved();
  branching.children = {{{Change::What::upper, column, below}},
                        {{Change::What::lower, column, below + 1.0}}};
  return split(std::move(branching));
}

// Branches on an integer column at its value, or on a condition, while one is open. Then one point
// of the integers is left: the judge decides about it if all decisions are among them. With real
// ones an exact look at what is stated gives the best of the node; it stays unresolved where that
// is none for the judge.
Worker::End Worker::branch_on_anything(std::span<const double> point) {
  Index widest = -1;
  for (Index j = 0; j < space_.problem.num_columns(); ++j)
    if (space_.problem.integer(j) && !space_.domain.fixed(j) &&
        (widest < 0 || space_.domain.upper(j) - space_.domain.lower(j) >
                           space_.domain.upper(widest) - space_.domain.lower(widest)))
      widest = j;
  if (widest >= 0) return branch_at(widest, point[at(widest)]);
  if (split_condition()) return End::divided;
  Index whole = 0;
  while (whole < setting_.decisions && space_.problem.integer(whole)) ++whole;
  if (whole == setting_.decisions) {
    std::vector<double> only;
    for (Index j = 0; j < space_.problem.num_columns(); ++j) only.push_back(space_.domain.lower(j));
    (void)finder_.judge(space_.exact_point(only), "branching");
    return closed(ClosedBy::point);
  }
  if (!space_.problem.exact()) return leave_unresolved();
  space_.relaxation.follow(space_.domain);
  if (lp::breaks_fixed_row(space_.relaxation.simplex().program()))
    return closed(ClosedBy::relaxation);
  space_.relaxation.follow(space_.domain, true);
  const Relaxation::ExactLook look = space_.relaxation.look_at_stated(space_.exact);
  if (look.status == lp::Status::infeasible) return closed(ClosedBy::relaxation);
  if (look.status == lp::Status::optimal && finder_.judge(look.values, "the relaxation"))
    return closed(ClosedBy::point);
  return leave_unresolved();
}

// Into parts that differ in something else than a column at its relaxed value.
Worker::End Worker::split(Branching branching) {
  brancher_.split(std::move(branching), -1, 0.0, node_);
  return End::divided;
}

Worker::End Worker::leave_unresolved() {
  if (known_.nearly_closes(node_.out.bound))
    return closed(ClosedBy::nearly);  // the gap that the answer states
  if (node_.out.reason.empty())
    node_.out.reason = "the arithmetic did not suffice to settle every part of the search";
  return closed(ClosedBy::unresolved);
}

}  // namespace kiteknot::mip
