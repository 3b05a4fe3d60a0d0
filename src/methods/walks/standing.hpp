#pragma once
// Where a walk stands: a value for every decision of a compiled model, and what follows from them,
// kept up to date by changes only.

#include <span>

#include "methods/walks/compiled_model.hpp"

namespace kiteknot::methods {

/// A decision and the value that it moves to.
struct Move {
  Index decision = 0;
  double to = 0.0;
};

/// How good a point is: what it breaks counts before its goal.
struct Score {
  double broken = 0.0;  ///< misses of rules, each in its own size and weight
  double goal = 0.0;    ///< as CompiledModel::goal, to be small
  /// But for what rounding leaves.
  [[nodiscard]] bool clean() const noexcept { return broken < kNoise; }
  friend bool operator==(const Score&, const Score&) = default;
  static constexpr double kNoise = 1e-9;
};
/// Whether `a` is better by more than what doubles may say of equal points.
bool better(const Score& a, const Score& b);

class Standing {
 public:
  /// Every decision at the value nearest to 0 that it may have.
  explicit Standing(const CompiledModel& model);

  [[nodiscard]] const CompiledModel& model() const noexcept { return model_; }
  [[nodiscard]] double value(Index decision) const { return value_[at(decision)]; }
  /// By decision.
  [[nodiscard]] std::span<const double> values() const {
    return std::span(value_).first(at(model_.num_decisions()));
  }
  [[nodiscard]] Score score() const noexcept { return {broken_, goal()}; }
  [[nodiscard]] double goal() const noexcept {
    return model_.goal < 0 ? 0.0 : value_[at(model_.goal)];
  }
  /// Rules that do not hold, in no order.
  [[nodiscard]] const std::vector<Index>& broken_rules() const noexcept { return broken_rules_; }
  /// How far a rule is from holding, in its own size; 0: it holds.
  [[nodiscard]] double miss(Index rule) const;
  [[nodiscard]] double sum(Index node) const { return value_[at(node)]; }

  /// What the score would be. Decisions that only move sums take as long as their columns; the
  /// others what follows from them, there and back.
  [[nodiscard]] Score tried(std::span<const Move> moves);
  void take(std::span<const Move> moves);
  void take(const Move& move) { take(std::span(&move, 1)); }
  /// All decisions at once.
  void take_all(std::span<const double> values);

  /// A place to go back to; the latest first.
  [[nodiscard]] std::size_t mark() const noexcept { return trail_.size(); }
  void undo_to(std::size_t mark);
  /// Nothing before this point is gone back to.
  void keep() { trail_.clear(); }

  /// What a unit of miss of a rule counts, from 1 at the start.
  [[nodiscard]] double weight(Index rule) const { return weight_[at(rule)]; }
  void set_weight(Index rule, double weight);
  /// All that follows is worked out anew: sums of fractions drift.
  void refresh();

 private:
  struct Before {
    Index node = 0;
    double value = 0.0, other = 0.0;
  };
  void note(Index node) { trail_.push_back({node, value_[at(node)], other_[at(node)]}); }
  void change(Index node, double value, double other);
  void spread();
  void read_by(Index node);
  void work_out(Index node, double& value, double& other) const;
  [[nodiscard]] double holds_at(Index ref) const {  // how far from holding
    return ref < 0 ? other_[at(~ref)] : value_[at(ref)];
  }
  [[nodiscard]] double fails_at(Index ref) const { return holds_at(~ref); }
  [[nodiscard]] double missed(Index rule, double value) const;
  void rule_moved(Index rule, double before, double after);

  const CompiledModel& model_;
  std::vector<double> value_;   // by node; of conditions how far from holding ...
  std::vector<double> other_;   // ... and from failing
  std::vector<double> weight_;  // by rule
  std::vector<Index> broken_rules_, place_;
  double broken_ = 0.0;
  std::vector<Before> trail_;
  std::vector<Index> due_;  // nodes to be worked out, a heap with the lowest on top
  std::vector<char> is_due_;
  std::vector<double> moved_;   // by node: what a tried move adds to a sum
  std::vector<Index> touched_;  // those
};

}  // namespace kiteknot::methods
