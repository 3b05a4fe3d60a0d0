#pragma once
// What a later solve of a similar model can start from: the basis, the plans found, what was
// learned about branching, and proven bounds that still hold.

#include <map>
#include <utility>

#include "mip/search/search.hpp"
#include "model/lowering.hpp"

namespace kiteknot::methods {

class Memory {
 public:
  /// Fills in what is known for this problem. O(nonzeros) for each remembered problem.
  void start(mip::SearchOptions& options, const Lowering& lowering) const;
  /// The last basis, as far as it fits; empty where it does not, or where no relaxation took more
  /// than a few pivots (mip::kFewPivots).
  [[nodiscard]] lp::Basis basis(const Lowering& lowering) const;
  /// Plans found, the most recent last; values by decision.
  [[nodiscard]] const std::vector<std::vector<Rational>>& plans() const noexcept { return plans_; }
  /// `decisions`: the first columns, which plans are kept of.
  void remember(const mip::SearchResult& found, const Lowering& lowering, Index decisions);
  /// Any plan that may help; values by decision.
  void add_plan(std::vector<Rational> plan);

 private:
  /// A problem and a bound on it. It bounds every problem with the same columns, goal and rows
  /// whose limits are as tight or tighter: that one has fewer plans (a relaxation in the sense of
  /// Geoffrion and Marsten 1972, "Integer programming algorithms: a framework").
  struct Fact {
    mip::Problem problem;
    std::vector<std::pair<Rational, Rational>> limits;  // exact, by row
    Rational scale, constant;
    int sign = 1;
    double bound = 0.0;  // infinite: it has no plan
  };
  [[nodiscard]] static bool narrows(const Lowering& lowering, const Fact& fact);

  std::vector<lp::VariableStatus> columns_;  // by decision
  std::map<std::pair<std::int32_t, std::int32_t>, lp::VariableStatus>
      rows_;                                  // by rule family and member
  std::vector<std::vector<Rational>> plans_;  // most recent last
  std::optional<mip::PseudoCosts> pseudo_costs_;
  std::vector<Fact> facts_;       // most recent last
  std::int64_t most_pivots_ = 0;  // that a root took
};

}  // namespace kiteknot::methods
