#pragma once
// A model as a graph of doubles, made to be evaluated after small changes: decisions, sums of them,
// the terms that are not sums, and conditions, each known by how far it is from holding and from
// failing. Children come before whatever is made of them. (Van Hentenryck and Michel 2005,
// "Constraint-based local search", for the idea of invariants that follow from decisions.)
//
// Comparisons and the goal are scaled by the least common denominator of their figures: where
// decisions move in steps all values are whole numbers, exact as long as they stay below 2^53.

#include <cmath>
#include <memory>
#include <span>
#include <vector>

#include "base/at.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {

/// What a node is; conditions from `compare` on.
enum class Op : std::uint8_t {
  decision,
  sum,
  product,
  quotient,
  power,  ///< the exponent is a figure
  exponential,
  logarithm,
  largest,
  curve,
  truth_value,  ///< 1 where the condition holds
  compare,      ///< low <= sum <= high
  truth,        ///< the sum is 1
  all,
  any,
  exclusive,
  same,
  count
};

/// Lists of entries, one list a node.
template <class Entry>
struct Lists {
  std::vector<std::size_t> start{0};
  std::vector<Entry> entries;
  [[nodiscard]] std::span<const Entry> of(Index i) const {
    return std::span(entries).subspan(start[at(i)], start[at(i) + 1] - start[at(i)]);
  }
};

struct WeightedNode {
  Index node = 0;
  double weight = 0.0;
};

/// Values that a decision may take.
struct DecisionRange {
  double lower = 0.0, upper = 0.0;        ///< infinite allowed
  double used_from = 0.0, used_to = 0.0;  ///< or_zero: of values that are not 0
  bool whole = false, or_zero = false, can_move = true;
  std::vector<double> listed{};
  /// Whether it moves in steps.
  [[nodiscard]] bool stepped() const noexcept { return whole || !listed.empty(); }
  [[nodiscard]] bool binary() const noexcept { return whole && lower == 0.0 && upper == 1.0; }
  [[nodiscard]] bool takes(double value) const;
};

class CompiledModel {
 public:
  /// Throws UsageError where it cannot be evaluated in parts (round trips), naming the rule.
  explicit CompiledModel(const ModelData& model);

  struct Figures {                            ///< of a node
    double constant = 0.0;                    ///< sum
    double low = -HUGE_VAL, high = HUGE_VAL;  ///< compare
    double step = 0.0;                        ///< compare: its sum moves by that at least
    double slack = 0.0;                       ///< compare, truth: misses up to that are none
    double exponent = 0.0;                    ///< power
    std::int32_t least = 0, most = 0;         ///< count
    Index curve = -1;                         ///< place in curves
  };
  struct Rule {
    Index family = 0, member = 0;
    Index root = 0;         ///< a condition; ~n: the node n has to fail
    double scale = 1.0;     ///< misses times this are of one size
    bool over_sum = false;  ///< a comparison that nothing else looks at: see sum_of
  };

  [[nodiscard]] Index num_decisions() const noexcept { return static_cast<Index>(ranges.size()); }
  [[nodiscard]] Index num_nodes() const noexcept { return static_cast<Index>(op.size()); }
  /// The decisions that can make a rule hold or fail; walked through once a rule.
  [[nodiscard]] const std::vector<Index>& decisions_under(Index rule) const;
  /// The sum of a rule that is a plain comparison.
  [[nodiscard]] Index sum_of(Index rule) const { return args.of(rules[at(rule)].root)[0]; }
  /// The goal as the user states it, of the goal node's value.
  [[nodiscard]] double told_goal(double value) const noexcept {
    return (maximizes ? -value : value) / goal_scale;
  }

  std::vector<DecisionRange> ranges;  // by decision
  std::vector<Op> op;                 // by node; decisions come first
  std::vector<Figures> figures;
  Lists<WeightedNode> terms;    // of sums
  Lists<WeightedNode> in_sums;  // by node: sums that it stands in
  Lists<Index> args;            // of other nodes; ~n: the condition n negated
  Lists<Index> readers;         // by node: nodes other than sums that are made of it
  std::vector<Index> rule_of;   // by node: the rule that it is the root of, or -1
  std::vector<Rule> rules;
  std::vector<char> plain;  // by node: a decision or sum that moves plain rules and the goal only
  std::vector<std::vector<CurvePiece>> curves;
  Index goal = -1;          // a sum, to be small; -1: there is none
  double goal_scale = 1.0;  // its value is this times the user's goal
  double goal_step = 0.0;   // it moves by that at least; 0: not known
  bool maximizes = false;
  bool linear = true;      // sums and comparisons of them are all there is
  bool has_reals = false;  // some decision does not move in steps

 private:
  mutable std::vector<std::vector<Index>> under_;  // by rule
};

}  // namespace kiteknot::methods
