#pragma once
// What goes to a worker and what comes back. All of it are values: a worker shares nothing that
// changes with anybody, so that what it answers depends on what it was given only.

#include "mip/domain/conflict.hpp"
#include "mip/interface/result.hpp"
#include "mip/tree/tree.hpp"

namespace kiteknot::mip {

/// What the root found out: its bound with the reduced costs, for every later best plan, and what
/// holds in the whole tree.
struct RootFacts {
  double bound = -std::numeric_limits<double>::infinity();
  CertainCosts costs;                ///< empty where there is no bound
  std::vector<double> lower, upper;  ///< the bounds they were found under
  std::vector<Change> changes;       ///< of the domain
  bool cut_by_paths = false;         ///< most of its cuts are sums of rows along paths
};

/// What the whole search knows when a task begins.
struct SharedKnowledge {
  std::optional<Rational> goal;                           ///< of the best plan
  double best = std::numeric_limits<double>::infinity();  ///< the same, rounded up
  std::shared_ptr<const std::vector<Rational>> plan;      ///< the best one
  std::int64_t nodes = 0, pivots = 0;                     ///< so far
  std::shared_ptr<const RootFacts> root;                  ///< once the root was divided
  // What other workers found since this one's last task.
  std::vector<PooledRow> rows;
  std::vector<PseudoCostObservation> observations;
  std::vector<Conflict> conflicts;
  bool keep_bases = true;  ///< of nodes
};

/// A node to look at.
struct Task {
  std::int64_t number = 0;
  int depth = 0;
  double bound = -std::numeric_limits<double>::infinity();
  bool brief = false;          ///< no cuts and no probing: little may be left
  bool stay = false;           ///< a child of the last node, which goes on from where the worker is
  std::size_t stops = 0;       ///< of the worker's way that remain
  std::vector<TreeStep> legs;  ///< from there; valid while the task is worked on
  bool from_root = false;  ///< the legs are the whole way: where the worker stands was not known
  Branched branched;
  std::shared_ptr<const BasisDifference> basis;  ///< to start from; none: the one at hand
};

/// How far a worker goes on by itself: from each node of its list to the first child of what it
/// divided, and so on, until a node is closed.
struct BatchLimits {
  std::int64_t nodes = 1;
  std::int64_t work = std::numeric_limits<std::int64_t>::max();  ///< no node begins after so much
  std::int64_t first_number = 0;  ///< of children; what follows is its own
};

struct Child {
  std::int64_t number = 0;
  std::vector<Change> changes;
  Branched branched;
};

struct Found {
  std::vector<Rational> plan;
  Rational goal;
  std::any remarks;
  std::string by;
  double seconds = 0.0;
};

/// What came of a node.
struct NodeOutcome {
  enum class End { closed, divided, stopped };
  End end = End::closed;
  ClosedBy by = ClosedBy::none;
  double bound = -std::numeric_limits<double>::infinity();  ///< of the node, exact
  double estimate = bound;                                  ///< of the best plan below
  std::vector<Child> children;                              ///< the first is looked at first
  std::shared_ptr<const BasisDifference> basis;             ///< for them; none where it is not kept
  std::vector<Found> plans;                                 ///< each better than the one before
  std::optional<Rational> start_goal;        ///< of the plan that keeps the values to start from
  std::optional<std::vector<Rational>> ray;  ///< with the last plan: the goal has no end
  std::shared_ptr<const RootFacts> root;     ///< of a root that was divided
  std::vector<PooledRow> rows;               ///< new ones
  std::vector<PseudoCostObservation> observations;
  std::vector<Conflict> conflicts;  ///< learned, short enough to be told
  std::string reason;               ///< why it stays unresolved
  /// Where the end is `stopped` and no limit of the search tells why.
  StoppedBy stopped_by = StoppedBy::nothing;
  Counts counts;
};

/// What came of the relaxation as stated.
struct RootOutcome {
  RelaxedAnswer relaxed;
  Counts counts;
  bool endless = false;  ///< its goal has no end, and no condition may be what keeps it in
  bool possible = true;  ///< some rows have whole values within their limits
  double bound = -std::numeric_limits<double>::infinity();
  lp::Basis basis;
};

}  // namespace kiteknot::mip
