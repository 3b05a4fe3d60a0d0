// What becomes of a node that pivots do not decide: its point is whole, or cannot be trusted, or
// the relaxed goal has no end.

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "mip/relaxation/ray.hpp"
#include "mip/search/search.hpp"

namespace kiteknot::mip {

// The relaxed goal has no end. With a plan and a direction that holds exactly, neither has the
// goal.
void Search::answer_unbounded() {
  const std::vector<double> ray = relaxation_.ray();
  SearchResult inner = any_plan_of(problem_);
  result_.stopped_by = inner.stopped_by;
  if (inner.outcome == Outcome::infeasible) {
    result_.outcome = Outcome::infeasible;
    return;
  }
  if (!inner.plan) {
    result_.reason =
        "the relaxed goal has no end, and no plan was found that would show it for whole decisions";
    return;
  }
  result_.plan = std::move(inner.plan);
  result_.found_by = inner.found_by;
  result_.goal = judge_(*result_.plan).goal;
  result_.ray = exact_ray(problem_, ray);
  if (result_.ray) {
    result_.outcome = Outcome::unbounded;
  } else {
    result_.outcome = Outcome::unproven;
    result_.reason =
        "the relaxed goal has no end, but the direction could not be confirmed exactly";
  }
}

SearchResult Search::any_plan_of(Problem problem) {
  problem.clear_goal();
  SearchOptions options = options_;
  options.any_plan = true;
  options.seconds = options_.seconds - clock_.seconds();
  options.nodes = options_.nodes - result_.nodes;
  options.basis = relaxation_.simplex().basis();
  SearchResult inner = Search(std::move(problem), judge_, options).run();
  result_.nodes += inner.nodes;
  result_.pivots += inner.pivots;
  return inner;
}

// The relaxation of a node has no end. Once its conditions are settled the direction counts if the
// node has a plan at all.
Search::NodeEnd Search::settle_endless(const std::shared_ptr<Node>& node) {
  if (split_condition(node)) return NodeEnd::branched;
  Problem here = problem_;
  for (Index j = 0; j < problem_.num_columns(); ++j)
    here.set_bounds(j, domain_.lower(j), domain_.upper(j));
  const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
  auto ray = exact_ray(here, relaxation_.ray());
  if (!ray) return all_ends_known() ? branch_on_anything(node, point) : leave_unresolved(node);
  SearchResult inner = any_plan_of(std::move(here));
  if (inner.outcome == Outcome::infeasible) return NodeEnd::closed;
  if (!inner.plan) {
    result_.stopped_by = inner.stopped_by;
    return result_.stopped_by.empty() ? leave_unresolved(node) : NodeEnd::stopped;
  }
  result_.plan = std::move(inner.plan);
  result_.found_by = inner.found_by;
  result_.goal = judge_(*result_.plan).goal;
  result_.ray = std::move(ray);
  return NodeEnd::stopped;
}

bool Search::all_ends_known() const {
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j) && (std::isinf(domain_.lower(j)) || std::isinf(domain_.upper(j))))
      return false;
  return true;
}

bool Search::is_whole(std::span<const Rational> point) const {
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j) && !point[at(j)].is_integer()) return false;
  return true;
}

// The relaxed point has no fractional column (or cannot be trusted). It is offered as a plan; the
// node is closed only if its bound says so or nothing is left to decide.
Search::NodeEnd Search::settle_point(const std::shared_ptr<Node>& node, bool trusted) {
  const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
  if (trusted) {
    Branching branching;
    for (const auto& d : disjunctions_)
      if (!d->met(domain_, point) && d->split(domain_, point, branching))
        return split(node, std::move(branching), -1, 0.0);
    (void)try_plan(point, "the relaxation");
    if (closes(node->bound)) return NodeEnd::closed;
  }
  // The node's own bounds again; those that were rounded outward would blur an exact look.
  const lp::Report again = relax(true);
  if (again.status == lp::Status::infeasible) return NodeEnd::closed;
  if (again.status == lp::Status::optimal) sharpen(*node);
  // Tolerances may hide what the node is worth, or that its point is a plan.
  if (!closes(node->bound)) {
    const lp::Status end = relaxation_.refine(exact_limits());
    if (end == lp::Status::infeasible) return NodeEnd::closed;
    if (end == lp::Status::optimal) {
      sharpen(*node);
      const auto vertex = relaxation_.exact_values(exact_limits());
      if (vertex && is_whole(*vertex)) (void)judge_plan(*vertex, "the relaxation");
    }
  }
  if (closes(node->bound)) return NodeEnd::closed;
  // Without a point to go by, parts of an endless range would be looked at for ever.
  return trusted || all_ends_known() ? branch_on_anything(node, point) : leave_unresolved(node);
}

// Into the parts in which the first open condition holds or fails; false where none is open.
bool Search::split_condition(const std::shared_ptr<Node>& node) {
  for (Index c = 0; c < problem_.num_conditions(); ++c)
    if (domain_.state(c) == State::open) {
      Branching branching;
      branching.children = {{{Change::What::condition, c, 1.0}},
                            {{Change::What::condition, c, 0.0}}};
      (void)split(node, std::move(branching), -1, 0.0);
      return true;
    }
  return false;
}

// Branches on an integer column at its value, or on a condition, while one is open. Then one point
// of the integers is left: the judge decides about it if all decisions are among them; with real
// ones it stays unresolved.
Search::NodeEnd Search::branch_on_anything(const std::shared_ptr<Node>& node,
                                           std::span<const double> point) {
  Branching branching;
  Index widest = -1;
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j) && !domain_.fixed(j) &&
        (widest < 0 ||
         domain_.upper(j) - domain_.lower(j) > domain_.upper(widest) - domain_.lower(widest)))
      widest = j;
  if (widest >= 0) {
    const double low = domain_.lower(widest), high = domain_.upper(widest);
    double value = std::round(point[at(widest)]);
    if (!std::isfinite(value))
      value = std::isfinite(low) ? low : (std::isfinite(high) ? high : 0.0);
    value = std::clamp(value, low, high);
    const double below = value < high ? value : value - 1.0;
    // Beyond 2^53 neighbouring whole numbers are the same double.
    if (!(below < high) || !(below + 1.0 > below)) return leave_unresolved(node);
    branching.children = {{{Change::What::upper, widest, below}},
                          {{Change::What::lower, widest, below + 1.0}}};
    return split(node, std::move(branching), -1, 0.0);
  }
  if (split_condition(node)) return NodeEnd::branched;
  Index whole = 0;
  while (whole < options_.decisions && problem_.integer(whole)) ++whole;
  if (whole == options_.decisions) {
    std::vector<double> only;
    for (Index j = 0; j < problem_.num_columns(); ++j) only.push_back(domain_.lower(j));
    (void)judge_plan(exact_point(only), "branching");
    return NodeEnd::closed;
  }
  relaxation_.follow(domain_);
  return lp::breaks_fixed_row(relaxation_.simplex().program()) ? NodeEnd::closed
                                                               : leave_unresolved(node);
}

Search::NodeEnd Search::leave_unresolved(const std::shared_ptr<Node>& node) {
  if (nearly_closes(node->bound)) {  // the gap that the answer states
    loose_bound_ = std::min(loose_bound_, node->bound);
    return NodeEnd::closed;
  }
  unresolved_bound_ = std::min(unresolved_bound_, node->bound);
  if (result_.reason.empty())
    result_.reason = "the arithmetic did not suffice to settle every part of the search";
  return NodeEnd::closed;
}

}  // namespace kiteknot::mip
