#pragma once
// The same question under several circumstances, side by side with the model as it stands.
//
//   kk::Variation v = kk::without_each(model);
//   std::cout << kk::variation_page(model, v);  // pages.hpp

#include "kiteknot/result.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// One circumstance and what came of it.
struct Variant {
  std::string name;
  Rational at;  ///< of a sweep: the number's value
  Outcome outcome = Outcome::undecided;
  std::optional<Rational> goal;  ///< of the first goal, as the user states it
  std::optional<double> bound;
  std::vector<Rational> later;  ///< the goals after it, in order
  std::vector<std::pair<std::int32_t, Rational>>
      changed;  ///< decisions that differ, with their new value
  /// Of a scenario with other rows: decisions that only it has, by name, where they are not 0; and
  /// those that are not 0 in the base and not there in it.
  std::vector<std::pair<std::string, Rational>> only_here;
  std::vector<std::string> not_here;
  bool nothing = false;  ///< its plan leaves every decision at 0
  double seconds = 0.0;  ///< an equal part of the time where variants shared one search
  std::string reason;    ///< why it is undecided or unproven without a limit
};

/// Where the best plan has to change along a sweep: the one before is still among the best at
/// `before` (its real decisions moved), and no longer at `after`; both were solved.
struct Step {
  Rational before, after;
  std::optional<Rational> goal_before, goal_after;
  std::vector<Rational> later_before, later_after;  ///< the goals after the first
  bool plan_before = false, plan_after = false;     ///< whether there is a plan at all
  /// `before` is the very last value at which the old plan is possible, `after` the first one at
  /// which the new one is.
  bool last_old = false, first_new = false;
  bool tie = false;  ///< at `before` both plans are as good; the new one is better right after it
};

/// How the first goal moves between two changes: by `least` to `most` for each 1 of the number
/// (equal on a straight line).
struct Line {
  Rational from, to, goal_from, goal_to, least, most;
};

struct Variation {
  enum class Kind { scenarios, rules, sweep } kind = Kind::scenarios;
  std::string varied;                    ///< of a sweep: the number
  std::vector<std::string> later_goals;  ///< names of the goals after the first
  std::vector<Step> steps;               ///< of a sweep, on request, rising
  std::vector<Line> lines;               ///< the same: between them, where the goal moves
  bool all_steps = false;  ///< no limit stopped the search for them, all answers are proven
  Variant base;            ///< the model as it stands
  std::vector<Variant> variants;
};

/// Solves each model; they are variants of the first one's decisions (a scenario changes data and
/// rules, and a decision counts as the same by its full name). Warm where the decisions are the
/// same.
Variation compare_scenarios(const Model& base,
                            const std::vector<std::pair<std::string, Model>>& scenarios,
                            const SolveOptions& options = {});
/// The same where the model as it stands has been solved already.
Variation compare_scenarios(const Result& base,
                            const std::vector<std::pair<std::string, Model>>& scenarios,
                            const SolveOptions& options = {});
/// What dropping each rule family (with `rows`: each row of every rule) would gain, whether or not
/// it binds. In one search where rules are plain rows over whole decisions, else warm.
Variation without_each(const Model& model, bool rows = false, const SolveOptions& options = {});

/// `points` values of a number from one to another, both included. With `steps`, the values at
/// which whole decisions have to change are found between the points, down to a millionth of the
/// range, and exactly where it is the number that makes a plan possible or two plans equal.
struct Sweep {
  std::string number;
  Rational from, to;
  int points = 2;
  bool steps = false;
};
/// UsageError for a number that is not there, or no points. In one search where the number stands
/// in limits of plain rows over whole decisions only, else warm.
Variation sweep(const Model& model, const Sweep& question, const SolveOptions& options = {});

}  // namespace kiteknot
#pragma GCC visibility pop
