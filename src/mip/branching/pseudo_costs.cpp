#include "mip/branching/pseudo_costs.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "base/tolerances.hpp"

namespace kiteknot::mip {
namespace {
constexpr double kLeastRise = 1e-6;  // keeps the product score from vanishing
}  // namespace

PseudoCosts::PseudoCosts(Index num_columns) : down_(at(num_columns)), up_(at(num_columns)) {}

void PseudoCosts::learn(const Lesson& lesson) {
  book(lesson);
  if (keeping_) kept_.push_back(lesson);
}

void PseudoCosts::learn_from(std::span<const Lesson> lessons) {
  for (const Lesson& l : lessons) book(l);
}

void PseudoCosts::book(const Lesson& l) {
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

double PseudoCosts::score(Index column, double fraction) const {
  const double down = rate(down_[at(column)], all_down_) * fraction;
  const double up = rate(up_[at(column)], all_up_) * (1.0 - fraction);
  return std::max(down, kLeastRise) * std::max(up, kLeastRise);
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
