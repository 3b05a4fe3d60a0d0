#include "methods/tours/ways.hpp"

#include <algorithm>
#include <numeric>

#include "structures/tours/build.hpp"
#include "structures/tours/directed.hpp"
#include "structures/tours/insertion.hpp"
#include "structures/tours/tree_tour.hpp"

namespace kiteknot {

const std::vector<TourWay>& tour_ways() {
  static const std::vector<TourWay> ways = {
      {"exact", "the shortest, with its proof", true, true, true, true},
      {"ruin", "several trips: parts taken out and put back, again and again", true, true, false,
       true},
      {"sweep", "several trips: filled one by one, by direction as seen from where they start",
       true, false, false, true},
      {"chains", "chains of exchanged legs, and kicks", true, true},
      {"segments", "exchanges, moves, and segments that change places", false, false},
      {"exchange", "single exchanges and moves, until none pays", false, false},
      {"savings", "legs by what they save over single visits", false, false, true, true},
      {"tree", "around a short tree whose odd ends are paired", false, false},
      {"legs", "the shortest legs that fit", false, false},
      {"farthest", "puts in the farthest stop, where it fits best", true, false},
      {"cheapest", "puts in the stop that fits best", true, false},
      {"nearby", "puts in the stop nearest to the tour", true, false},
      {"nearest", "on to the nearest stop that is left", true, false},
      {"curve", "along a curve that fills the plane", false, false},
  };
  return ways;
}

}  // namespace kiteknot

namespace kiteknot::methods {
namespace {

using linalg::Index;
namespace tours = structures::tours;

constexpr std::size_t kNear = 8;  // stops that moves look at

}  // namespace

std::vector<Index> tour_by_chains(const tours::Distances& d, std::vector<Index> start,
                                  const tours::ChainOptions& options) {
  const Index n = d.size();
  if (n < 4 && d.symmetric()) {
    std::vector<Index> all(at(n));
    std::iota(all.begin(), all.end(), 0);
    return all;
  }
  if (d.symmetric()) {
    const tours::Neighbours near(d, kNear, options.interrupt);
    if (start.empty()) start = tours::by_shortest_legs(d, near, options.interrupt);
    return tours::improve_by_chains(d, near, std::move(start), options).tour;
  }
  const tours::Distances pairs = tours::nearly_arrivals_and_departures(d);
  const tours::Neighbours near(pairs, kNear, options.interrupt);
  if (start.empty()) start = tours::by_insertion(d, tours::Insert::cheapest, options.interrupt);
  const double tied = n > 0 ? pairs(0, n) * static_cast<double>(n) : 0.0;
  tours::ChainOptions paired = options;
  if (options.progress)
    paired.progress = [&](double seconds, double length) {
      options.progress(seconds, length - tied);
    };
  std::vector<Index> tour = tours::directed_tour(
      tours::improve_by_chains(pairs, near, tours::symmetric_tour(start), paired).tour, n);
  return tours::length(d, tour) <= tours::length(d, start) ? tour : start;
}

std::vector<Index> tour_by(const std::string& way, const tours::Distances& d,
                           std::vector<Index> start, const TourOptions& options,
                           const Interrupt& interrupt,
                           const std::function<void(double, double)>& progress) {
  if (way == "nearest") return tours::by_nearest_stop(d, options.first);
  if (way == "farthest") return tours::by_insertion(d, tours::Insert::farthest, interrupt);
  if (way == "cheapest") return tours::by_insertion(d, tours::Insert::cheapest, interrupt);
  if (way == "nearby") return tours::by_insertion(d, tours::Insert::nearest, interrupt);
  if (way == "curve") return tours::by_curve(d);
  if (way == "chains") {
    tours::ChainOptions chains;
    chains.seconds = options.seconds;
    chains.seed = options.seed;
    chains.interrupt = interrupt;
    chains.progress = progress;
    constexpr std::int64_t kKicks = 10;  // a stop, where no time is given
    if (options.seconds < std::numeric_limits<double>::infinity())
      chains.kicks = std::numeric_limits<std::int64_t>::max();
    else
      chains.kicks = kKicks * d.size();
    return tour_by_chains(d, std::move(start), chains);
  }
  if (way == "tree") return tours::by_tree_and_pairs(d, interrupt);
  const tours::Neighbours near(d, kNear, interrupt);
  if (way == "savings") return tours::by_savings(d, near, interrupt);
  std::vector<Index> tour =
      start.empty() ? tours::by_shortest_legs(d, near, interrupt) : std::move(start);
  if (way == "legs") return tour;
  tours::Moves moves;
  moves.swap = way == "segments";
  return tours::improve(d, near, std::move(tour), moves, interrupt).tour;
}

}  // namespace kiteknot::methods
