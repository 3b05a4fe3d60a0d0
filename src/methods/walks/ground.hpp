#pragma once
// What a walk moves over: points of a model with their scores. Real decisions, where there are
// some, are none of the walk's: for every choice of the others the linear engine completes them.

#include <memory>
#include <optional>

#include "base/random.hpp"
#include "base/work.hpp"
#include "kiteknot/result.hpp"
#include "methods/walks/completion.hpp"
#include "methods/walks/standing.hpp"

namespace kiteknot::methods {

class Ground {
 public:
  /// Throws UsageError for what it cannot take, saying what.
  Ground(const Model& model, const Interrupt& interrupt);

  [[nodiscard]] const CompiledModel& model() const noexcept { return compiled_; }
  /// The decisions that a walk moves, in their order.
  [[nodiscard]] const std::vector<Index>& movable() const noexcept { return movable_; }
  [[nodiscard]] double value(Index decision) const { return standing_.value(decision); }
  [[nodiscard]] const DecisionRange& range(Index d) const { return compiled_.ranges[at(d)]; }
  /// By decision; real ones as completed.
  [[nodiscard]] std::vector<double> values() const;

  [[nodiscard]] Score score() const { return completion_ ? completed_ : standing_.score(); }
  [[nodiscard]] Score tried(std::span<const Move> moves);
  [[nodiscard]] Score tried(const Move& move) { return tried(std::span(&move, 1)); }
  void take(std::span<const Move> moves);
  void take(const Move& move) { take(std::span(&move, 1)); }
  void take_all(std::span<const double> values);

  /// Where rules can be looked at one by one; null where reals are completed.
  [[nodiscard]] Standing* rules() noexcept { return completion_ ? nullptr : &standing_; }
  /// Scores asked for since it was made; one of a completed point counts for many.
  [[nodiscard]] std::int64_t looks() const noexcept { return looks_; }

  /// Of work that was done elsewhere.
  void spend(std::int64_t looks) noexcept { looks_ += looks; }

  /// Values that a decision may move to from where it stands: the neighbours of it, its ends, and
  /// as far as its rules let it go either way.
  void options(Index decision, std::vector<double>& into) const;
  /// The share of what rules have left that a move takes, summed over plain comparisons.
  [[nodiscard]] double share_taken(const Move& move) const;
  /// The value that comes nearest to mending a rule that is a plain comparison, alone; where it
  /// stands if it cannot help.
  [[nodiscard]] double mending(Index rule, Index decision) const;

 private:
  [[nodiscard]] Score completed_at(std::span<const double> values, std::vector<double>& point);
  [[nodiscard]] double furthest(Index decision, double direction) const;
  [[nodiscard]] double allowed(Index decision, double value, double direction) const;

  CompiledModel compiled_;
  Standing standing_;
  std::unique_ptr<Completion> completion_;
  std::vector<Index> movable_;
  Score completed_;
  std::vector<double> point_, tried_point_, tried_values_;  // with reals
  Score tried_score_;
  std::int64_t looks_ = 0;
};

}  // namespace kiteknot::methods
