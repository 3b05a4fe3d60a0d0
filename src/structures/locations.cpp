#include "structures/locations.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"

namespace kiteknot::structures {
namespace {

constexpr double kNoise = 1e-9;

Index num_places(const LocationProblem& p) {
  return static_cast<Index>(p.rent.size());
}

// The two nearest open places of every customer.
struct Nearest {
  Index first = -1;
  double near = HUGE_VAL, next = HUGE_VAL;
};
std::vector<Nearest> nearest(const LocationProblem& p, const std::vector<char>& open) {
  std::vector<Nearest> all(p.serve.size());
  for (std::size_t c = 0; c < p.serve.size(); ++c)
    for (Index f = 0; f < num_places(p); ++f) {
      if (!open[at(f)]) continue;
      const double cost = p.serve[c][at(f)];
      Nearest& n = all[c];
      if (cost < n.near) {
        n.next = n.near;
        n.near = cost;
        n.first = f;
      } else {
        n.next = std::min(n.next, cost);
      }
    }
  return all;
}

double more(double cost, double than) {  // of two that may be infinite
  return cost == than ? 0.0 : cost - than;
}

}  // namespace

LocationPlan located(const LocationProblem& p, std::vector<char> open) {
  LocationPlan plan{std::move(open), std::vector<Index>(p.serve.size(), -1), 0.0};
  for (Index f = 0; f < num_places(p); ++f)
    if (plan.open[at(f)]) plan.cost += p.rent[at(f)];
  const std::vector<Nearest> n = nearest(p, plan.open);
  for (std::size_t c = 0; c < p.serve.size(); ++c) {
    plan.from[c] = n[c].first;
    plan.cost += n[c].near;
  }
  return plan;
}

LocationPlan add_places(const LocationProblem& p) {
  std::vector<char> open(p.rent.size(), 0);
  std::vector<double> now(p.serve.size(), HUGE_VAL);
  while (true) {
    Index best = -1;
    double most = kNoise;
    std::size_t best_new = 0;
    for (Index f = 0; f < num_places(p); ++f) {
      if (open[at(f)]) continue;
      // Who has nobody yet counts before all costs.
      std::size_t fresh = 0;
      double saved = -p.rent[at(f)];
      for (std::size_t c = 0; c < p.serve.size(); ++c) {
        const double cost = p.serve[c][at(f)];
        if (std::isinf(now[c])) {
          if (std::isfinite(cost)) {
            ++fresh;
            saved -= cost;
          }
        } else {
          saved += std::max(0.0, now[c] - cost);
        }
      }
      if (fresh > 0) saved /= static_cast<double>(fresh);
      const bool better =
          best_new > 0 || fresh > 0 ? fresh > 0 && (best_new == 0 || saved > most) : saved > most;
      if (!better) continue;
      best = f;
      most = saved;
      best_new = fresh;
    }
    if (best < 0) break;
    open[at(best)] = 1;
    for (std::size_t c = 0; c < p.serve.size(); ++c)
      now[c] = std::min(now[c], p.serve[c][at(best)]);
  }
  return located(p, std::move(open));
}

LocationPlan drop_places(const LocationProblem& p) {
  LocationPlan plan = located(p, std::vector<char>(p.rent.size(), 1));
  while (true) {
    const std::vector<Nearest> n = nearest(p, plan.open);
    std::vector<double> lost(p.rent.size(), 0.0);
    for (std::size_t c = 0; c < p.serve.size(); ++c)
      if (n[c].first >= 0) lost[at(n[c].first)] += more(n[c].next, n[c].near);
    Index best = -1;
    double most = kNoise;
    for (Index f = 0; f < num_places(p); ++f)
      if (plan.open[at(f)] && p.rent[at(f)] - lost[at(f)] > most) {
        most = p.rent[at(f)] - lost[at(f)];
        best = f;
      }
    if (best < 0) break;
    plan.open[at(best)] = 0;
  }
  return located(p, std::move(plan.open));
}

// What a swap saves is what opening saves plus what closing saves, but for customers of the closed
// one (Whitaker 1983, "A fast algorithm for the greedy interchange for large-scale clustering and
// median location problems").
LocationPlan swap_places(const LocationProblem& p, LocationPlan plan, int rounds) {
  for (int round = 0; round < rounds; ++round) {
    const std::vector<Nearest> n = nearest(p, plan.open);
    double most = kNoise * (1.0 + std::abs(plan.cost));
    Index opens = -1, closes = -1;
    std::vector<double> lost(p.rent.size());
    for (Index f = -1; f < num_places(p); ++f) {  // -1: nothing opens
      if (f >= 0 && plan.open[at(f)]) continue;
      double saved = f < 0 ? 0.0 : -p.rent[at(f)];
      std::ranges::fill(lost, 0.0);  // beyond that where a place closes
      for (std::size_t c = 0; c < p.serve.size(); ++c) {
        if (n[c].first < 0) continue;
        const double there = f < 0 ? HUGE_VAL : p.serve[c][at(f)];
        if (there < n[c].near)
          saved += n[c].near - there;
        else
          lost[at(n[c].first)] += more(std::min(there, n[c].next), n[c].near);
      }
      if (f >= 0 && saved > most) {
        most = saved;
        opens = f;
        closes = -1;
      }
      for (Index g = 0; g < num_places(p); ++g)
        if (plan.open[at(g)] && saved + p.rent[at(g)] - lost[at(g)] > most) {
          most = saved + p.rent[at(g)] - lost[at(g)];
          opens = f;
          closes = g;
        }
    }
    if (opens < 0 && closes < 0) break;
    if (opens >= 0) plan.open[at(opens)] = 1;
    if (closes >= 0) plan.open[at(closes)] = 0;
    plan = located(p, std::move(plan.open));
  }
  return plan;
}

DualAscent dual_ascent(const LocationProblem& p) {
  DualAscent d;
  const std::size_t customers = p.serve.size();
  std::vector<std::vector<double>> steps(customers);  // costs of each, rising
  for (std::size_t c = 0; c < customers; ++c) {
    steps[c] = p.serve[c];
    std::ranges::sort(steps[c]);
  }
  d.price.assign(customers, 0.0);
  std::vector<std::size_t> level(customers, 0);
  std::vector<double> slack = p.rent;  // what places are not yet paid
  for (std::size_t c = 0; c < customers; ++c) {
    if (steps[c].empty() || std::isinf(steps[c][0])) return d;  // nobody can serve it
    d.price[c] = steps[c][0];
  }
  for (bool any = true; any;) {
    any = false;
    for (std::size_t c = 0; c < customers; ++c) {
      while (level[c] < steps[c].size() && steps[c][level[c]] <= d.price[c]) ++level[c];
      const double next = level[c] < steps[c].size() ? steps[c][level[c]] : HUGE_VAL;
      double by = next - d.price[c];
      for (Index f = 0; f < num_places(p); ++f)
        if (p.serve[c][at(f)] <= d.price[c]) by = std::min(by, slack[at(f)]);
      if (!(by > kNoise) || std::isinf(by)) continue;
      for (Index f = 0; f < num_places(p); ++f)
        if (p.serve[c][at(f)] <= d.price[c]) slack[at(f)] -= by;
      d.price[c] += by;
      any = true;
    }
  }
  for (const double v : d.price) d.bound += v;
  std::vector<char> open(p.rent.size(), 0);
  // Of the paid places those that somebody needs: customers in turn, the cheapest paid one of each.
  const auto paid = [&](Index f) { return slack[at(f)] <= kNoise * (1.0 + p.rent[at(f)]); };
  for (std::size_t c = 0; c < customers; ++c) {
    Index best = -1;
    bool served = false;
    for (Index f = 0; f < num_places(p); ++f) {
      if (!paid(f) || p.serve[c][at(f)] > d.price[c] + kNoise) continue;
      served = served || open[at(f)];
      if (best < 0 || p.serve[c][at(f)] < p.serve[c][at(best)]) best = f;
    }
    if (!served && best >= 0) open[at(best)] = 1;
  }
  d.plan = located(p, std::move(open));
  return d;
}

}  // namespace kiteknot::structures
