#include "structures/covers.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <queue>

#include "base/at.hpp"

namespace kiteknot::structures {
namespace {

std::vector<std::vector<Index>> sets_of_needs(const CoverProblem& p) {
  std::vector<std::vector<Index>> sets(at(p.num_needs));
  for (Index s = 0; s < static_cast<Index>(p.cost.size()); ++s)
    for (const Index i : p.needs[at(s)]) sets[at(i)].push_back(s);
  return sets;
}

// A cover as it grows: how often each need is met.
class Growing {
 public:
  explicit Growing(const CoverProblem& p)
      : p_(p), met_(at(p.num_needs), 0), in_(p.cost.size(), 0) {}

  void add(Index s) {
    if (in_[at(s)]) return;
    in_[at(s)] = 1;
    for (const Index i : p_.needs[at(s)])
      if (met_[at(i)]++ == 0) ++num_met_;
  }
  void drop(Index s) {
    in_[at(s)] = 0;
    for (const Index i : p_.needs[at(s)])
      if (--met_[at(i)] == 0) --num_met_;
  }
  [[nodiscard]] bool whole() const { return num_met_ == p_.num_needs; }
  [[nodiscard]] bool met(Index need) const { return met_[at(need)] > 0; }
  [[nodiscard]] bool needless(Index s) const {
    return std::ranges::all_of(p_.needs[at(s)], [&](Index i) { return met_[at(i)] > 1; });
  }
  [[nodiscard]] Index unmet_of(Index s) const {
    return static_cast<Index>(
        std::ranges::count_if(p_.needs[at(s)], [&](Index i) { return met_[at(i)] == 0; }));
  }
  // By sets that others make needless, the dearest first.
  CoverPlan finish() {
    std::vector<Index> sets;
    for (Index s = 0; s < static_cast<Index>(in_.size()); ++s)
      if (in_[at(s)]) sets.push_back(s);
    std::ranges::stable_sort(sets,
                             [&](Index a, Index b) { return p_.cost[at(a)] > p_.cost[at(b)]; });
    for (const Index s : sets)
      if (needless(s)) drop(s);
    CoverPlan plan;
    for (Index s = 0; s < static_cast<Index>(in_.size()); ++s)
      if (in_[at(s)]) {
        plan.sets.push_back(s);
        plan.cost += p_.cost[at(s)];
      }
    return plan;
  }

 private:
  const CoverProblem& p_;
  std::vector<Index> met_;  // by need: how often
  std::vector<char> in_;
  Index num_met_ = 0;
};

// Sets at these costs (they may be below 0: such sets are taken whatever they meet), from those
// that are in already.
CoverPlan greedy_at(const CoverProblem& p, std::span<const double> cost,
                    std::span<const Index> first) {
  Growing g(p);
  for (const Index s : first) g.add(s);
  struct Rated {
    double rate;
    Index unmet, set;
  };
  const auto worse = [](const Rated& a, const Rated& b) {
    return a.rate > b.rate || (a.rate == b.rate && a.set > b.set);
  };
  const auto rate = [&](Index s, Index unmet) {
    // Below 0 the more the better.
    return cost[at(s)] > 0.0 ? cost[at(s)] / static_cast<double>(unmet)
                             : cost[at(s)] * static_cast<double>(unmet);
  };
  std::priority_queue<Rated, std::vector<Rated>, decltype(worse)> queue(worse);
  for (Index s = 0; s < static_cast<Index>(p.cost.size()); ++s)
    if (const Index unmet = g.unmet_of(s); unmet > 0) queue.push({rate(s, unmet), unmet, s});
  while (!g.whole() && !queue.empty()) {
    const Rated r = queue.top();
    queue.pop();
    const Index unmet = g.unmet_of(r.set);
    if (unmet == 0) continue;
    if (unmet != r.unmet) {  // what it meets has become less
      queue.push({rate(r.set, unmet), unmet, r.set});
      continue;
    }
    g.add(r.set);
  }
  if (!g.whole()) return {};
  return g.finish();
}

class Pricer {
 public:
  Pricer(const CoverProblem& p, Random& random, const CoverWatch& watch)
      : p_(p),
        random_(random),
        watch_(watch),
        sets_(sets_of_needs(p)),
        price_(at(p.num_needs), 0.0),
        reduced_(p.cost) {}

  CoverPrices run(int rounds) {
    take(greedy_cover(p_));
    // Prices to begin with: the least that a set asks for a need.
    for (Index i = 0; i < p_.num_needs; ++i) {
      double least = HUGE_VAL;
      for (const Index s : sets_[at(i)])
        least = std::min(least, p_.cost[at(s)] / static_cast<double>(p_.needs[at(s)].size()));
      price_[at(i)] = std::isfinite(least) ? least : 0.0;
    }
    CoverPrices best{price_, -HUGE_VAL};
    for (int round = 0; round < rounds && !watch_.over(); ++round) {
      fixed_.clear();
      met_.assign(at(p_.num_needs), 0);
      while (!watch_.over()) {
        const double bound = ascend();
        if (fixed_.empty() && bound > best.bound) best = {price_, bound};
        if (!fix()) break;
      }
      // Near the best prices again, a little off.
      price_ = best.price;
      constexpr double kOff = 0.1;
      for (double& u : price_) u *= 1.0 + kOff * (2.0 * random_.fraction() - 1.0);
    }
    return best;
  }

 private:
  void take(CoverPlan plan) {
    if (plan.sets.empty() || (!best_.sets.empty() && plan.cost >= best_.cost)) return;
    best_ = std::move(plan);
    watch_.better(best_);
  }

  // Reduced costs, and the value of the priced problem over needs that are not met by fixed sets.
  double value() {
    double v = 0.0;
    for (const Index s : fixed_) v += p_.cost[at(s)];
    for (Index i = 0; i < p_.num_needs; ++i)
      if (!met_[at(i)]) v += price_[at(i)];
    for (Index s = 0; s < static_cast<Index>(p_.cost.size()); ++s) {
      double r = p_.cost[at(s)];
      for (const Index i : p_.needs[at(s)])
        if (!met_[at(i)]) r -= price_[at(i)];
      reduced_[at(s)] = r;
      if (r < 0.0) v += r;
    }
    return v;
  }

  // Subgradient steps; covers on the way.
  double ascend() {
    double best = -HUGE_VAL, theta = 0.1, low = HUGE_VAL, high = -HUGE_VAL;
    std::vector<double> best_price = price_;
    int since = 0;
    constexpr int kSteps = 300, kIdle = 40, kLook = 20, kPlans = 10;
    std::vector<Index> excess(at(p_.num_needs));
    for (int step = 0; step < kSteps && since < kIdle && !watch_.over(); ++step) {
      const double v = value();
      if (v > best * (best > 0.0 ? 1.0005 : 1.0)) since = 0;
      ++since;
      if (v > best) {
        best = v;
        best_price = price_;
      }
      low = std::min(low, v);
      high = std::max(high, v);
      if ((step + 1) % kLook == 0) {  // how fast values swing tells how long steps may be
        if (high - low > 0.01 * std::abs(high)) theta /= 2.0;
        if (high - low < 0.001 * std::abs(high)) theta *= 1.5;
        low = HUGE_VAL;
        high = -HUGE_VAL;
      }
      if (best_.cost > 0.0 && best >= best_.cost) break;
      std::ranges::fill(excess, 1);
      for (Index s = 0; s < static_cast<Index>(p_.cost.size()); ++s)
        if (reduced_[at(s)] < 0.0)
          for (const Index i : p_.needs[at(s)]) --excess[at(i)];
      double norm = 0.0;
      for (Index i = 0; i < p_.num_needs; ++i)
        if (!met_[at(i)]) norm += static_cast<double>(excess[at(i)]) * excess[at(i)];
      if (step % kPlans == 0 || norm == 0.0) take(greedy_at(p_, reduced_, fixed_));
      if (norm == 0.0) break;
      const double length = theta * std::max(best_.cost - v, 1e-6 * std::abs(v)) / norm;
      for (Index i = 0; i < p_.num_needs; ++i)
        if (!met_[at(i)])
          price_[at(i)] =
              std::max(0.0, price_[at(i)] + length * static_cast<double>(excess[at(i)]));
    }
    price_ = best_price;
    value();
    take(greedy_at(p_, reduced_, fixed_));
    return best;
  }

  // Sets that the prices like and that meet something else than each other; false: nothing is left.
  bool fix() {
    Growing g(p_);
    for (const Index s : fixed_) g.add(s);
    if (g.whole()) return false;
    constexpr double kLiked = -0.001;
    std::vector<Index> liked;
    for (Index s = 0; s < static_cast<Index>(p_.cost.size()); ++s)
      if (reduced_[at(s)] < kLiked * p_.cost[at(s)] && g.unmet_of(s) > 0) liked.push_back(s);
    std::vector<Index> times(at(p_.num_needs), 0);
    for (const Index s : liked)
      for (const Index i : p_.needs[at(s)]) ++times[at(i)];
    std::size_t added = 0;
    for (const Index s : liked)
      if (std::ranges::all_of(p_.needs[at(s)],
                              [&](Index i) { return met_[at(i)] || times[at(i)] == 1; })) {
        fixed_.push_back(s);
        g.add(s);
        ++added;
      }
    // Some more by reduced cost for what they meet, so that a round comes to an end.
    const std::size_t wanted = std::max<std::size_t>(1, at(p_.num_needs) / 100);
    while (added < wanted && !g.whole()) {
      Index best = -1;
      double rate = HUGE_VAL;
      for (Index s = 0; s < static_cast<Index>(p_.cost.size()); ++s)
        if (const Index unmet = g.unmet_of(s); unmet > 0) {
          const double r = (reduced_[at(s)] > 0.0 ? reduced_[at(s)] / static_cast<double>(unmet)
                                                  : reduced_[at(s)] * static_cast<double>(unmet)) +
                           1e-9 * random_.fraction();
          if (r < rate) {
            rate = r;
            best = s;
          }
        }
      if (best < 0) return false;
      fixed_.push_back(best);
      g.add(best);
      ++added;
    }
    for (Index i = 0; i < p_.num_needs; ++i) met_[at(i)] = g.met(i) ? 1 : 0;
    double so_far = 0.0;
    for (const Index s : fixed_) so_far += p_.cost[at(s)];
    if (so_far >= best_.cost) return false;  // nothing better comes of it
    if (g.whole()) {
      take(g.finish());
      return false;
    }
    return true;
  }

  const CoverProblem& p_;
  Random& random_;
  const CoverWatch& watch_;
  std::vector<std::vector<Index>> sets_;  // by need
  std::vector<double> price_, reduced_;
  std::vector<Index> fixed_;
  std::vector<char> met_;  // by fixed sets
  CoverPlan best_;
};

}  // namespace

CoverPlan greedy_cover(const CoverProblem& p) {
  return greedy_at(p, p.cost, {});
}

CoverPrices priced_covers(const CoverProblem& p, Random& random, int rounds,
                          const CoverWatch& watch) {
  return Pricer(p, random, watch).run(rounds);
}

}  // namespace kiteknot::structures
