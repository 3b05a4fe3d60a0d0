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
    o.budget.seconds = kAhead * w_.pace.seconds_left();
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

  // Decisions that are taken now come first, each with all that it could change places with: the
  // others of its equations, and some of its other rules. From there to what is taken nearby.
  std::vector<char> choose(std::size_t count) {
    const CompiledModel& m = g_.model();
    std::vector<char> free(at(m.num_decisions()), 0);
    std::vector<Index> near;
    std::size_t freed = 0;
    const auto add = [&](Index d) {
      if (d >= m.num_decisions() || free[at(d)] || !m.ranges[at(d)].can_move ||
          !m.ranges[at(d)].stepped())
        return;
      free[at(d)] = 1;
      ++freed;
    };
    const auto taken = [&](Index d) { return d < m.num_decisions() && !(*plan_)[at(d)].is_zero(); };
    constexpr std::size_t kOfASum = 8;
    constexpr int kDraws = 20;
    while (freed < count) {
      Index seed = g_.movable()[w_.lot(g_.movable().size())];
      if (near.empty() || w_.random.chance(0.05)) {
        for (int k = 0; k < kDraws && (free[at(seed)] || !taken(seed)); ++k)
          seed = g_.movable()[w_.lot(g_.movable().size())];
      } else {
        const std::size_t k = w_.lot(near.size());
        seed = near[k];
        near[k] = near.back();
        near.pop_back();
      }
      add(seed);
      for (const WeightedNode& s : m.in_sums.of(seed)) {
        const auto terms = m.terms.of(s.node);
        const auto readers = m.readers.of(s.node);
        if (terms.empty()) continue;
        const bool equation = !readers.empty() && m.op[at(readers[0])] == Op::compare &&
                              m.figures[at(readers[0])].low == m.figures[at(readers[0])].high;
        if (equation && terms.size() <= count)
          for (const WeightedNode& t : terms) add(t.node);
        for (std::size_t k = 0; k < std::min(kOfASum, terms.size()); ++k) {
          const Index other = terms[w_.lot(terms.size())].node;
          if (!equation) add(other);
          if (taken(other) && !free[at(other)]) near.push_back(other);
        }
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
