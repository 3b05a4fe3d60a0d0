#pragma once
// What a branch that came to nothing tells of the rest of the tree: its conflicts are analysed,
// kept and propagated, and the columns at fault noted for branching.

#include "mip/branching/pseudo_costs.hpp"
#include "mip/conflict/analysis.hpp"
#include "mip/worker/node_workspace.hpp"

namespace kiteknot::mip {

class ConflictLearner {
 public:
  /// Adds its propagator to the workspace's, both of which outlive it.
  ConflictLearner(NodeWorkspace& space, PseudoCosts& costs);

  /// At a node of this depth, after so many nodes; what the domain's trail says up to `root` holds
  /// everywhere.
  struct Where {
    int depth = 0;
    std::int64_t nodes = 0;
    std::size_t root = 0;
  };
  /// The last propagation ended in a contradiction.
  void from_rows(const Where& where);
  /// The relaxation has no point, or none below the cutoff.
  void from_relaxation(const Where& where, const std::optional<Cutoff>& cutoff);
  /// What another worker learned.
  void adopt(const Conflict& conflict);
  /// Those of few bounds that were learned here since the last call: what is wide of few branches
  /// is of use in others.
  [[nodiscard]] std::vector<Conflict> take_found() { return std::exchange(found_, {}); }
  [[nodiscard]] std::vector<Conflict> all() const { return learned_.all(); }
  /// Steps: conflicts kept.
  [[nodiscard]] const Tally& tally() const noexcept { return tally_; }

 private:
  [[nodiscard]] bool learns(const Where& where) const;
  void keep(std::optional<Conflict> conflict, std::int64_t before);

  NodeWorkspace& space_;
  PseudoCosts& costs_;
  LearnedPropagator& learned_;
  Analysis analysis_;
  std::vector<Conflict> found_;  // not yet told
  Tally tally_;
};

}  // namespace kiteknot::mip
