#include "structures/sacks.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "base/at.hpp"
#include "structures/choice_knapsack.hpp"

namespace kiteknot::structures {
namespace {

__extension__ using Wide = __int128;

std::vector<Index> by_worth(const SackProblem& p) {
  std::vector<Index> order(p.profit.size());
  std::iota(order.begin(), order.end(), 0);
  std::ranges::stable_sort(order, [&](Index a, Index b) {
    return static_cast<Wide>(p.profit[at(a)]) * p.weight[at(b)] >
           static_cast<Wide>(p.profit[at(b)]) * p.weight[at(a)];
  });
  return order;
}

std::vector<Index> smallest_first(const SackProblem& p) {
  std::vector<Index> order(p.room.size());
  std::iota(order.begin(), order.end(), 0);
  std::ranges::stable_sort(order, [&](Index a, Index b) { return p.room[at(a)] < p.room[at(b)]; });
  return order;
}

// Of the items, the best choice for the room; `worth`: by item. Where the work ends, a good one.
std::vector<Index> best_choice(const SackProblem& p, const std::vector<Index>& items,
                               const std::vector<std::int64_t>& worth, std::int64_t room,
                               WorkCounter& work, bool* proven = nullptr) {
  ChoiceProblem c;
  c.capacity = room;
  for (const Index i : items) c.classes.push_back({{0, 0}, {worth[at(i)], p.weight[at(i)]}});
  const ChoiceProgram found = choose_best(c, work);
  std::vector<Index> taken;
  for (std::size_t k = 0; k < items.size(); ++k)
    if (found.plan && found.plan->item[k] == 1) taken.push_back(items[k]);
  if (proven != nullptr) *proven = found.best;
  return taken;
}

// A plan with what is left in each sack.
class Filling {
 public:
  Filling(const SackProblem& p, SackPlan plan)
      : p_(p), plan_(std::move(plan)), left_(p.room), order_(by_worth(p)) {
    for (std::size_t i = 0; i < p.profit.size(); ++i)
      if (plan_.sack_of[i] >= 0) left_[at(plan_.sack_of[i])] -= p.weight[i];
  }
  [[nodiscard]] const SackPlan& plan() const { return plan_; }
  [[nodiscard]] const std::vector<Index>& order() const { return order_; }
  [[nodiscard]] std::int64_t left(Index sack) const { return left_[at(sack)]; }

  void put(Index item, Index sack) {
    plan_.sack_of[at(item)] = sack;
    plan_.profit += p_.profit[at(item)];
    left_[at(sack)] -= p_.weight[at(item)];
  }
  void take_out(Index item) {
    left_[at(plan_.sack_of[at(item)])] += p_.weight[at(item)];
    plan_.profit -= p_.profit[at(item)];
    plan_.sack_of[at(item)] = -1;
  }

  // Those that stayed, into the sack that they leave fullest.
  void fill() {
    for (const Index i : order_) {
      if (plan_.sack_of[at(i)] >= 0) continue;
      Index into = -1;
      for (Index s = 0; s < static_cast<Index>(left_.size()); ++s)
        if (left_[at(s)] >= p_.weight[at(i)] && (into < 0 || left_[at(s)] < left_[at(into)]))
          into = s;
      if (into >= 0) put(i, into);
    }
  }

  // Two items of two sacks change places where the best that then fits is one more. O(items^2).
  bool exchange() {
    std::vector<Index> inside, outside;
    for (const Index i : order_) (plan_.sack_of[at(i)] >= 0 ? inside : outside).push_back(i);
    if (outside.empty()) return false;
    std::int64_t lightest = p_.weight[at(outside.front())];
    for (const Index i : outside) lightest = std::min(lightest, p_.weight[at(i)]);
    for (const Index a : inside)
      for (const Index b : inside) {
        const Index sa = plan_.sack_of[at(a)], sb = plan_.sack_of[at(b)];
        const std::int64_t more = p_.weight[at(a)] - p_.weight[at(b)];  // that sa then has
        if (sa == sb || more <= 0 || left_[at(sb)] < more || left_[at(sa)] + more < lightest)
          continue;
        const auto fits = std::ranges::find_if(
            outside, [&](Index i) { return p_.weight[at(i)] <= left_[at(sa)] + more; });
        if (fits == outside.end()) continue;
        take_out(a);
        take_out(b);
        put(a, sb);
        put(b, sa);
        put(*fits, sa);
        return true;
      }
    return false;
  }

  // An item makes way for others that are worth more together. O(items^2).
  bool replace() {
    std::vector<Index> outside;
    for (const Index i : order_)
      if (plan_.sack_of[at(i)] < 0) outside.push_back(i);
    for (const Index a : order_) {
      const Index s = plan_.sack_of[at(a)];
      if (s < 0) continue;
      std::int64_t room = left_[at(s)] + p_.weight[at(a)], gain = -p_.profit[at(a)];
      std::vector<Index> in;
      for (const Index i : outside)
        if (p_.weight[at(i)] <= room) {
          room -= p_.weight[at(i)];
          gain += p_.profit[at(i)];
          in.push_back(i);
        }
      if (gain <= 0) continue;
      take_out(a);
      for (const Index i : in) put(i, s);
      return true;
    }
    return false;
  }

  void improve() {
    fill();
    constexpr int kMost = 200;  // each is a look over all pairs at worst
    for (int k = 0; k < kMost && (exchange() || replace()); ++k) fill();
  }

 private:
  const SackProblem& p_;
  SackPlan plan_;
  std::vector<std::int64_t> left_;  // by sack
  std::vector<Index> order_;
};

SackPlan nothing(const SackProblem& p) {
  return {std::vector<Index>(p.profit.size(), -1), 0};
}

}  // namespace

SackPlan fill_by_worth(const SackProblem& p) {
  Filling f(p, nothing(p));
  const std::vector<Index> sacks = smallest_first(p);
  for (const Index i : f.order())
    for (const Index s : sacks)
      if (f.left(s) >= p.weight[at(i)]) {
        f.put(i, s);
        break;
      }
  f.improve();
  return f.plan();
}

SackBound joined_sacks(const SackProblem& p, WorkCounter& work) {
  SackBound b;
  const std::int64_t room = std::accumulate(p.room.begin(), p.room.end(), std::int64_t{0});
  const std::int64_t largest = p.room.empty() ? 0 : *std::ranges::max_element(p.room);
  std::vector<Index> items;  // what no sack takes is none
  for (const Index i : by_worth(p))
    if (p.weight[at(i)] <= largest) items.push_back(i);
  bool proven = false;
  b.taken = best_choice(p, items, p.profit, room, work, &proven);
  for (const Index i : b.taken) b.profit += p.profit[at(i)];
  if (proven) return b;
  // Dantzig 1957: as much of the next item as fits.
  std::int64_t left = room;
  b.profit = 0;
  for (const Index i : items) {
    if (p.weight[at(i)] > left) {
      b.profit +=
          static_cast<std::int64_t>(static_cast<Wide>(left) * p.profit[at(i)] / p.weight[at(i)]);
      break;
    }
    left -= p.weight[at(i)];
    b.profit += p.profit[at(i)];
  }
  return b;
}

SackPlan split_joined(const SackProblem& p, const SackBound& joined, WorkCounter& work) {
  Filling f(p, nothing(p));
  std::vector<Index> rest = joined.taken;
  for (const Index s : smallest_first(p)) {
    for (const Index i : best_choice(p, rest, p.weight, p.room[at(s)], work)) f.put(i, s);
    std::erase_if(rest, [&](Index i) { return f.plan().sack_of[at(i)] >= 0; });
  }
  f.improve();
  return f.plan();
}

void refill(const SackProblem& p, SackPlan from, Random& random, const SackWatch& watch) {
  SackPlan best = std::move(from);
  const auto sacks = static_cast<std::int64_t>(p.room.size());
  const double entries = static_cast<double>(p.profit.size());
  while (!watch.over(entries)) {
    Filling f(p, best);
    // Two to five of them, and all that stayed.
    std::vector<Index> chosen(p.room.size());
    std::iota(chosen.begin(), chosen.end(), 0);
    for (std::size_t k = 0; k + 1 < chosen.size(); ++k)
      std::swap(
          chosen[k],
          chosen[at(static_cast<Index>(random.between(static_cast<std::int64_t>(k), sacks - 1)))]);
    constexpr std::int64_t kFewest = 2, kMost = 5;
    chosen.resize(at(static_cast<Index>(std::min(sacks, random.between(kFewest, kMost)))));
    std::vector<Index> pool;
    for (Index i = 0; i < static_cast<Index>(p.profit.size()); ++i) {
      const Index s = f.plan().sack_of[at(i)];
      if (s >= 0 && std::ranges::find(chosen, s) == chosen.end()) continue;
      if (s >= 0) f.take_out(i);
      pool.push_back(i);
    }
    WorkCounter work;
    for (const Index s : chosen) {
      if (watch.over(entries)) return;
      // A little more or less for each: the same sacks are then filled otherwise.
      std::vector<std::int64_t> worth = p.profit;
      constexpr std::int64_t kFine = 1'000;
      for (const Index i : pool) {
        const auto spread = static_cast<double>(p.profit[at(i)]) *
                            (static_cast<double>(random.between(-kFine, kFine)) / (5.0 * kFine));
        worth[at(i)] = std::max<std::int64_t>(1, worth[at(i)] + std::llround(spread));
      }
      for (const Index i : best_choice(p, pool, worth, p.room[at(s)], work)) f.put(i, s);
      std::erase_if(pool, [&](Index i) { return f.plan().sack_of[at(i)] >= 0; });
    }
    f.improve();
    if (f.plan().profit >= best.profit) {
      const bool better = f.plan().profit > best.profit;
      best = f.plan();
      if (better) watch.better(best);
    }
  }
}

}  // namespace kiteknot::structures
