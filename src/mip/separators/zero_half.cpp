#include "mip/separators/zero_half.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <iterator>

namespace kiteknot::mip {
namespace {

constexpr std::size_t kMostColumns = 2000, kMostRows = 2000;
constexpr std::int64_t kMostWorkARound = 20'000'000;

bool is_odd(double whole) {
  return std::fmod(whole, 2.0) != 0.0;
}

}  // namespace

void ZeroHalfCuts::look(const SeparationContext& where, std::vector<LinearRow>& found) {
  const SumVariables variables(where.relaxation);
  list_columns(where);
  list_rows(where, variables);
  combination_.reset(variables.num_columns(), variables.program().num_rows());
  const std::int64_t until = where.work.units() + kMostWorkARound;
  for (const Parity& s : sums_) (void)round(where, variables, s, found);
  for (std::size_t c = 0; c < columns_.size(); ++c) {
    const std::size_t word = c / 64;
    const std::uint64_t bit = std::uint64_t{1} << (c % 64);
    Parity* by = nullptr;
    for (Parity& s : sums_)
      if (!s.used && (s.odd[word] & bit) != 0 &&
          (by == nullptr || s.slack < by->slack ||
           (s.slack == by->slack && s.rows.size() < by->rows.size())))
        by = &s;
    where.work.add(static_cast<std::int64_t>(sums_.size()));
    if (by == nullptr) continue;
    by->used = true;
    for (Parity& s : sums_) {
      if (&s == by || (s.odd[word] & bit) == 0) continue;
      add(*by, s, where.work);
      (void)round(where, variables, s, found);
    }
    if (where.work.units() > until || where.work.interrupted()) return;
  }
}

// Columns between their ends, the farthest first. Others count by the end that they stand at.
void ZeroHalfCuts::list_columns(const SeparationContext& where) {
  constexpr double kApart = 1e-6;
  const Problem& p = where.domain.problem();
  columns_.clear();
  place_.assign(at(p.num_columns()), -1);
  odd_end_.assign(at(p.num_columns()), 0);
  for (Index j = 0; j < p.num_columns(); ++j) {
    if (!p.integer(j)) continue;
    const double lower = where.domain.lower(j), upper = where.domain.upper(j);
    const double below = where.point[at(j)] - lower, above = upper - where.point[at(j)];
    const double end = above < below ? upper : lower;
    if (std::isinf(end)) {
      place_[at(j)] = -2;  // no end to measure from
      continue;
    }
    odd_end_[at(j)] = is_odd(end) ? 1 : 0;
    if (std::min(above, below) > kApart) columns_.emplace_back(-std::min(above, below), j);
  }
  std::sort(columns_.begin(), columns_.end());
  if (columns_.size() > kMostColumns) columns_.clear();
  for (std::size_t c = 0; c < columns_.size(); ++c)
    place_[at(columns_[c].second)] = static_cast<Index>(c);
}

// Whole rows near a whole limit: farther than 1 from it they can give nothing.
void ZeroHalfCuts::list_rows(const SeparationContext& where, const SumVariables& variables) {
  constexpr double kMostSlack = 0.9;
  const lp::Program& program = variables.program();
  sums_.clear();
  if (columns_.empty()) return;
  const std::size_t words = (columns_.size() + 63) / 64;
  for (Index i = 0; i < program.num_rows() && sums_.size() < kMostRows; ++i) {
    const double step = where.relaxation.row_step(i);
    if (step == 0.0) continue;
    const double value = variables.value(variables.num_columns() + i);
    const double below = value - program.row_lower(i), above = program.row_upper(i) - value;
    const double slack = std::max(0.0, std::min(below, above)) / step;
    const double limit = (above < below ? program.row_upper(i) : program.row_lower(i)) / step;
    if (!(slack < kMostSlack) || !whole(limit)) continue;
    Parity sum{std::vector<std::uint64_t>(words, 0), {i}, slack, is_odd(limit), false};
    const auto index = program.rows().index(i);
    const auto values = program.rows().value(i);
    bool fits = true;
    for (std::size_t k = 0; k < index.size(); ++k) {
      if (!is_odd(values[k] / step)) continue;
      const Index place = place_[at(index[k])];
      fits = fits && place != -2;
      if (odd_end_[at(index[k])]) sum.right = !sum.right;
      if (place >= 0) sum.odd[at(place) / 64] |= std::uint64_t{1} << (at(place) % 64);
    }
    where.work.add(static_cast<std::int64_t>(index.size()));
    if (fits) sums_.push_back(std::move(sum));
  }
}

void ZeroHalfCuts::add(const Parity& from, Parity& to, WorkCounter& work) {
  for (std::size_t w = 0; w < to.odd.size(); ++w) to.odd[w] ^= from.odd[w];
  both_.clear();
  std::set_symmetric_difference(from.rows.begin(), from.rows.end(), to.rows.begin(), to.rows.end(),
                                std::back_inserter(both_));
  to.rows.swap(both_);
  to.slack += from.slack;  // at least that of the rows that are left
  to.right = to.right != from.right;
  work.add(static_cast<std::int64_t>(to.odd.size() + to.rows.size()));
}

double ZeroHalfCuts::odd_distance(const Parity& sum, double most) const {
  double distance = 0.0;
  for (std::size_t w = 0; w < sum.odd.size() && distance < most; ++w)
    for (std::uint64_t rest = sum.odd[w]; rest != 0; rest &= rest - 1) {
      distance -= columns_[64 * w + static_cast<std::size_t>(std::countr_zero(rest))].first;
    }
  return distance;
}

bool ZeroHalfCuts::round(const SeparationContext& where, const SumVariables& variables,
                         const Parity& sum, std::vector<LinearRow>& found) {
  constexpr double kLeastViolated = 1e-2;
  constexpr std::size_t kMostRowsASum = 60;
  if (!sum.right || sum.used || sum.rows.size() > kMostRowsASum || sum.slack >= 1.0) return false;
  if (odd_distance(sum, 1.0) + sum.slack > 1.0 - kLeastViolated) return false;
  combination_.clear();
  const lp::Program& program = variables.program();
  for (const Index i : sum.rows) {
    const Index k = variables.num_columns() + i;
    const double value = variables.value(k);
    const bool upper = variables.upper(k) - value < value - variables.lower(k);
    combination_.add(program, i, (upper ? 1.0 : -1.0) / where.relaxation.row_step(i));
    where.work.add(program.rows().size(i));
  }
  const auto plan = choice_.choose(variables, combination_, false, 2.0);
  if (!plan) return false;
  auto cut = rounding_.round(variables, combination_, *plan, kLeastEfficacy);
  if (cut) found.push_back(std::move(cut->row));
  return cut.has_value();
}

}  // namespace kiteknot::mip
