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

}  // namespace kiteknot::mip
