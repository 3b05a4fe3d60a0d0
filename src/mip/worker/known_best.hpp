#pragma once
// The best plan as a worker knows it, and what it rules out.

#include <algorithm>
#include <cmath>

#include "mip/domain/cutoff.hpp"
#include "mip/interface/options.hpp"
#include "mip/interface/task.hpp"

namespace kiteknot::mip {

class KnownBest {
 public:
  KnownBest(const Problem& problem, const SearchOptions& options);

  /// Rounded up; infinite where there is none. Of the best few the last one's, and below a node
  /// with one key the best one's of that key.
  [[nodiscard]] double best() const noexcept { return best_; }
  [[nodiscard]] bool any() const noexcept { return best_ < kInf; }
  /// The best plan; null where only its goal is known.
  [[nodiscard]] const std::shared_ptr<const std::vector<Rational>>& plan() const noexcept {
    return plan_;
  }
  /// The same in doubles; empty.
  [[nodiscard]] std::span<const double> point() const noexcept { return point_; }
  [[nodiscard]] Cutoff cutoff() const noexcept { return {best_, step_, spare_}; }
  /// Whether a node with this bound holds nothing better: exactly, since the goal is rounded up and
  /// every goal is a multiple of the step.
  [[nodiscard]] bool closes(double bound) const {
    return any() && (any_plan_ || cutoff().closes(bound));
  }
  /// The same of a bound in fractions.
  [[nodiscard]] bool reached_by(const Rational& bound) const;
  /// Whether the bound comes within the gap at which a proof is complete if nothing better can be
  /// had.
  [[nodiscard]] bool nearly_closes(double bound) const;
  /// Whether rounding could be all that keeps the bound from closing a node.
  [[nodiscard]] bool worth_sharpening(double bound) const;

  /// What others found.
  void learn(const SharedKnowledge& known);
  /// A plan that the judge accepted; false where it is no news.
  bool offer(std::span<const Rational> plan, const Rational& goal);

  // Of the best few.
  [[nodiscard]] const std::vector<Index>& key_columns() const noexcept {
    return few_.key_columns();
  }
  /// A node that is left takes the goal of its key along.
  void forget_key();
  /// Where all key columns have one value only what is better than the best plan with them counts.
  void narrow_to_key(const Domain& domain);

 private:
  void set_goal(const Rational& goal);
  void keep(std::shared_ptr<const std::vector<Rational>> plan);

  double step_, goal_offset_;
  double goal_size_ = 1.0;  // the largest cost
  double proof_gap_;        // 0: proofs are exact
  double goal_unit_;
  double spare_ = 0.0;
  bool any_plan_;
  BestFew few_;
  std::optional<Rational> goal_;
  double best_ = kInf;
  std::shared_ptr<const std::vector<Rational>> plan_;
  std::vector<double> point_;
};

/// How much better than the best plan is not worth the search, given the gap at which a proof is
/// complete: none where the problem is exact, or its goal has steps.
[[nodiscard]] double proof_gap_of(const Problem& problem, const SearchOptions& options);
[[nodiscard]] inline double spare_of(double proof_gap, double best, double goal_offset,
                                     double goal_unit) {
  constexpr double kNearZero = 1e-3;  // of the gap: what is left of it next to a goal of 0
  return proof_gap > 0.0 && std::isfinite(best)
             ? proof_gap * std::max(std::abs(best + goal_offset), kNearZero * goal_unit)
             : 0.0;
}
/// The largest cost of a column, at least 1: what gaps near 0 are measured by.
[[nodiscard]] double goal_size(const Problem& problem);

}  // namespace kiteknot::mip
