#pragma once
// Rounds of cuts, at the root and near it. They hold for every plan that is better than the best
// one was when they were made: what prices have fixed by then is taken for granted.

#include "mip/separators/cut_manager.hpp"
#include "mip/worker/node_workspace.hpp"
#include "mip/worker/present_node.hpp"

namespace kiteknot::mip {

class CutLoop {
 public:
  CutLoop(NodeWorkspace& space, const SearchOptions& options);

  /// A round at the root, whose relaxation has this bound. True where the relaxation changed and is
  /// to be solved again; at the end rows that turned out slack leave it. `best`: goal of the best
  /// plan.
  bool at_root(double bound, double best, PresentNode& node);
  /// The same at the first branchings, where most of the root's cuts were sums along paths: such
  /// cuts hold below them, by the bounds there.
  bool below(double bound, double best, PresentNode& node);
  /// Rows that kinds choose by the relaxation's point (RelaxedKind::sharpen), everywhere in the
  /// tree as long as they close their share of what there is to close.
  bool by_point(double bound, double best, PresentNode& node);
  /// Most of the root's cuts were sums of rows along paths: flows behind links that are yes or no.
  /// Of these the branchings near the root leave other sums worth rounding; of other families they
  /// do not.
  [[nodiscard]] bool came_from_paths() const;
  [[nodiscard]] std::vector<PartTally> parts() const;

 private:
  [[nodiscard]] bool worth_another_round(double bound);
  [[nodiscard]] bool worth_their_rows(double bound, double best) const;
  bool bring_in(const std::vector<LinearRow>& rows, std::int64_t scope, Counts& counts);

  NodeWorkspace& space_;
  std::int64_t root_work_;  // spent on the relaxation elsewhere
  CutManager at_root_, below_;
  struct {
    int rounds = 0, stalls = 0;
    double first = -std::numeric_limits<double>::infinity(), last = first;
    std::int64_t work = 0;  // of everything before the first
    bool over = false;
  } rounds_;  // at the root
  struct Rounds {
    std::int64_t node = -1;  // where the last round was
    int rounds = 0;          // there
    double last = 0.0;       // bound before the last round
    int all = 0;             // rounds
    double closed = 0.0;     // sum of the shares of what was open
    /// Whether one more is worth it at the node, after `trial` rounds whatever they bring.
    bool another(double bound, double best, std::int64_t number, int most, int trial);
  };
  Rounds rounds_below_, rounds_by_point_;
};

}  // namespace kiteknot::mip
