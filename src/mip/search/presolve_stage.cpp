// From the problem as it came to what is searched of it.

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "mip/kinds/machines.hpp"
#include "mip/presolve/components.hpp"
#include "mip/problem/exact_sums.hpp"
#include "mip/search/search.hpp"

namespace kiteknot::mip {
namespace {

Rational goal_at(const Problem& p, std::span<const Rational> point) {
  Rational goal = 0;
  for (Index j = 0; j < p.num_columns(); ++j) goal += Rational::exactly(p.cost(j)) * point[at(j)];
  return goal;
}

}  // namespace

Presolved Search::presolved(const Problem& stated) {
  WorkCounter work;
  work.obey(interrupt_);
  const ReductionStrength keeps =
      stated.complete() ? options_.presolving.keeps : ReductionStrength::all_plans;
  std::optional<Presolved> reduced = presolve(stated, keeps, options_.presolving.probing, work,
                                              options_.presolving.reductions ? "" : "none");
  context_.spent.work += work.units();
  KITEKNOT_CHECK(reduced.has_value(), "a problem whose goal is known can be reduced");
  for (const Presolved::Part& part : reduced->parts)
    if (part.tally.calls > 0) add_part(result_.parts, {"presolve", part.name, part.tally});
  return std::move(*reduced);
}

// The best plans of parts that nothing ties to the rest, in searches of their own; all but the
// largest, and those that take long. Their columns are fixed there; false where one has no plan.
bool Search::settle_components(Problem& p) {
  constexpr std::int64_t kNodes = 5'000;  // a component
  if (!options_.presolving.components || !p.complete() ||
      options_.presolving.keeps != ReductionStrength::a_best_plan || !said_by_doubles(p))
    return true;
  const std::vector<std::vector<Index>> parts = components(p);
  for (std::size_t k = 0; k + 1 < parts.size(); ++k) {
    if (interrupt_.now() || context_.spent.nodes >= options_.budget.nodes) break;
    const Problem part = part_of(p, parts[k]);
    SearchOptions o = for_part(options_);
    o.budget = o.budget.less(context_.clock.seconds(), context_.spent.nodes);
    o.budget.nodes = std::min(kNodes, o.budget.nodes);
    o.given.implied.clear();
    o.decisions = -1;
    const Judge judge = [&](std::span<const Rational> x) {
      return Verdict{satisfies(part, x), goal_at(part, x)};
    };
    SearchResult r = Search(part, judge, o).run();
    context_.spent.nodes += r.counts.nodes;
    context_.spent.pivots += r.counts.pivots;
    context_.spent.work += r.counts.work;
    if (r.outcome == Outcome::infeasible) return false;
    // Whole values only: a real one may be none that a double says.
    if (r.outcome != Outcome::optimal || !r.proven_exactly ||
        part.num_integers() != part.num_columns())
      continue;
    for (std::size_t c = 0; c < parts[k].size(); ++c) {
      const double value = (*r.plan)[c].to_double();
      p.set_bounds(parts[k][c], value, value);
    }
  }
  return true;
}

std::shared_ptr<const Symmetry> Search::symmetry_of(const Problem& p) {
  if (!options_.presolving.orbits || options_.presolving.keeps != ReductionStrength::a_best_plan)
    return nullptr;
  constexpr std::int64_t kLooks = 100, kGrace = 2'000'000;  // at everything there is
  WorkCounter work;
  work.obey(interrupt_);
  auto found = std::make_shared<Symmetry>(
      find_symmetry(p, kLooks * (p.rows().num_nonzeros() + p.num_columns()) + kGrace, work));
  context_.spent.work += work.units();
  Tally tally{1, work.units(), static_cast<std::int64_t>(found->generators.size()), 0};
  add_part(result_.parts, {"presolve", "symmetries", tally});
  return found->empty() ? nullptr : found;
}

void Search::find_machines(Problem& p) {
  WorkCounter work;
  work.obey(interrupt_);
  add_machines(p, work);
  context_.spent.work += work.units();
  const Precedences* found = precedences_of(p);
  Tally tally{1, work.units(), 0, 0};
  if (found != nullptr) tally.steps = static_cast<std::int64_t>(found->machines.size());
  add_part(result_.parts, {"presolve", "machines", tally});
}

SearchOptions Search::options_for(const Presolved& reduced, const Translation& terms) const {
  SearchOptions o = options_;
  o.presolving.on = o.presolving.probing = o.rooms = false;
  o.given.implied = reduced.implied;
  o.given.plans.clear();  // they were judged
  o.given.start.clear();
  if (options_.decisions >= 0) o.decisions = terms.columns_in(options_.decisions);
  o.given.known_bound = terms.bound_in(proven_);
  o.goal_offset += terms.constant().to_double();
  const std::optional<PseudoCosts>& earlier = options_.given.pseudo_costs;
  o.given.pseudo_costs.reset();
  if (earlier && earlier->num_columns() == static_cast<Index>(reduced.left.place.size()))
    o.given.pseudo_costs = terms.in(*earlier);
  o.budget.nodes -= context_.spent.nodes;
  o.given.root_work = options_.given.root_work + opening_work_;
  o.given.basis = terms.in(result_.root.basis, reduced.left.rows);
  return o;
}

// What the first look left open is searched from the root again.
void Search::go_on_presolved() {
  proven_ = std::max(proven_, stage_->bound_out());
  stage_->hand_over(result_);
  Problem stated = stage_->problem();  // shares what was stated
  stage_.reset();
  Presolved reduced = presolved(stated);
  if (!reduced.possible || !settle_components(reduced.left.problem))
    return conclude_without_tree(true);
  PresolveModel::Reduced& left = reduced.left;
  const auto postsolve = std::make_shared<const PostsolveStack>(std::move(left.postsolve));
  for (const auto& kind : stated.kinds().all())
    if (kind->any(stated)) kind->carry_through(postsolve, left.problem);
  result_.root.left = Left{left.problem.num_columns(), left.problem.num_rows_in_all(),
                           stated.num_columns(), stated.num_rows_in_all()};
  // Rows alone have shown by their relaxation that the goal has an end, where that was settled.
  const bool has_end = stated.linear() && result_.root.relaxed.status == lp::Status::optimal;
  problem_ = has_end ? Problem() : std::move(stated);
  stated = Problem();
  Translation terms(postsolve, left.constant);
  SearchOptions options = options_for(reduced, terms);
  options.given.symmetry = symmetry_of(left.problem);
  find_machines(left.problem);
  stage_ = std::make_unique<TreeSearch>(std::move(left.problem), std::move(terms),
                                        std::move(options), context_, &sub_search);
  (void)stage_->open_root();
}

// Where the search ends between two stages.
void Search::conclude_without_tree(bool all_settled) {
  const Incumbents& known = context_.incumbents;
  if (all_settled) {
    result_.outcome = known.any() ? Outcome::optimal : Outcome::infeasible;
    result_.proven_exactly = known.any();
    result_.bound = known.any() ? rounded_down(known.plan().goal) : kInf;
  } else {
    result_.outcome = known.any() ? Outcome::unproven : Outcome::undecided;
    result_.bound = proven_;
  }
  const double best = known.any() ? rounded_up(known.plan().goal) : kInf;
  context_.history.push_back({context_.clock.seconds(), best, result_.bound, context_.spent.nodes,
                              0, known.any() ? known.plan().by : std::string(), known.size()});
}

}  // namespace kiteknot::mip
