#include "structures/room_assignment.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"

namespace kiteknot::structures {
namespace {

constexpr double kSameSize = 1e-9;  // of uses and costs that doubles cannot tell apart

// A plan with what is left of every room, and what too much costs an agent.
class Standing {
 public:
  Standing(const RoomProblem& p, RoomPlan plan)
      : p_(p), plan_(std::move(plan)), left_(p.room), rate_(at(p.agents), 0.0) {
    plan_.cost = plan_.over = 0.0;
    for (Index j = 0; j < p.jobs; ++j) {
      left_[at(agent(j))] -= use(agent(j), j);
      plan_.cost += cost(agent(j), j);
    }
    for (const double l : left_) plan_.over += std::max(0.0, -l);
  }
  [[nodiscard]] const RoomPlan& plan() const { return plan_; }
  [[nodiscard]] bool fits() const { return plan_.over <= kSameSize; }

  // At first as much as a job costs for its use, about.
  void set_rates() {
    double costs = 0.0, uses = 0.0;
    for (std::size_t k = 0; k < p_.cost.size(); ++k)
      if (std::isfinite(p_.cost[k])) {
        costs += std::abs(p_.cost[k]);
        uses += p_.use[k];
      }
    usual_ = uses > 0.0 && costs > 0.0 ? costs / uses : 1.0;
    std::ranges::fill(rate_, usual_);
  }
  // Where it fits too much gets cheaper, else dearer for those who have too much.
  void change_rates() {
    constexpr double kCheaper = 0.8, kDearer = 1.3;
    constexpr double kRange = 20.0;
    for (std::size_t a = 0; a < rate_.size(); ++a) {
      rate_[a] *= fits() || left_[a] > kSameSize ? kCheaper : left_[a] < -kSameSize ? kDearer : 1.0;
      rate_[a] = std::clamp(rate_[a], usual_ / kRange, usual_ * kRange);
    }
  }
  // Too much is worse than any cost.
  void forbid() {
    constexpr double kMuch = 1e6;
    for (double& r : rate_) r *= kMuch;
  }

  void shift(Index j, Index to) {
    const Index from = agent(j);
    if (from == to) return;
    plan_.over += more_over(from, -use(from, j)) + more_over(to, use(to, j));
    plan_.cost += cost(to, j) - cost(from, j);
    left_[at(from)] += use(from, j);
    left_[at(to)] -= use(to, j);
    plan_.agent_of[at(j)] = to;
  }
  // Shifts and swaps, the first better one, until there is none.
  void improve(Random& random, const std::function<bool(double)>& over) {
    constexpr double kOfSwap = 4.0;  // entries that a swap looks at
    const double pass =
        kOfSwap * static_cast<double>(p_.jobs) * static_cast<double>(p_.jobs + p_.agents);
    std::vector<Index> order(at(p_.jobs));
    for (Index j = 0; j < p_.jobs; ++j) order[at(j)] = j;
    for (bool any = true; any && !over(pass);) {
      any = false;
      for (std::size_t k = order.size(); k > 1; --k)
        std::swap(
            order[k - 1],
            order[static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(k) - 1))]);
      for (const Index j : order) any = shifted(j) || swapped(j) || any;
    }
  }

 private:
  [[nodiscard]] Index agent(Index j) const { return plan_.agent_of[at(j)]; }
  [[nodiscard]] double cost(Index a, Index j) const { return p_.cost[p_.place(a, j)]; }
  [[nodiscard]] double use(Index a, Index j) const { return p_.use[p_.place(a, j)]; }
  // The change of what is too much where an agent's load grows by this.
  [[nodiscard]] double more_over(Index a, double load) const {
    return std::max(0.0, load - left_[at(a)]) - std::max(0.0, -left_[at(a)]);
  }
  [[nodiscard]] double priced(Index a, double load) const {
    return rate_[at(a)] * more_over(a, load);
  }

  bool shifted(Index j) {
    const Index from = agent(j);
    const double leaves = priced(from, -use(from, j)) - cost(from, j);
    Index best = -1;
    double least = -kSameSize;
    for (Index a = 0; a < p_.agents; ++a) {
      if (a == from || std::isinf(cost(a, j))) continue;
      if (const double c = leaves + cost(a, j) + priced(a, use(a, j)); c < least) {
        least = c;
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
      if (to == from) continue;
      const double c = cost(to, j) + cost(from, k) - cost(from, j) - cost(to, k);
      if (!(c + priced(from, use(from, k) - use(from, j)) + priced(to, use(to, j) - use(to, k)) <
            -kSameSize))
        continue;
      shift(j, to);
      shift(k, from);
      return true;
    }
    return false;
  }

  const RoomProblem& p_;
  RoomPlan plan_;
  std::vector<double> left_, rate_;  // by agent
  double usual_ = 1.0;
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

void exchange(const RoomProblem& p, RoomPlan from, Random& random, const RoomWatch& watch) {
  if (from.agent_of.empty()) return;
  RoomPlan best;
  Standing s(p, std::move(from));
  s.set_rates();
  const auto offer = [&](const Standing& at_hand) {
    const RoomPlan& plan = at_hand.plan();
    if (!at_hand.fits() || (!best.agent_of.empty() && plan.cost >= best.cost - kSameSize)) return;
    best = plan;
    watch.better(best);
  };
  offer(s);
  constexpr std::int64_t kKicks = 4;
  std::vector<Index> before;
  while (!watch.over(0.0)) {
    s.improve(random, watch.over);
    if (s.fits()) {
      offer(s);
    } else {  // from here to where all fits, if it is near
      Standing near = s;
      near.forbid();
      near.improve(random, watch.over);
      offer(near);
    }
    s.change_rates();
    if (s.plan().agent_of == before && p.agents > 1)  // it will not get away by itself
      for (std::int64_t k = random.between(2, kKicks); k > 0; --k) {
        const auto j = static_cast<Index>(random.between(0, p.jobs - 1));
        const auto a = static_cast<Index>(random.between(0, p.agents - 1));
        if (std::isfinite(p.cost[p.place(a, j)])) s.shift(j, a);
      }
    before = s.plan().agent_of;
  }
}

}  // namespace kiteknot::structures
