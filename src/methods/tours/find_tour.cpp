// From stops to an answer in their numbers.

#include <algorithm>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

#include "base/check.hpp"
#include "base/text.hpp"
#include "data/stops_data.hpp"
#include "methods/budget.hpp"
#include "methods/tours/exact_tour.hpp"
#include "methods/tours/find_fleet.hpp"
#include "methods/tours/ways.hpp"
#include "structures/tours/directed.hpp"
#include "structures/tours/one_tree.hpp"

namespace kiteknot {
namespace {

using linalg::Index;
using methods::ExactTour;
using methods::ExactTourOptions;
namespace tours = structures::tours;

// Stops as the engine wants them: symmetric lengths, and legs that have to be there.
class Laid {
 public:
  explicit Laid(const StopsData& stops) : stops_(stops), directed_(!stops.distances.symmetric()) {
    if (directed_) {
      pairs_.emplace(tours::arrivals_and_departures(stops.distances));
      sure_ = tours::ties(stops.distances.size());
    }
    lengths_.emplace(directed_ ? *pairs_ : stops.distances);
    const Index n = stops.distances.size();
    for (const auto& [a, b] : stops.fixed)
      sure_.push_back(directed_ ? tours::Leg{b, a + n}  // from a's departure to b's arrival
                                : tours::Leg{std::min(a, b), std::max(a, b)});
    std::sort(sure_.begin(), sure_.end());
    sure_.erase(std::unique(sure_.begin(), sure_.end()), sure_.end());
  }
  [[nodiscard]] const tours::WholeLengths& lengths() const { return *lengths_; }
  [[nodiscard]] const std::vector<tours::Leg>& sure() const { return sure_; }
  [[nodiscard]] std::vector<Index> in(const std::vector<Index>& tour) const {
    return directed_ && !tour.empty() ? tours::symmetric_tour(tour) : tour;
  }
  [[nodiscard]] std::vector<Index> out(const std::vector<Index>& tour) const {
    return directed_ && !tour.empty() ? tours::directed_tour(tour, stops_.distances.size()) : tour;
  }
  [[nodiscard]] Rational told(std::int64_t units) const {
    return Rational(units) / Rational(static_cast<std::int64_t>(lengths_->units()));
  }
  /// Heuristics know nothing of legs that have to be there.
  [[nodiscard]] bool heuristics_serve() const { return stops_.fixed.empty(); }

 private:
  const StopsData& stops_;
  bool directed_;
  std::optional<tours::Distances> pairs_;
  std::optional<tours::WholeLengths> lengths_;
  std::vector<tours::Leg> sure_;
};

// Why it does not; empty: it does.
std::string refusal(const Stops& stops, const TourWay& way) {
  const std::int32_t n = stops.size();
  if (stops.several()) {
    constexpr std::int32_t kMostSeveral = 5000, kMostProven = 300;
    if (!way.several)
      return fmt::format("'{}' makes one round trip, and these stops are for several", way.name);
    if (std::string why = methods::no_trips(stops.data()); !why.empty()) return why;
    if (!stops.data().fixed.empty())
      return "legs that have to be there are not kept where there are several trips";
    if (way.name == "sweep" && !stops.data().distances.has_places())
      return "'sweep' needs to know where the stops are, and a matrix does not tell";
    if (n > (way.name == "exact" ? kMostProven : kMostSeveral))
      return fmt::format(
          "{} stops are more than the {} that '{}' takes where there are several "
          "trips",
          n, way.name == "exact" ? kMostProven : kMostSeveral, way.name);
    return {};
  }
  if (!way.one)
    return fmt::format("'{}' makes several trips, and these stops are for one", way.name);
  if (stops.directed() && !way.directed)
    return fmt::format("lengths differ there and back, which '{}' does not take", way.name);
  if (way.name == "exact" && n > kMostExactStops)
    return fmt::format(
        "{} stops are more than the {} that 'exact' takes; 'chains' takes any number", n,
        kMostExactStops);
  if (way.name == "curve" && !stops.data().distances.has_places())
    return "'curve' needs to know where the stops are, and a matrix does not tell";
  if (way.name != "exact" && !stops.data().fixed.empty())
    return fmt::format("legs that have to be there are only kept by 'exact', not by '{}'",
                       way.name);
  return {};
}

void check(const Stops& stops, const TourOptions& options, const TourWay& way) {
  const std::int32_t n = stops.size();
  if (!(options.seconds >= 0.0) || !(options.gap >= 0.0) || !std::isfinite(options.gap))
    throw UsageError(
        fmt::format("{} seconds and a gap of {} make no sense", options.seconds, options.gap));
  if (const std::string why = refusal(stops, way); !why.empty()) throw UsageError(why);
  if (options.first < 0 || options.first >= std::max(n, 1))
    throw UsageError("the tour is to start at a stop that is not there");
  if (options.start.empty()) return;
  if (stops.several())
    throw UsageError("a tour to begin with is one, and these stops are for several");
  std::vector<char> seen(static_cast<std::size_t>(n), 0);
  bool fine = options.start.size() == static_cast<std::size_t>(n);
  for (const std::int32_t s : options.start)
    if (s < 0 || s >= n || std::exchange(seen[static_cast<std::size_t>(s)], 1) != 0) fine = false;
  if (!fine) throw UsageError("the tour to begin with does not have every stop once");
}

class Finder {
 public:
  Finder(const Stops& stops, const TourOptions& options)
      : stops_(stops),
        options_(options),
        laid_(stops.data()),
        interrupt_(methods::budget_of(options).interrupt(clock_)) {
    answer_.way = options.way;
    const std::int64_t n = stops.size();
    answer_.legs = stops.directed() ? n * (n - 1) : n * (n - 1) / 2;
    answer_.millionths = stops.data().distances.in_millionths() || laid_.lengths().rounded();
  }

  TourAnswer run() {
    if (stops_.size() < (stops_.directed() ? 3 : 4) && laid_.heuristics_serve())
      few();
    else if (options_.way != "exact")
      by_hand();
    else if (!laid_.lengths().fits())
      throw UsageError(
          "lengths are too large or too many to be added up exactly; 'chains' takes them");
    else if (options_.in_rounds)
      in_rounds();
    else
      exactly();
    start_at_first();
    if (options_.way == "exact") answer_.seconds = clock_.seconds();
    return std::move(answer_);
  }

 private:
  // Every order is as long as any other.
  void few() {
    std::vector<Index> order(static_cast<std::size_t>(stops_.size()));
    std::iota(order.begin(), order.end(), 0);
    take(order);
    answer_.outcome = Outcome::optimal;
    answer_.bound = answer_.length;
    answer_.gap = 0.0;
  }

  void by_hand() {
    const auto watch = [&](double seconds, double length) { note(seconds, length, 0.0); };
    // The rest of the time is the bound's.
    constexpr double kShare = 0.7;
    TourOptions own = options_;
    if (has_bound()) own.seconds *= kShare;
    const Interrupt in_time = methods::budget_of(own).interrupt(clock_);
    take(methods::tour_by(options_.way, stops_.data().distances, options_.start, own, in_time,
                          watch));
    answer_.outcome = Outcome::unproven;
    if (options_.stop.pressed())
      answer_.stopped_by = "hand";
    else if (in_time.by_time() && !tour_way(options_.way).improves)
      answer_.stopped_by = "time";  // one that improves goes on as long as it may
    answer_.seconds = clock_.seconds();
    if (has_bound() && !interrupt_.now()) bound_by_trees();
  }

  [[nodiscard]] bool has_bound() const {
    constexpr Index kMostStops = 200'000;  // half a minute
    return options_.with_bound && !stops_.directed() && laid_.lengths().fits() &&
           !laid_.lengths().rounded() && stops_.size() <= kMostStops;
  }

  void bound_by_trees() {
    constexpr Index kAllLegs = 1000;
    constexpr int kRounds = 150;
    std::optional<tours::Neighbours> near;
    constexpr std::size_t kNear = 8;
    if (stops_.size() > kAllLegs) near.emplace(stops_.data().distances, kNear, interrupt_);
    if (interrupt_.now()) return;
    const double bound =
        tours::one_tree_bound(stops_.data().distances, {.upper = answer_.length.to_double(),
                                                        .rounds = kRounds,
                                                        .near = near ? &*near : nullptr,
                                                        .interrupt = interrupt_})
            .value;
    if (!std::isfinite(bound)) return;
    // Tours are whole in units.
    const double units = laid_.lengths().units();
    answer_.bound =
        std::min(answer_.length, (Rational::exactly(bound) * Rational::exactly(units)).ceil() /
                                     Rational::exactly(units));
    tell_gap();
  }

  void tell_gap() {
    const double open = (answer_.length - *answer_.bound).to_double();
    answer_.gap = open <= 0.0 ? 0.0 : open / std::max(std::abs(answer_.length.to_double()), 1e-10);
    if (open <= 0.0) answer_.outcome = Outcome::optimal;
  }

  void exactly() {
    ExactTourOptions exact = exact_options();
    const ExactTour found = methods::solve_exactly(
        laid_.lengths(), laid_.sure(),
        [&](std::vector<Index> tour, std::int64_t kicks, std::uint64_t draw) {
          return better(std::move(tour), kicks, draw);
        },
        exact);
    answer_.outcome = found.outcome;
    answer_.stopped_by = found.stopped_by;
    answer_.reason = found.reason;
    answer_.nodes = found.nodes;
    answer_.rules = found.rows;
    answer_.legs_kept = std::max<std::int64_t>(0, found.legs_kept - ties());
    if (!found.tour.empty()) {
      take(laid_.out(found.tour));
      KITEKNOT_CHECK(answer_.length == laid_.told(found.length),
                     "a tour is as long as the proof says");
    }
    if (found.start_length > 0) answer_.start_length = laid_.told(found.start_length);
    if (found.outcome != Outcome::infeasible) {
      answer_.bound = laid_.told(found.bound);
      answer_.root_bound = laid_.told(found.root_bound);
    }
    if (!answer_.order.empty()) tell_gap();
    if (!stops_.directed() && !found.first_legs.empty()) answer_.relaxed = told(found);
    tell_of_loose();
  }

  // What two legs at every stop come to, where that is soon known.
  void tell_of_loose() {
    constexpr Index kMost = 250;
    constexpr double kShare = 0.5, kLeast = 0.3;  // of the time so far; seconds
    if (answer_.order.empty() || laid_.lengths().size() > kMost || interrupt_.now()) return;
    ExactTourOptions exact = exact_options();
    exact.budget.seconds =
        std::min(options_.seconds - clock_.seconds(), kLeast + kShare * clock_.seconds());
    exact.watch = {};
    const methods::Rounds rounds =
        methods::solve_in_rounds(laid_.lengths(), laid_.sure(), laid_.in(answer_.order), 1, exact);
    if (!rounds.rounds.empty()) answer_.loose = told(rounds.rounds.front());
  }

  void in_rounds() {
    constexpr int kMost = 1000;
    std::vector<Index> tour = laid_.in(options_.start);
    constexpr std::int64_t kKicks = 2;   // a stop
    constexpr double kStartShare = 0.3;  // of the time: the rounds are what was asked for
    if (laid_.heuristics_serve())
      tour = better(std::move(tour), kKicks * laid_.lengths().size(), 0,
                    kStartShare * (options_.seconds - clock_.seconds()));
    const methods::Rounds all =
        methods::solve_in_rounds(laid_.lengths(), laid_.sure(), tour, kMost, exact_options());
    for (const methods::LoopRound& round : all.rounds) answer_.rounds.push_back(told(round));
    answer_.outcome = all.outcome;
    answer_.stopped_by = all.stopped_by;
    answer_.reason = all.reason;
    answer_.nodes = all.nodes;
    answer_.rules[0] = all.loops;
    answer_.legs_kept = std::max<std::int64_t>(0, all.legs_kept - ties());
    if (!all.rounds.empty()) {
      answer_.bound = answer_.rounds.back().length;
      answer_.loose = answer_.rounds.front();
    }
    if (all.outcome == Outcome::optimal) {
      take(answer_.rounds.back().loops.front());
      answer_.gap = 0.0;
    } else if (!tour.empty() && all.outcome != Outcome::infeasible) {
      take(laid_.out(tour));
      answer_.outcome = Outcome::unproven;
      if (answer_.bound)
        answer_.gap = (answer_.length - *answer_.bound).to_double() / answer_.length.to_double();
    }
  }

  // Legs between an arrival and its departure are nobody's.
  [[nodiscard]] std::int64_t ties() const { return stops_.directed() ? stops_.size() : 0; }

  [[nodiscard]] TourRound told(const methods::LoopRound& round) const {
    TourRound told{laid_.told(round.length), {}};
    for (const std::vector<Index>& loop : round.loops) told.loops.push_back(laid_.out(loop));
    return told;
  }

  [[nodiscard]] RelaxedTour told(const ExactTour& found) const {
    constexpr double kNothing = 1e-6;
    RelaxedTour relaxed;
    tours::LegCounts counts(laid_.lengths().size());
    double length = 0.0;
    for (std::size_t k = 0; k < found.first_legs.size(); ++k) {
      const auto& [a, b] = found.first_legs[k];
      const double x = found.first_values[k];
      length += x * static_cast<double>(laid_.lengths()(a, b));
      if (x > kNothing) relaxed.legs.push_back({a, b, std::min(x, 1.0)});
    }
    relaxed.length = laid_.told(std::llround(length));
    // The smallest ones that lie apart.
    constexpr std::size_t kMostSets = 3;
    std::vector<tours::StopRow> rows = found.first_rows;
    std::stable_sort(rows.begin(), rows.end(),
                     [](const tours::StopRow& p, const tours::StopRow& q) {
                       return p.sets[0].size() < q.sets[0].size();
                     });
    std::vector<char> taken(at(laid_.lengths().size()), 0);
    for (const tours::StopRow& row : rows) {
      const std::vector<Index>& set = row.sets[0];
      if (kind_of(row) != tours::RowKind::loop || relaxed.sets.size() == kMostSets ||
          std::any_of(set.begin(), set.end(), [&](Index s) { return taken[at(s)] != 0; }))
        continue;
      for (const Index s : set) taken[at(s)] = 1;
      relaxed.sets.emplace_back(set, counts.value(row, found.first_legs, found.first_values));
    }
    return relaxed;
  }

  [[nodiscard]] ExactTourOptions exact_options() {
    ExactTourOptions exact;
    exact.budget = methods::budget_of(options_).less(clock_.seconds(), 0);  // the rest of one limit
    exact.gap = options_.gap;
    exact.watch = [&](double seconds, std::int64_t length, std::int64_t bound) {
      note(seconds, laid_.told(length).to_double(), laid_.told(bound).to_double());
    };
    return exact;
  }

  [[nodiscard]] std::vector<Index> better(std::vector<Index> tour, std::int64_t kicks,
                                          std::uint64_t draw, double seconds = HUGE_VAL) const {
    if (!laid_.heuristics_serve()) return tour.empty() ? laid_.in(options_.start) : tour;
    tours::ChainOptions chains;
    chains.kicks = kicks;
    chains.seconds = seconds;
    chains.seed = options_.seed + draw;
    chains.interrupt = interrupt_;
    const std::vector<Index> from = tour.empty() ? options_.start : laid_.out(tour);
    return laid_.in(methods::tour_by_chains(stops_.data().distances, from, chains));
  }

  void take(const std::vector<Index>& order) {
    answer_.order = order;
    const tours::Distances& d = stops_.data().distances;
    answer_.length = laid_.lengths().fits()
                         ? laid_.told(tours::length(tours::WholeLengths(d), order))
                         : Rational::exactly(tours::length(d, order));
  }

  // Sums of what moves gained are off in the last places.
  void note(double seconds, double length, double bound) {
    constexpr double kMillion = 1e6;
    length = std::round(length * kMillion) / kMillion;
    const TourProgress p{seconds, length, bound};
    if (answer_.progress.empty() || answer_.progress.back().length != length ||
        answer_.progress.back().bound != bound)
      answer_.progress.push_back(p);
    if (options_.watch) options_.watch(p);
  }

  // The telling starts where it is wanted, and goes to the nearer side first.
  void start_at_first() {
    const auto turn = [&](std::vector<std::int32_t>& order) {
      const auto it = std::find(order.begin(), order.end(), options_.first);
      if (it == order.end()) return;
      std::rotate(order.begin(), it, order.end());
      if (!stops_.directed() && order.size() > 2 &&
          stops_.length(order[0], order.back()) < stops_.length(order[0], order[1]))
        std::reverse(order.begin() + 1, order.end());
    };
    turn(answer_.order);
    for (TourRound& round : answer_.rounds)
      for (std::vector<std::int32_t>& loop : round.loops) turn(loop);
  }

  const Stops& stops_;
  const TourOptions& options_;
  Stopwatch clock_;
  Laid laid_;
  Interrupt interrupt_;
  TourAnswer answer_;
};

}  // namespace

bool takes(const TourWay& way, const Stops& stops) {
  // Every stop against every other, where a matrix says how far they are: hours.
  constexpr std::int32_t kMostInserted = 20'000;
  const bool inserts = way.name == "farthest" || way.name == "cheapest" || way.name == "nearby";
  return refusal(stops, way).empty() &&
         !(inserts && stops.size() > kMostInserted && !stops.data().distances.has_places());
}

const TourWay& tour_way(const std::string& name) {
  std::vector<std::string> known;
  for (const TourWay& way : tour_ways()) {
    if (way.name == name) return way;
    known.push_back(way.name);
  }
  const std::string near = nearest_name(name, known);
  throw UsageError(fmt::format("there is no way called '{}' to get a tour{}", name,
                               near.empty() ? fmt::format("; there are {}", fmt::join(known, ", "))
                                            : fmt::format("; nearest is '{}'", near)));
}

TourAnswer find_tour(const Stops& stops, const TourOptions& options) {
  check(stops, options, tour_way(options.way));
  if (stops.several()) {
    if (options.in_rounds)
      throw UsageError("rounds are shown of one round trip, and these stops are for several");
    return methods::find_trips(stops, options);
  }
  return Finder(stops, options).run();
}

}  // namespace kiteknot
