#pragma once
// Many ways on many cases: how far each ends from the best that is known, how soon, how often not
// at all, and what the spread allows to conclude.
//
//   kk::TrialOptions options{.ways = {"greedy", "climb", "tabu"}, .seconds = 2};
//   const kk::Trials trials = kk::run_trials({{"week 1", [] { return week(1); }}, ...}, options);

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "kiteknot/methods.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

class Transport;  // ranks.hpp

/// One model of a comparison; it is read when its turn comes.
struct TrialCase {
  std::string name;
  std::function<Model()> model;
  /// Of the model that was read: something that changes when its data do, so that what was kept of
  /// another state is tried again. Not needed where nothing is kept.
  std::function<std::string(const Model&)> state{};
};

/// What came of one way on one case, with one seed.
struct Attempt {
  std::string of;     ///< the case
  std::string state;  ///< of it
  std::string way;
  int run = 1;
  std::uint64_t seed = 1;
  double limit = 0.0;  ///< seconds that it had
  Outcome outcome = Outcome::undecided;
  bool found = false;             ///< a plan that meets all rules, judged as stated
  std::optional<Rational> value;  ///< of the first goal
  std::optional<double> bound;    ///< proven, where the way gives one
  double seconds = 0.0;           ///< that it took
  /// When it had which value; every better one.
  std::vector<std::pair<double, double>> better{};
  std::string note{};               ///< why there is no plan, or what else there is to say
  bool refused = false;             ///< it does not take such models
  std::vector<std::string> plan{};  ///< names and values of the decisions that are not 0, few only
};

struct TrialOptions {
  /// Names of methods; empty: all that give plans of any of the cases.
  std::vector<std::string> ways{};
  /// Methods of the user's own; those with a name in `ways`, or all where that is empty.
  std::vector<std::shared_ptr<const Method>> own{};
  double seconds = 10.0;  ///< for each way on each case, the exact search and its proof included
  int runs = 1;           ///< of ways that draw lots, with seeds one after the other
  std::uint64_t seed = 1;
  StopToken stop{};
  /// Of an earlier comparison that ended early: taken in place of trying again, where case, state,
  /// way, seed and limit are the same.
  std::vector<Attempt> known{};
  std::function<void(const Attempt&)> done{};  ///< hears of each that was tried
  /// Hears before each is tried.
  std::function<void(const std::string& of, const std::string& way, int run)> asked{};
  /// So many cases side by side, a core for each; 0: one for each core. `done` and `asked` are
  /// called one at a time, but from several threads; ways in `own`, cases' `model` and `state` are
  /// called for several cases at once.
  int threads = 1;
  /// Several processes that all call run_trials with the same cases and options: cases go to
  /// whoever is free, and rank 0 has all that came of them, the others an answer without cases.
  /// What a process that fell silent had is tried again. UsageError at rank 0 where another one has
  /// other cases or options. `done` is called at rank 0.
  std::shared_ptr<Transport> ranks{};
};

/// A case after all of its attempts.
struct TrialCaseAnswer {
  std::string name, title, goal;
  Sense sense = Sense::minimize;
  std::int32_t decisions = 0, rules = 0;
  double reading_seconds = 0.0;  ///< not part of anybody's limit
  std::optional<Rational> best;  ///< of all plans
  std::optional<double> bound;   ///< proven
  bool proven = false;           ///< no plan is better than `best`
  bool infeasible = false;       ///< proven: there is no plan
  std::string failed{};          ///< it could not be read: why
};

struct Trials {
  std::vector<TrialCaseAnswer> cases;
  std::vector<std::string> ways;  ///< in the order in which they are told
  std::vector<Attempt> attempts;
  double seconds = 0.0;  ///< each had
  int runs = 1;
  bool stopped = false;  ///< by hand, before all were tried
  int at_once = 1;       ///< cases side by side, in a process
  int processes = 1;     ///< that cases were handed out to
};

/// Tries every way on every case. The exact search goes first: its best plan and bound are what the
/// others are held against, and whoever reaches a proven best may end early. UsageError for ways
/// that are none (with the nearest), two cases or ways of one name, and no case at all; a case that
/// cannot be read, and a way that fails, cost no other.
Trials run_trials(const std::vector<TrialCase>& cases, const TrialOptions& options);

/// The distance of an attempt from the case's best: 0.02 is 2 %; infinite without a plan, none
/// where nothing was tried or nobody has a plan.
std::optional<double> distance(const Trials& trials, const Attempt& attempt);
/// When an attempt first was as near as that; none: never.
std::optional<double> seconds_within(const Trials& trials, const Attempt& attempt, double share);

/// One way over all cases. Of several runs a case counts by its median.
struct WayStanding {
  std::string way;
  std::size_t cases = 0;                         ///< it was tried on
  std::size_t without = 0;                       ///< of these ended with no plan
  std::size_t at_best = 0;                       ///< ended at the best that is known
  std::size_t wins = 0;                          ///< no way but the exact search ended nearer
  std::size_t refused = 0;                       ///< cases that it does not take
  double median = 0.0, worst = 0.0, mean = 0.0;  ///< distances; of those with a plan
  double best_runs = 0.0, worst_runs = 0.0;      ///< mean over cases of the best and worst run
  std::optional<double> to_best, to_near;        ///< median seconds to its best, and to 1 %
  double took = 0.0;                             ///< median seconds
};
std::vector<WayStanding> standings(const Trials& trials);

/// Two ways on the same cases.
struct PairedFinding {
  std::string nearer, farther;  ///< which is on more cases
  std::size_t wins = 0, losses = 0, ties = 0;
  /// How likely a spread like this, or a wider one, is where both ways are alike: exact two-sided
  /// signed ranks (Wilcoxon 1945, "Individual comparisons by ranking methods"), times the
  /// comparisons that are made at once (Holm 1979, "A simple sequentially rejective multiple test
  /// procedure").
  double chance = 1.0;
};
/// The best way but the exact search (by mean distance, fewest without a plan first) against each
/// other one that found a plan somewhere.
std::vector<PairedFinding> findings(const Trials& trials);
/// The exact two-sided chance of signed ranks at least as uneven; 1 for no difference at all. Ties
/// share their ranks; differences of 0 are left out.
double signed_rank_chance(const std::vector<double>& differences);
/// The same by signs alone: two-sided binomial.
double sign_chance(std::size_t wins, std::size_t losses);

}  // namespace kiteknot
#pragma GCC visibility pop
