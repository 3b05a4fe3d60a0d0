#pragma once
// One stage of a solve: the root and the tree of one problem, be it as it came or what presolve
// left of it. Branch and bound (Land and Doig 1960); the present form (warm dual simplex, plunging
// with best bound, pseudo-costs, reduced-cost fixing) follows Achterberg 2007, "Constraint Integer
// Programming", chapters 5 to 7.
//
// It coordinates: it hands nodes to a worker, or to several at once (crew_loop.cpp), and takes in
// what comes back, in the order of the work done. It owns what is known of the whole tree (the open
// nodes, their bounds, counts) and touches no relaxation itself. Bounds and goals are in the terms
// of its problem.

#include <deque>

#include "mip/parallel/crew.hpp"
#include "mip/parallel/kept_tree.hpp"
#include "mip/parallel/ranks.hpp"
#include "mip/problem/problem_mark.hpp"
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
  ~TreeSearch() { crew_.reset(); }  // who is at work looks at the tree

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
  [[nodiscard]] double bound_out() const { return terms_.bound_out(global_bound()); }
  [[nodiscard]] const Counts& counts() const noexcept { return counts_; }
  /// Whether it goes on from a tree that was kept.
  [[nodiscard]] bool restored() const noexcept { return restored_; }
  /// As it stands; nothing is at work.
  [[nodiscard]] KeptState kept_state();
  /// What it found out so far, to the solve's result: all but its verdict.
  void hand_over(SearchResult& result);
  /// Its verdict, once it is the last stage.
  void conclude(SearchResult& result);

 private:
  /// Where a worker stands in the tree.
  struct Seat {
    NodeId next = kNoNode;     // the child that it goes on with
    NodeId in_hand = kNoNode;  // that it works on, or of which the outcome is taken in
    /// With several workers: the nodes of the orders that it was given, the first of them that
    /// which is worked on.
    std::deque<std::deque<NodeId>> given;
    SharedKnowledge news;  // what the others found since its last task
  };
  /// The node that the seat goes on with; none: nothing is open. Those that the best plan closes
  /// are closed on the way.
  [[nodiscard]] NodeId take_node(Seat& seat, bool& stay);
  [[nodiscard]] bool any_next() const;
  [[nodiscard]] bool any_in_hand() const;
  [[nodiscard]] Task task_of(NodeId id, bool stay) const;
  [[nodiscard]] Task task_for(NodeId id, bool stay);
  [[nodiscard]] SharedKnowledge snapshot_for(Seat& seat) const;
  const SearchOptions& prepared(const Problem& problem);
  void loop(const std::optional<Look>& enough);
  void tell_progress();
  void open_at(RootOutcome root);
  void answer_unbounded();
  void start_from_network();
  void build_first_plan();
  void solve_structure();

  // what comes back
  bool merge(Seat& seat, NodeOutcome outcome);
  void close(NodeId id, const NodeOutcome& outcome);
  void divide(Seat& seat, NodeOutcome& outcome);
  void take_plans(NodeOutcome& outcome);

  // crew_loop.cpp: several workers
  [[nodiscard]] bool crew_pays() const;
  void gather();
  void loop_with_crew();
  void give_orders(std::size_t first);
  [[nodiscard]] std::optional<Order> order_for(std::size_t seat);
  void put_back(Seat& seat);
  bool take_in(Delivery delivery);
  void dismiss();
  void hand_over_parts(SearchResult& result);

  // keeping.cpp
  void gather_for_keeping(const NodeOutcome& outcome);
  void keep_if_due();
  [[nodiscard]] std::optional<KeptTree> kept_tree();
  [[nodiscard]] KeptTree tree_over(std::vector<NodeId> open, std::vector<Node> away) const;
  void go_on_from(const KeptTree& tree);

  // ranks_loop.cpp: other processes
  [[nodiscard]] bool shares() const noexcept { return options_.ranks != nullptr; }
  void join_ranks();
  bool exchange(bool idle);
  void exchange_if_due();
  [[nodiscard]] bool wait_for_nodes();
  [[nodiscard]] RankStanding rank_standing(bool idle);
  void give_away(const Supervisor::Give& give);
  void take_parcel(Ranks::Mail::Parcel parcel);
  void take_told(Ranks::Mail& mail);
  void hear(RankNews news);
  void gather_for_ranks(const NodeOutcome& outcome);
  void tell_state(const std::vector<std::int64_t>& known);
  void add_others(KeptTree& tree);
  void leave_ranks();

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
  /// `beside`: of what the tree does not hold.
  [[nodiscard]] double global_bound(double beside = std::numeric_limits<double>::infinity()) const;
  [[nodiscard]] Standing standing() const;
  [[nodiscard]] bool finished() const;

  Translation terms_;
  SolveContext& context_;
  Judge judge_;  // of the stage's plans
  SearchOptions options_;
  Interrupt interrupt_;
  SubSearch sub_search_;
  std::optional<std::uint64_t> mark_;  // of the problem, where it is kept or was
  bool restored_ = false;
  struct {
    std::vector<PooledRow> rows;
    std::vector<Conflict> conflicts;
    PseudoCosts pseudo_costs{0};
  } kept_;  // what workers found, where the search is kept
  struct {
    bool joined = false;
    std::int64_t taken = 0;               // the last parcel
    std::vector<RankState::Given> given;  // while the search is kept
    RankNews news;                        // not told yet
    std::int64_t rows = 0;                // names of those that came
    double told_at = 0.0, news_at = 0.0;  // seconds
    double bound = kInf;                  // of the others, at rank 0
    std::int64_t nodes = 0, open = 0;     // the same
    std::int64_t told = 0;                // nodes of the others, in the end
    std::string trouble;                  // why it cannot go on
    std::vector<std::int64_t> known;      // parcels by rank that are part of what was kept
    bool telling = true;                  // plans that are found here
  } ranks_;
  WorkClock first_clock_;  // of the first worker, where there may be others
  Worker worker_;
  std::unique_ptr<Crew> crew_;  // with the first worker at its first seat; null: it is alone
  bool alone_ = false;          // its generator has no twins
  struct {
    std::int64_t work = 0, ends = 0;  // of nodes that were taken from the open ones, with what is
                                      // done below them at once
  } plunges_;
  double goal_size_;  // what gaps near 0 are measured by
  double proof_gap_;  // at which a proof is complete; 0: it is exact

  Tree tree_;
  Frontier open_;
  Overflow overflow_;
  TreeRecord record_;
  NodeId root_node_ = kNoNode;  // stays as long as the search does
  std::vector<Seat> seats_ = std::vector<Seat>(1);
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
