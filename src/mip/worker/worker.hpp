#pragma once
// Looks at nodes. A worker owns all that a node is worked on with (domain, relaxation, rows, what
// it learned about branching) and shares none of it: it is given a task and what the others know,
// and answers with a value. Two workers may so work at the same time, and what comes out does not
// depend on which of them was faster.
//
// What is certain: a node is closed only by a conflict found with outward rounding, a Farkas proof
// or a bound that hold exactly, or because its single integer point was judged. A plan counts only
// after the judge (the check as stated) has accepted it.

#include "mip/propagators/orbits.hpp"
#include "mip/worker/brancher.hpp"
#include "mip/worker/conflict_learner.hpp"
#include "mip/worker/cut_loop.hpp"
#include "mip/worker/plan_finder.hpp"
#include "mip/worker/relaxation_worth.hpp"
#include "mip/worker/root_state.hpp"
#include "mip/worker/term_ranges.hpp"

namespace kiteknot::mip {

class Worker {
 public:
  /// `options`, `judge` and `clock` outlive it and do not change. `number`: no two workers of a
  /// search have the same. A problem with a generator has one of its own.
  Worker(Problem problem, const Judge& judge, const SearchOptions& options, const Stopwatch& clock,
         SubSearch sub_search, std::int32_t number = 0);
  Worker(const Worker&) = delete;  // parts look at each other
  Worker& operator=(const Worker&) = delete;
  ~Worker() = default;

  /// Whether every column has a value within its bounds, a whole one where it must be; otherwise
  /// there is nothing to work on.
  [[nodiscard]] bool bounds_in_order() const;
  /// Before anything else: plans of earlier answers, judged, and what comes of mending the nearest
  /// one that would be better and does not hold.
  NodeOutcome try_given_plans();
  /// A plan of a large problem, built before anything is relaxed.
  NodeOutcome build_first_plan();
  /// The relaxation of the problem as stated; then limits of whole rows are rounded for good.
  RootOutcome solve_as_stated();
  /// After that: a plan with the values to start from, if a small search finds one.
  NodeOutcome complete_start();
  /// Where the relaxed goal has no end: a plan and a direction, or why there is none.
  NodeOutcome settle_endless_root();
  NodeOutcome process(const Task& task, const SharedKnowledge& known);
  /// Each node, and then the first child of each that is divided, within the limits. By tasks, in
  /// order: each outcome after the first is of the first child of the one before it; none of tasks
  /// that were not begun.
  std::vector<std::vector<NodeOutcome>> work_through(std::span<const Task> tasks,
                                                     const SharedKnowledge& known,
                                                     const BatchLimits& limits);

  /// All that another worker needs to know before its first task, but for what the search knows:
  /// rows and conflicts.
  [[nodiscard]] SharedKnowledge all_found() const;
  /// The options for another worker: what this one found out about branching and implications goes
  /// with them, what was given and used up does not.
  [[nodiscard]] SearchOptions options_for_another() const;

  [[nodiscard]] const Problem& problem() const noexcept { return space_.problem; }
  /// The nodes it stands on, by depth.
  [[nodiscard]] const std::vector<std::int64_t>& way() const noexcept {
    return space_.path.numbers();
  }
  [[nodiscard]] std::vector<PartTally> parts() const;
  [[nodiscard]] PseudoCosts take_pseudo_costs() { return std::move(brancher_.costs()); }

 private:
  using End = NodeOutcome::End;

  // stated_root.cpp
  std::int64_t sift();

  // batch.cpp
  struct Spent;
  void plunge(Task task, Spent& spent, std::vector<NodeOutcome>& outcomes);
  [[nodiscard]] Task from_where_it_stands(Task task) const;
  void tell_work(std::int64_t from, std::int64_t units);

  // worker.cpp: one node
  void learn(const SharedKnowledge& known);
  NodeOutcome work_on(const Task& task);
  NodeOutcome hand_out(End end);
  [[nodiscard]] std::int64_t work_since_then();
  [[nodiscard]] bool go_to(const Task& task);
  std::optional<End> look(bool first);
  std::optional<End> solve(bool first, double& bound);
  std::optional<End> divide();
  std::optional<End> divide_by_domain();
  End closed(ClosedBy by);
  enum class Ranged : std::uint8_t { no, again, closed };
  Ranged settle_root_ranges();
  bool propose_at_root();
  [[nodiscard]] double closed_share(double relaxed) const;
  bool cut(double bound);
  bool fix_by_prices(double bound);
  bool fix_by_symmetry();
  void learn_from_rows();
  void learn_from_relaxation(bool infeasible);

  // node_relaxation.cpp: the relaxation of the node, and what its verdict means
  std::optional<End> take_report(const lp::Report& report, double& bound);
  std::optional<End> look_past_cutoff(double& bound);
  lp::Report relax(bool loose = false, bool quick = false);
  [[nodiscard]] double certain_bound();
  void sharpen();
  void find_fractional();

  // integral_nodes.cpp: nodes that pivots do not decide
  [[nodiscard]] SearchResult any_plan_of(Problem goalless);
  void take_plan_of(SearchResult inner);
  End settle_point(bool trusted);
  End settle_smooth_point(std::span<const double> point);
  End settle_endless();
  bool split_condition();
  End branch_on_anything(std::span<const double> point);
  std::optional<End> branch_on_key(std::span<const double> point);
  End branch_at(Index column, double value);
  End split(Branching branching);
  End leave_unresolved();
  [[nodiscard]] bool all_ends_known() const;

  WorkerSetting setting_;
  NodeWorkspace space_;
  KnownBest known_;
  PresentNode node_;
  RootState root_;
  TermRanges ranges_;
  Brancher brancher_;
  std::optional<ConflictLearner> learner_;  // none: nothing is learned
  CutLoop cuts_;
  PlanFinder finder_;
  RelaxationWorth worth_;  // where nodes can be divided without it
  std::optional<OrbitalFixing> orbits_;
  Tally orbit_tally_;  // steps: columns
  struct {
    bool kept = true;
    std::shared_ptr<const BasisDifference> full;  // that those of nodes are told against
  } bases_;
  bool root_ranged_ = false;      // with a plan
  std::int64_t work_before_ = 0;  // what was told of the work so far
};

}  // namespace kiteknot::mip
