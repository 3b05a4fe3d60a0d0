#pragma once
// One stage of a solve: the root and the tree of one problem, be it as it came or what presolve
// left of it. Branch and bound (Land and Doig 1960); the present form (warm dual simplex, plunging
// with best bound, pseudo-costs, reduced-cost fixing) follows Achterberg 2007, "Constraint Integer
// Programming", chapters 5 to 7.
//
// It coordinates: it hands nodes to a worker, one at a time for now, and takes in what comes back,
// in the order of the nodes. It owns what is known of the whole tree (the open nodes, their bounds,
// counts) and touches no relaxation itself. Bounds and goals are in the terms of its problem.

#include "mip/search/solve_context.hpp"
#include "mip/search/tree_record.hpp"
#include "mip/tree/overflow.hpp"
#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

class TreeSearch {
 public:
  /// `options` are in the stage's terms, but for the limits of time; `context` outlives it.
  /// `sub_search`: for its worker.
  TreeSearch(Problem problem, Translation terms, SearchOptions options, SolveContext& context,
             SubSearch sub_search);
  TreeSearch(const TreeSearch&) = delete;  // the worker looks at its options
  TreeSearch& operator=(const TreeSearch&) = delete;
  ~TreeSearch() = default;

  [[nodiscard]] bool bounds_in_order() const { return worker_.bounds_in_order(); }
  /// Plans of earlier answers are judged, and the nearest is mended.
  void take_given_plans();
  /// The relaxation, and what is solved by an algorithm of its own. False where there is no tree to
  /// search: nothing is left to find, or the goal has no end.
  bool open_root();
  /// Until `enough` nodes or units of work after open_root; without them to the end or a limit.
  struct Look {
    std::int64_t nodes = 0, work = 0;
  };
  void run(std::optional<Look> enough = {});
  /// Whether anything is left to do, within the limits.
  [[nodiscard]] bool goes_on();

  [[nodiscard]] bool as_it_came() const noexcept { return terms_.same(); }
  [[nodiscard]] const Problem& problem() const noexcept { return worker_.problem(); }
  /// No plan that is not yet found has a better goal; of the problem as it came.
  [[nodiscard]] double bound_out() const { return terms_.bound_out(global_bound(kInf)); }
  [[nodiscard]] const Counts& counts() const noexcept { return counts_; }
  /// What it found out so far, to the solve's result: all but its verdict.
  void hand_over(SearchResult& result);
  /// Its verdict, once it is the last stage.
  void conclude(SearchResult& result);

 private:
  [[nodiscard]] Task task_for(NodeId id, bool stay);
  [[nodiscard]] SharedKnowledge snapshot() const;
  void loop(const std::optional<Look>& enough);
  void answer_unbounded();
  void start_from_network();
  void build_first_plan();
  void solve_structure();

  // what comes back
  bool merge(NodeId id, NodeOutcome outcome);
  void close(NodeId id, const NodeOutcome& outcome);
  void divide(NodeId id, NodeOutcome& outcome);
  void take_plans(NodeOutcome& outcome);

  // recording.cpp: for who wants to see the search later
  void record_new(NodeId id, NodeId parent);
  void record_plans(NodeId id, double best_before);
  void watch_bound();

  // overflow.cpp: nodes on disk
  void drop_tree();
  [[nodiscard]] double tree_bytes() const;
  [[nodiscard]] bool out_of_memory();
  void bring_back();

  // limits.cpp: when to stop, and what may be said then
  [[nodiscard]] bool out_of_limits();
  [[nodiscard]] double spare() const;
  [[nodiscard]] bool closes(double bound) const;
  [[nodiscard]] double gap_to(double bound) const;
  [[nodiscard]] double global_bound(double current) const;
  [[nodiscard]] Standing standing(double current) const;
  [[nodiscard]] bool finished() const;

  Translation terms_;
  SolveContext& context_;
  Judge judge_;  // of the stage's plans
  SearchOptions options_;
  Interrupt interrupt_;
  Worker worker_;
  double goal_size_;  // what gaps near 0 are measured by
  double proof_gap_;  // at which a proof is complete; 0: it is exact

  Tree tree_;
  Frontier open_;
  Overflow overflow_;
  TreeRecord record_;
  NodeId root_node_ = kNoNode;  // stays as long as the search does
  NodeId next_ = kNoNode;       // the child to go on with
  std::int64_t next_number_ = 0;
  struct KeptBases {
    bool on = true;
    double bytes = 0.0;  // of all that ever were
    std::int64_t number = 0;
  } bases_;

  std::shared_ptr<const RootFacts> root_;
  double root_fixed_for_ = std::numeric_limits<double>::infinity();  // best when last used there
  RootReport root_report_;
  struct {
    double loose = std::numeric_limits<double>::infinity();  // least of those closed in kProofGap
    double unresolved = loose;                               // of nodes that could not be settled
    double current = -loose;                                 // of the node that is looked at
  } bounds_;
  bool brief_ = false;             // the worker leaves cuts and probing out
  std::int64_t opening_work_ = 0;  // until the tree began

  StoppedBy stopped_by_ = StoppedBy::nothing;
  bool opened_ = false;  // there is a tree
  bool shut_ = false;    // the root has shown that there is nothing to find
  std::string reason_;
  std::optional<std::vector<Rational>> ray_;
  std::optional<Rational> start_goal_;
  Structure structure_;
  Counts counts_;
  std::array<std::int64_t, kWaysToClose> closed_{};
};

}  // namespace kiteknot::mip
