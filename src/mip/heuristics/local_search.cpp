#include "mip/heuristics/local_search.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {
namespace {

// Whole columns with the domain's bounds, real ones with their own unless they are fixed: what
// rules leave of a range ends where a plan is, and a barrier has no room to work there.
Problem at_node(const Domain& domain) {
  Problem here = domain.problem();
  for (Index j = 0; j < here.num_columns(); ++j)
    if (here.integer(j) || domain.fixed(j)) here.set_bounds(j, domain.lower(j), domain.upper(j));
  return here;
}

void complete(const Problem& p, std::vector<double>& point) {
  for (const auto& kind : p.kinds().all())
    if (const SmoothRows* rows = kind->smooth(); rows != nullptr && kind->any(p))
      rows->fill_in(point);
}

// Bounds of a column that its term implies are let go: a barrier at a bound that a constraint
// touches with a slope of 0 (x^2 >= 0) holds the point away from both.
void free_implied(const SmoothRows& rows, const Problem& p, LocalProgram& program) {
  constexpr double kRounding = 1e-9;
  std::vector<double> lower, upper;
  for (Index j = 0; j < p.num_columns(); ++j) {
    lower.push_back(p.lower(j));
    upper.push_back(p.upper(j));
  }
  for (Index k = 0; k < rows.size(); ++k) {
    const Index y = rows.columns(k)[0];
    if (p.integer(y) || p.lower(y) == p.upper(y)) continue;
    const Interval left = rows.leaves(k, lower, upper);
    if (left.low >= p.lower(y) - kRounding * (1.0 + std::abs(p.lower(y))))
      program.lower[at(y)] = -kInf;
    if (left.high <= p.upper(y) + kRounding * (1.0 + std::abs(p.upper(y))))
      program.upper[at(y)] = kInf;
  }
}

}  // namespace

LocalSearch::LocalSearch(const Problem& problem, Index decisions, std::uint64_t seed)
    : random_(seed) {
  for (Index j = 0; j < decisions; ++j)
    only_whole_decisions_ = only_whole_decisions_ && problem.integer(j);
}

bool LocalSearch::wanted(const Problem& problem) {
  return std::ranges::any_of(problem.kinds().all(), [&](const auto& kind) {
    return kind->smooth() != nullptr && kind->any(problem);
  });
}

std::optional<LocalEnd> LocalSearch::around(const Domain& domain, std::vector<double> point,
                                            WorkCounter& work) {
  Problem here = at_node(domain);
  for (Index j = 0; j < here.num_columns(); ++j) {
    if (!here.integer(j)) continue;
    const double whole = std::round(point[at(j)]);
    if (!(whole >= here.lower(j) && whole <= here.upper(j))) return std::nullopt;
    here.set_bounds(j, whole, whole);
    point[at(j)] = whole;
  }
  if (only_whole_decisions_) {  // the others follow from them
    complete(here, point);
    return LocalEnd{std::move(point), true};
  }
  return solve(std::move(here), std::move(point), work);
}

std::optional<LocalEnd> LocalSearch::relaxed(const Domain& domain, std::vector<double> point,
                                             WorkCounter& work) {
  return solve(at_node(domain), std::move(point), work);
}

std::vector<double> LocalSearch::tidied(const Domain& domain, std::vector<double> point) {
  constexpr double kNear = 1e-8;
  const Problem& p = domain.problem();
  for (Index j = 0; j < p.num_columns(); ++j) {
    double& x = point[at(j)];
    for (const double value : {std::round(x), p.lower(j), p.upper(j)})
      if (std::abs(x - value) <= kNear * (1.0 + std::abs(x)) && value >= p.lower(j) &&
          value <= p.upper(j))
        x = value;
  }
  complete(p, point);
  return point;
}

std::vector<double> LocalSearch::anywhere(const Domain& domain, std::span<const double> near) {
  constexpr double kFar = 10.0;
  std::vector<double> point(near.begin(), near.end());
  for (Index j = 0; j < domain.problem().num_columns(); ++j) {
    double low = domain.lower(j), high = domain.upper(j);
    const double about = std::max(1.0, std::abs(near[at(j)])) * kFar;
    if (!std::isfinite(low)) low = std::isfinite(high) ? high - about : near[at(j)] - about;
    if (!std::isfinite(high)) high = low + 2.0 * about;
    point[at(j)] = low + random_.fraction() * (high - low);
  }
  return point;
}

std::optional<LocalEnd> LocalSearch::solve(Problem here, std::vector<double> point,
                                           WorkCounter& work) const {
  complete(here, point);
  LocalProgram program;
  for (Index j = 0; j < here.num_columns(); ++j) {
    program.lower.push_back(here.lower(j));
    program.upper.push_back(here.upper(j));
    program.cost.push_back(here.cost(j));
  }
  for (const auto& kind : here.kinds().all()) {
    if (!kind->any(here)) continue;
    kind->visit_rows(here,
                     [&](const RowView& row, const lp::Exact*) { program.rows.push_back(row); });
    if (const SmoothRows* rows = kind->smooth()) {
      program.smooth.push_back(rows);
      free_implied(*rows, here, program);
    }
  }
  return local_optimum(program, std::move(point), work);
}

}  // namespace kiteknot::mip
