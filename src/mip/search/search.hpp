#pragma once
// Branch and bound with generated constraints. Source: Land and Doig 1960; the present form (warm
// dual simplex, plunging with best bound, pseudo-costs, reduced-cost fixing) follows Achterberg
// 2007, "Constraint Integer Programming", chapters 5 to 7.
//
// What is certain: a node is closed only by a conflict found with outward rounding, a Farkas proof
// or a bound that hold exactly, or because its single integer point was judged. A plan counts only
// after the judge (the check as stated) has accepted it.

#include <functional>
#include <limits>
#include <optional>
#include <string>

#include "base/at.hpp"
#include "base/work.hpp"
#include "kiteknot/outcome.hpp"
#include "lp/exact_basis.hpp"
#include "mip/branching/disjunction.hpp"
#include "mip/branching/reliability.hpp"
#include "mip/relaxation/row_pool.hpp"
#include "mip/search/cutoff.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

struct Verdict {
  bool accepted = false;
  Rational goal;  ///< in the problem's own units: minimised, scaled
};
/// Checks a plan as stated; gets one exact value a column.
using Judge = std::function<Verdict(std::span<const Rational>)>;

/// Where the search stands, in the problem's units; infinite where there is nothing yet.
struct Standing {
  double seconds = 0.0;
  double best = std::numeric_limits<double>::infinity();
  double bound = -std::numeric_limits<double>::infinity();
  std::int64_t nodes = 0, open = 0;
  std::string found_by;  ///< of the best plan
};

class Listener {
 public:
  virtual ~Listener() = default;
  virtual void better_plan(const Standing&, std::span<const Rational> plan) { (void)plan; }
  virtual void progress(const Standing&) {}
};

struct SearchOptions {
  double seconds = std::numeric_limits<double>::infinity();
  std::int64_t nodes = std::numeric_limits<std::int64_t>::max();
  double gap = 0.0;                                               ///< relative; 0: to the proof
  double memory_bytes = std::numeric_limits<double>::infinity();  ///< for the nodes of the tree
  std::uint64_t seed = 1;
  const std::atomic<bool>* stop = nullptr;
  double goal_offset =
      0.0;  ///< added to the goal before gaps are taken: the constant of the user's goal
  bool any_plan = false;                     ///< the goal does not matter
  std::vector<std::vector<Rational>> plans;  ///< to be judged first, and mended where they fail
  /// The first columns, which the plans tell and the judge looks at; the others follow from them.
  /// -1: all.
  Index decisions = -1;
  double known_bound = -std::numeric_limits<double>::infinity();  ///< proven elsewhere, exactly
  std::optional<PseudoCosts> pseudo_costs;                        ///< of an earlier search
  bool look_around = true;   ///< for plans around the root's relaxation
  bool strong = true;        ///< look at children before branching where history is short
  bool probing = true;       ///< of yes-or-no columns at the root
  bool look_through = true;  ///< what is left of a node, where that is little
  bool rooms = false;        ///< fill in RelaxedAnswer::limit_rooms and cost_rooms
  lp::Basis basis;           ///< to start the relaxation from
  lp::ExactLimits exact;
};

/// The relaxation of the problem as it came, before any propagation.
struct RelaxedAnswer {
  lp::Status status = lp::Status::undecided;
  double value = 0.0;  ///< of the relaxed goal
  bool integral = false;
  std::vector<double> point;          ///< by columns
  std::vector<double> row_duals;      ///< by linear rows
  std::vector<double> reduced_costs;  ///< by columns
  // Only for problems without integers, on request.
  std::vector<Interval> limit_rooms;  ///< by linear rows: how far the limit can move
  std::vector<Interval> cost_rooms;   ///< by columns: how far the cost can move
  bool degenerate = false;
};

struct SearchResult {
  Outcome outcome = Outcome::undecided;
  std::optional<std::vector<Rational>> plan;
  std::optional<std::vector<Rational>> ray;  ///< unbounded: a direction without an end, exact
  Rational goal;
  double bound = -std::numeric_limits<double>::infinity();
  RelaxedAnswer relaxed;
  std::int64_t nodes = 0, pivots = 0, generated_rows = 0, work = 0;
  std::int64_t root_pivots = 0;  ///< of the relaxation as it came
  double seconds = 0.0;
  bool proven_exactly = false;  ///< optimal, and the bound is the goal itself
  std::string stopped_by;       ///< "time", "nodes", "gap", "memory", "hand" or empty
  std::string reason;           ///< why undecided or unproven without a limit
  std::string found_by;
  std::vector<Standing> history;  ///< at every better plan, and at the end
  lp::Basis root_basis;
  std::optional<PseudoCosts> pseudo_costs;  ///< what was learned about branching
};

/// |value - bound| / max(|value|, 1e-10 size); 0 when equal.
double relative_gap(double value, double bound, double goal_size);

class Search {
 public:
  Search(Problem problem, Judge judge, SearchOptions options, Listener* listener = nullptr);
  Search(const Search&) = delete;  // parts look at each other
  Search& operator=(const Search&) = delete;
  ~Search() = default;
  SearchResult run();

 private:
  enum class NodeEnd { closed, branched, stopped };

  // search.cpp: the order of things
  bool solve_root();
  void find_rooms();
  void loop();
  [[nodiscard]] bool enter(const std::shared_ptr<Node>& node);
  [[nodiscard]] std::shared_ptr<Node> new_node() { return std::make_shared<Node>(nodes_alive_); }
  [[nodiscard]] lp::ExactLimits exact_limits() const {
    lp::ExactLimits limits = options_.exact;
    limits.interrupt = interrupt_;
    return limits;
  }
  [[nodiscard]] bool out_of_limits();
  [[nodiscard]] bool out_of_memory();
  [[nodiscard]] Standing standing(double current) const;
  [[nodiscard]] bool is_integral(std::span<const double> point) const;
  void conclude();

  // node.cpp: one node
  NodeEnd process(const std::shared_ptr<Node>& node);
  std::optional<NodeEnd> look_at(const std::shared_ptr<Node>& node, bool first);
  std::optional<NodeEnd> divide(const std::shared_ptr<Node>& node);
  lp::Report relax(bool loose = false, bool quick = false);
  [[nodiscard]] double certain_bound(const Node& node, std::vector<Interval>& reduced);
  Index separate(std::span<const double> point, bool integral);
  void find_fractional();
  std::optional<Index> choose_column();
  [[nodiscard]] Branching split_column(Index j, double value) const;
  NodeEnd split(const std::shared_ptr<Node>& node, Branching branching, Index column, double value);

  // settle.cpp: nodes that pivots do not decide
  [[nodiscard]] SearchResult any_plan_of(Problem goalless);
  void answer_unbounded();
  NodeEnd settle_point(const std::shared_ptr<Node>& node, bool trusted);
  NodeEnd settle_endless(const std::shared_ptr<Node>& node);
  bool split_condition(const std::shared_ptr<Node>& node);
  NodeEnd branch_on_anything(const std::shared_ptr<Node>& node, std::span<const double> point);
  NodeEnd leave_unresolved(const std::shared_ptr<Node>& node);
  [[nodiscard]] bool all_ends_known() const;
  [[nodiscard]] bool is_whole(std::span<const Rational> point) const;

  // bounds.cpp: what bounds tell
  [[nodiscard]] Cutoff cutoff() const { return {best_, problem_.goal_step()}; }
  [[nodiscard]] bool closes(double bound) const;
  [[nodiscard]] bool nearly_closes(double bound) const;
  [[nodiscard]] bool worth_sharpening(double bound) const;
  void sharpen(Node& node);
  [[nodiscard]] double gap_to(double bound) const;
  [[nodiscard]] double global_bound(double current) const;
  void remember_root(double bound, const std::vector<Interval>& reduced);
  void tighten_root();

  // plans.cpp
  void judge_given_plans();
  void look_around();
  bool enumerate_rest(double bound, std::span<const Interval> reduced);
  bool try_plan(std::span<const double> point, const std::string& found_by);
  [[nodiscard]] bool meets_generated(std::span<const Rational> plan);
  bool judge_plan(std::span<const Rational> plan, const std::string& found_by);
  void round_with_propagation();
  [[nodiscard]] std::vector<Rational> exact_point(std::span<const double> point) const;

  Problem problem_;
  Judge judge_;
  SearchOptions options_;
  Listener* listener_;
  Stopwatch clock_;
  Interrupt interrupt_;
  WorkCounter work_;
  Domain domain_;
  Propagation propagation_;
  std::vector<std::unique_ptr<Disjunction>> disjunctions_;
  Relaxation relaxation_;
  RowPool pool_;
  Separation separation_;
  PseudoCosts pseudo_costs_;
  Reliability reliability_;
  std::int64_t nodes_alive_ = 0;  // before all that holds nodes
  OpenNodes open_;
  Way way_;
  const Node* here_ = nullptr;     // the present node
  std::shared_ptr<Node> next_;     // the child to go on with
  bool nothing_left_ = false;      // at the present node, as a look at children found
  std::vector<Index> fractional_;  // whole columns with a fractional value at the present node
  std::vector<Interval> reduced_;  // costs there
  double goal_size_ = 1.0;
  double relaxed_goal_ = 0.0;           // of the present node
  std::vector<Interval> root_reduced_;  // reduced costs at the root, for every later best plan
  std::vector<double> root_lower_, root_upper_;  // the bounds they were found under
  double root_bound_ = -std::numeric_limits<double>::infinity();
  double root_fixed_for_ =
      std::numeric_limits<double>::infinity();  // best_ when they were last used
  std::size_t root_mark_ = 0;  // the domain's trail up to here holds for the whole tree
  double best_ = std::numeric_limits<double>::infinity();
  double loose_bound_ =
      std::numeric_limits<double>::infinity();  // least bound of nodes closed within kProofGap
  double unresolved_bound_ =
      std::numeric_limits<double>::infinity();  // of nodes that could not be settled
  double current_bound_ = -std::numeric_limits<double>::infinity();
  std::int64_t next_number_ = 0;
  std::int64_t enumerated_ = 0, enumerations_failed_ = 0;
  bool bases_kept_ = true;  // by the open nodes
  SearchResult result_;
};

}  // namespace kiteknot::mip
