#pragma once
// What a search is asked for: who judges plans, how far to go, and which parts take part.

#include <any>
#include <cstdint>
#include <functional>
#include <limits>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "base/budget.hpp"
#include "lp/exact_basis.hpp"
#include "mip/branching/pseudo_costs.hpp"
#include "mip/heuristics/heuristic_switches.hpp"
#include "mip/interface/best_few.hpp"
#include "mip/interface/result.hpp"
#include "mip/presolve/presolve_model.hpp"
#include "mip/separators/cut_switches.hpp"
#include "mip/structures/implications.hpp"
#include "mip/structures/symmetry.hpp"

namespace kiteknot::mip {

struct Verdict {
  bool accepted = false;
  Rational goal;       ///< in the problem's own units: minimised, scaled
  std::any remarks{};  ///< handed back with the plan (SearchResult::remarks)
};
/// Checks a plan as stated; gets one exact value a column. It may be asked from several threads.
using Judge = std::function<Verdict(std::span<const Rational>)>;

struct KeptTree;  // parallel/kept_tree.hpp
struct Keeper;
class Ranks;  // parallel/ranks.hpp

/// What is known before the search begins; all of it is of the problem at hand.
struct GivenFacts {
  std::vector<std::vector<Rational>> plans;    ///< to be judged first, and mended where they fail
  std::string plans_by = "an earlier answer";  ///< who found them
  /// Values of some columns to start from: the whole ones are fixed and the rest is searched for a
  /// while before anything else.
  std::vector<std::pair<Index, Rational>> start;
  double known_bound = -std::numeric_limits<double>::infinity();  ///< proven elsewhere, exactly
  std::optional<PseudoCosts> pseudo_costs;                        ///< of an earlier search
  std::shared_ptr<const Symmetry> symmetry;
  Implications implied;
  Counts counts_before;                  ///< of the searches that this one goes on from, ...
  double seconds_before = 0.0;           ///< ... and how long they took
  std::shared_ptr<const KeptTree> tree;  ///< to go on from; of this problem, or what it comes to
  lp::Basis basis;                       ///< to start the relaxation from
  std::int64_t root_work = 0;  ///< spent on the relaxation elsewhere, before `basis` came of it
};

/// What is left after a first look is reduced and searched from the root again. What may be lost on
/// the way: all plans are kept where the judge or a generator knows of rules that no row says.
struct PresolveSwitches {
  bool on = true;
  bool brief_look = true;  ///< a few nodes before presolve and cuts
  ReductionStrength keeps = ReductionStrength::a_best_plan;
  bool reductions = true;
  bool components = true;  ///< parts that nothing ties to the rest, one by one
  bool orbits = true;      ///< symmetries are looked for
  bool probing = true;     ///< of binary columns
};

struct NodeSwitches {
  bool strong = true;        ///< strong branching where history is short
  bool enumeration = true;   ///< what is left of a node, where that is little
  bool price_fixing = true;  ///< columns by their reduced costs
  bool learning = true;      ///< from branches that came to nothing
};

/// Workers in the tree.
struct CrewOptions {
  int threads = 1;
  std::int64_t joins_after =
      30'000'000;                       ///< units of work from the root on: small trees end before
  std::function<void()> at_handover{};  ///< for tests (Crew)
};

struct SearchOptions {
  Budget budget{};
  CrewOptions crew{};
  std::shared_ptr<const Keeper> keeper{};  ///< null: the search is not kept
  std::shared_ptr<Ranks> ranks{};          ///< null: no other process searches with this one
  double gap = 0.0;                        ///< relative; 0: to the proof
  double proof_gap = 1e-6;  ///< relative: where no fraction tells a plan, a proof ends here
  bool plans_only = false;  ///< nobody asks for the proof: it ends at proof_gap for any real goal
  double memory_bytes =
      std::numeric_limits<double>::infinity();  ///< for the tree; the rest waits on disk
  double goal_offset =
      0.0;  ///< added to the goal before gaps are taken: the constant of the user's goal
  double goal_unit = 1.0;  ///< one of the user's goal: proof gaps next to 0 are measured by it
  bool any_plan = false;   ///< the goal does not matter
  /// The best few plans in place of the best one. All that keeps only a best plan has to be off
  /// (see for_few).
  FewWanted few{};
  /// The first columns, which the plans tell and the judge looks at; the others follow from them.
  /// -1: all.
  Index decisions = -1;
  GivenFacts given{};
  PresolveSwitches presolving{};
  HeuristicSwitches finding{};
  NodeSwitches node{};
  CutSwitches cuts{};            ///< families of cuts, at the root
  bool structures = true;        ///< a problem that is all one structure, by its own algorithm
  bool rooms = false;            ///< fill in RelaxedAnswer::limit_rooms and cost_rooms
  std::size_t record_nodes = 0;  ///< of the tree, for a picture of it; the bound is watched as well
  lp::ExactLimits exact{};
};

/// The same without what is known of the whole problem only: for one over part of its columns, or
/// with other bounds.
inline SearchOptions for_part(SearchOptions options) {
  options.gap = 0.0;
  options.crew = {};
  options.keeper.reset();
  options.ranks.reset();
  Implications implied = std::move(options.given.implied);
  options.given = {};
  options.given.implied = std::move(implied);
  options.record_nodes = 0;
  options.few = {};
  return options;
}

/// With everything off that may lose a plan which is not the best one: reductions, symmetry, and
/// what is learned from the goal of one branch's best.
inline SearchOptions for_few(SearchOptions options, FewWanted few) {
  options.few = std::move(few);
  options.presolving = {.on = false,
                        .brief_look = false,
                        .reductions = false,
                        .components = false,
                        .orbits = false,
                        .probing = options.presolving.probing};
  options.node.enumeration = options.node.learning = options.structures = false;
  options.given.symmetry.reset();
  return options;
}

/// A search of its own over part of a problem. Workers are given one, so that none of them knows
/// the search that it works for.
using SubSearch = std::function<SearchResult(Problem problem, const Judge& judge, SearchOptions)>;

}  // namespace kiteknot::mip
