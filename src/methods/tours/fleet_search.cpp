#include "methods/tours/fleet_search.hpp"

#include <algorithm>
#include <map>

#include "mip/kinds/generated_rows.hpp"
#include "structures/tours/cuts/trips.hpp"

namespace kiteknot::methods {
namespace {

using linalg::Index;
using tours::Fleet;
using tours::Leg;
using tours::Routes;

class TripRows final : public mip::RowGenerator {
 public:
  TripRows(tours::Trips trips, std::array<std::int64_t, 2>& found)
      : separation_(std::move(trips)), visits_(at(separation_.trips().stops), 1.0), found_(found) {}
  [[nodiscard]] bool wants_fractions() const override { return true; }
  std::vector<mip::LinearRow> look(std::span<const double> point, bool integral) override {
    constexpr std::size_t kMost = 60;
    std::vector<mip::LinearRow> rows;
    for (const tours::TripRow& row : separation_.look(point, visits_, integral, kMost)) {
      mip::LinearRow linear{{}, static_cast<double>(row.at_least), kInf, true};
      for (const auto& [k, times] : row.legs)
        linear.entries.push_back({k, static_cast<double>(times)});
      rows.push_back(std::move(linear));
      ++found_[row.kind == tours::TripRule::loop ? 0 : 1];
    }
    return rows;
  }

 private:
  tours::TripSeparation separation_;
  std::vector<double> visits_;
  std::array<std::int64_t, 2>& found_;
};

class FleetSearch {
 public:
  FleetSearch(const Fleet& fleet, const tours::WholeLengths& lengths)
      : fleet_(fleet), lengths_(lengths), directed_(!fleet.distances.symmetric()) {
    const Index n = fleet.size();
    for (Index a = 0; a < n; ++a)
      for (Index b = directed_ ? 0 : a + 1; b < n; ++b)
        if (a != b && lengths_(a, b) < tours::WholeLengths::kNever) {
          place_.emplace(std::pair(a, b), static_cast<Index>(legs_.size()));
          legs_.push_back({a, b});
        }
  }

  FleetAnswer run(const Routes& known, const LegSearchOptions& options, mip::Listener* watch) {
    FleetAnswer answer;
    const double scale = scale_of(lengths_);
    mip::Problem problem = legs_problem(scale);
    tours::Trips trips;
    trips.stops = fleet_.size();
    trips.directed = directed_;
    trips.legs = legs_;
    trips.gate = fleet_.gate;
    trips.several = true;
    trips.load = fleet_.load;
    trips.capacity = fleet_.capacity;
    mip::set_generator(problem, std::make_shared<TripRows>(std::move(trips), answer.rows));
    mip::SearchOptions search = options_over_legs(options);
    if (!known.empty()) search.given.plans.push_back(plan_of(known));
    const mip::Judge judge = [&](std::span<const Rational> x) {
      const std::optional<Routes> routes = routes_of(x);
      if (!routes) return mip::Verdict{};
      return mip::Verdict{true, Rational::exactly(static_cast<double>(length_of(*routes)) * scale)};
    };
    const mip::SearchResult result = mip::Search(problem, judge, search, watch).run();
    answer.outcome = result.outcome;
    if (result.plan) {
      answer.routes = *routes_of(*result.plan);
      answer.length = length_of(answer.routes);
    }
    answer.bound = result.bound / scale;
    answer.root_bound = result.root.bound / scale;
    answer.nodes = result.counts.nodes;
    answer.stopped_by = word(result.stopped_by);
    answer.reason = result.reason;
    return answer;
  }

 private:
  // Undirected legs at the gate may be gone there and back; the number of trips is between what the
  // loads need and what there may be.
  [[nodiscard]] mip::Problem legs_problem(double scale) const {
    mip::Problem problem;
    const auto n = at(fleet_.size());
    const double each = directed_ ? 1.0 : 2.0;
    std::vector<mip::LinearRow> out(n, mip::LinearRow{{}, each, each, true}), in(out);
    std::int64_t all = 0;
    for (const std::int64_t load : fleet_.load) all += load;
    const std::int64_t least = (all + fleet_.capacity - 1) / fleet_.capacity;
    for (auto* rows : {&out, &in}) {
      (*rows)[at(fleet_.gate)].lower = each * static_cast<double>(least);
      (*rows)[at(fleet_.gate)].upper = each * static_cast<double>(fleet_.most);
    }
    for (const Leg& leg : legs_) {
      const bool gate = leg.a == fleet_.gate || leg.b == fleet_.gate;
      const Index j = problem.add_column(0.0, gate && !directed_ ? 2.0 : 1.0, true,
                                         static_cast<double>(lengths_(leg)) * scale);
      out[at(leg.a)].entries.push_back({j, 1.0});
      (directed_ ? in : out)[at(leg.b)].entries.push_back({j, 1.0});
    }
    for (const mip::LinearRow& row : out) problem.add_row(row);
    if (directed_)
      for (const mip::LinearRow& row : in) problem.add_row(row);
    problem.set_goal_facts(true, scale);
    return problem;
  }

  [[nodiscard]] Index leg(Index from, Index to) const {
    if (!directed_ && from > to) std::swap(from, to);
    return place_.at({from, to});
  }

  [[nodiscard]] std::vector<Rational> plan_of(const Routes& routes) const {
    std::vector<Rational> plan(legs_.size(), Rational(0));
    for (const auto& route : routes) {
      if (route.empty()) continue;
      Index from = fleet_.gate;
      for (const Index s : route) {
        plan[at(leg(from, s))] += Rational(1);
        from = s;
      }
      plan[at(leg(from, fleet_.gate))] += Rational(1);
    }
    return plan;
  }

  // In whole numbers: nothing where some stop is missed, or a trip is none or carries too much.
  [[nodiscard]] std::optional<Routes> routes_of(std::span<const Rational> x) const {
    std::vector<std::vector<Index>> next(at(fleet_.size()));
    for (std::size_t k = 0; k < legs_.size(); ++k)
      for (Rational left = x[k]; left.sign() > 0; left -= Rational(1)) {
        next[at(legs_[k].a)].push_back(legs_[k].b);
        if (!directed_) next[at(legs_[k].b)].push_back(legs_[k].a);
      }
    Routes routes;
    while (!next[at(fleet_.gate)].empty()) {
      routes.emplace_back();
      Index now = fleet_.gate;
      do {
        if (next[at(now)].empty() || routes.back().size() >= at(fleet_.size())) return std::nullopt;
        const Index to = next[at(now)].back();
        next[at(now)].pop_back();
        if (!directed_) {
          const auto back = std::ranges::find(next[at(to)], now);
          if (back == next[at(to)].end()) return std::nullopt;
          next[at(to)].erase(back);
        }
        if (to != fleet_.gate) routes.back().push_back(to);
        now = to;
      } while (now != fleet_.gate);
    }
    if (!tours::fits(fleet_, routes)) return std::nullopt;
    return routes;
  }

  [[nodiscard]] std::int64_t length_of(const Routes& routes) const {
    std::int64_t sum = 0;
    for (const auto& route : routes) {
      if (route.empty()) continue;
      Index from = fleet_.gate;
      for (const Index s : route) sum += lengths_(std::exchange(from, s), s);
      sum += lengths_(from, fleet_.gate);
    }
    return sum;
  }

  const Fleet& fleet_;
  const tours::WholeLengths& lengths_;
  bool directed_;
  std::vector<Leg> legs_;
  std::map<std::pair<Index, Index>, Index> place_;
};

}  // namespace

FleetAnswer search_fleet(const Fleet& fleet, const tours::WholeLengths& lengths,
                         const Routes& known, const LegSearchOptions& options,
                         mip::Listener* watch) {
  return FleetSearch(fleet, lengths).run(known, options, watch);
}

}  // namespace kiteknot::methods
