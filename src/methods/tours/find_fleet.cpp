#include "methods/tours/find_fleet.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/stops_data.hpp"
#include "methods/budget.hpp"
#include "methods/tours/fleet_search.hpp"
#include "structures/tours/fleets/build_routes.hpp"
#include "structures/tours/fleets/route_search.hpp"

namespace kiteknot::methods {
namespace {

using linalg::Index;
using tours::Fleet;
using tours::Routes;

// Loads and capacity as whole numbers of the largest decimal unit that says all of them; 0: none
// down to a millionth does.
double units_of_loads(const StopsData& stops) {
  constexpr double kFinest = 1e6, kLargest = 1e12;
  const auto whole = [](double v) { return std::abs(v - std::round(v)) <= 1e-9 * std::abs(v); };
  for (double units = 1.0; units <= kFinest; units *= 10.0) {
    const bool all = whole(*stops.capacity * units) &&
                     std::ranges::all_of(stops.demand, [&](double d) { return whole(d * units); });
    if (all) return *stops.capacity * units <= kLargest ? units : 0.0;
  }
  return 0.0;
}

class FleetFinder {
 public:
  FleetFinder(const Stops& stops, const TourOptions& options)
      : stops_(stops),
        data_(stops.data()),
        options_(options),
        interrupt_(methods::budget_of(options).interrupt(clock_)),
        lengths_(data_.distances),
        fleet_{data_.distances, data_.depot, {}, 0, 0} {
    const double units = units_of_loads(data_);
    const auto whole = [&](double v) { return static_cast<std::int64_t>(std::llround(v * units)); };
    for (const double d : data_.demand) fleet_.load.push_back(whole(d));
    fleet_.load[at(fleet_.gate)] = 0;
    fleet_.capacity = whole(*data_.capacity);
    fleet_.most = data_.most_trips > 0 ? data_.most_trips : std::max<Index>(1, stops.size() - 1);
    answer_.way = options.way;
    const std::int64_t n = stops.size();
    answer_.legs = stops.directed() ? n * (n - 1) : n * (n - 1) / 2;
    answer_.millionths = data_.distances.in_millionths() || lengths_.rounded();
  }

  TourAnswer run() {
    if (stops_.size() < 2)
      take({});
    else if (options_.way == "exact")
      exactly();
    else
      by_hand();
    answer_.seconds = clock_.seconds();
    return std::move(answer_);
  }

 private:
  void by_hand() {
    Routes routes;
    if (options_.way == "sweep") {
      routes = tours::sweep(fleet_);
    } else {
      routes = tours::savings(fleet_);
      if (options_.way != "savings") tours::improve_routes(fleet_, routes, interrupt_);
      if (options_.way == "ruin") routes = ruined(std::move(routes), -1, options_.seconds);
    }
    answer_.outcome = Outcome::unproven;
    if (options_.stop.pressed()) answer_.stopped_by = "hand";
    if (tours::fits(fleet_, routes)) return take(routes);
    answer_.outcome = Outcome::undecided;
    answer_.reason = fmt::format("it needs {} where at most {} may be",
                                 counted(routes.size(), "trip"), fleet_.most);
  }

  Routes ruined(Routes routes, std::int64_t rounds, double seconds) {
    tours::RuinOptions ruin;
    ruin.rounds = rounds;
    ruin.seconds = seconds - clock_.seconds();
    ruin.seed = options_.seed;
    ruin.interrupt = interrupt_;
    ruin.progress = [&](double, double length) { note(length, 0.0); };
    return tours::ruin_and_recreate(fleet_, std::move(routes), ruin);
  }

  void exactly() {
    if (!lengths_.fits())
      throw UsageError(
          "lengths are too large or too many to be added up exactly; 'ruin' takes them");
    constexpr std::int64_t kRounds = 200;  // a stop
    Routes routes = tours::savings(fleet_);
    tours::improve_routes(fleet_, routes, interrupt_);
    routes =
        ruined(std::move(routes), kRounds * stops_.size(), std::numeric_limits<double>::infinity());
    const bool known = tours::fits(fleet_, routes);
    if (known) {
      take(routes);
      answer_.start_length = answer_.length;
    }
    LegSearchOptions search;
    search.budget = methods::budget_of(options_).less(clock_.seconds(), 0);
    search.gap = options_.gap;
    Watch watch(*this);
    const FleetAnswer found =
        search_fleet(fleet_, lengths_, known ? routes : Routes{}, search, &watch);
    answer_.outcome = found.outcome;
    answer_.stopped_by = found.stopped_by;
    answer_.reason = found.reason;
    answer_.nodes = found.nodes;
    answer_.rules = {found.rows[0], 0, 0};
    answer_.load_rules = found.rows[1];
    if (!found.routes.empty()) take(found.routes);
    if (found.outcome == Outcome::infeasible) return;
    if (std::isfinite(found.bound)) answer_.bound = told(found.bound);
    if (std::isfinite(found.root_bound)) answer_.root_bound = told(found.root_bound);
    if (found.outcome == Outcome::optimal) answer_.bound = answer_.length;
    if (answer_.order.empty() || !answer_.bound) return;
    const double open = (answer_.length - *answer_.bound).to_double();
    answer_.gap = open <= 0.0 ? 0.0 : open / std::max(answer_.length.to_double(), 1e-10);
  }

  // A bound in units is rounded up: lengths are whole there. The search's own is a double, a little
  // below the sum that it stands for.
  [[nodiscard]] Rational told(double units) const {
    constexpr double kSlack = 1e-6;
    const auto whole =
        static_cast<std::int64_t>(std::ceil(units - kSlack * std::max(1.0, units * 1e-6)));
    return Rational(whole) / Rational(static_cast<std::int64_t>(lengths_.units()));
  }

  void take(const Routes& routes) {
    answer_.trips.clear();
    answer_.order.assign(1, fleet_.gate);
    std::int64_t sum = 0;
    double length = 0.0;
    for (const auto& route : routes) {
      if (route.empty()) continue;
      std::vector<std::int32_t> trip{fleet_.gate};
      trip.insert(trip.end(), route.begin(), route.end());
      // To the nearer end first.
      if (!stops_.directed() && trip.size() > 2 &&
          stops_.length(fleet_.gate, trip.back()) < stops_.length(fleet_.gate, trip[1]))
        std::reverse(trip.begin() + 1, trip.end());
      answer_.order.insert(answer_.order.end(), trip.begin() + 1, trip.end());
      for (std::size_t k = 0; k < trip.size(); ++k) {
        const Index to = trip[k + 1 == trip.size() ? 0 : k + 1];
        sum += lengths_(trip[k], to);
        length += data_.distances(trip[k], to);
      }
      answer_.trips.push_back(std::move(trip));
    }
    std::ranges::stable_sort(answer_.trips, {}, [](const auto& t) { return t[1]; });
    answer_.length = lengths_.fits()
                         ? Rational(sum) / Rational(static_cast<std::int64_t>(lengths_.units()))
                         : Rational::exactly(length);
    note(answer_.length.to_double(), 0.0);
    if (stops_.size() < 2) {
      answer_.outcome = Outcome::optimal;
      answer_.bound = answer_.length;
      answer_.gap = 0.0;
    }
  }

  void note(double length, double bound) {
    constexpr double kMillion = 1e6;
    const TourProgress p{clock_.seconds(), std::round(length * kMillion) / kMillion, bound};
    if (answer_.progress.empty() || answer_.progress.back().length != p.length ||
        answer_.progress.back().bound != p.bound)
      answer_.progress.push_back(p);
    if (options_.watch) options_.watch(p);
  }

  class Watch final : public mip::Listener {
   public:
    explicit Watch(FleetFinder& finder)
        : finder_(finder), scale_(scale_of(finder.lengths_) * finder.lengths_.units()) {}
    void better_plan(const mip::Standing& s, std::span<const Rational>) override { progress(s); }
    void progress(const mip::Standing& s) override {
      finder_.note(std::isfinite(s.best) ? s.best / scale_ : finder_.answer_.length.to_double(),
                   std::isfinite(s.bound) ? s.bound / scale_ : 0.0);
    }

   private:
    FleetFinder& finder_;
    double scale_;
  };

  const Stops& stops_;
  const StopsData& data_;
  const TourOptions& options_;
  Stopwatch clock_;
  Interrupt interrupt_;
  tours::WholeLengths lengths_;
  Fleet fleet_;
  TourAnswer answer_;
};

}  // namespace

std::string no_trips(const StopsData& stops) {
  if (stops.depot < 0 || stops.demand.size() != stops.names.size())
    return "several trips need a gate and a load for every stop";
  if (!(*stops.capacity > 0.0))
    return fmt::format("a trip that carries at most {} carries nothing", figure(*stops.capacity));
  for (std::size_t s = 0; s < stops.demand.size(); ++s) {
    if (static_cast<Index>(s) == stops.depot) continue;
    if (stops.demand[s] < 0.0)
      return fmt::format("the load of {} is {}: loads are not below 0", stops.names[s],
                         figure(stops.demand[s]));
  }
  if (units_of_loads(stops) == 0.0)
    return "loads are too large, or have more than six decimals, to be added up exactly";
  return {};
}

namespace {

// Why loads leave no trips at all; empty: nothing that simple.
std::string too_much(const StopsData& stops) {
  double all = 0.0;
  for (std::size_t s = 0; s < stops.demand.size(); ++s) {
    if (static_cast<Index>(s) == stops.depot) continue;
    all += stops.demand[s];
    if (stops.demand[s] > *stops.capacity)
      return fmt::format("{} alone has {} to carry, and a trip carries at most {}", stops.names[s],
                         figure(stops.demand[s]), figure(*stops.capacity));
  }
  if (stops.most_trips > 0 && all > *stops.capacity * stops.most_trips * (1.0 + 1e-12))
    return fmt::format("{} have to be carried in all, and {} carry at most {}", figure(all),
                       counted(static_cast<std::size_t>(stops.most_trips), "trip"),
                       figure(*stops.capacity * stops.most_trips));
  return {};
}

}  // namespace

TourAnswer find_trips(const Stops& stops, const TourOptions& options) {
  if (std::string why = too_much(stops.data()); !why.empty()) {
    TourAnswer answer;
    answer.way = options.way;
    answer.outcome = Outcome::infeasible;
    answer.reason = std::move(why);
    return answer;
  }
  return FleetFinder(stops, options).run();
}

}  // namespace kiteknot::methods
