#pragma once
// Models that are a classic problem from end to end, found exactly: every rule, every limit and
// every cost has to be what the problem says. Plain arrays come out, and the decisions behind them.

#include <optional>
#include <string>
#include <variant>

#include "methods/walks/compiled_model.hpp"
#include "mip/problem/problem.hpp"
#include "structures/boxes.hpp"
#include "structures/covers.hpp"
#include "structures/locations.hpp"
#include "structures/room_assignment.hpp"

namespace kiteknot::methods {

/// Needs met by sets; each need at least once.
struct CoverKind {
  structures::CoverProblem problem;
  std::vector<Index> decision;  ///< by set
};
/// Items of sizes into boxes of one size.
struct BoxKind {
  std::vector<std::int64_t> sizes;
  std::int64_t room = 0;
  std::vector<std::vector<Index>> put;  ///< by item and box
  std::vector<Index> used;              ///< by box
};
/// Places to open, customers served from open ones without a limit on how many.
struct LocationKind {
  structures::LocationProblem problem;
  std::vector<Index> open;               ///< by place
  std::vector<std::vector<Index>> ship;  ///< by customer and place; -1: it cannot
  std::vector<double> amount;            ///< by customer: what its ship decisions sum up to
};
/// Jobs to agents with room.
struct RoomKind {
  structures::RoomProblem problem;
  std::vector<Index> does;  ///< as RoomProblem::place; -1: not allowed
};

using SpecialKind = std::variant<std::monostate, CoverKind, BoxKind, LocationKind, RoomKind>;

/// Sums alone: what detection looks at.
struct PlainProblem {
  std::vector<DecisionRange> ranges;  ///< by decision
  std::vector<double> cost;           ///< the same, to be small
  Lists<WeightedNode> rows;
  std::vector<double> low, high;  ///< by row
};
/// Nothing where there is more than sums, no goal, or a decision that cannot move.
std::optional<PlainProblem> plain_problem(const CompiledModel& model);
/// Of a lowered problem; its columns are the decisions.
std::optional<PlainProblem> plain_problem(const mip::Problem& problem);

/// Nothing where it is none of them.
SpecialKind special_kind(const PlainProblem& problem);
SpecialKind special_kind(const CompiledModel& model);
/// "a cover of 200 needs by 2,000 sets"; empty for none.
std::string told(const SpecialKind& kind);

}  // namespace kiteknot::methods
