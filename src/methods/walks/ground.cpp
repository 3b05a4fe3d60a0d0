#include "methods/walks/ground.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {

Ground::Ground(const Model& model, const Interrupt& interrupt)
    : compiled_(model.data()), standing_(compiled_) {
  for (Index d = 0; d < compiled_.num_decisions(); ++d)
    if (range(d).can_move && range(d).stepped()) movable_.push_back(d);
  if (movable_.empty())
    throw UsageError("there is nothing to choose in whole steps: all decisions are amounts");
  if (!compiled_.has_reals) return;
  completion_ = std::make_unique<Completion>(model, compiled_, interrupt);
  completed_ = completed_at(standing_.values(), point_);
}

std::vector<double> Ground::values() const {
  if (completion_ && completed_.clean()) return point_;
  return {standing_.values().begin(), standing_.values().end()};
}

Score Ground::completed_at(std::span<const double> values, std::vector<double>& point) {
  constexpr std::int64_t kLooksOfOne = 500;  // that a linear solve costs as much as
  looks_ += kLooksOfOne;
  const std::optional<Score> score = completion_->at(values, point);
  return score ? *score : Score{1.0, HUGE_VAL};
}

Score Ground::tried(std::span<const Move> moves) {
  if (!completion_) {
    ++looks_;
    return standing_.tried(moves);
  }
  tried_values_.assign(standing_.values().begin(), standing_.values().end());
  for (const Move& m : moves) tried_values_[at(m.decision)] = m.to;
  tried_score_ = completed_at(tried_values_, tried_point_);
  return tried_score_;
}

void Ground::take(std::span<const Move> moves) {
  if (completion_) {
    std::vector<double> values(standing_.values().begin(), standing_.values().end());
    for (const Move& m : moves) values[at(m.decision)] = m.to;
    if (values != tried_values_) {
      tried_values_ = values;
      tried_score_ = completed_at(values, tried_point_);
    }
    completed_ = tried_score_;
    point_ = tried_point_;
  }
  standing_.take(moves);
  if (completion_) standing_.keep();
}

void Ground::take_all(std::span<const double> values) {
  standing_.take_all(values);
  standing_.keep();
  if (completion_) completed_ = completed_at(standing_.values(), point_);
}

// The nearest value on this side that the decision may have, not beyond `value`; where it stands if
// there is none.
double Ground::allowed(Index d, double value, double direction) const {
  const DecisionRange& r = range(d);
  const double now = this->value(d);
  if (!r.listed.empty()) {
    double best = now;
    for (const double v : r.listed)
      if (direction > 0.0 ? v > best && v <= value : v < best && v >= value) best = v;
    return best;
  }
  double to = std::clamp(value, r.lower, r.upper);
  if (r.whole) to = direction > 0.0 ? std::floor(to) : std::ceil(to);
  if (r.or_zero && to != 0.0 && (to < r.used_from || to > r.used_to))
    to = to > r.used_to ? r.used_to : now;
  return (to - now) * direction > 0.0 ? to : now;
}

double Ground::furthest(Index d, double direction) const {
  double room = HUGE_VAL;
  const DecisionRange& r = range(d);
  room = direction > 0.0 ? r.upper - value(d) : value(d) - r.lower;
  for (const WeightedNode& s : compiled_.in_sums.of(d)) {
    const auto readers = compiled_.readers.of(s.node);
    if (readers.empty() || compiled_.op[at(readers[0])] != Op::compare) continue;
    const CompiledModel::Figures& f = compiled_.figures[at(readers[0])];
    const double slope = s.weight * direction, x = standing_.sum(s.node);
    const double left = slope > 0.0 ? f.high - x : x - f.low;
    if (left >= 0.0 && std::isfinite(left)) room = std::min(room, left / std::abs(slope));
  }
  constexpr double kNoise = 1e-9;
  if (!std::isfinite(room)) return value(d);
  return allowed(d, value(d) + direction * (room + kNoise), direction);
}

double Ground::share_taken(const Move& move) const {
  double share = 0.0;
  const double by = move.to - value(move.decision);
  for (const WeightedNode& s : compiled_.in_sums.of(move.decision)) {
    const auto readers = compiled_.readers.of(s.node);
    if (readers.empty() || compiled_.op[at(readers[0])] != Op::compare) continue;
    const CompiledModel::Figures& f = compiled_.figures[at(readers[0])];
    const double change = s.weight * by, x = standing_.sum(s.node);
    const double left = change > 0.0 ? f.high - x : x - f.low;
    if (left > 0.0 && std::isfinite(left)) share += std::abs(change) / left;
  }
  return share;
}

void Ground::options(Index d, std::vector<double>& into) const {
  into.clear();
  const DecisionRange& r = range(d);
  const double now = value(d);
  const auto add = [&](double v) {
    if (v != now && std::ranges::find(into, v) == into.end() && r.takes(v)) into.push_back(v);
  };
  if (r.binary()) {
    into.push_back(1.0 - now);
    return;
  }
  if (!r.listed.empty()) {
    constexpr std::size_t kAll = 8;
    const auto place = std::ranges::find(r.listed, now) - r.listed.begin();
    for (std::size_t k = 0; k < r.listed.size(); ++k)
      if (r.listed.size() <= kAll || std::abs(static_cast<std::ptrdiff_t>(k) - place) <= 1)
        add(r.listed[k]);
    add(r.listed.front());
    add(r.listed.back());
    return;
  }
  for (const double direction : {1.0, -1.0}) {
    add(now + direction);
    if (r.or_zero && now == 0.0) add(direction > 0.0 ? r.used_from : r.used_to);
    if (!completion_) add(furthest(d, direction));
  }
  if (r.or_zero) add(0.0);
  if (std::isfinite(r.lower)) add(r.lower);
  if (std::isfinite(r.upper)) add(r.upper);
}

double Ground::mending(Index rule, Index d) const {
  const Index sum = compiled_.sum_of(rule);
  const double x = standing_.sum(sum);
  const CompiledModel::Figures& f = compiled_.figures[at(compiled_.rules[at(rule)].root)];
  const double want = x < f.low ? f.low - x : x > f.high ? f.high - x : 0.0;
  double weight = 0.0;
  for (const WeightedNode& s : compiled_.in_sums.of(d))
    if (s.node == sum) weight = s.weight;
  if (want == 0.0 || weight == 0.0) return value(d);
  const double by = want / weight, direction = by > 0.0 ? 1.0 : -1.0;
  const DecisionRange& r = range(d);
  constexpr double kNoise = 1e-9;
  // Whole steps go over what is wanted, where they can.
  const double enough =
      r.whole ? value(d) + direction * std::ceil(std::abs(by) - kNoise) : value(d) + by;
  if (!r.listed.empty()) {  // the first one that suffices, or the last
    double best = value(d);
    for (const double v : r.listed)
      if ((v - value(d)) * direction > 0.0 &&
          (best == value(d) ||
           ((best - enough) * direction < 0.0
                ? (v - best) * direction > 0.0
                : (v - enough) * direction >= 0.0 && (v - best) * direction < 0.0)))
        best = v;
    return best;
  }
  return allowed(d, enough, direction);
}

}  // namespace kiteknot::methods
