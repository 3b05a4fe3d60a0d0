#pragma once
// What the root found out, as far as a worker uses it: what holds in the whole tree, and what
// reduced costs at the root leave of columns with every better plan.

#include "mip/worker/known_best.hpp"
#include "mip/worker/node_workspace.hpp"
#include "mip/worker/term_ranges.hpp"

namespace kiteknot::mip {

class RootState {
 public:
  /// Once the root was divided, here or elsewhere; else null.
  [[nodiscard]] const std::shared_ptr<const RootFacts>& facts() const noexcept { return facts_; }
  /// The domain's trail up to here holds for the whole tree.
  [[nodiscard]] std::size_t mark() const noexcept { return mark_; }

  /// The goal of the best plan that it was last made tighter for.
  [[nodiscard]] double fixed_for() const noexcept { return fixed_for_; }

  /// While it is looked at: its bound with the reduced costs, which belong to the bounds that the
  /// relaxation has.
  void remember(double bound, const CertainCosts& costs, const Relaxation& relaxation);
  /// It was divided here: what it found out holds for all.
  std::shared_ptr<const RootFacts> hand_out(const Domain& domain, bool cut_by_paths);
  /// Another worker looked at it.
  void adopt(std::shared_ptr<const RootFacts> facts, NodeWorkspace& space);
  /// A better plan than the one last used here makes bounds tighter for the whole tree.
  void tighten(const KnownBest& known, NodeWorkspace& space);
  /// The same by ranges of columns in terms.
  void narrow(TermRanges& ranges, NodeWorkspace& space);

 private:
  std::shared_ptr<const RootFacts> facts_;
  RootFacts own_;                                               // while it is looked at
  double fixed_for_ = std::numeric_limits<double>::infinity();  // the best goal when last used
  std::size_t mark_ = 0;
};

}  // namespace kiteknot::mip
