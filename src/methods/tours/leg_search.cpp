#include "methods/tours/leg_search.hpp"

#include <algorithm>
#include <cmath>

#include "mip/kinds/generated_rows.hpp"

namespace kiteknot::methods {
namespace {

using linalg::Index;
using tours::Leg;
using tours::StopRow;

constexpr double kFraction = 0.02;  // by which a point with fractions has to break a row

mip::LinearRow linear(const StopRow& row, const std::vector<Leg>& legs, tours::LegCounts& counts) {
  mip::LinearRow linear{{}, 0.0, kInf, true};
  linear.lower = static_cast<double>(counts.shorter(row, legs, [&](Index k, Index times) {
    linear.entries.push_back({k, static_cast<double>(times)});
  }));
  return linear;
}

class StopRows final : public mip::RowGenerator {
 public:
  StopRows(Index stops, const std::vector<Leg>& legs, std::array<std::int64_t, 3>& found)
      : legs_(legs), found_(found), separation_(stops), counts_(stops) {}
  [[nodiscard]] bool wants_fractions() const override { return true; }
  std::vector<mip::LinearRow> look(std::span<const double> point, bool integral) override {
    constexpr std::size_t kMost = 40;
    std::vector<mip::LinearRow> rows;
    for (const StopRow& row : separation_.look(legs_, point, integral ? 0.5 : kFraction, kMost)) {
      rows.push_back(linear(row, legs_, counts_));
      ++found_[static_cast<std::size_t>(kind_of(row))];
    }
    return rows;
  }

 private:
  const std::vector<Leg>& legs_;
  std::array<std::int64_t, 3>& found_;
  tours::TourSeparation separation_;
  tours::LegCounts counts_;
};

// The stops in order by the loops that the chosen legs make; none where some stop has not two legs.
std::vector<std::vector<Index>> loops_of(Index stops, const std::vector<Leg>& legs,
                                         std::span<const Rational> x) {
  std::vector<std::array<Index, 2>> beside(at(stops), {-1, -1});
  for (std::size_t k = 0; k < legs.size(); ++k) {
    if (x[k].is_zero()) continue;
    for (const auto& [from, to] : {std::pair{legs[k].a, legs[k].b}, {legs[k].b, legs[k].a}}) {
      auto& b = beside[at(from)];
      if (b[1] >= 0) return {};
      (b[0] < 0 ? b[0] : b[1]) = to;
    }
  }
  if (std::any_of(beside.begin(), beside.end(), [](const auto& b) { return b[1] < 0; })) return {};
  std::vector<std::vector<Index>> loops;
  std::vector<char> seen(at(stops), 0);
  for (Index s = 0; s < stops; ++s) {
    if (seen[at(s)] != 0) continue;
    loops.emplace_back();
    for (Index before = -1, now = s; seen[at(now)] == 0;) {
      seen[at(now)] = 1;
      loops.back().push_back(now);
      const auto& b = beside[at(now)];
      const Index next = b[0] == before ? b[1] : b[0];
      before = now;
      now = next;
    }
  }
  return loops;
}

// Whether a leg leads out of a set.
class Sides {
 public:
  Sides(Index stops, const std::vector<Index>& set) : inside_(at(stops), 0) {
    for (const Index s : set) inside_[at(s)] = 1;
  }
  bool leads_out(Index a, Index b) const { return inside_[at(a)] != inside_[at(b)]; }

 private:
  std::vector<char> inside_;
};

// Two legs at every stop, the rows given, and a whole column for half the legs out of each set:
// what a tour does two, four, ... times is decided by it where the relaxation does it three times
// (Clochard and Naddef 1993, "Using path inequalities in a branch and cut code for the symmetric
// travelling salesman problem").
mip::Problem legs_problem(const tours::WholeLengths& lengths, const LegProblem& legs) {
  const double scale = scale_of(lengths);
  mip::Problem problem;
  std::vector<mip::LinearRow> stops(at(lengths.size()), mip::LinearRow{{}, 2.0, 2.0, true});
  for (std::size_t k = 0; k < legs.legs.size(); ++k) {
    const Leg& leg = legs.legs[k];
    const bool sure = !legs.sure.empty() && legs.sure[k] != 0;
    const Index j =
        problem.add_column(sure ? 1.0 : 0.0, 1.0, true, static_cast<double>(lengths(leg)) * scale);
    stops[at(leg.a)].entries.push_back({j, 1.0});
    stops[at(leg.b)].entries.push_back({j, 1.0});
  }
  for (const mip::LinearRow& row : stops) problem.add_row(row);
  tours::LegCounts counts(lengths.size());
  for (const StopRow& row : legs.rows) problem.add_row(linear(row, legs.legs, counts));
  for (const std::vector<Index>& set : legs.sets) {
    const Index half = problem.add_column(
        1.0, static_cast<double>(std::min(set.size(), at(lengths.size()) - set.size())), true, 0.0);
    const Sides sides(lengths.size(), set);
    mip::LinearRow out{{}, 0.0, 0.0, true};
    for (std::size_t k = 0; k < legs.legs.size(); ++k)
      if (sides.leads_out(legs.legs[k].a, legs.legs[k].b))
        out.entries.push_back({static_cast<Index>(k), 1.0});
    out.entries.push_back({half, -2.0});
    problem.add_row(out);
  }
  problem.set_goal_facts(true, scale);
  return problem;
}

mip::SearchOptions search_options(const LegSearchOptions& options) {
  mip::SearchOptions search;
  search.budget = options.budget;
  search.gap = options.gap;
  return search;
}

std::int64_t length_of(const tours::WholeLengths& lengths, const std::vector<Leg>& legs,
                       std::span<const Rational> x) {
  std::int64_t sum = 0;
  for (std::size_t k = 0; k < legs.size(); ++k)
    if (!x[k].is_zero()) sum += lengths(legs[k]);
  return sum;
}

}  // namespace

mip::SearchOptions options_over_legs(const LegSearchOptions& options) {
  mip::SearchOptions search = search_options(options);
  search.presolving.brief_look = false;
  search.presolving.on = search.presolving.reductions = search.presolving.components =
      search.presolving.orbits = false;
  search.presolving.probing = search.finding.core = search.finding.pump = search.structures = false;
  search.cuts = mip::CutSwitches::none();
  return search;
}

double scale_of(const tours::WholeLengths& lengths) {
  constexpr double kLongest = 1000.0;  // near what prices and pivots are compared with
  double scale = 1.0;
  while (static_cast<double>(lengths.longest()) * scale > kLongest) scale *= 0.5;
  return scale;
}

LegAnswer search_legs(const tours::WholeLengths& lengths, const LegProblem& legs,
                      const LegSearchOptions& options, mip::Listener* watch) {
  const Index n = lengths.size();
  const double scale = scale_of(lengths);
  LegAnswer answer;
  mip::Problem problem = legs_problem(lengths, legs);
  mip::set_generator(problem, std::make_shared<StopRows>(n, legs.legs, answer.rows));
  mip::SearchOptions search = options_over_legs(options);
  search.given.basis = legs.basis;
  if (!search.given.basis.columns.empty()) {
    search.given.basis.columns.resize(legs.legs.size() + legs.sets.size(),
                                      lp::VariableStatus::basic);
    search.given.basis.rows.resize(search.given.basis.rows.size() + legs.sets.size(),
                                   lp::VariableStatus::at_lower);
  }
  if (!legs.tour.empty()) {
    std::vector<Rational> plan(legs.legs.size(), Rational(0));
    for (std::size_t k = 0; k < legs.tour.size(); ++k) {
      const Index p = legs.tour[k], q = legs.tour[k + 1 == legs.tour.size() ? 0 : k + 1];
      const auto it =
          std::lower_bound(legs.legs.begin(), legs.legs.end(), Leg{std::min(p, q), std::max(p, q)});
      plan[static_cast<std::size_t>(it - legs.legs.begin())] = Rational(1);
    }
    for (const std::vector<Index>& set : legs.sets) {
      const Sides sides(n, set);
      std::int64_t out = 0;
      for (std::size_t k = 0; k < legs.tour.size(); ++k)
        if (sides.leads_out(legs.tour[k], legs.tour[k + 1 == legs.tour.size() ? 0 : k + 1])) ++out;
      plan.emplace_back(out / 2);
    }
    search.given.plans.push_back(std::move(plan));
  }
  const mip::Judge judge = [&](std::span<const Rational> x) {
    if (loops_of(n, legs.legs, x).size() != 1) return mip::Verdict{};
    const auto length = static_cast<double>(length_of(lengths, legs.legs, x));
    return mip::Verdict{true, Rational::exactly(length * scale)};
  };
  const mip::SearchResult result = mip::Search(problem, judge, search, watch).run();
  answer.outcome = result.outcome;
  if (result.plan) {
    answer.tour = loops_of(n, legs.legs, *result.plan).front();
    answer.length = length_of(lengths, legs.legs, *result.plan);
  }
  answer.bound = result.bound / scale;
  answer.nodes = result.counts.nodes;
  answer.stopped_by = word(result.stopped_by);
  answer.reason = result.reason;
  return answer;
}

LoopAnswer search_loops(const tours::WholeLengths& lengths, const LegProblem& legs,
                        const LegSearchOptions& options) {
  const Index n = lengths.size();
  const double scale = scale_of(lengths);
  const mip::Problem problem = legs_problem(lengths, legs);
  const mip::Judge judge = [&](std::span<const Rational> x) {
    if (!satisfies(problem, x)) return mip::Verdict{};
    const auto length = static_cast<double>(length_of(lengths, legs.legs, x));
    return mip::Verdict{true, Rational::exactly(length * scale)};
  };
  const mip::SearchResult result = mip::Search(problem, judge, search_options(options)).run();
  LoopAnswer answer{
      result.outcome, {}, 0, result.counts.nodes, std::string(word(result.stopped_by)),
      result.reason};
  if (result.plan) {
    answer.loops = loops_of(n, legs.legs, *result.plan);
    answer.length = length_of(lengths, legs.legs, *result.plan);
  }
  return answer;
}

}  // namespace kiteknot::methods
