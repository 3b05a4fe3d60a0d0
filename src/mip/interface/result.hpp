#pragma once
// What comes of a search, at its end and on the way.

#include <any>
#include <array>
#include <limits>
#include <optional>
#include <string>
#include <vector>

#include "base/interval.hpp"
#include "kiteknot/outcome.hpp"
#include "lp/simplex.hpp"
#include "mip/branching/pseudo_costs.hpp"
#include "mip/propagators/propagation.hpp"

namespace kiteknot::mip {

/// Where the search stands, in the problem's units; infinite where there is nothing yet.
struct Standing {
  double seconds = 0.0;
  double best = std::numeric_limits<double>::infinity();
  double bound = -std::numeric_limits<double>::infinity();
  std::int64_t nodes = 0, open = 0;
  std::string found_by;   ///< of the best plan
  std::size_t plans = 0;  ///< of the best few, so far
  int workers = 1;        ///< in the tree
};

class Listener {
 public:
  virtual ~Listener() = default;
  virtual void better_plan(const Standing&, std::span<const Rational> plan) { (void)plan; }
  /// Of a search for the best few: the next one (0 is the best) that is proven to be in its place.
  virtual void in_place(std::size_t place, std::span<const Rational> plan, const Rational& goal) {
    (void)place, (void)plan, (void)goal;
  }
  virtual void progress(const Standing&) {}
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

/// What a search, or a part of it, has spent and made.
struct Counts {
  std::int64_t nodes = 0, pivots = 0, generated_rows = 0, cuts = 0, work = 0;
  /// Spent on strong branching: beside `pivots` while a search runs, of these in its result.
  std::int64_t look_pivots = 0;
  Counts& operator+=(const Counts& other) {
    nodes += other.nodes;
    pivots += other.pivots;
    generated_rows += other.generated_rows;
    cuts += other.cuts;
    work += other.work;
    look_pivots += other.look_pivots;
    return *this;
  }
};

/// What presolve left of the problem.
struct Left {
  Index columns = 0, rows = 0;                                      ///< that are left
  Index columns_before = 0, rows_before = 0;                        ///< indicator rows too
  double relaxed_value = -std::numeric_limits<double>::infinity();  ///< of its relaxed goal
};

/// Why a node holds nothing more: each of these is a proof, up to `unresolved`.
enum class ClosedBy : std::uint8_t {
  none,
  conflict,    ///< propagation, rounded outward
  relaxation,  ///< a Farkas proof, or exact arithmetic
  bound,       ///< no better than the best plan
  remainder,   ///< every point that was left was looked at
  children,    ///< a look at both children left nothing
  point,       ///< its only point was judged
  nearly,      ///< within the gap that a proof states (kProofGap)
  unresolved   ///< the arithmetic did not suffice: not a proof
};
inline constexpr std::size_t kWaysToClose = 9;
std::string_view name_of(ClosedBy by);

/// What a part of the search cost and brought.
struct PartTally {
  std::string_view kind, name;  ///< "propagator", "linear rows"
  Tally tally;
};

/// Beside the others, or into the one of the same name.
void add_part(std::vector<PartTally>& parts, PartTally part);

/// One node of a search, in the problem's units; what it was made of is over the columns of the
/// problem as it came.
struct NodeRecord {
  std::int64_t parent = -1;     ///< place in the list; -1: the root
  std::vector<Change> changes;  ///< the branching that made it
  double bound = -std::numeric_limits<double>::infinity();
  std::int64_t look = 0;  ///< when it was looked at, counted from 1; 0: never
  bool divided = false;
  ClosedBy closed = ClosedBy::none;  ///< none and not divided: it was open at the end
  double best = std::numeric_limits<double>::infinity();  ///< of the plans, when it was closed
  std::optional<double> plan;                             ///< goal of the best plan that came of it
  std::int64_t left_out = 0;        ///< nodes below that are not in the list, ...
  std::int64_t left_out_looks = 0;  ///< ... how many of them were looked at, ...
  double left_out_bound = 0.0;      ///< ... and the least of their bounds
};

struct RankedPoint {
  std::vector<Rational> plan;
  Rational goal;
};

/// On request (FewWanted), the best first.
struct FewFound {
  std::vector<RankedPoint> plans;
  std::size_t in_place = 0;  ///< of these, proven to be in their place
};

/// The root, before anything was branched on.
struct RootReport {
  RelaxedAnswer relaxed;    ///< of the problem as it came
  std::int64_t pivots = 0;  ///< of that relaxation
  lp::Basis basis;          ///< its last one
  /// What the root alone proves: after propagation and cuts; -infinity: it was not looked at.
  double bound = -std::numeric_limits<double>::infinity();
  double seconds = 0.0;      ///< until then
  std::optional<Left> left;  ///< nothing: it was searched as it came
};

/// All of the problem is one structure, and was solved as one.
struct Structure {
  std::string name;    ///< "knapsack"; empty: none
  std::string method;  ///< by what
};

/// Who worked in the tree, and what waiting cost: seconds of all workers together.
struct CrewReport {
  int workers = 1;
  double idle = 0.0;     ///< there was no open node for them
  double ahead = 0.0;    ///< until the others had come as far in work
  double seconds = 0.0;  ///< since there was more than one
};

/// Which limit ended a search, or a node.
enum class StoppedBy : std::uint8_t { nothing, time, nodes, gap, memory, hand };
/// "" for nothing.
std::string_view word(StoppedBy by);

struct SearchResult {
  Outcome outcome = Outcome::undecided;
  double bound = -std::numeric_limits<double>::infinity();
  bool proven_exactly = false;  ///< optimal, and the bound is the goal itself
  StoppedBy stopped_by = StoppedBy::nothing;
  std::string reason;  ///< why undecided or unproven without a limit

  std::optional<std::vector<Rational>> plan;
  Rational goal;
  std::any remarks;  ///< of the judge, on the plan
  std::string found_by;
  std::optional<std::vector<Rational>> ray;  ///< unbounded: a direction without an end, exact
  FewFound few;
  std::optional<Rational> start_goal;  ///< of the plan that keeps the values to start from

  RootReport root;
  CrewReport crew;
  int ranks = 1;                    ///< processes that shared the tree
  std::int64_t nodes_of_ranks = 0;  ///< of the nodes those of the others
  Structure structure;
  Counts counts;
  double seconds = 0.0;
  std::vector<Standing> history;                    ///< at every better plan, and at the end
  std::optional<PseudoCosts> pseudo_costs;          ///< what was learned about branching
  std::array<std::int64_t, kWaysToClose> closed{};  ///< nodes, by ClosedBy
  std::vector<PartTally> parts;
  std::vector<NodeRecord> tree;  ///< on request, parents before their parts
};

/// |value - bound| / max(|value|, 1e-10 size); 0 when equal.
double relative_gap(double value, double bound, double goal_size);

}  // namespace kiteknot::mip
