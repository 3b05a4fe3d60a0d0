// What attempts come to: distances, times, and one way held against another.

#include <algorithm>
#include <cmath>
#include <map>

#include "kiteknot/trials.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

const TrialCaseAnswer* case_of(const Trials& t, const Attempt& a) {
  const auto c = std::ranges::find(t.cases, a.of, &TrialCaseAnswer::name);
  return c == t.cases.end() ? nullptr : &*c;
}

double share_of(double value, const Rational& best) {
  constexpr double kLeast = 1e-10;
  return std::abs(value - best.to_double()) / std::max(std::abs(best.to_double()), kLeast);
}

// Without a plan it is infinitely far; the middle one of an even number is the worse one.
double median(std::vector<double> all) {
  if (all.empty()) return HUGE_VAL;
  std::ranges::sort(all);
  return all[all.size() / 2];
}

// By case the distances of all runs of a way.
std::map<std::string, std::vector<double>> distances_of(const Trials& t, const std::string& way) {
  std::map<std::string, std::vector<double>> all;
  for (const Attempt& a : t.attempts)
    if (a.way == way && !a.refused)
      if (const auto d = distance(t, a)) all[a.of].push_back(*d);
  return all;
}

// What others are held against takes no part in their contest.
bool is_exact(const std::string& way) {
  return way == "exact" || way == "branching alone";
}

constexpr double kSame = 1e-9;  // distances that doubles cannot tell apart

}  // namespace

std::optional<double> distance(const Trials& t, const Attempt& a) {
  const TrialCaseAnswer* c = case_of(t, a);
  if (c == nullptr || a.refused || c->infeasible) return {};
  if (!a.found) return HUGE_VAL;
  if (!a.value || !c->best) return 0.0;  // without a goal any plan is as good
  return *a.value == *c->best ? 0.0 : share_of(a.value->to_double(), *c->best);
}

std::optional<double> seconds_within(const Trials& t, const Attempt& a, double share) {
  const TrialCaseAnswer* c = case_of(t, a);
  if (c == nullptr || !a.found) return {};
  if (!c->best) return a.better.empty() ? a.seconds : a.better.front().first;
  for (const auto& [seconds, value] : a.better)
    if (share_of(value, *c->best) <= share + kSame) return seconds;
  return {};
}

std::vector<WayStanding> standings(const Trials& t) {
  constexpr double kNear = 0.01;
  std::map<std::string, double> least;  // by case, of all ways but the exact search
  for (const std::string& way : t.ways)
    if (!is_exact(way))
      for (auto& [name, runs] : distances_of(t, way)) {
        const double d = median(runs);
        const auto [it, first] = least.emplace(name, d);
        if (!first) it->second = std::min(it->second, d);
      }
  std::vector<WayStanding> all;
  for (const std::string& way : t.ways) {
    WayStanding s;
    s.way = way;
    std::vector<double> found, best_runs, worst_runs, to_best, to_near, took;
    for (auto& [name, runs] : distances_of(t, way)) {
      const double d = median(runs);
      ++s.cases;
      if (std::isinf(d)) {
        ++s.without;
        continue;
      }
      found.push_back(d);
      best_runs.push_back(*std::ranges::min_element(runs));
      if (const double worst = *std::ranges::max_element(runs); std::isfinite(worst))
        worst_runs.push_back(worst);
      s.at_best += d <= kSame ? 1 : 0;
      s.wins += !is_exact(way) && d <= least[name] + kSame ? 1 : 0;
    }
    for (const Attempt& a : t.attempts) {
      if (a.way != way) continue;
      s.refused += a.refused && a.run == 1 ? 1 : 0;
      if (a.refused) continue;
      took.push_back(a.seconds);
      if (!a.found) continue;
      if (!a.better.empty()) to_best.push_back(a.better.back().first);
      if (const auto near = seconds_within(t, a, kNear)) to_near.push_back(*near);
    }
    const auto mean = [](const std::vector<double>& of) {
      double sum = 0.0;
      for (const double d : of) sum += d;
      return of.empty() ? HUGE_VAL : sum / static_cast<double>(of.size());
    };
    s.median = median(found);
    s.mean = mean(found);
    s.worst = found.empty() ? HUGE_VAL : *std::ranges::max_element(found);
    s.best_runs = mean(best_runs);
    s.worst_runs = mean(worst_runs);
    if (!to_best.empty()) s.to_best = median(to_best);
    if (!to_near.empty()) s.to_near = median(to_near);
    s.took = took.empty() ? 0.0 : median(took);
    all.push_back(std::move(s));
  }
  return all;
}

double sign_chance(std::size_t wins, std::size_t losses) {
  const std::size_t n = wins + losses;
  if (n == 0) return 1.0;
  // P(at most the fewer) for a fair coin, twice; sums of binomials in logarithms.
  double sum = 0.0;
  for (std::size_t k = 0; k <= std::min(wins, losses); ++k)
    sum += std::exp(
        std::lgamma(static_cast<double>(n) + 1.0) - std::lgamma(static_cast<double>(k) + 1.0) -
        std::lgamma(static_cast<double>(n - k) + 1.0) - static_cast<double>(n) * std::log(2.0));
  return std::min(1.0, 2.0 * sum);
}

// The number of sign patterns with each rank sum, counted in shares of all: exact but for doubles.
// Ranks are doubled, so that shared ones are whole.
double signed_rank_chance(const std::vector<double>& differences) {
  std::vector<double> sizes;
  for (const double d : differences)
    if (d != 0.0) sizes.push_back(std::abs(d));
  if (sizes.empty()) return 1.0;
  std::ranges::sort(sizes);
  const auto doubled_rank = [&](double size) {
    const auto from = std::lower_bound(sizes.begin(), sizes.end(), size);
    const auto to = std::upper_bound(sizes.begin(), sizes.end(), size);
    const auto before = from - sizes.begin(), last = to - sizes.begin();
    return static_cast<std::size_t>(before + 1 +
                                    last);  // twice the mean of the ranks that it shares
  };
  std::size_t total = 0, positive = 0;
  std::vector<std::size_t> ranks;
  for (const double d : differences) {
    if (d == 0.0) continue;
    const std::size_t r = doubled_rank(std::abs(d));
    ranks.push_back(r);
    total += r;
    positive += d > 0.0 ? r : 0;
  }
  std::vector<double> share(total + 1, 0.0);
  share[0] = 1.0;
  std::size_t reach = 0;
  for (const std::size_t r : ranks) {
    reach += r;
    for (std::size_t s = reach + 1; s-- > 0;)
      share[s] = 0.5 * (share[s] + (s >= r ? share[s - r] : 0.0));
  }
  const std::size_t low = std::min(positive, total - positive);
  double tail = 0.0;
  for (std::size_t s = 0; s <= low; ++s) tail += share[s];
  return std::min(1.0, 2.0 * tail);
}

std::vector<PairedFinding> findings(const Trials& t) {
  std::vector<WayStanding> all = standings(t);
  std::erase_if(all, [](const WayStanding& s) {
    return is_exact(s.way) || s.cases == s.without;  // there is nothing to hold it against
  });
  if (all.size() < 2) return {};
  const auto first = std::ranges::min_element(all, [](const WayStanding& a, const WayStanding& b) {
    const std::size_t out_a = a.without + a.refused, out_b = b.without + b.refused;
    return out_a != out_b ? out_a < out_b : a.mean < b.mean;
  });
  const std::string best = first->way;
  const auto of_best = distances_of(t, best);
  std::vector<PairedFinding> found;
  for (const WayStanding& s : all) {
    if (s.way == best) continue;
    PairedFinding f{best, s.way, 0, 0, 0, 1.0};
    std::vector<double> differences;
    for (auto& [name, runs] : distances_of(t, s.way)) {
      const auto mine = of_best.find(name);
      if (mine == of_best.end()) continue;
      const double a = median(mine->second), b = median(runs);
      constexpr double kFar = 1e6;  // no plan: farther than any
      const double d = std::min(b, kFar) - std::min(a, kFar);
      if (std::abs(d) <= kSame) {
        ++f.ties;
        continue;
      }
      ++(d > 0.0 ? f.wins : f.losses);
      differences.push_back(d);
    }
    f.chance = signed_rank_chance(differences);
    found.push_back(std::move(f));
  }
  // Holm: the least chance counts times all comparisons, the next times one fewer, never falling.
  std::vector<std::size_t> order(found.size());
  for (std::size_t k = 0; k < order.size(); ++k) order[k] = k;
  std::ranges::sort(order, {}, [&](std::size_t k) { return found[k].chance; });
  double least = 0.0;
  for (std::size_t k = 0; k < order.size(); ++k) {
    double& chance = found[order[k]].chance;
    chance = least = std::max(least, std::min(1.0, chance * static_cast<double>(order.size() - k)));
  }
  return found;
}

}  // namespace kiteknot
