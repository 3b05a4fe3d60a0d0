#include "methods/walks/standing.hpp"

#include <algorithm>
#include <cmath>
#include <functional>

#include "base/at.hpp"

namespace kiteknot::methods {
namespace {

// In sums of misses and goals of fractions: what rounding leaves of two that are equal.
constexpr double kAlike = 1e-9;
// What a term without a value counts as; sums that had it are worked out anew.
constexpr double kNowhere = 1e30, kFar = 1e15;

double limited(double x) {
  return std::isnan(x) ? kNowhere : std::clamp(x, -kNowhere, kNowhere);
}

double nearest_to_zero(const DecisionRange& r) {
  if (!r.listed.empty()) {
    double best = r.listed.front();
    for (const double v : r.listed)
      if (std::abs(v) < std::abs(best)) best = v;
    return best;
  }
  return r.lower > r.upper ? r.lower : std::clamp(0.0, r.lower, r.upper);
}

}  // namespace

bool better(const Score& a, const Score& b) {
  const double broken = kAlike * (1.0 + std::max(a.broken, b.broken));
  if (std::abs(a.broken - b.broken) > broken) return a.broken < b.broken;
  return a.goal < b.goal - kAlike * (1.0 + std::abs(b.goal));
}

Standing::Standing(const CompiledModel& model)
    : model_(model),
      value_(at(model.num_nodes()), 0.0),
      other_(at(model.num_nodes()), 0.0),
      weight_(model.rules.size(), 1.0),
      place_(model.rules.size(), -1),
      is_due_(at(model.num_nodes()), 0),
      moved_(at(model.num_nodes()), 0.0) {
  for (Index d = 0; d < model.num_decisions(); ++d)
    value_[at(d)] = nearest_to_zero(model.ranges[at(d)]);
  refresh();
}

void Standing::refresh() {
  broken_ = 0.0;
  broken_rules_.clear();
  std::ranges::fill(place_, -1);
  trail_.clear();
  for (Index i = model_.num_decisions(); i < model_.num_nodes(); ++i) {
    work_out(i, value_[at(i)], other_[at(i)]);
    if (const Index r = model_.rule_of[at(i)]; r >= 0) rule_moved(r, 0.0, missed(r, value_[at(i)]));
  }
}

double Standing::missed(Index rule, double value) const {
  return value * model_.rules[at(rule)].scale;
}

double Standing::miss(Index rule) const {
  return missed(rule, value_[at(model_.rules[at(rule)].root)]);
}

void Standing::set_weight(Index rule, double weight) {
  broken_ += (weight - weight_[at(rule)]) * miss(rule);
  weight_[at(rule)] = weight;
}

void Standing::rule_moved(Index rule, double before, double after) {
  if (before == after) return;
  broken_ += weight_[at(rule)] * (after - before);
  if (before == 0.0) {
    place_[at(rule)] = static_cast<Index>(broken_rules_.size());
    broken_rules_.push_back(rule);
  } else if (after == 0.0) {
    const Index last = broken_rules_.back();
    broken_rules_[at(place_[at(rule)])] = last;
    place_[at(last)] = place_[at(rule)];
    broken_rules_.pop_back();
    place_[at(rule)] = -1;
    if (broken_rules_.empty()) broken_ = 0.0;  // what rounding left goes with them
  }
}

// How far a sum is from the limits of a comparison, and from being outside of them.
void Standing::work_out(Index i, double& value, double& other) const {
  const auto args = model_.args.of(i);
  const CompiledModel::Figures& f = model_.figures[at(i)];
  const auto arg = [&](std::size_t k) { return value_[at(args[k])]; };
  other = 0.0;
  switch (model_.op[at(i)]) {
    case Op::decision:
      return;
    case Op::sum:
      value = f.constant;
      for (const WeightedNode& t : model_.terms.of(i)) value += t.weight * value_[at(t.node)];
      return;
    case Op::product:
      value = arg(0) * arg(1);
      return;
    case Op::quotient:
      value = arg(1) == 0.0 ? kNowhere : arg(0) / arg(1);
      return;
    case Op::power:
      value = limited(std::pow(arg(0), f.exponent));
      return;
    case Op::exponential:
      value = limited(std::exp(arg(0)));
      return;
    case Op::logarithm:
      value = arg(0) > 0.0 ? std::log(arg(0)) : -kNowhere;
      return;
    case Op::largest:
      value = -kNowhere;
      for (std::size_t k = 0; k < args.size(); ++k) value = std::max(value, arg(k));
      return;
    case Op::curve: {
      const double x = arg(0);
      value = 0.0;
      for (const CurvePiece& p : model_.curves[at(f.curve)]) {
        const double from = p.from.to_double(), to = p.to.to_double();
        if ((x > from || (x == from && p.owns_from)) && (x < to || (x == to && p.owns_to))) {
          value = p.value.to_double() + p.slope.to_double() * (x - from);
          break;
        }
      }
      return;
    }
    case Op::truth_value:
      value = holds_at(args[0]) == 0.0 ? 1.0 : 0.0;
      return;
    case Op::compare: {
      const double x = arg(0);
      const double miss = std::max(f.low - x, x - f.high);
      value = miss > f.slack ? miss : 0.0;
      other = std::clamp(std::min(f.step + x - f.low, f.step + f.high - x), 0.0, kNowhere);
      return;
    }
    case Op::truth:
      value = std::abs(1.0 - arg(0)) > f.slack ? std::abs(1.0 - arg(0)) : 0.0;
      other = std::abs(arg(0)) > f.slack ? std::abs(arg(0)) : 0.0;
      return;
    case Op::all:
    case Op::any: {
      const bool all = model_.op[at(i)] == Op::all;
      double together = 0.0, least = kNowhere;
      for (const Index a : args) {
        together += all ? holds_at(a) : fails_at(a);
        least = std::min(least, all ? fails_at(a) : holds_at(a));
      }
      if (args.empty()) least = 1.0;  // all of none holds, any of none does not
      value = all ? together : least;
      other = all ? least : together;
      return;
    }
    case Op::exclusive:
    case Op::same: {
      const double alike =
          std::min(holds_at(args[0]) + holds_at(args[1]), fails_at(args[0]) + fails_at(args[1]));
      const double apart =
          std::min(holds_at(args[0]) + fails_at(args[1]), fails_at(args[0]) + holds_at(args[1]));
      const bool same = model_.op[at(i)] == Op::same;
      value = same ? alike : apart;
      other = same ? apart : alike;
      return;
    }
    case Op::count: {
      std::int32_t number = 0;
      for (const Index a : args) number += holds_at(a) == 0.0 ? 1 : 0;
      value = std::max({0, f.least - number, number - f.most});
      const auto all = static_cast<std::int32_t>(args.size());
      const std::int32_t below = f.least > 0 ? number - f.least + 1 : all + 1;
      const std::int32_t above = f.most < all ? f.most - number + 1 : all + 1;
      other = std::max(0, std::min(below, above));
      return;
    }
  }
}

void Standing::read_by(Index node) {
  for (const Index r : model_.readers.of(node)) {
    if (is_due_[at(r)]) continue;
    is_due_[at(r)] = 1;
    due_.push_back(r);
    std::ranges::push_heap(due_, std::greater<>());
  }
}

void Standing::change(Index node, double value, double other) {
  const double before = value_[at(node)];
  note(node);
  value_[at(node)] = value;
  other_[at(node)] = other;
  if (const Index r = model_.rule_of[at(node)]; r >= 0)
    rule_moved(r, missed(r, before), missed(r, value));
  if (before != value)
    for (const WeightedNode& s : model_.in_sums.of(node)) {
      note(s.node);
      if (std::max(std::abs(value), std::abs(before)) < kFar) {
        value_[at(s.node)] += s.weight * (value - before);
      } else {
        double unused = 0.0;
        work_out(s.node, value_[at(s.node)], unused);
      }
      read_by(s.node);
    }
  read_by(node);
}

void Standing::spread() {
  while (!due_.empty()) {
    std::ranges::pop_heap(due_, std::greater<>());
    const Index i = due_.back();
    due_.pop_back();
    is_due_[at(i)] = 0;
    double value = 0.0, other = 0.0;
    work_out(i, value, other);
    if (value != value_[at(i)] || other != other_[at(i)]) change(i, value, other);
  }
}

void Standing::take(std::span<const Move> moves) {
  for (const Move& m : moves)
    if (m.to != value_[at(m.decision)]) change(m.decision, m.to, 0.0);
  spread();
}

void Standing::take_all(std::span<const double> values) {
  for (Index d = 0; d < model_.num_decisions(); ++d)
    if (values[at(d)] != value_[at(d)]) change(d, values[at(d)], 0.0);
  spread();
}

void Standing::undo_to(std::size_t mark) {
  while (trail_.size() > mark) {
    const Before b = trail_.back();
    trail_.pop_back();
    if (const Index r = model_.rule_of[at(b.node)]; r >= 0)
      rule_moved(r, missed(r, value_[at(b.node)]), missed(r, b.value));
    value_[at(b.node)] = b.value;
    other_[at(b.node)] = b.other;
  }
}

Score Standing::tried(std::span<const Move> moves) {
  const bool plain =
      std::ranges::all_of(moves, [&](const Move& m) { return model_.plain[at(m.decision)] != 0; });
  if (!plain) {
    const std::size_t back = mark();
    const double broken = broken_;
    take(moves);
    const Score score = this->score();
    undo_to(back);
    broken_ = broken;  // to the last digit
    return score;
  }
  Score score = this->score();
  for (std::size_t k = 0; k < moves.size(); ++k) {
    const Index d = moves[k].decision;
    double from = value_[at(d)];
    for (std::size_t l = 0; l < k; ++l)
      if (moves[l].decision == d) from = moves[l].to;
    const double by = moves[k].to - from;
    if (by == 0.0) continue;
    for (const WeightedNode& s : model_.in_sums.of(d)) {
      if (moved_[at(s.node)] == 0.0) touched_.push_back(s.node);
      moved_[at(s.node)] += s.weight * by;
    }
  }
  for (const Index s : touched_) {
    const double by = moved_[at(s)];
    moved_[at(s)] = 0.0;
    if (by == 0.0) continue;  // one that came back, or a second note of it
    if (s == model_.goal) {
      score.goal += by;
      continue;
    }
    const auto readers = model_.readers.of(s);
    if (readers.empty()) continue;
    const Index c = readers[0], r = model_.rule_of[at(c)];
    const CompiledModel::Figures& f = model_.figures[at(c)];
    const double x = value_[at(s)] + by;
    const double miss = std::max(f.low - x, x - f.high);
    score.broken += weight_[at(r)] * model_.rules[at(r)].scale *
                    ((miss > f.slack ? miss : 0.0) - value_[at(c)]);
  }
  touched_.clear();
  if (score.broken < 0.0) score.broken = 0.0;
  return score;
}

}  // namespace kiteknot::methods
