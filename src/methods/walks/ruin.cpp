// Part of a plan is let go and completed again as well as the exact search can within some branches
// (Shaw 1998, "Using constraint programming and local search methods to solve vehicle routing
// problems"). What is let go hangs together: decisions that share rules, from one drawn by lot.

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "methods/budget.hpp"
#include "methods/plan_of.hpp"
#include "methods/walks/walk.hpp"
#include "mip/search/search.hpp"
#include "model/lowering.hpp"

namespace kiteknot::methods {
namespace {

class Ruin {
 public:
  explicit Ruin(Walk& w)
      : w_(w),
        g_(w.ground),
        lowering_(lower(w.model.data(), false, false, w.pace.interrupt())),
        exact_(lowering_.problem.exact()),
        judge_([this](std::span<const Rational> columns) {
          const Plan plan = plan_of(w_.model, columns);
          const PlanReport report = exact_ ? check_exactly(w_.model, plan) : check(w_.model, plan);
          mip::Verdict verdict{report.feasible, 0, {}};
          if (report.goal) verdict.goal = lowering_.to_problem(*report.goal);
          return verdict;
        }) {}

  void run() {
    begin();
    const auto all = static_cast<double>(g_.movable().size());
    double freed = std::clamp(all / 10.0, std::min(all, 10.0), 200.0);
    int nothing = 0;
    while (!w_.pace.over() && plan_) {
      const bool whole = freed >= all;
      const std::vector<char> free = choose(static_cast<std::size_t>(std::min(freed, all)));
      mip::Problem part = lowering_.problem;
      for (const Index d : g_.movable())
        if (!free[at(d)]) {
          const double v = (*plan_)[at(d)].to_double();
          part.set_bounds(d, v, v);
        }
      const mip::SearchResult found = search(std::move(part), plan_, kNodes);
      if (take(found)) {
        nothing = 0;
        continue;
      }
      ++nothing;
      constexpr double kMore = 1.1, kLess = 0.8;
      const bool settled = found.stopped_by == mip::StoppedBy::nothing;
      if (whole && settled) return;  // that was all of it: proven
      freed = std::clamp(freed * (settled ? kMore : kLess), 2.0, all);
      constexpr int kIdle = 10'000;  // without a clock: enough
      if (nothing > kIdle) return;
    }
  }

 private:
  static constexpr std::int64_t kNodes = 200;
  static constexpr double kAhead = 0.9;  // of the time that is left

  // A plan to begin with: a climber's, or else any that the exact search finds.
  void begin() {
    build(w_, {Order::share});
    climb(w_);  // a better plan costs less than the searches that would make up for it
    if (w_.best.has_plan()) {
      mip::Problem part = lowering_.problem;
      const std::vector<double>& values = w_.best.values();
      for (const Index d : g_.movable()) part.set_bounds(d, values[at(d)], values[at(d)]);
      (void)take(search(std::move(part), {}, kNodes));
    }
    for (std::int64_t nodes = kNodes; !plan_ && !w_.pace.over(); nodes *= 4) {
      mip::Problem any = lowering_.problem;
      any.clear_goal();
      const mip::SearchResult found = search(std::move(any), {}, nodes, true);
      if (found.outcome == Outcome::infeasible) {
        w_.note = "no plan meets all rules";
        return;
      }
      (void)take(found);
    }
  }

  mip::SearchResult search(mip::Problem part, const std::optional<std::vector<Rational>>& from,
                           std::int64_t nodes, bool any = false) {
    mip::SearchOptions o;
    o.budget = budget_of(w_.options);
    if (w_.pace.timed())
      o.budget.seconds =
          std::max(0.0, w_.pace.interrupt().seconds - w_.pace.interrupt().clock->seconds());
    o.budget.nodes = nodes;
    o.budget.seed = w_.random.bits();
    o.decisions = w_.model.num_decisions();
    o.plans_only = true;
    o.any_plan = any;
    o.goal_unit = lowering_.goal_scale.to_double();
    o.goal_offset =
        (lowering_.goal_constant * lowering_.goal_scale * lowering_.goal_sign).to_double();
    if (from) o.given.plans.push_back(*from);
    mip::SearchResult found = mip::sub_search(std::move(part), judge_, std::move(o));
    constexpr std::int64_t kWorkOfALook = 50;
    g_.spend(1 + found.counts.work / kWorkOfALook);
    return found;
  }

  bool take(const mip::SearchResult& found) {
    if (!found.plan || (plan_ && found.goal >= goal_)) return false;
    plan_ = found.plan;
    goal_ = found.goal;
    // Of a search for any plan the goal is none yet.
    const mip::Verdict verdict = judge_(*plan_);
    if (!verdict.accepted) {
      plan_.reset();
      return false;
    }
    goal_ = verdict.goal;
    std::vector<double> values;
    for (Index d = 0; d < w_.model.num_decisions(); ++d)
      values.push_back((*plan_)[at(d)].to_double());
    g_.take_all(values);
    w_.best.offer(g_);
    return true;
  }

  std::vector<char> choose(std::size_t count) {
    const CompiledModel& m = g_.model();
    const auto lot = [&](std::size_t n) {
      return static_cast<std::size_t>(w_.random.between(0, static_cast<std::int64_t>(n) - 1));
    };
    std::vector<char> free(at(m.num_decisions()), 0);
    std::vector<Index> near;
    std::size_t freed = 0;
    const auto add = [&](Index d) {
      if (free[at(d)] || !m.ranges[at(d)].can_move || !m.ranges[at(d)].stepped()) return;
      free[at(d)] = 1;
      ++freed;
      near.push_back(d);
    };
    while (freed < count) {
      if (near.empty() || w_.random.chance(0.02)) {
        add(g_.movable()[lot(g_.movable().size())]);
        continue;
      }
      const std::size_t k = lot(near.size());
      const Index d = near[k];
      near[k] = near.back();
      near.pop_back();
      // Some of those that stand with it in a rule, which may be long.
      const auto sums = m.in_sums.of(d);
      if (sums.empty()) continue;
      const auto terms = m.terms.of(sums[lot(sums.size())].node);
      constexpr std::size_t kOfASum = 12;
      for (std::size_t j = 0; j < std::min(kOfASum, terms.size()) && freed < count; ++j) {
        const Index other = terms[lot(terms.size())].node;
        if (other < m.num_decisions()) add(other);
      }
    }
    return free;
  }

  Walk& w_;
  Ground& g_;
  Lowering lowering_;
  bool exact_;
  mip::Judge judge_;
  std::optional<std::vector<Rational>> plan_;  // by columns
  Rational goal_;
};

}  // namespace

void walk_ruin(Walk& w) {
  Ruin(w).run();
}

}  // namespace kiteknot::methods
