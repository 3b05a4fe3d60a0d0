#pragma once
// Why nothing is feasible: rules that cannot hold together, though any smaller part of them can,
// and the cheapest way out; or why the goal has no end.

#include "kiteknot/study.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// A limit of one decision.
struct DecisionLimit {
  enum class Which { least, most, whole } which = Which::least;
  std::int32_t decision = 0;
  friend bool operator==(const DecisionLimit&, const DecisionLimit&) = default;
};

struct Clash {
  enum class Kind {
    none,      ///< some plan meets all rules
    found,     ///< rows and limits, verified
    undecided  ///< a limit stopped the search
  } kind = Kind::undecided;
  std::vector<RuleRow> rows;          ///< together with the limits they leave no plan: proven
  std::vector<DecisionLimit> limits;  ///< bounds and wholeness that take part
  /// By row, by limit: without it a plan exists. 0: a limit of the search stopped the proof.
  std::vector<char> row_needed, limit_needed;
  /// `limits` was not looked for (too many candidates, or conditions that need whole decisions):
  /// all limits of the decisions count.
  bool all_limits = false;
  /// Of tour rules among the rows: "stop Cliff Steps has no leg"; each is proven.
  std::vector<std::string> about_tours;
  std::int64_t solves = 0;
  std::int64_t work = 0;  ///< units; see SearchCounts
};

/// An irreducible set of clashing rule rows, bounds and wholeness. Junker 2004, "QuickXplain:
/// preferred explanations and relaxations for over-constrained problems": about k log(n / k) solves
/// for k of n, and k + 1 to verify; rules first, then the limits of the decisions in them.
/// The time limit holds for all solves together; what it ends is told as the smallest part that was
/// proven to clash by then, none of it shown to be needed.
Clash find_clash(const Model& model, const SolveOptions& options = {});

/// Clashes without a rule row in common, each found with the rows of those before it let go, until
/// the rest can be met (then `rest` is none) or `most` are found.
struct Clashes {
  std::vector<Clash> found;
  Clash::Kind rest = Clash::Kind::undecided;  ///< of the rules that are in none of them
};
/// Options as for find_clash; each clash is proven like one of its.
Clashes find_clashes(const Model& model, std::size_t most = 5, const SolveOptions& options = {});

/// By how much which rules must be missed at least, so that a plan exists.
struct Loosening {
  enum class Kind {
    not_needed,  ///< a plan meets all rules
    found,       ///< misses, verified: a plan meets everything else
    impossible,  ///< the rules that have to be kept, or the bounds, clash by themselves
    undecided    ///< a limit stopped the search
  } kind = Kind::undecided;
  struct Miss {
    RuleRow row;
    Rational by;      ///< in the rule's own units; 1 for a logical rule
    Rational weight;  ///< of one unit
  };
  std::vector<Miss> misses;
  Rational total;       ///< weighted
  bool least = false;   ///< proven: no smaller total will do
  bool fewest = false;  ///< proven: no fewer rules will do for that total
  std::optional<Plan> plan;
};

struct LooseningOptions {
  std::vector<std::string> keep{};                          ///< rules that must not be missed
  std::vector<std::pair<std::string, Rational>> weights{};  ///< by rule; 1 where not given
  SolveOptions solve{};
};
/// Throws UsageError with the nearest name for a rule that is not there.
Loosening cheapest_loosening(const Model& model, const LooseningOptions& options = {});

/// All of it: what is wrong with the model, if anything is.
struct Explanation {
  Outcome outcome = Outcome::undecided;  ///< infeasible, unbounded, undecided, or optimal: neither
  Clashes clashes;                       ///< infeasible
  std::optional<Loosening> loosening;    ///< infeasible
  std::vector<std::pair<std::int32_t, Rational>> direction;  ///< unbounded: decisions and steps
  Rational goal_step;  ///< what the goal changes by along the direction
};
/// The time limit holds for all of it. UsageError as for cheapest_loosening.
Explanation explain(const Model& model, const LooseningOptions& options = {});

}  // namespace kiteknot
#pragma GCC visibility pop
