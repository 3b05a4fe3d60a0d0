#pragma once
// Branch and bound with generated constraints. Source: Land and Doig 1960; the present form (warm
// dual simplex, plunging with best bound, pseudo-costs, reduced-cost fixing) follows Achterberg
// 2007, "Constraint Integer Programming", chapters 5 to 7.
//
// The search coordinates: it hands nodes to a worker, one at a time for now, and takes in what
// comes back, in the order of the nodes. It owns what is known of the whole (the tree, the open
// nodes, the best plan, bounds and counts) and touches no relaxation itself.

#include "base/work.hpp"
#include "mip/interface/options.hpp"
#include "mip/interface/result.hpp"
#include "mip/presolve/presolve.hpp"
#include "mip/search/incumbents.hpp"
#include "mip/search/tree_record.hpp"
#include "mip/tree/overflow.hpp"
#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

/// A search as workers are given it.
[[nodiscard]] SearchResult sub_search(Problem problem, const Judge& judge, SearchOptions options);

class Search {
 public:
  Search(Problem problem, Judge judge, SearchOptions options, Listener* listener = nullptr);
  Search(const Search&) = delete;  // the worker looks at its options
  Search& operator=(const Search&) = delete;
  ~Search() = default;
  SearchResult run();

 private:
  [[nodiscard]] bool start();
  void loop();
  void tell_in_place(double bound);
  [[nodiscard]] bool goes_on();
  [[nodiscard]] Task task_for(NodeId id, bool stay);
  [[nodiscard]] SharedKnowledge snapshot() const;
  void answer_unbounded();
  void start_from_network();
  void solve_structure();

  // inside.cpp: the search of what presolve leaves
  void search_inside();
  [[nodiscard]] std::optional<Presolved> reduce(const Problem& problem);
  [[nodiscard]] std::shared_ptr<const Symmetry> symmetry_of(const Problem& problem);
  bool settle_components(Problem& problem);
  [[nodiscard]] bool brief_look_is_over() const;
  [[nodiscard]] SearchOptions options_inside(const Presolved& reduced) const;
  void take_in(SearchResult inner, const Presolved& reduced, double before);
  void take_tree(SearchResult& inner, const PresolveModel::Reduced& left);

  // what comes back
  bool merge(NodeId id, NodeOutcome outcome);
  void close(NodeId id, const NodeOutcome& outcome);
  void divide(NodeId id, NodeOutcome& outcome);
  void take_counts(const NodeOutcome& outcome);
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
  [[nodiscard]] bool closes(double bound) const;
  [[nodiscard]] double gap_to(double bound) const;
  [[nodiscard]] double global_bound(double current) const;
  [[nodiscard]] Standing standing(double current) const;
  void conclude();

  Judge judge_;
  SearchOptions options_;
  Listener* listener_;
  Stopwatch clock_;
  Interrupt interrupt_;
  Worker worker_;
  Incumbents incumbents_;
  std::size_t few_told_ = 0;  // of the best few, to the listener
  Tree tree_;
  Frontier open_;
  Overflow overflow_;
  TreeRecord record_;
  NodeId root_node_ = kNoNode;  // stays as long as the search does
  NodeId next_ = kNoNode;       // the child to go on with
  bool bases_kept_ = true;
  double bases_bytes_ = 0.0;  // of all that ever were
  std::int64_t bases_ = 0;
  std::shared_ptr<const RootFacts> root_;
  double root_fixed_for_ = std::numeric_limits<double>::infinity();  // best when last used there
  double loose_bound_ =
      std::numeric_limits<double>::infinity();  // least bound of nodes closed within kProofGap
  double unresolved_bound_ =
      std::numeric_limits<double>::infinity();  // of nodes that could not be settled
  double current_bound_ = -std::numeric_limits<double>::infinity();
  std::int64_t next_number_ = 0;
  bool brief_ = false;             // a first look, before presolve
  std::int64_t work_before_ = 0;   // of what came before that look
  std::vector<PartTally> inside_;  // of presolve and the search inside
  SearchResult result_;
};

}  // namespace kiteknot::mip
