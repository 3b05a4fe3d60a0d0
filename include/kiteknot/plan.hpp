#pragma once
// A plan is one exact value for every decision. Checking it evaluates every rule and bound as
// stated, in rationals: rules over whole decisions have no tolerance at all; one with real
// decisions in it holds within 1e-9 times (1 + the size of the largest term of a real decision),
// and the largest violation is reported.

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "kiteknot/model.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

class Plan {
 public:
  /// All decisions at 0.
  explicit Plan(const Model& model);
  /// One value for each decision of the model; UsageError for another number of them.
  Plan(const Model& model, std::vector<Rational> values);

  [[nodiscard]] const Rational& operator[](const Decision& d) const&;
  [[nodiscard]] Rational operator[](const Decision& d) && { return std::as_const(*this)[d]; }
  /// By its number among all; UsageError where there is no such one.
  [[nodiscard]] const Rational& operator[](std::int32_t decision) const&;
  [[nodiscard]] Rational operator[](std::int32_t d) && { return std::as_const(*this)[d]; }
  /// UsageError for a decision of another model.
  void set(const Decision& d, const Rational& value);
  /// By the decisions' numbers.
  [[nodiscard]] const std::vector<Rational>& values() const noexcept { return values_; }
  /// The model that it was made for.
  [[nodiscard]] const Tag& model() const noexcept { return model_; }

 private:
  [[nodiscard]] std::size_t place(const Decision& d) const;
  Tag model_;
  std::vector<Rational> values_;
};

/// One rule row of a model under a plan. The value stands against low and high as the user wrote
/// them; where both sides hold decisions, value is left minus right and the limit 0.
struct RuleValue {
  std::int32_t family = 0, member = 0;
  Rational low, high;  ///< infinite where there is none
  Rational value;
  Rational slack;  ///< distance to the nearest limit inside, negative: missed by that much
  bool met = true;
  bool binding = false;    ///< met with no room left
  bool two_sided = false;  ///< both sides hold decisions: left and right tell them
  Rational left, right;
  bool logical = false;  ///< conditions joined: there is no value and no limit, it is met or not
  bool soft = false;     ///< it may be missed, at a charge in the goal
  Rational missed_by;    ///< of a soft rule: by how much, ...
  Rational charge;       ///< ... and what that costs
  /// For Model::name.
  [[nodiscard]] RuleRow row() const noexcept { return {family, member}; }
};

/// A decision whose value is out of its bounds or not whole.
struct DecisionFault {
  std::int32_t decision = 0;  ///< -1: something about several; `what` is the whole sentence
  Rational value;
  std::string what;  ///< "is not whole", "is below 0", "is above 1", "is none of 4, 6 and 9"
};

struct PlanReport {
  bool feasible = true;
  bool exact = true;             ///< every comparison and bound holds without any tolerance
  double largest_violation = 0;  ///< of a rule or bound, in its own units; 0 where exact
  std::vector<RuleValue> rules;  ///< one a row of every rule that is switched on, in order
  std::vector<DecisionFault> faults;
  std::optional<Rational> goal;  ///< the first one, in the user's sense; none where there is none
  std::vector<Rational> goals;   ///< all, in order; the first with its charges
  /// Rules that are not met and may not be missed.
  [[nodiscard]] std::int32_t num_missed() const;
};

/// UsageError for a plan of another model. With `relaxed`, whole decisions may be fractional, and
/// rules hold within the tolerance of reals.
PlanReport check(const Model& model, const Plan& plan, bool relaxed = false);
/// The same without any tolerance: what the search's own plans have to stand.
PlanReport check_exactly(const Model& model, const Plan& plan, bool relaxed = false);

}  // namespace kiteknot
#pragma GCC visibility pop
