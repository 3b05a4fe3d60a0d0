// The search of what presolve leaves of the problem: its plans come back as plans of the problem as
// it came, and are judged as such.

#include <algorithm>
#include <cmath>

#include "base/outward.hpp"
#include "mip/presolve/components.hpp"
#include "mip/problem/exact_sums.hpp"
#include "mip/search/search.hpp"

namespace kiteknot::mip {
namespace {

// A double on either side of it, or the same twice.
Interval enclosed(const Rational& value) {
  if (!std::isfinite(value.to_double())) return {-kInf, kInf};
  return {outward(value, false), outward(value, true)};
}

// Tells of the inner search in terms of the outer one.
class Outward final : public Listener {
 public:
  Outward(Listener* to, const PostsolveStack& postsolve, Interval constant, double before,
          std::int64_t nodes, double best)
      : to_(to),
        postsolve_(postsolve),
        constant_(constant),
        before_(before),
        nodes_(nodes),
        best_(best) {}
  [[nodiscard]] Standing turned(Standing s) const {
    s.seconds += before_;
    s.nodes += nodes_;
    s.best = add_up(s.best, constant_.high);
    s.bound = add_down(s.bound, constant_.low);
    return s;
  }
  /// Whether it is one that the outer search does not have.
  [[nodiscard]] bool news(const Standing& turned) const { return turned.best < best_; }
  void better_plan(const Standing& s, std::span<const Rational> plan) override {
    const Standing here = turned(s);
    if (to_ != nullptr && news(here)) to_->better_plan(here, postsolve_.restore(plan));
  }
  void progress(const Standing& s) override {
    if (to_ != nullptr) to_->progress(turned(s));
  }

 private:
  Listener* to_;
  const PostsolveStack& postsolve_;
  Interval constant_;
  double before_;
  std::int64_t nodes_;
  double best_;
};

Rational goal_at(const Problem& p, std::span<const Rational> point) {
  Rational goal = 0;
  for (Index j = 0; j < p.num_columns(); ++j) goal += Rational::exactly(p.cost(j)) * point[at(j)];
  return goal;
}

lp::Basis reduced_basis(const lp::Basis& full, const PresolveModel::Reduced& left) {
  lp::Basis basis;
  if (full.empty()) return basis;
  for (const Index j : left.postsolve.kept()) basis.columns.push_back(full.columns[at(j)]);
  for (const Index i : left.rows)
    basis.rows.push_back(i < 0 || at(i) >= full.rows.size() ? lp::VariableStatus::basic
                                                            : full.rows[at(i)]);
  return basis;
}

}  // namespace

SearchOptions Search::options_inside(const Presolved& reduced) const {
  const PresolveModel::Reduced& left = reduced.left;
  SearchOptions o = options_;
  o.presolve = o.probing = o.rooms = false;
  o.implied = reduced.implied;
  o.plans.clear();
  if (incumbents_.any())
    if (auto plan = left.postsolve.reduce(incumbents_.plan().plan))
      o.plans.push_back(std::move(*plan));
  o.start.clear();
  const std::vector<Index>& kept = left.postsolve.kept();
  if (options_.decisions >= 0)
    o.decisions = static_cast<Index>(
        std::lower_bound(kept.begin(), kept.end(), options_.decisions) - kept.begin());
  o.known_bound =
      add_down(std::max(options_.known_bound, global_bound(kInf)), -enclosed(left.constant).high);
  o.goal_offset += left.constant.to_double();
  if (options_.pseudo_costs && options_.pseudo_costs->num_columns() == left.postsolve.num_columns())
    o.pseudo_costs = options_.pseudo_costs->of(kept);
  o.nodes -= result_.nodes;
  o.seconds -= clock_.seconds();
  o.root_work = options_.root_work + work_before_;
  o.basis = reduced_basis(result_.root_basis, left);
  return o;
}

// Most everyday problems are settled within a few nodes: less work than presolve and cuts are.
bool Search::brief_look_is_over() const {
  constexpr std::int64_t kNodes = 100, kGrace = 600'000;  // units of work, beside the relaxation's
  return brief_ && (!options_.brief_look || result_.nodes >= kNodes ||
                    result_.work - work_before_ > work_before_ + kGrace);
}

std::optional<Presolved> Search::reduce(const Problem& p) {
  WorkCounter work;
  work.obey(interrupt_);
  const ReductionStrength keeps = p.complete() ? options_.keeps : ReductionStrength::all_plans;
  std::optional<Presolved> reduced =
      presolve(p, keeps, options_.probing, work, options_.reductions ? "" : "none");
  result_.work += work.units();
  if (reduced)
    for (const Presolved::Part& part : reduced->parts)
      if (part.tally.calls > 0) inside_.push_back({"presolve", part.name, part.tally});
  return reduced;
}

// The best plans of parts that nothing ties to the rest, in searches of their own; all but the
// largest, and those that take long. Their columns are fixed there; false where one has no plan.
bool Search::settle_components(Problem& p) {
  constexpr std::int64_t kNodes = 5'000;  // a component
  if (!options_.components || !p.complete() || options_.keeps != ReductionStrength::a_best_plan ||
      !said_by_doubles(p))
    return true;
  const std::vector<std::vector<Index>> parts = components(p);
  for (std::size_t k = 0; k + 1 < parts.size() && !out_of_limits(); ++k) {
    const Problem part = part_of(p, parts[k]);
    SearchOptions o = for_part(options_);
    o.nodes = std::min(kNodes, options_.nodes - result_.nodes);
    o.seconds -= clock_.seconds();
    o.implied.clear();
    o.decisions = -1;
    const Judge judge = [&](std::span<const Rational> x) {
      return Verdict{satisfies(part, x), goal_at(part, x)};
    };
    SearchResult r = Search(part, judge, o).run();
    result_.nodes += r.nodes;
    result_.pivots += r.pivots;
    result_.work += r.work;
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
  if (!options_.orbits || options_.keeps != ReductionStrength::a_best_plan) return nullptr;
  constexpr std::int64_t kLooks = 100, kGrace = 2'000'000;  // at everything there is
  WorkCounter work;
  work.obey(interrupt_);
  auto found = std::make_shared<Symmetry>(
      find_symmetry(p, kLooks * (p.rows().num_nonzeros() + p.num_columns()) + kGrace, work));
  result_.work += work.units();
  Tally tally{1, work.units(), static_cast<std::int64_t>(found->generators.size()), 0};
  inside_.push_back({"presolve", "symmetries", tally});
  return found->empty() ? nullptr : found;
}

// What the brief look left open is searched from the root again.
void Search::search_inside() {
  std::optional<Presolved> reduced = reduce(worker_.problem());
  if (!reduced) return;
  if (!reduced->possible || !settle_components(reduced->left.problem)) {
    drop_tree();
    return;
  }
  PresolveModel::Reduced& left = reduced->left;
  for (const auto& kind : worker_.problem().kinds().all())
    if (kind->any(worker_.problem())) kind->carry_through(left.postsolve, left.problem);
  const Judge judge = [&](std::span<const Rational> plan) {
    Verdict verdict = judge_(left.postsolve.restore(plan));
    verdict.goal -= left.constant;
    return verdict;
  };
  SearchOptions options = options_inside(*reduced);
  options.symmetry = symmetry_of(left.problem);
  const double before = clock_.seconds();
  Outward outward(listener_, left.postsolve, enclosed(left.constant), before, result_.nodes,
                  incumbents_.best());
  SearchResult inner = Search(left.problem, judge, std::move(options), &outward).run();
  const bool endless = inner.outcome == Outcome::unbounded;
  take_in(std::move(inner), *reduced, before);
  if (endless) return;  // its direction is found again over all columns
  drop_tree();
}

void Search::take_in(SearchResult inner, const Presolved& reduced, double before) {
  const PresolveModel::Reduced& left = reduced.left;
  const Interval constant = enclosed(left.constant);
  const auto down = [&](double bound) { return add_down(bound, constant.low); };
  const Outward outward(nullptr, left.postsolve, constant, before, result_.nodes,
                        incumbents_.best());
  if (!inner.history.empty()) inner.history.pop_back();  // the end is told by the outer one
  for (Standing& s : inner.history) {
    s = outward.turned(std::move(s));
    const bool news = outward.news(s);
    if (!news && !record_.on()) continue;
    if (!news && incumbents_.any()) {  // the bound moved under a plan that is known here
      s.best = incumbents_.best();
      s.found_by = incumbents_.plan().by;
    }
    result_.history.push_back(std::move(s));
  }
  result_.nodes += inner.nodes;
  result_.pivots += inner.pivots - inner.look_pivots;
  result_.look_pivots += inner.look_pivots;
  result_.generated_rows += inner.generated_rows;
  result_.cuts += inner.cuts;
  result_.work += inner.work;
  result_.root_bound = down(inner.root_bound);
  result_.left = Left{
      left.problem.num_columns(), left.problem.num_rows_in_all(), worker_.problem().num_columns(),
      worker_.problem().num_rows_in_all(),
      inner.relaxed.status == lp::Status::optimal ? inner.relaxed.value + constant.low : -kInf};
  if (!inner.structure.empty()) {
    result_.structure = inner.structure;
    result_.structure_method = inner.structure_method;
  }
  for (std::size_t k = 0; k < kWaysToClose; ++k) result_.closed[k] += inner.closed[k];
  for (PartTally& part : inner.parts) inside_.push_back(std::move(part));
  if (inner.pseudo_costs)
    result_.pseudo_costs =
        inner.pseudo_costs->spread(left.postsolve.kept(), left.postsolve.num_columns());
  take_tree(inner, left);
  if (inner.plan)
    (void)incumbents_.offer({left.postsolve.restore(*inner.plan), inner.goal + left.constant,
                             std::move(inner.remarks), std::move(inner.found_by),
                             clock_.seconds()});
  // All of it was searched again: what the brief look could not settle does not matter.
  loose_bound_ = unresolved_bound_ = kInf;
  result_.reason = std::move(inner.reason);
  switch (inner.outcome) {
    case Outcome::infeasible:
      break;
    case Outcome::optimal:
      if (!inner.proven_exactly) loose_bound_ = std::min(loose_bound_, down(inner.bound));
      break;
    default:
      result_.stopped_by = inner.stopped_by;
      unresolved_bound_ = std::min(unresolved_bound_, down(inner.bound));
  }
}

}  // namespace kiteknot::mip
