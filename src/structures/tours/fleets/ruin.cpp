// Ruin and recreate; see route_search.hpp.

#include <algorithm>
#include <cmath>
#include <utility>

#include "base/random.hpp"
#include "structures/tours/fleets/route_search.hpp"
#include "structures/tours/neighbours.hpp"

namespace kiteknot::structures::tours {
namespace {

class Ruin {
 public:
  Ruin(const Fleet& fleet, const RuinOptions& options)
      : fleet_(fleet),
        d_(fleet.distances),
        options_(options),
        random_(options.seed),
        near_(d_, std::min<std::size_t>(kNear, at(std::max<Index>(1, fleet.size() - 1)))) {}

  Routes run(Routes routes) {
    const Stopwatch clock;
    Routes best = routes;
    double now = cost(routes), least = now;
    const auto n = static_cast<double>(fleet_.size());
    const std::int64_t rounds = options_.rounds >= 0 ? options_.rounds
                                : std::isfinite(options_.seconds)
                                    ? std::numeric_limits<std::int64_t>::max()
                                    : 20'000 + 1'000 * std::int64_t{fleet_.size()};
    // From three legs down to a thirtieth.
    const double hot = 3.0 * length(fleet_, routes) / n, cold = 0.01 * hot;
    for (std::int64_t k = 0; k < rounds; ++k) {
      constexpr std::int64_t kLook = 64;
      if (k % kLook == 0) {
        if (clock.seconds() >= options_.seconds || options_.interrupt.now()) break;
        const double done =
            std::isfinite(options_.seconds) && options_.rounds < 0
                ? clock.seconds() / options_.seconds
                : static_cast<double>(k) / static_cast<double>(std::max<std::int64_t>(1, rounds));
        heat_ = hot * std::pow(cold / hot, std::min(1.0, done));
      }
      Routes next = routes;
      take_out(next);
      put_back(next);
      const double then = cost(next);
      const double worse = -heat_ * std::log(std::max(random_.fraction(), 1e-12));
      if (then >= now + worse) continue;
      routes = std::move(next);
      now = then;
      if (now >= least - 1e-9) continue;
      least = now;
      best = routes;
      if (options_.progress) options_.progress(clock.seconds(), length(fleet_, best));
    }
    improve_routes(fleet_, best, options_.interrupt);
    return best;
  }

 private:
  static constexpr std::size_t kNear = 100;

  // A trip too many costs more than all legs.
  [[nodiscard]] double cost(const Routes& routes) const {
    Index trips = 0;
    for (const auto& r : routes) trips += r.empty() ? 0 : 1;
    const double legs = length(fleet_, routes);
    return trips <= fleet_.most ? legs : legs + (trips - fleet_.most) * too_many();
  }
  [[nodiscard]] double too_many() const {
    double longest = 1.0;
    for (Index s = 0; s < fleet_.size(); ++s)
      longest = std::max({longest, d_(fleet_.gate, s), d_(s, fleet_.gate)});
    return 10.0 * longest;
  }

  std::int64_t draw(std::int64_t low, std::int64_t high) {
    return random_.between(low, std::max(low, high));
  }

  void take_out(Routes& routes) {
    constexpr std::int64_t kLongest = 10, kWanted = 10;
    out_.clear();
    double mean = 0.0;
    std::size_t used = 0;
    std::vector<Index> route_of(at(fleet_.size()), -1);
    for (std::size_t r = 0; r < routes.size(); ++r) {
      for (const Index s : routes[r]) route_of[at(s)] = static_cast<Index>(r);
      mean += static_cast<double>(routes[r].size());
      used += routes[r].empty() ? 0 : 1;
    }
    if (used == 0) return;
    mean /= static_cast<double>(used);
    const auto longest = std::min(kLongest, static_cast<std::int64_t>(std::ceil(mean)));
    const std::int64_t strings =
        draw(1, std::max<std::int64_t>(1, 4 * kWanted / (1 + longest) - 1));
    Index seed = fleet_.gate;
    while (seed == fleet_.gate) seed = static_cast<Index>(draw(0, fleet_.size() - 1));
    std::vector<char> touched(routes.size(), 0);
    std::int64_t left = strings;
    const auto string_at = [&](Index s) {
      if (s == fleet_.gate || route_of[at(s)] < 0 || left == 0) return;
      const auto r = at(route_of[at(s)]);
      if (touched[r] != 0) return;
      touched[r] = 1;
      --left;
      auto& route = routes[r];
      const auto size = static_cast<std::int64_t>(route.size());
      const std::int64_t count = draw(1, std::min(size, longest));
      const auto k = static_cast<std::int64_t>(std::ranges::find(route, s) - route.begin());
      const std::int64_t first =
          draw(std::max<std::int64_t>(0, k - count + 1), std::min(k, size - count));
      for (std::int64_t j = first; j < first + count; ++j) {
        out_.push_back(route[static_cast<std::size_t>(j)]);
        route_of[at(out_.back())] = -1;
      }
      route.erase(route.begin() + first, route.begin() + first + count);
    };
    string_at(seed);
    for (const Index s : near_.of(seed)) string_at(s);
  }

  // By chance in any order, by load, or far and near first; each where it costs least.
  void put_back(Routes& routes) {
    for (std::size_t k = out_.size(); k > 1; --k)
      std::swap(out_[k - 1],
                out_[static_cast<std::size_t>(draw(0, static_cast<std::int64_t>(k) - 1))]);
    const std::int64_t how = draw(0, 10);
    if (how >= 4 && how < 8)
      std::ranges::stable_sort(out_, std::greater{}, [&](Index s) { return fleet_.load[at(s)]; });
    else if (how >= 8 && how < 10)
      std::ranges::stable_sort(out_, std::greater{}, [&](Index s) { return d_(fleet_.gate, s); });
    else if (how == 10)
      std::ranges::stable_sort(out_, {}, [&](Index s) { return d_(fleet_.gate, s); });
    loads_.assign(routes.size(), 0);
    for (std::size_t r = 0; r < routes.size(); ++r) loads_[r] = load(fleet_, routes[r]);
    constexpr double kPassedOver = 0.01;
    for (const Index s : out_) {
      double least = std::numeric_limits<double>::infinity();
      std::size_t route = routes.size(), place = 0;
      bool empty_seen = false;
      for (std::size_t r = 0; r < routes.size(); ++r) {
        if (loads_[r] + fleet_.load[at(s)] > fleet_.capacity) continue;
        if (routes[r].empty() && std::exchange(empty_seen, true)) continue;
        Index from = fleet_.gate;
        for (std::size_t k = 0; k <= routes[r].size(); ++k) {
          const Index to = k == routes[r].size() ? fleet_.gate : routes[r][k];
          const double more = d_(from, s) + d_(s, to) - (from == to ? 0.0 : d_(from, to));
          if (more < least && !random_.chance(kPassedOver)) {
            least = more;
            route = r;
            place = k;
          }
          from = to;
        }
      }
      if (route == routes.size()) {  // a new trip, though it may be one too many
        routes.emplace_back();
        loads_.push_back(0);
        place = 0;
      }
      routes[route].insert(routes[route].begin() + static_cast<std::ptrdiff_t>(place), s);
      loads_[route] += fleet_.load[at(s)];
    }
    std::erase_if(routes, [](const auto& r) { return r.empty(); });
    if (static_cast<Index>(routes.size()) < fleet_.most) routes.emplace_back();
  }

  const Fleet& fleet_;
  const Distances& d_;
  const RuinOptions& options_;
  Random random_;
  Neighbours near_;
  double heat_ = 0.0;
  std::vector<Index> out_;
  std::vector<std::int64_t> loads_;
};

}  // namespace

Routes ruin_and_recreate(const Fleet& fleet, Routes routes, const RuinOptions& options) {
  if (fleet.size() < 3) return routes;
  routes = Ruin(fleet, options).run(std::move(routes));
  std::erase_if(routes, [](const auto& r) { return r.empty(); });
  return routes;
}

}  // namespace kiteknot::structures::tours
