#pragma once
// What proposes plans. A heuristic sees a node and hands out a point; whether that is a plan, and
// what it cost and brought, is found out and booked by whoever asked.

#include <functional>
#include <memory>
#include <optional>
#include <string_view>
#include <vector>

#include "mip/branching/pseudo_costs.hpp"
#include "mip/domain/cutoff.hpp"
#include "mip/heuristics/heuristic_switches.hpp"
#include "mip/propagators/propagation.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {

/// A node as heuristics see it.
struct NodeView {
  enum class Moment {
    relaxed,  ///< its first relaxation was solved
    divided   ///< it goes into parts next
  } moment = Moment::relaxed;
  Domain& domain;  ///< to be left as it was found
  Propagation& propagation;
  std::span<const double> point;  ///< of the relaxation
  /// The change of the relaxed goal per unit of each column; asked for by whoever needs it.
  const std::function<std::vector<double>()>& reduced_costs;
  Cutoff cutoff;
  int depth = 0;
  std::int64_t nodes = 0;  ///< looked at so far
  WorkCounter& work;
  Relaxation& relaxation;    ///< may be moved on where the node is divided next
  std::int64_t spent = 0;    ///< work on nodes and parts so far
  std::int64_t& own_pivots;  ///< counts those of a heuristic's own solves
  const Interrupt& interrupt;
  std::span<const double> best_plan;  ///< empty: none
  const PseudoCosts& history;         ///< of branchings
  /// A search of a part of the problem, ended after so many nodes: a plan better than the best one,
  /// if it finds one. Empty: there is no such search here.
  const std::function<std::optional<std::vector<double>>(Problem part, std::int64_t nodes)>&
      part_search;
};

class Heuristic {
 public:
  virtual ~Heuristic() = default;
  /// As answers tell it.
  [[nodiscard]] virtual std::string_view name() const = 0;
  [[nodiscard]] virtual bool wants(const NodeView& node) const = 0;
  /// Whole columns have whole values; those of the others are a start at best. Nothing where
  /// nothing comes out that the cutoff lets through.
  [[nodiscard]] virtual std::optional<std::vector<double>> look(const NodeView& node) = 0;
};

/// All of a search; the names of those left out do not come.
std::vector<std::unique_ptr<Heuristic>> heuristics(const HeuristicSwitches& switches);

}  // namespace kiteknot::mip
