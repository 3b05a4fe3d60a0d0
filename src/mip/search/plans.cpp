// Plans: from a relaxed point to one that the judge accepts.

#include <algorithm>
#include <cmath>

#include "mip/heuristics/enumerate.hpp"
#include "mip/heuristics/exchange.hpp"
#include "mip/problem/violation.hpp"
#include "mip/search/search.hpp"

namespace kiteknot::mip {
namespace {

// A double at least as large: a bound that reaches it has reached the goal.
double rounded_up(const Rational& goal) {
  // Below every double the least of them is above it.
  const double near = std::max(goal.to_double(), std::numeric_limits<double>::lowest());
  if (!std::isfinite(near) || Rational::exactly(near) >= goal) return near;
  return step_up(near);
}

}  // namespace

// Integer columns rounded; real ones by their shortest decimal.
std::vector<Rational> Search::exact_point(std::span<const double> point) const {
  std::vector<Rational> plan;
  plan.reserve(point.size());
  for (Index j = 0; j < problem_.num_columns(); ++j)
    plan.push_back(problem_.integer(j) ? Rational::exactly(std::round(point[at(j)]))
                                       : Rational(point[at(j)]));
  return plan;
}

// Rows that it breaks are found and come into the relaxation; those that are known it meets
// exactly.
bool Search::meets_generated(std::span<const Rational> plan) {
  if (separation_.empty()) return true;
  std::vector<double> point;
  for (const Rational& x : plan) point.push_back(x.to_double());
  return separate(point, true) == 0 && pool_.met_exactly(plan);
}

bool Search::judge_plan(std::span<const Rational> plan, const std::string& found_by) {
  const Verdict verdict = judge_(plan);
  if (!verdict.accepted || !meets_generated(plan)) return false;
  const Rational goal = options_.any_plan ? Rational(0) : verdict.goal;
  if (result_.plan && goal >= result_.goal) return true;
  result_.plan.emplace(plan.begin(), plan.end());
  result_.goal = goal;
  result_.found_by = found_by;
  best_ = rounded_up(goal);
  const Standing now = standing(current_bound_);
  constexpr std::size_t kMostHistory = 2000;
  if (result_.history.size() < kMostHistory) result_.history.push_back(now);
  if (listener_ != nullptr) listener_->better_plan(now, *result_.plan);
  return true;
}

// Plans of earlier answers: the best one that holds here as it is, and what comes of mending the
// nearest one that would be better and does not.
void Search::judge_given_plans() {
  struct Given {
    std::vector<double> point;
    const std::vector<Rational>* plan;
    double goal;
  };
  std::vector<Given> given;
  for (const std::vector<Rational>& plan : options_.plans) {
    Given g{{}, &plan, 0.0};
    for (Index j = 0; j < problem_.num_columns(); ++j) {
      g.point.push_back(plan[at(j)].to_double());
      g.goal += problem_.cost(j) * g.point.back();
    }
    given.push_back(std::move(g));
  }
  std::stable_sort(given.begin(), given.end(),
                   [](const Given& a, const Given& b) { return a.goal < b.goal; });
  // Where the decisions are all columns, a look at the rows saves the judge the trouble; elsewhere
  // helper columns are unknown, and all plans are judged.
  const bool sure = options_.decisions == problem_.num_columns();
  const auto fits = [&](const Given& g) {
    for (Index i = 0; i < problem_.num_rows(); ++i)
      if (row_violation(problem_.row(i), g.point) > 0.0) return false;
    return std::all_of(disjunctions_.begin(), disjunctions_.end(),
                       [&](const auto& d) { return d->met(domain_, g.point); });
  };
  const Given* failed = nullptr;
  for (const Given& g : given) {
    if ((!sure || fits(g)) && judge_plan(*g.plan, "an earlier answer")) {
      if (sure) break;
    } else {
      failed = &g;
    }
  }
  if (failed == nullptr || options_.any_plan) return;
  constexpr std::int64_t kMostWork = 20'000;
  const auto mended = exchange(problem_, failed->point, kMostWork, work_);
  if (mended) (void)judge_plan(exact_point(*mended), "an earlier answer, mended");
}

// The root's point, and what lies around it. What a known plan is worth does not matter on the way:
// exchanges may pass it from a point that is worse.
void Search::look_around() {
  if (options_.any_plan || !options_.look_around) return;
  BestWanted around;
  best_in_core(problem_, relaxation_.point(), relaxation_.reduced_costs(), around, work_);
  if (!around.found()) return;
  constexpr std::int64_t kMostWork = 400'000;
  const auto better = exchange(problem_, around.point(), kMostWork, work_);
  const std::vector<double>& point = better ? *better : around.point();
  double goal = 0.0;
  for (Index j = 0; j < problem_.num_columns(); ++j) goal += problem_.cost(j) * point[at(j)];
  if (goal < best_) (void)judge_plan(exact_point(point), "a look around the relaxation");
}

// Visits what the node can still hold below the best plan; true where that was all.
bool Search::enumerate_rest(double bound, std::span<const Interval> reduced) {
  if (best_ == std::numeric_limits<double>::infinity() || options_.any_plan ||
      !options_.look_through || !std::isfinite(bound))
    return false;
  // Where it fails more often than not it is tried more rarely.
  constexpr std::int64_t kMostPoints = 5'000, kPatience = 4;
  const std::int64_t failures = enumerations_failed_ - enumerated_;
  if (failures > kPatience && result_.nodes % std::min<std::int64_t>(failures, 64) != 0)
    return false;
  BestWanted rest(cutoff(), bound);
  const bool complete = enumerate(problem_, domain_, {reduced, &relaxation_.simplex().program()},
                                  rest, kMostPoints, work_);
  const bool judged = !rest.found() ||
                      judge_plan(exact_point(rest.point()), "looking through the rest of a branch");
  ++(complete ? enumerated_ : enumerations_failed_);
  return complete && judged;
}

// Integers are rounded and fixed, reals solved again around them, and the vertex taken exactly.
// Whatever comes out is judged as stated.
bool Search::try_plan(std::span<const double> point, const std::string& found_by) {
  std::vector<double> rounded(point.begin(), point.end());
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j)) rounded[at(j)] = std::round(rounded[at(j)]);
  if (problem_.num_integers() == problem_.num_columns())
    return judge_plan(exact_point(rounded), found_by);

  const std::size_t mark = domain_.mark();
  bool possible = true;
  for (Index j = 0; j < problem_.num_columns() && possible; ++j)
    if (problem_.integer(j))
      possible = domain_.raise_lower(j, rounded[at(j)]) && domain_.drop_upper(j, rounded[at(j)]);
  bool accepted = false;
  if (possible) {
    relaxation_.follow(domain_, true);
    const lp::Report report = relaxation_.solve({.interrupt = interrupt_});
    result_.pivots += report.pivots;
    if (report.status == lp::Status::optimal) {
      const auto judge_vertex = [&] {
        const auto exact = relaxation_.exact_values(exact_limits());
        return exact && judge_plan(*exact, found_by);
      };
      accepted = judge_vertex() || judge_plan(exact_point(relaxation_.point()), found_by);
      // The vertex misses some limit by what tolerances let through.
      if (!accepted && relaxation_.refine(exact_limits()) == lp::Status::optimal)
        accepted = judge_vertex();
    }
  }
  domain_.undo_to(mark);
  return accepted;
}

// Integral columns are fixed where they stand, all at once; fractional ones then one by one,
// nearest first, each with propagation, to the other side where the near one conflicts.
void Search::round_with_propagation() {
  const std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
  const std::size_t mark = domain_.mark();
  std::vector<Index> fractional;
  bool possible = true;
  const auto fix = [&](Index j, double value) {
    return domain_.raise_lower(j, value) && domain_.drop_upper(j, value);
  };
  for (Index j = 0; j < problem_.num_columns() && possible; ++j) {
    if (!problem_.integer(j) || domain_.fixed(j)) continue;
    const double near = std::round(point[at(j)]);
    if (std::abs(point[at(j)] - near) > Tolerances{}.integrality)
      fractional.push_back(j);
    else
      possible = fix(j, std::clamp(near, domain_.lower(j), domain_.upper(j)));
  }
  const auto distance = [&](Index j) { return std::abs(point[at(j)] - std::round(point[at(j)])); };
  std::stable_sort(fractional.begin(), fractional.end(),
                   [&](Index a, Index b) { return distance(a) < distance(b); });
  possible = possible && propagation_.run(domain_, work_);
  for (const Index j : fractional) {
    if (!possible) break;
    if (domain_.fixed(j)) continue;
    const double near = std::clamp(std::round(point[at(j)]), domain_.lower(j), domain_.upper(j));
    const double far = near > point[at(j)] ? near - 1.0 : near + 1.0;
    const std::size_t here = domain_.mark();
    if (fix(j, near) && propagation_.run(domain_, work_)) continue;
    domain_.undo_to(here);
    possible = fix(j, far) && propagation_.run(domain_, work_);
  }
  std::vector<double> rounded(point);
  for (Index j = 0; j < problem_.num_columns(); ++j)
    if (problem_.integer(j)) rounded[at(j)] = domain_.lower(j);
  domain_.undo_to(mark);
  if (possible) (void)try_plan(rounded, "rounding");
}

}  // namespace kiteknot::mip
