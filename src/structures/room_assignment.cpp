#include "structures/room_assignment.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"

namespace kiteknot::structures {
namespace {

constexpr double kSameSize = 1e-9;  // of uses and costs that doubles cannot tell apart

bool less(double over_a, double cost_a, double over_b, double cost_b) {
  if (std::abs(over_a - over_b) > kSameSize) return over_a < over_b;
  return cost_a < cost_b - kSameSize;
}

// A plan with what is left of every room.
class Standing {
 public:
  Standing(const RoomProblem& p, RoomPlan plan) : p_(p), plan_(std::move(plan)), left_(p.room) {
    plan_.cost = plan_.over = 0.0;
    for (Index j = 0; j < p.jobs; ++j) {
      left_[at(agent(j))] -= use(agent(j), j);
      plan_.cost += cost(agent(j), j);
    }
    for (const double l : left_) plan_.over += std::max(0.0, -l);
  }
  [[nodiscard]] const RoomPlan& plan() const { return plan_; }
  [[nodiscard]] Index agent(Index j) const { return plan_.agent_of[at(j)]; }
  [[nodiscard]] double cost(Index a, Index j) const { return p_.cost[p_.place(a, j)]; }
  [[nodiscard]] double use(Index a, Index j) const { return p_.use[p_.place(a, j)]; }

  // The change of what is too much where an agent's load grows by this.
  [[nodiscard]] double over_by(Index a, double load) const {
    return std::max(0.0, load - left_[at(a)]) - std::max(0.0, -left_[at(a)]);
  }
  void shift(Index j, Index to) {
    const Index from = agent(j);
    plan_.over += over_by(from, -use(from, j)) + over_by(to, use(to, j));
    plan_.cost += cost(to, j) - cost(from, j);
    left_[at(from)] += use(from, j);
    left_[at(to)] -= use(to, j);
    plan_.agent_of[at(j)] = to;
  }
  // Shifts and swaps, the first better one, until there is none.
  void improve(Random& random, const std::function<bool()>& over) {
    std::vector<Index> order(at(p_.jobs));
    for (Index j = 0; j < p_.jobs; ++j) order[at(j)] = j;
    for (bool any = true; any && !over();) {
      any = false;
      for (std::size_t k = order.size(); k > 1; --k)
        std::swap(
            order[k - 1],
            order[static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(k) - 1))]);
      for (const Index j : order) any = shifted(j) || swapped(j) || any;
    }
  }

 private:
  bool shifted(Index j) {
    const Index from = agent(j);
    Index best = -1;
    double over = 0.0, more = 0.0;
    for (Index a = 0; a < p_.agents; ++a) {
      if (a == from || std::isinf(cost(a, j))) continue;
      const double o = over_by(from, -use(from, j)) + over_by(a, use(a, j));
      const double c = cost(a, j) - cost(from, j);
      if (less(o, c, over, more)) {
        over = o;
        more = c;
        best = a;
      }
    }
    if (best < 0) return false;
    shift(j, best);
    return true;
  }
  bool swapped(Index j) {
    const Index from = agent(j);
    for (Index k = 0; k < p_.jobs; ++k) {
      const Index to = agent(k);
      if (to == from || std::isinf(cost(to, j)) || std::isinf(cost(from, k))) continue;
      const double o =
          over_by(from, use(from, k) - use(from, j)) + over_by(to, use(to, j) - use(to, k));
      const double c = cost(to, j) + cost(from, k) - cost(from, j) - cost(to, k);
      if (!less(o, c, 0.0, 0.0)) continue;
      shift(j, to);
      shift(k, from);
      return true;
    }
    return false;
  }

  const RoomProblem& p_;
  RoomPlan plan_;
  std::vector<double> left_;
};

}  // namespace

RoomPlan by_regret(const RoomProblem& p) {
  RoomPlan plan{std::vector<Index>(at(p.jobs), -1), 0.0, 0.0};
  std::vector<double> left = p.room;
  for (Index done = 0; done < p.jobs; ++done) {
    Index job = -1, to = -1;
    double most = -HUGE_VAL;
    for (Index j = 0; j < p.jobs; ++j) {
      if (plan.agent_of[at(j)] >= 0) continue;
      double best = HUGE_VAL, second = HUGE_VAL;
      Index agent = -1;
      for (Index a = 0; a < p.agents; ++a) {
        if (p.use[p.place(a, j)] > left[at(a)] + kSameSize) continue;
        const double cost = p.cost[p.place(a, j)];
        if (cost < best) {
          second = best;
          best = cost;
          agent = a;
        } else {
          second = std::min(second, cost);
        }
      }
      const double regret = agent < 0 ? -1.0 : std::isinf(second) ? 1e15 : second - best;
      if (regret > most) {
        most = regret;
        job = j;
        to = agent;
      }
    }
    if (to < 0) {  // nowhere has it room: where least is missing
      double least = HUGE_VAL;
      for (Index a = 0; a < p.agents; ++a) {
        const double missing = p.use[p.place(a, job)] - left[at(a)];
        if (std::isfinite(p.cost[p.place(a, job)]) && missing < least) {
          least = missing;
          to = a;
        }
      }
      if (to < 0) return {};  // it may go to nobody
    }
    plan.agent_of[at(job)] = to;
    left[at(to)] -= p.use[p.place(to, job)];
  }
  return Standing(p, std::move(plan)).plan();
}

void exchange(const RoomProblem& p, RoomPlan from, Random& random,
              const std::function<void(const RoomPlan&)>& better,
              const std::function<bool()>& over) {
  if (from.agent_of.empty()) return;
  Standing first(p, std::move(from));
  first.improve(random, over);
  RoomPlan best = first.plan();
  better(best);
  constexpr std::int64_t kKicks = 4;
  while (!over() && p.agents > 1) {
    Standing next(p, best);
    for (std::int64_t k = random.between(2, kKicks); k > 0; --k) {
      const auto j = static_cast<Index>(random.between(0, p.jobs - 1));
      const auto a = static_cast<Index>(random.between(0, p.agents - 1));
      if (std::isfinite(p.cost[p.place(a, j)])) next.shift(j, a);
    }
    next.improve(random, over);
    const RoomPlan& plan = next.plan();
    // As good is taken, too: so it walks along a plateau.
    if (!less(best.over, best.cost, plan.over, plan.cost)) {
      const bool news = less(plan.over, plan.cost, best.over, best.cost);
      best = plan;
      if (news) better(best);
    }
  }
}

}  // namespace kiteknot::structures
