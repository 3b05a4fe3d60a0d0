#pragma once
// The plans that come next to the best one, in order.
//
//   kk::Result best = kk::solve(model);
//   kk::Ranking three = kk::next_best(best, {.count = 3});
//   std::cout << kk::ranking_page(three);  // pages.hpp

#include "kiteknot/result.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

struct RankingQuestion {
  int count = 1;  ///< of plans after the best one
  /// Families of whole decisions; two plans count as different where one of these decisions
  /// differs. Empty: all whole decisions.
  std::vector<std::string> differ{};
};

struct RankedPlan {
  Plan plan;
  std::vector<Rational> goals;  ///< in order, as the user states them
};

/// With its goals, recomputed.
RankedPlan ranked_plan(const Model& model, const Plan& plan);

struct Ranking {
  /// Without a plan yet.
  explicit Ranking(const Model& model_asked) : model(model_asked) {}
  Model model;
  RankingQuestion question;
  /// The best one first. Those that are proven are each best among all that differ from those
  /// before them (with nonlinear terms, to the gap that the best one is proven to); others were
  /// found before a limit, and better ones may be missing.
  std::vector<RankedPlan> plans;
  std::size_t proven = 0;
  bool no_more = false;    ///< proven: no other plan meets all rules
  double gap = 0.0;        ///< relative, that each is proven to; 0: to the digit
  std::string stopped_by;  ///< "time", "nodes", "hand", ...: the next one is not proven; else empty
};

/// UsageError for a family that is not there or has no whole decisions, and where the model has
/// none.
void need_different(const Model& model, const RankingQuestion& question);
/// Whether any decision is whole, so that plans have a next one.
bool can_differ(const Model& model);
/// Several in one search whose cutoff is the last of them; a single one, and plans of several
/// goals, by solving again with the plans so far ruled out, by a clause over decisions that have to
/// differ. `observer` hears how many there are so far, and each
/// that is proven to come next, in order. `options.seconds` and `options.nodes` are
/// for all of it. UsageError as need_different has it, and where `best` is not proven.
Ranking next_best(const Result& best, const RankingQuestion& question,
                  const SolveOptions& options = {}, Observer* observer = nullptr);

}  // namespace kiteknot
#pragma GCC visibility pop
