#pragma once
// Why is the best plan not like this? What the best plan with a condition is worth, what it costs
// against the best, and what would have to change for it.
//
//   kk::Why w = kk::why(model, run["night glow"] >= 1);
//   std::cout << kk::why_page(w);  // pages.hpp

#include "kiteknot/explain.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// How the coefficient of one decision in the first goal would have to be for the condition to be
/// as good as the best.
struct BreakEven {
  std::int32_t decision = 0;
  Rational now, needed;
  Rational outside, inside;  ///< solved on both sides: not so at `outside`, so at `inside`
  bool confirmed = false;
};

struct Why {
  Result best;         ///< of the model as it stands, its first goal only
  Result other;        ///< with the condition; where the best plan meets it already, without it
  bool holds = false;  ///< the best plan meets the condition
  std::optional<Rational> cost;   ///< how much worse the other is, at least 0; both proven
  std::vector<RuleRow> at_limit;  ///< rules at their limit in the other plan
  std::optional<Clash> clash;     ///< no plan meets the other side: why; rows of other.model()
  std::optional<BreakEven> break_even;
  std::string no_break_even;  ///< why there is none, where the question could be asked
  std::int64_t solves = 0;
  std::vector<std::string> later_goals;  ///< goals after the first, which were left aside
};

/// The break-even is exact on the integer model: at it both plans are equally good. It is found by
/// intersecting the lines that two best plans draw over the coefficient (Newton; Dinkelbach 1967),
/// in at most `most_solves` solves, for a condition on one decision.
Why why(const Model& model, const Condition& condition, const SolveOptions& options = {},
        int most_solves = 60);

}  // namespace kiteknot
#pragma GCC visibility pop
