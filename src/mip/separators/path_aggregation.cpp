#include "mip/separators/path_aggregation.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {
namespace {

constexpr int kLongestPath = 6;
constexpr double kNoise = 1e-9;

}  // namespace

// Rows a x + b z with z a binary column and x another kind.
void PathAggregation::find_limits(const SeparationContext& where) {
  const Problem& problem = where.domain.problem();
  const lp::Program& program = where.relaxation.simplex().program();
  wide_.assign(at(problem.num_columns()), 0);
  for (Index j = 0; j < problem.num_columns(); ++j)
    wide_[at(j)] = problem.integer(j) && problem.upper(j) - problem.lower(j) <= 1.0 ? 0 : 1;
  limits_.assign(at(problem.num_columns()), {});
  is_limit_.assign(at(program.num_rows()), 0);
  for (Index i = 0; i < program.num_rows(); ++i) {
    const auto index = program.rows().index(i);
    if (index.size() != 2 || wide_[at(index[0])] == wide_[at(index[1])]) continue;
    limits_[at(wide_[at(index[0])] ? index[0] : index[1])].push_back(i);
    is_limit_[at(i)] = 1;
  }
  limits_found_ = true;
}

// How far the row is from the nearer of its limits; infinite where it has none.
double PathAggregation::slack(const SumVariables& variables, Index row) const {
  const Index k = variables.num_columns() + row;
  const double value = variables.value(k);
  return std::max(0.0, std::min(value - variables.lower(k), variables.upper(k) - value));
}

// How far the column is from the nearest of its ends and limits; `limit`: the row, -1 for an end.
double PathAggregation::distance(const SumVariables& variables, Index column, Index* limit) const {
  const double value = variables.value(column);
  double nearest =
      std::max(0.0, std::min(value - variables.lower(column), variables.upper(column) - value));
  *limit = -1;
  const lp::Program& program = variables.program();
  for (const Index i : limits_[at(column)]) {
    const auto index = program.rows().index(i);
    const double a = std::abs(program.rows().value(i)[index[0] == column ? 0 : 1]);
    const double away = slack(variables, i) / a;
    if (away > nearest + kNoise && *limit < 0) continue;  // among equals the limit
    if (*limit >= 0 && away >= nearest) continue;
    nearest = away;
    *limit = i;
  }
  return nearest;
}

void PathAggregation::start_order(const SumVariables& variables) {
  constexpr double kSlack = 1e-6;
  order_.clear();
  const lp::Program& program = variables.program();
  for (Index i = 0; i < program.num_rows(); ++i) {
    const double away = slack(variables, i);
    double size = 0.0;
    for (const double v : program.rows().value(i)) size = std::max(size, std::abs(v));
    if (!(away <= 0.1 * size)) continue;
    order_.emplace_back(away <= kSlack * size ? 0.0 : away / size, i);
  }
  std::sort(order_.begin(), order_.end());
}

void PathAggregation::look(const SeparationContext& where, std::vector<LinearRow>& found) {
  constexpr std::int64_t kMostWork = 50;  // times the entries there are
  const SumVariables variables(where.relaxation);
  if (!limits_found_) find_limits(where);
  const lp::Program& program = variables.program();
  is_limit_.resize(at(program.num_rows()), 0);
  used_.assign(at(program.num_rows()), 0);
  path_.reset(variables.num_columns(), program.num_rows());
  rounded_.reset(variables.num_columns(), program.num_rows());
  start_order(variables);
  const std::int64_t until =
      where.work.units() + kMostWork * (program.num_nonzeros() + program.num_rows()) + 100'000;
  for (const auto& [unused, i] : order_) {
    follow(where, variables, i, found);
    if (where.work.units() > until || where.work.interrupted()) return;
  }
}

void PathAggregation::follow(const SeparationContext& where, const SumVariables& variables,
                             Index start, std::vector<LinearRow>& found) {
  const lp::Program& program = variables.program();
  path_.clear();
  path_.add(program, start, 1.0);
  used_[at(start)] = 1;
  for (int length = 1;; ++length) {
    replace_by_limits(variables);
    const std::int64_t before = choice_.work();
    const bool cut = round(variables, found);
    where.work.add(choice_.work() - before +
                   4 * static_cast<std::int64_t>(path_.columns().list().size()));
    if (cut || length == kLongestPath) break;
    const Index column = next_column(variables);
    const Index row = column < 0 ? -1 : next_row(variables, column);
    if (row < 0) break;
    const auto index = program.rows().index(row);
    const auto place = std::find(index.begin(), index.end(), column) - index.begin();
    path_.add(
        program, row,
        -path_.columns()[column] / program.rows().value(row)[static_cast<std::size_t>(place)]);
    used_[at(row)] = 1;
  }
  for (const Index i : path_.multipliers().list()) used_[at(i)] = 0;
}

// The path, with columns cleared by the rows of two that limit them where the point is near.
void PathAggregation::replace_by_limits(const SumVariables& variables) {
  const lp::Program& program = variables.program();
  rounded_.clear();
  for (const Index i : path_.multipliers().list())
    if (path_.multipliers()[i] != 0.0) rounded_.add(program, i, path_.multipliers()[i]);
  for (const Index j : path_.columns().list()) {
    const double a = path_.columns()[j];
    if (std::abs(a) < kNoise || limits_[at(j)].empty()) continue;
    Index limit = -1;
    (void)distance(variables, j, &limit);
    if (limit < 0 || used_[at(limit)]) continue;
    const auto index = program.rows().index(limit);
    rounded_.add(program, limit, -a / program.rows().value(limit)[index[0] == j ? 0 : 1]);
  }
}

bool PathAggregation::round(const SumVariables& variables, std::vector<LinearRow>& found) {
  (void)rounded_.make_whole(variables);
  for (const bool negated : {false, true}) {
    const auto plan = choice_.choose(variables, rounded_, negated);
    if (!plan) continue;
    if (auto cut = rounding_.round(variables, rounded_, *plan, kLeastEfficacy)) {
      found.push_back(std::move(cut->row));
      return true;
    }
  }
  return false;
}

// The column farthest from all its ends and limits.
Index PathAggregation::next_column(const SumVariables& variables) const {
  Index best = -1;
  double farthest = 1e-6;
  for (const Index j : path_.columns().list()) {
    if (!wide_[at(j)] || std::abs(path_.columns()[j]) < kNoise) continue;
    Index limit = -1;
    const double away = distance(variables, j, &limit);
    if (away > farthest || (away == farthest && j < best)) {
      farthest = away;
      best = j;
    }
  }
  return best;
}

// A row that has the column and stands at a limit, the shortest one.
Index PathAggregation::next_row(const SumVariables& variables, Index column) const {
  constexpr Index kMost = 100;
  constexpr double kSlack = 1e-6;
  const lp::Program& program = variables.program();
  const auto rows = program.columns().index(column);
  if (program.columns().size(column) > kMost) return -1;
  Index best = -1;
  for (const Index i : rows) {
    if (used_[at(i)] || is_limit_[at(i)] || slack(variables, i) > kSlack) continue;
    if (best < 0 || program.rows().size(i) < program.rows().size(best) ||
        (program.rows().size(i) == program.rows().size(best) && i < best))
      best = i;
  }
  return best;
}

}  // namespace kiteknot::mip
