#pragma once
// Two goals against each other: plans of which none is better in both.

#include "kiteknot/result.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// One side of a trade-off: a goal of the model, or a named expression with a direction.
struct TradeGoal {
  std::string name;
  Sense sense = Sense::minimize;
  Expression expression;
};
/// "cost", a goal of the model; or "minimize trips", "maximize spare": an expression that stands
/// alone under a name. Throws UsageError with the nearest name.
TradeGoal trade_goal(const Model& model, const std::string& text);

struct TradePoint {
  Rational first, second;  ///< the goals' values
  Plan plan;
  bool proven = false;  ///< nothing is better in one goal without being worse in the other
  double seconds = 0.0;
};

struct TradeOff {
  TradeGoal first, second;
  Outcome outcome = Outcome::undecided;  ///< infeasible, unbounded, ...; optimal: points are there
  std::vector<TradePoint> points;        ///< the best of the first goal first
  bool all = false;                      ///< proven: there are no others
  std::int64_t solves = 0;
};

/// The points that no plan betters in both goals, by bounding the second goal and optimising the
/// first, then the second at that value (Haimes, Lasdon, Wismer 1971; augmented as in Mavrotas
/// 2009). With `points` 0, all of them, which needs a second goal over whole decisions (UsageError
/// otherwise); else at most so many, evenly spread over the second goal. Warm; exact on integers.
TradeOff trade_off(const Model& model, const TradeGoal& first, const TradeGoal& second,
                   int points = 0, const SolveOptions& options = {});

}  // namespace kiteknot
#pragma GCC visibility pop
