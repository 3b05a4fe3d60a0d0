// Round trips: how soon they are proven, and how near to a bound each way to a tour comes. A page
// of Markdown. Usage: bench_tours exact [STOPS]   proofs; only families of so many stops
//        bench_tours ways [STOPS]    ways to a tour
//        bench_tours fleets [STOPS]  several trips with loads

#include <algorithm>
#include <cmath>
#include <iostream>
#include <numeric>

#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include "base/random.hpp"
#include "data/stops_data.hpp"
#include "kiteknot/kiteknot.hpp"
#include "structures/tours/one_tree.hpp"
#include "unit.hpp"

using namespace kiteknot;

namespace {

Stops on_a_plane(const std::vector<std::pair<double, double>>& places) {
  std::string text = "x,y\n";
  for (const auto& [x, y] : places) text += fmt::format("{:.3f},{:.3f}\n", x, y);
  return Stops::parse(text, "made up").value();
}

// Around one centre in a hundred stops, spread normally (Johnson and McGeoch 1997, section 2.1).
Stops clustered(std::int32_t count, std::uint64_t seed) {
  Random random(seed);
  std::vector<std::pair<double, double>> centres, places;
  for (std::int32_t k = 0; k < std::max(2, count / 100); ++k)
    centres.emplace_back(1000.0 * random.fraction(), 1000.0 * random.fraction());
  const double spread = 1000.0 / std::sqrt(static_cast<double>(count));
  for (std::int32_t k = 0; k < count; ++k) {
    const auto& [x, y] = centres[static_cast<std::size_t>(
        random.between(0, static_cast<std::int64_t>(centres.size()) - 1))];
    const double far = spread * std::sqrt(-2.0 * std::log(1.0 - random.fraction()));
    const double turn = 6.283185307179586 * random.fraction();
    places.emplace_back(x + far * std::cos(turn), y + far * std::sin(turn));
  }
  return on_a_plane(places);
}

// Holes on a grid, as a board is drilled: many legs of the same length.
Stops drilled(std::int32_t count, std::uint64_t seed) {
  Random random(seed);
  const auto side = static_cast<std::int64_t>(std::sqrt(3.0 * count));
  std::vector<std::pair<double, double>> places;
  while (places.size() < static_cast<std::size_t>(count)) {
    const std::pair<double, double> p{static_cast<double>(random.between(0, side)),
                                      static_cast<double>(random.between(0, side))};
    if (std::find(places.begin(), places.end(), p) == places.end()) places.push_back(p);
  }
  return on_a_plane(places);
}

Stops one_way(std::int32_t count, std::uint64_t seed) {
  Random random(seed);
  std::string text = "from";
  for (std::int32_t j = 0; j < count; ++j) text += fmt::format(",S{}", j);
  for (std::int32_t i = 0; i < count; ++i) {
    text += fmt::format("\nS{}", i);
    for (std::int32_t j = 0; j < count; ++j)
      text += i == j ? std::string(",") : fmt::format(",{}", random.between(1, 1000));
  }
  return Stops::parse(text + "\n", "made up").value();
}

double median(std::vector<double> v) {
  std::sort(v.begin(), v.end());
  return v.empty() ? 0.0 : (v[v.size() / 2] + v[(v.size() - 1) / 2]) / 2.0;
}

struct Family {
  const char* name;
  Stops (*draw)(std::int32_t, std::uint64_t);
  std::int32_t stops;
  int seeds;
  double seconds;
};

void prove(const Family& f, double unit) {
  std::vector<double> seconds, nodes, root;
  int proven = 0;
  double worst = 0.0;
  for (int seed = 1; seed <= f.seeds; ++seed) {
    const TourAnswer a =
        find_tour(f.draw(f.stops, static_cast<std::uint64_t>(seed)), {.seconds = f.seconds});
    seconds.push_back(a.seconds);
    nodes.push_back(static_cast<double>(a.nodes));
    if (a.root_bound) root.push_back(100.0 * (1.0 - (*a.root_bound / a.length).to_double()));
    if (a.outcome == Outcome::optimal) ++proven;
    worst = std::max(worst, 100.0 * a.gap.value_or(1.0));
  }
  std::cout << fmt::format(
      "| {} | {} | {} of {} | {:.2f} | {:.2f} | {:.1f} | {:.3f} % | {:.0f} | {} |\n", f.name,
      f.stops, proven, f.seeds, median(seconds), *std::max_element(seconds.begin(), seconds.end()),
      median(seconds) / unit, median(root), median(nodes),
      proven == f.seeds ? std::string() : fmt::format("{:.3f} %", worst));
  std::cout.flush();
}

void exact(std::int32_t only) {
  const double unit = bench::unit_seconds();
  std::cout << fmt::format(
      "\n## Round trips, proven (scripts/bench tours exact)\n\nOne core; a unit is {:.2f} s (see "
      "above). Root: what is open of the shortest length before any branching, median. At "
      "most 120 s each, an hour for 1,000 stops.\n\n| stops | count | proven | median s | worst s "
      "| median units | root open | median branches | worst gap |\n| --- | --- | --- | --- | --- | "
      "--- | --- | --- | --- |\n",
      unit);
  constexpr Family kFamilies[] = {
      {"uniform", Stops::made_up, 100, 10, 120.0}, {"uniform", Stops::made_up, 200, 10, 120.0},
      {"uniform", Stops::made_up, 400, 10, 120.0}, {"clustered", clustered, 200, 10, 120.0},
      {"drilled", drilled, 200, 10, 120.0},        {"one-way", one_way, 100, 10, 120.0},
      {"one-way", one_way, 200, 5, 120.0},         {"uniform", Stops::made_up, 1000, 3, 3600.0},
  };
  for (const Family& f : kFamilies)
    if (only == 0 || f.stops == only) prove(f, unit);
}

struct Measured {
  double length = 0.0, seconds = 0.0;
  long megabytes = 0;  // at most, of the whole process
};

// In a process of its own, so that the memory is that of one way.
Measured measured(const Stops& stops, const TourOptions& options) {
  int ends[2];
  if (pipe(ends) != 0) throw std::runtime_error("no pipe");
  const pid_t child = fork();
  if (child == 0) {
    const TourAnswer a = find_tour(stops, options);
    const double told[] = {a.length.to_double(), a.seconds};
    const bool written = write(ends[1], told, sizeof told) == sizeof told;
    _exit(written ? 0 : 1);
  }
  close(ends[1]);
  double told[2] = {0.0, 0.0};
  const bool got = read(ends[0], told, sizeof told) == sizeof told;
  close(ends[0]);
  int status = 0;
  rusage usage{};
  wait4(child, &status, 0, &usage);
  if (!got) throw std::runtime_error(options.way + " ended before its answer");
  return {told[0], told[1], usage.ru_maxrss / 1024};
}

double bound_of(const Stops& stops, double length) {
  namespace tours = structures::tours;
  const tours::Neighbours near(stops.data().distances, 12);
  return tours::one_tree_bound(stops.data().distances,
                               {.upper = length,
                                .rounds = stops.size() > 100'000 ? 90 : 300,
                                .near = stops.size() > 1000 ? &near : nullptr,
                                .interrupt = {}})
      .value;
}

void ways(std::int32_t only) {
  std::cout
      << "\n## Ways to a tour (scripts/bench tours ways)\n\nOne core; `chains` for 10 s (60 s "
         "for a million stops). Above the bound by one-trees, which takes the time in its own row. "
         "Memory: of the whole process at its most.\n\n| stops | count | way | above | s | MB "
         "|\n| --- | --- | --- | --- | --- | --- |\n";
  for (const bool in_clusters : {false, true})
    for (const std::int32_t n : {1000, 10'000, 100'000, 1'000'000}) {
      if (only != 0 && n != only) continue;
      const Stops stops = in_clusters ? clustered(n, 1) : Stops::made_up(n, 1);
      const auto run = [&](const std::string& way) {
        TourOptions options;
        options.way = way;
        options.with_bound = false;
        if (way == "chains") options.seconds = n > 100'000 ? 60.0 : 10.0;
        return measured(stops, options);
      };
      const Measured best = run("chains");
      const Stopwatch watch;
      const double bound = bound_of(stops, best.length);
      std::cout << fmt::format("| {} | {} | the bound | | {:.2f} | |\n",
                               in_clusters ? "clustered" : "uniform", n, watch.seconds());
      for (const TourWay& way : tour_ways()) {
        const bool square =
            way.name == "farthest" || way.name == "cheapest" || way.name == "nearby";
        if (way.name == "exact" || !way.one || (square && n > 10'000)) continue;
        const Measured m = way.name == "chains" ? best : run(way.name);
        std::cout << fmt::format("| {} | {} | {} | {:.2f} % | {:.2f} | {} |\n",
                                 in_clusters ? "clustered" : "uniform", n, way.name,
                                 100.0 * (m.length / bound - 1.0), m.seconds, m.megabytes);
        std::cout.flush();
      }
    }
}

// Loads from 1 to 20, and a capacity of which the trips use 95 % in all; the gate is drawn like the
// other stops.
Stops loaded(std::int32_t count, std::int32_t trips, std::uint64_t seed) {
  Random random(seed);
  std::string text = "name,x,y,load\n";
  std::int64_t all = 0;
  for (std::int32_t k = 0; k < count; ++k) {
    const std::int64_t load = k == 0 ? 0 : random.between(1, 20);
    all += load;
    text +=
        fmt::format("S{},{},{},{}\n", k, random.between(0, 1000), random.between(0, 1000), load);
  }
  const double capacity = std::ceil(static_cast<double>(all) / trips / 0.95);
  return Stops::parse(text, "made up").value().in_trips(capacity);
}

void fleets(std::int32_t only) {
  const double unit = bench::unit_seconds();
  constexpr int kSeeds = 5;
  constexpr double kSeconds = 60.0;
  std::cout << fmt::format(
      "\n## Several trips with loads, proven (scripts/bench tours fleets)\n\nOne core; a unit is "
      "{:.2f} s (see above). Stops count the gate; trips are what the loads need at least. Five "
      "draws each, at most {:.0f} s; ways against the proven or best trips, on average, `ruin` for "
      "as long as it takes by itself.\n\n| stops | trips | proven | median s | worst s | median "
      "units | root open | median branches | worst gap | savings | sweep | ruin |\n| --- | --- | "
      "--- | --- | --- | --- | --- | --- | --- | --- | --- | --- |\n",
      unit, kSeconds);
  for (const auto& [n, trips] :
       {std::pair{20, 3}, {30, 3}, {30, 4}, {30, 6}, {40, 4}, {40, 6}, {50, 5}, {60, 4}, {60, 6}}) {
    if (only != 0 && n != only) continue;
    std::vector<double> seconds, nodes, root;
    double worst = 0.0, above[3] = {0.0, 0.0, 0.0};
    int proven = 0;
    for (int seed = 1; seed <= kSeeds; ++seed) {
      const Stops stops =
          loaded(n, trips, static_cast<std::uint64_t>(1000 * n + 10 * trips + seed));
      const TourAnswer a = find_tour(stops, {.seconds = kSeconds});
      seconds.push_back(a.seconds);
      nodes.push_back(static_cast<double>(a.nodes));
      if (a.root_bound) root.push_back(100.0 * (1.0 - (*a.root_bound / a.length).to_double()));
      if (a.outcome == Outcome::optimal) ++proven;
      worst = std::max(worst, 100.0 * a.gap.value_or(1.0));
      for (const auto& [k, way] : {std::pair{0, "savings"}, {1, "sweep"}, {2, "ruin"}})
        above[k] += 100.0 * ((find_tour(stops, {.way = way}).length / a.length).to_double() - 1.0);
    }
    std::cout << fmt::format(
        "| {} | {} | {} of {} | {:.2f} | {:.2f} | {:.1f} | {:.2f} % | {:.0f} | {} | {:.1f} % | "
        "{:.1f} % | {:.2f} % |\n",
        n, trips, proven, kSeeds, median(seconds),
        *std::max_element(seconds.begin(), seconds.end()), median(seconds) / unit, median(root),
        median(nodes), proven == kSeeds ? std::string() : fmt::format("{:.2f} %", worst),
        above[0] / kSeeds, above[1] / kSeeds, above[2] / kSeeds);
    std::cout.flush();
  }
}

}  // namespace

int main(int count, char** arguments) {
  const std::string part = count > 1 ? arguments[1] : "all";
  const std::int32_t only = count > 2 ? std::atoi(arguments[2]) : 0;
  const bool all = part == "all";
  if (all || part == "exact") exact(only);
  if (all || part == "ways") ways(only);
  if (all || part == "fleets") fleets(only);
}
