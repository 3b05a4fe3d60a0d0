#pragma once
// What a search is asked for: who judges plans, how far to go, and which parts take part.

#include <any>
#include <atomic>
#include <cstdint>
#include <functional>
#include <limits>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "lp/exact_basis.hpp"
#include "mip/branching/pseudo_costs.hpp"
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

struct SearchOptions {
  double seconds = std::numeric_limits<double>::infinity();
  std::int64_t nodes = std::numeric_limits<std::int64_t>::max();
  double gap = 0.0;  ///< relative; 0: to the proof
  double memory_bytes =
      std::numeric_limits<double>::infinity();  ///< for the tree; the rest waits on disk
  std::uint64_t seed = 1;
  const std::atomic<bool>* stop = nullptr;
  double goal_offset =
      0.0;  ///< added to the goal before gaps are taken: the constant of the user's goal
  bool any_plan = false;  ///< the goal does not matter
  /// The best few plans in place of the best one. All that keeps only a best plan has to be off
  /// (see for_few).
  FewWanted few{};
  std::vector<std::vector<Rational>> plans;  ///< to be judged first, and mended where they fail
  /// Values of some columns to start from: the whole ones are fixed and the rest is searched for a
  /// while before anything else.
  std::vector<std::pair<Index, Rational>> start;
  /// The first columns, which the plans tell and the judge looks at; the others follow from them.
  /// -1: all.
  Index decisions = -1;
  double known_bound = -std::numeric_limits<double>::infinity();  ///< proven elsewhere, exactly
  std::optional<PseudoCosts> pseudo_costs;                        ///< of an earlier search
  bool brief_look = true;  ///< a few nodes before presolve and cuts
  /// After that what is left is reduced and searched from the root again. What may be lost on the
  /// way: all plans are kept where the judge or a generator knows of rules that no row says.
  bool presolve = true;
  ReductionStrength keeps = ReductionStrength::a_best_plan;
  bool reductions = true;                    ///< that presolve makes
  bool components = true;                    ///< parts that nothing ties to the rest, one by one
  bool orbits = true;                        ///< symmetries are looked for
  std::shared_ptr<const Symmetry> symmetry;  ///< known ones
  Implications implied;                      ///< known ones, of the problem's columns
  bool look_around = true;                   ///< for plans around the root's relaxation
  bool rounding = true;                      ///< of relaxed points, with propagation
  bool dives = true;                         ///< from a relaxed point down to a plan
  bool near_plan = true;         ///< small searches where the best plan and a relaxed point agree
  bool pump = true;              ///< to and fro between whole and relaxed points
  bool strong = true;            ///< strong branching where history is short
  bool probing = true;           ///< of binary columns at the root
  bool enumeration = true;       ///< what is left of a node, where that is little
  bool price_fixing = true;      ///< columns by their reduced costs
  CutSwitches cuts{};            ///< families of cuts, at the root
  bool learning = true;          ///< from branches that came to nothing
  bool structures = true;        ///< a problem that is all one structure, by its own algorithm
  bool rooms = false;            ///< fill in RelaxedAnswer::limit_rooms and cost_rooms
  std::size_t record_nodes = 0;  ///< of the tree, for a picture of it; the bound is watched as well
  std::int64_t root_work = 0;    ///< spent on the relaxation elsewhere, before `basis` came of it
  lp::Basis basis;               ///< to start the relaxation from
  lp::ExactLimits exact;
};

/// The same without what is known of the whole problem only: for one over part of its columns, or
/// with other bounds.
inline SearchOptions for_part(SearchOptions options) {
  options.gap = 0.0;
  options.plans.clear();
  options.start.clear();
  options.known_bound = -std::numeric_limits<double>::infinity();
  options.pseudo_costs.reset();
  options.symmetry.reset();
  options.root_work = 0;
  options.record_nodes = 0;
  options.basis = {};
  options.few = {};
  return options;
}

/// With everything off that may lose a plan which is not the best one: reductions, symmetry, and
/// what is learned from the goal of one branch's best.
inline SearchOptions for_few(SearchOptions options, FewWanted few) {
  options.few = std::move(few);
  options.presolve = options.brief_look = options.reductions = options.components = false;
  options.orbits = options.enumeration = options.learning = options.structures = false;
  options.symmetry.reset();
  return options;
}

/// A search of its own over part of a problem. Workers are given one, so that none of them knows
/// the search that it works for.
using SubSearch = std::function<SearchResult(Problem problem, const Judge& judge, SearchOptions)>;

}  // namespace kiteknot::mip
