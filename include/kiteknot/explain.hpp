#pragma once
// Why nothing is feasible: rules that cannot hold together, though any smaller part of them can.

#include "kiteknot/pages.hpp"

namespace kiteknot {

/// One row of a rule.
struct RuleRow {
  std::int32_t family = 0, member = 0;
  friend bool operator==(const RuleRow&, const RuleRow&) = default;
};

struct Clash {
  enum class Kind {
    none,      ///< some plan meets all rules
    found,     ///< rows, verified
    bounds,    ///< the decisions' own bounds leave nothing, or nothing but rules that always hold
    undecided  ///< a limit stopped the search
  } kind = Kind::undecided;
  std::vector<RuleRow> rows;  ///< together they leave no plan: proven
  std::vector<char>
      shown_needed;  ///< by row: without it a plan exists; 0: a limit stopped the proof
  std::int64_t solves = 0;
};

/// An irreducible set of clashing rules, the decisions' bounds and kinds taken as given. Junker
/// 2004, "QuickXplain: preferred explanations and relaxations for over-constrained problems": about
/// k log(n / k) solves for k of n rows, and k + 1 to verify. `options` limits each solve.
Clash find_clash(const Model& model, const SolveOptions& options = {});

std::string clash_page(const Model& model, const Clash& clash, const PageOptions& options = {});

}  // namespace kiteknot
