#pragma once
// Looks at nodes. A worker owns all that a node is worked on with (domain, relaxation, rows, what
// it learned about branching) and shares none of it: it is given a task and what the others know,
// and answers with a value. Two workers may so work at the same time, and what comes out does not
// depend on which of them was faster.
//
// What is certain: a node is closed only by a conflict found with outward rounding, a Farkas proof
// or a bound that hold exactly, or because its single integer point was judged. A plan counts only
// after the judge (the check as stated) has accepted it.

#include "mip/branching/disjunction.hpp"
#include "mip/branching/rule.hpp"
#include "mip/conflict/analysis.hpp"
#include "mip/domain/cutoff.hpp"
#include "mip/heuristics/heuristic.hpp"
#include "mip/interface/options.hpp"
#include "mip/interface/task.hpp"
#include "mip/propagators/orbits.hpp"
#include "mip/separators/cut_manager.hpp"
#include "mip/separators/separator.hpp"
#include "mip/tree/node_path.hpp"

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
  /// The relaxation of the problem as stated; then limits of whole rows are rounded for good.
  RootOutcome solve_as_stated();
  /// After that: a plan with the values to start from, if a small search finds one. Those that no
  /// plan can have, fractions or beyond the bounds, are left open.
  NodeOutcome complete_start();
  /// Where the relaxed goal has no end: a plan and a direction, or why there is none.
  NodeOutcome settle_endless_root();
  NodeOutcome process(const Task& task, const SharedKnowledge& known);

  [[nodiscard]] const Problem& problem() const noexcept { return problem_; }
  /// The nodes it stands on, by depth.
  [[nodiscard]] const std::vector<std::int64_t>& way() const noexcept { return path_.numbers(); }
  /// The largest cost of a column, at least 1: what gaps near 0 are measured by.
  [[nodiscard]] double goal_size() const noexcept { return goal_size_; }
  [[nodiscard]] std::vector<PartTally> parts() const;
  [[nodiscard]] PseudoCosts take_pseudo_costs() { return std::move(pseudo_costs_); }
  /// Bases of nodes are not kept from here on.
  void forget_bases() noexcept { bases_kept_ = false; }

 private:
  using End = NodeOutcome::End;

  // worker.cpp: one node
  void learn(const SharedKnowledge& known);
  NodeOutcome hand_out(End end);
  [[nodiscard]] std::int64_t work_since_then();
  [[nodiscard]] bool go_to(const Task& task);
  std::optional<End> look(bool first);
  std::optional<End> solve(bool first, double& bound);
  std::optional<End> take_report(const lp::Report& report, double& bound);
  End closed(ClosedBy by);
  lp::Report relax(bool loose = false, bool quick = false);
  [[nodiscard]] double certain_bound(std::vector<Interval>& reduced);
  Index separate(std::span<const double> point, bool integral);
  bool fix_by_prices(double bound);
  bool fix_by_symmetry();

  // learning.cpp: from branches that came to nothing
  [[nodiscard]] bool learns() const;
  void learn_from_rows();
  void learn_from_relaxation(bool infeasible);
  void keep_conflict(std::optional<Conflict> conflict, std::int64_t before);

  // cuts.cpp
  bool cut(double bound);
  bool cut_below(double bound);
  [[nodiscard]] bool cuts_came_from_paths() const;
  [[nodiscard]] bool worth_another_round(double bound);
  [[nodiscard]] bool worth_their_rows(double bound) const;

  void find_fractional();

  // divide.cpp: into parts
  std::optional<End> divide();
  std::optional<Index> choose_column();
  End split(Branching branching, Index column, double value);
  [[nodiscard]] double estimate() const;

  // settle.cpp: nodes that pivots do not decide
  [[nodiscard]] SearchResult any_plan_of(Problem goalless);
  void take_plan_of(SearchResult inner);
  End settle_point(bool trusted);
  End settle_endless();
  bool split_condition();
  End branch_on_anything(std::span<const double> point);
  std::optional<End> branch_on_key(std::span<const double> point);
  End branch_at(Index column, double value);
  End leave_unresolved();
  [[nodiscard]] bool all_ends_known() const;
  [[nodiscard]] bool is_whole(std::span<const Rational> point) const;

  // bounds.cpp: what bounds tell
  [[nodiscard]] Cutoff cutoff() const { return {best_, problem_.goal_step()}; }
  [[nodiscard]] bool closes(double bound) const;
  [[nodiscard]] bool nearly_closes(double bound) const;
  [[nodiscard]] bool worth_sharpening(double bound) const;
  void sharpen();
  void remember_root(double bound);
  void hand_out_root();
  void adopt_root(std::shared_ptr<const RootFacts> root);
  void tighten_root();
  void forget_key();
  void narrow_to_key();

  // points.cpp: from a point to a plan
  bool propose(NodeView::Moment moment);
  bool propose_at_root();
  std::optional<std::vector<double>> search_part(Problem part, std::int64_t nodes);
  [[nodiscard]] SearchOptions part_options(std::int64_t nodes) const;
  void take_work_of(const SearchResult& inner);
  bool enumerate_rest(double bound);
  bool try_plan(std::span<const double> point, std::string_view by);
  [[nodiscard]] bool meets_generated(std::span<const Rational> plan);
  void take_best(std::shared_ptr<const std::vector<Rational>> plan);
  bool judge_plan(std::span<const Rational> plan, std::string_view by);
  [[nodiscard]] std::vector<Rational> exact_point(std::span<const double> point) const;

  // root.cpp
  void find_rooms(RelaxedAnswer& relaxed);
  [[nodiscard]] bool is_integral(std::span<const double> point) const;
  [[nodiscard]] lp::ExactLimits exact_limits() const {
    lp::ExactLimits limits = options_.exact;
    limits.interrupt = interrupt_;
    return limits;
  }

  Problem problem_;
  const Judge& judge_;
  const SearchOptions& options_;
  const Stopwatch& clock_;
  SubSearch sub_search_;
  Index decisions_;
  Interrupt interrupt_;
  WorkCounter work_;
  Domain domain_;
  Propagation propagation_;
  std::vector<std::unique_ptr<Disjunction>> disjunctions_;
  Relaxation relaxation_;
  RowPool pool_;
  Separation separation_;
  CutManager cutting_, below_;            // at the root; below it
  LearnedPropagator* learned_ = nullptr;  // one of propagation_; null: nothing is learned
  std::optional<Analysis> analysis_;
  Tally learning_tally_;  // steps: conflicts kept
  Implications implied_;  // as probing found them
  struct CutRounds {
    int rounds = 0, stalls = 0;
    double first = -std::numeric_limits<double>::infinity(), last = first;
    std::int64_t work = 0;  // of everything before the first
    bool over = false;
  } cut_rounds_;  // at the root
  struct CutsBelow {
    std::int64_t node = -1;  // where the last round was
    int rounds = 0;          // there
    double last = 0.0;       // bound before the last round
    int all = 0;             // rounds
    double closed = 0.0;     // sum of the shares of what was open
  } cuts_below_;
  PseudoCosts pseudo_costs_;
  std::unique_ptr<BranchingRule> rule_;
  Tally rule_tally_;  // steps: children that a look at both left out
  std::vector<std::unique_ptr<Heuristic>> heuristics_;
  std::vector<Tally> heuristic_tallies_;  // steps: better plans
  std::optional<OrbitalFixing> orbits_;
  Tally orbit_tally_;  // steps: columns
  Tally rest_tally_;   // of looking through; conflicts: it was too much
  NodePath path_;
  double goal_size_ = 1.0;
  bool bases_kept_ = true;
  std::shared_ptr<const BasisDifference> full_basis_;  // that those of nodes are told against

  // The best plan that is known here; of the best few, goal and best_ are the last one's, and below
  // a node with one key those of that key.
  BestFew few_;
  std::optional<Rational> goal_;
  double best_ = std::numeric_limits<double>::infinity();
  std::shared_ptr<const std::vector<Rational>> best_plan_;
  std::vector<double> best_point_;  // the same

  // What the root found out, as far as it is used here.
  std::shared_ptr<const RootFacts> root_;
  RootFacts own_root_;                                               // while it is looked at
  double root_fixed_for_ = std::numeric_limits<double>::infinity();  // best_ when last used
  std::size_t root_mark_ = 0;  // the domain's trail up to here holds for the whole tree

  // The present node.
  const Task* task_ = nullptr;
  NodeOutcome out_;
  std::int64_t nodes_ = 0, pivots_ = 0;  // of the search, before it
  std::int64_t work_before_ = 0;
  std::vector<Interval> reduced_;  // costs
  std::vector<Index> fractional_;  // whole columns with a fractional value
  double relaxed_goal_ = 0.0;
  bool nothing_left_ = false;  // as strong branching found
};

}  // namespace kiteknot::mip
