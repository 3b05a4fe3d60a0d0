#pragma once
// From points to plans that the judge accepts: what heuristics propose, what is left of a node, and
// what was given from outside.

#include "mip/heuristics/heuristic.hpp"
#include "mip/heuristics/local_search.hpp"
#include "mip/worker/known_best.hpp"
#include "mip/worker/node_workspace.hpp"
#include "mip/worker/present_node.hpp"

namespace kiteknot::mip {

/// What a worker was made with. All but the searches of parts outlive it and do not change.
struct WorkerSetting {
  const Judge& judge;
  const SearchOptions& options;
  const Stopwatch& clock;
  SubSearch sub_search;
  Index decisions;  ///< the first columns, which plans tell; the others follow from them
};

class PlanFinder {
 public:
  /// All of them outlive it. `costs`: what is known of branchings.
  PlanFinder(const WorkerSetting& setting, NodeWorkspace& space, KnownBest& known,
             const PseudoCosts& costs, PresentNode& node);

  /// Plans of earlier answers: the best one that holds here as it is, and what comes of mending the
  /// nearest one that would be better and does not.
  void try_given();
  /// A plan with the values to start from, if a small search finds one. Those that no plan can
  /// have, fractions or beyond the bounds, are left open.
  void complete_start();
  /// A plan without a relaxation, where one is easily built: for problems whose relaxation takes
  /// long. The relaxation is as it was.
  void build_first();
  /// Asks the heuristics; true where one of them looked: the relaxation may have moved on.
  bool propose(NodeView::Moment moment);
  /// Visits what the node can still hold below the best plan; true where that was all.
  bool enumerate_rest(double bound);
  /// Whole columns are rounded and fixed, reals solved again around them, and the vertex taken
  /// exactly. Whatever comes out is judged as stated.
  bool try_point(std::span<const double> point, std::string_view by);
  /// Of problems with smooth constraints: local optima from this point, and at the root from
  /// others. As often as it pays, and always from a point that is nearly a plan.
  void look_locally(std::span<const double> point, bool nearly);
  /// Whether the judge accepts it; one that is better than the best plan goes out.
  bool judge(std::span<const Rational> plan, std::string_view by);
  /// The rows that a point breaks come into the relaxation; how many. `stated_only`: as in
  /// Separation::run.
  Index separate(std::span<const double> point, bool integral, bool stated_only = false);
  [[nodiscard]] std::vector<PartTally> parts() const;

 private:
  /// Whether local search has had less than its share of all work.
  [[nodiscard]] bool local_pays(std::int64_t more = 0) const;
  bool try_locally(std::vector<double> point, std::string_view by);
  bool round_locally(std::vector<double> point, std::string_view by);
  [[nodiscard]] bool meets_generated(std::span<const Rational> plan);
  [[nodiscard]] SearchOptions part_options(std::int64_t nodes) const;
  void take_work_of(const SearchResult& inner);
  std::optional<std::vector<double>> search_part(Problem part, std::int64_t nodes);

  const WorkerSetting& setting_;
  NodeWorkspace& space_;
  KnownBest& known_;
  const PseudoCosts& costs_;
  PresentNode& node_;
  std::vector<std::unique_ptr<Heuristic>> heuristics_;
  std::vector<Tally> tallies_;        // steps: better plans
  std::optional<LocalSearch> local_;  // none: nothing calls for it
  Tally local_tally_, first_tally_;
  Tally rest_tally_;  // of looking through; conflicts: it was too much
};

}  // namespace kiteknot::mip
