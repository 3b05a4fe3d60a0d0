#include "mip/branching/pseudo_costs.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "base/tolerances.hpp"

namespace kiteknot::mip {
namespace {
constexpr double kLeastRise = 1e-6;  // keeps the product score from vanishing
}  // namespace

PseudoCosts::PseudoCosts(Index num_columns)
    : down_(at(num_columns)),
      up_(at(num_columns)),
      conflict_score_(at(num_columns), 0.0),
      moved_(at(num_columns)) {}

void PseudoCosts::add_conflict(Index column) {
  constexpr double kGrowth = 1.02, kMost = 1e100;
  conflict_score_[at(column)] += next_conflict_score_;
  most_conflict_score_ = std::max(most_conflict_score_, conflict_score_[at(column)]);
  next_conflict_score_ *= kGrowth;
  if (next_conflict_score_ < kMost) return;
  for (double& b : conflict_score_) b /= kMost;
  most_conflict_score_ /= kMost;
  next_conflict_score_ /= kMost;
}

void PseudoCosts::infer(Index column, std::int64_t steps) {
  Side& side = moved_[at(column)];
  side.sum += static_cast<double>(steps);
  ++side.count;
  most_moved_ = std::max(most_moved_, side.sum / static_cast<double>(side.count));
}

void PseudoCosts::learn(const PseudoCostObservation& observation) {
  book(observation);
  if (keeping_) kept_.push_back(observation);
}

void PseudoCosts::learn_from(std::span<const PseudoCostObservation> observations) {
  for (const PseudoCostObservation& l : observations) book(l);
}

void PseudoCosts::book(const PseudoCostObservation& l) {
  if (l.distance <= 0.0) return;
  const double rate = std::max(l.rise, 0.0) / l.distance;
  for (Side* side :
       {l.up ? &up_[at(l.column)] : &down_[at(l.column)], l.up ? &all_up_ : &all_down_}) {
    side->sum += rate;
    ++side->count;
  }
}

double PseudoCosts::rate(const Side& own, const Side& all) const {
  if (own.count > 0) return own.sum / static_cast<double>(own.count);
  return all.count > 0 ? all.sum / static_cast<double>(all.count) : 1.0;
}

// What else speaks for the column, small beside what its children cost: it decides where these say
// little. Achterberg 2007, section 5.11 (hybrid of reliability, inference and conflicts).
double PseudoCosts::hints(Index column) const {
  constexpr double kConflicts = 0.2, kInferred = 0.1;  // at most
  const Side& moved = moved_[at(column)];
  const double conflicts =
      most_conflict_score_ > 0.0 ? conflict_score_[at(column)] / most_conflict_score_ : 0.0;
  const double steps = moved.count > 0 ? moved.sum / static_cast<double>(moved.count) : 0.0;
  return kConflicts * conflicts + kInferred * steps / most_moved_;
}

double PseudoCosts::score(Index column, double fraction) const {
  const double down = rate(down_[at(column)], all_down_) * fraction;
  const double up = rate(up_[at(column)], all_up_) * (1.0 - fraction);
  return std::max(down, kLeastRise) * std::max(up, kLeastRise) * (1.0 + hints(column));
}

Index PseudoCosts::choose(std::span<const Index> fractional, std::span<const double> point) const {
  Index best = -1;
  double best_score = -1.0;
  for (const Index j : fractional) {
    const double s = score(j, point[at(j)] - std::floor(point[at(j)]));
    if (s <= best_score) continue;
    best = j;
    best_score = s;
  }
  return best;
}

Index PseudoCosts::choose(const Domain& domain, std::span<const double> point) const {
  std::vector<Index> fractional;
  for (Index j = 0; j < domain.problem().num_columns(); ++j) {
    if (!domain.problem().integer(j) || domain.fixed(j)) continue;
    const double fraction = point[at(j)] - std::floor(point[at(j)]);
    if (std::min(fraction, 1.0 - fraction) > Tolerances{}.integrality) fractional.push_back(j);
  }
  return choose(fractional, point);
}

PseudoCosts PseudoCosts::of(std::span<const Index> columns) const {
  PseudoCosts part(static_cast<Index>(columns.size()));
  for (std::size_t k = 0; k < columns.size(); ++k) {
    part.down_[k] = down_[at(columns[k])];
    part.up_[k] = up_[at(columns[k])];
  }
  part.all_down_ = all_down_;
  part.all_up_ = all_up_;
  return part;
}

PseudoCosts PseudoCosts::spread(std::span<const Index> columns, Index num_columns) const {
  PseudoCosts all(num_columns);
  for (std::size_t k = 0; k < columns.size(); ++k) {
    all.down_[at(columns[k])] = down_[k];
    all.up_[at(columns[k])] = up_[k];
  }
  all.all_down_ = all_down_;
  all.all_up_ = all_up_;
  return all;
}

}  // namespace kiteknot::mip
