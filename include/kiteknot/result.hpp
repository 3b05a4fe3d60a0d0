#pragma once
// What came out of a search, in the user's names, sense and sign.

#include <functional>
#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "kiteknot/outcome.hpp"
#include "kiteknot/plan.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

class Generator;

struct Keeping;
class KeptSearch;
class RankGroup;

struct SolveOptions {
  double seconds = std::numeric_limits<double>::infinity();  ///< time limit, for all of a question
  /// Of a question that takes several solves: for each of them.
  double seconds_each = std::numeric_limits<double>::infinity();
  std::int64_t nodes = std::numeric_limits<std::int64_t>::max();
  double gap = 0.0;  ///< relative gap to accept; 0: prove the optimum
  double memory_bytes = 4.0 * 1024.0 * 1024.0 *
                        1024.0;  ///< for the open branches of a search; the rest waits on disk
  std::uint64_t seed = 1;        ///< for choices that are drawn by lot
  /// How many work on one search at once, where it is large enough; 0: one for each core. The same
  /// number takes the same course, 1 that of one alone.
  int threads = 0;
  StopToken stop{};  ///< of a StopSwitch: ends the search by hand
  /// Values to start from, of some decisions or all: a plan that has them is looked for first, the
  /// rest as good as a short search gets it. Whole ones are kept; real ones follow.
  std::vector<std::pair<Decision, Rational>> start{};
  /// Rules that are found while searching (generator.hpp): within the one search, or in rounds of
  /// search, look and search again, each told to the observer.
  std::shared_ptr<const Generator> generator{};
  bool in_rounds = false;
  /// Branch and bound alone, as in a textbook: no reductions, cuts, looking through or learning.
  /// Slower, with the same answer; for watching how it works.
  bool plain = false;
  /// Whether plans are looked for beside branching (roundings, dives, searches near a plan, ways of
  /// special kinds): without, what branching finds by itself.
  bool looks_for_plans = true;
  /// Where the search is kept, to go on from there one day (kept.hpp); null: it is not.
  std::shared_ptr<const Keeping> keep{};
  /// What it goes on from; null: it begins anew. Of the same model.
  std::shared_ptr<const KeptSearch> from{};
  /// Other processes that search the same tree (ranks.hpp); null: there are none.
  std::shared_ptr<const RankGroup> ranks{};
  /// How many branches are kept for a picture of the search (SearchCounts::tree); 0: none. The
  /// bound is then watched as well, between plans.
  std::int64_t record_branches = 0;
  /// Hears of each solve of a question that takes several, before it begins; the name may be empty.
  std::function<void(const std::string& name)> asked{};
};

/// Throws UsageError for times, gaps and counts that are negative or NaN, and for infinite values
/// to start from; every call that takes options does.
void need_sensible(const SolveOptions& options);

/// What one of several rounds came to.
struct Round {
  int number = 1;
  Plan plan;                       ///< best without the rules that follow
  std::vector<std::string> added;  ///< rules that it breaks; none: it is the answer
};

/// Where a search stands.
struct Progress {
  double seconds = 0.0;
  std::optional<double> best, bound;  ///< of the goal, as the user states it
  std::optional<double> gap;
  std::int64_t nodes = 0, open = 0;
  std::string found_by;    ///< what found the best plan
  std::int64_t plans = 0;  ///< of a search for several: how many there are so far
  int workers = 1;         ///< that share the branches just now
};

/// Hears of a running search; called on the searching thread, between nodes.
class Observer {
 public:
  virtual ~Observer() = default;
  /// A plan better than all before, judged as stated.
  virtual void better_plan(const Progress&, const Plan& plan) { (void)plan; }
  /// Of a search for several plans (next_best): the next one is found and in its place, 2 the
  /// first after the best one.
  virtual void next_plan(std::size_t place, const Plan& plan) { (void)place, (void)plan; }
  /// Now and then, and wherever the bound moved.
  virtual void progress(const Progress&) {}
  /// Of a method that walks from plan to plan (methods.hpp): it has a better one now. True: that is
  /// good enough, it may end.
  [[nodiscard]] virtual bool enough(const Progress&) { return false; }
  /// With in_rounds: what one round came to.
  virtual void round(const Round&) {}
};

struct GoalResult {
  std::string name;
  Sense sense = Sense::minimize;
  std::optional<Rational> value;
  std::optional<double> bound, gap;
  /// Of a later goal: its best value if the goals before it did not count. What their order costs.
  std::optional<Rational> alone{};
  /// What it reached when its turn came; less good a value is what later goals took, see yielding.
  std::optional<Rational> reached{};
  /// To which later goals it yielded how much, in their turn.
  std::vector<std::pair<std::string, Rational>> yielded{};
};

/// From one value to another; infinite where there is no end.
struct Stretch {
  double from = 0.0, to = 0.0;
};

struct Relaxed {
  std::optional<double> value;  ///< of the goal; none where the relaxation has no optimum
  bool infeasible = false, unbounded = false;
  bool integral = false;  ///< its point was whole by itself
  /// Terms are not sums: it is of lines and planes around them, and prices are not known.
  bool nonlinear = false;
  std::vector<double> point;  ///< by decision; empty where there is none
  /// Where they are known: the change of the goal per unit of a rule's limit (by rule row in order,
  /// rules switched off left out), and per unit of each decision.
  std::vector<double> shadow_prices, reduced_costs;
  /// Where the model solved has no integers: the values of each binding rule's limit over which its
  /// shadow price holds, and of each decision's goal coefficient over which the plan stays. Empty
  /// where not known.
  std::vector<Stretch> limit_stretches, coefficient_stretches;
  std::vector<double> coefficients;  ///< of the goal, by decision, along with the stretches
  bool degenerate =
      false;  ///< the plan rests on more limits than it needs: prices may differ by side
};

/// What a part of the search cost and brought.
struct SearchPart {
  std::string kind, name;  ///< "heuristic", "rounding"
  std::int64_t calls = 0, work = 0;
  std::int64_t found = 0;      ///< bounds, rows or better plans
  std::int64_t conflicts = 0;  ///< nodes that it closed; of looking through: where it was too much
};

/// What was left to search after everything that could be told beforehand: columns are decisions
/// and what logic and curves need beside them, rows are rules and what those need.
struct Reduced {
  std::int64_t columns = 0, columns_before = 0, rows = 0, rows_before = 0;
  std::optional<double> relaxed{};  ///< the relaxed goal of what is left, as the user states it
};

/// One branch of a search, for a picture.
struct SearchNode {
  std::int64_t parent = -1;  ///< its place in the list; -1: it is the first
  std::string decided;       ///< "run[sled race] is 0", "pack[cord drum] at least 2"
  std::optional<double> bound;
  std::int64_t look = 0;  ///< when it was looked at, from 1; 0: never
  bool divided = false;
  std::string closed;          ///< as in SearchCounts::closed; empty: divided, or open at the end
  std::optional<double> best;  ///< of the plans when it was closed
  std::optional<double> plan;  ///< the best one that came of it
  std::int64_t left_out = 0;   ///< branches below that are not in the list, ...
  std::optional<double> left_out_bound;  ///< ... and the best of their bounds
};

struct SearchCounts {
  std::int64_t nodes = 0, lp_iterations = 0, generated_constraints = 0, work = 0;
  double seconds = 0.0;
  std::string stopped_by;  ///< "time", "nodes", "gap", "memory", "hand", or empty
  std::string found_by;
  std::int64_t cuts =
      0;  ///< rules that the first branch's relaxation was given: every plan meets them
  /// What the goal was proven to be at best before any branching, as the user states it.
  std::optional<double> root_bound;
  std::optional<Reduced> reduced;  ///< none: a brief look settled it, or there was nothing to tell
  std::string start;  ///< what came of the values to start from: "plan", "none", empty: not given
  std::optional<double> start_value;  ///< its goal, as the user states it
  /// "knapsack", "assignment", "network of flows": all of the model is one, solved by its own
  /// algorithm.
  std::string structure;
  std::string structure_method;  ///< that algorithm, in words
  int workers = 1;               ///< that shared the branches
  double seconds_shared = 0.0;   ///< for how long they did
  /// What it was to have more than one, in seconds of all of them: there was no branch for one, or
  /// one waited for the others to have done as much.
  double without_branch = 0.0, waited = 0.0;
  int processes = 1;                       ///< that shared the tree (ranks.hpp)
  std::int64_t branches_of_processes = 0;  ///< of `nodes` those of the others
  double seconds_before = 0.0;  ///< of the searches that this one went on from, not in `seconds`
  std::string keep_problem;     ///< why the search could not be kept (again); empty: it could
  std::vector<Progress> progress;
  /// Branches that hold nothing more, by what showed it: "conflict", "relaxation", "bound",
  /// "remainder", "children", "point", "nearly", "unresolved"; only what occurred.
  std::vector<std::pair<std::string, std::int64_t>> closed;
  std::vector<SearchPart> parts;  ///< that did anything
  std::vector<SearchNode> tree;   ///< on request; parents before their parts

  /// Nodes, pivots, work, and what parts did in another search, on top of this one's.
  void add(const SearchCounts& other);
};

class Result {
 public:
  /// Of an empty model: nothing is known.
  Result();
  /// An answer that says nothing yet.
  explicit Result(const Model& model);
  // Not here: a program that solves would compile all of it.
  Result(const Result&);
  Result(Result&&) noexcept;
  Result& operator=(const Result&);
  Result& operator=(Result&&) noexcept;
  ~Result();

  Outcome outcome = Outcome::undecided;
  std::vector<GoalResult> goals;
  Relaxed relaxed;
  bool relaxed_only = false;  ///< integrality was dropped on request
  bool has_integers = true;
  std::optional<Plan> plan;
  std::optional<PlanReport> report;  ///< of the plan
  /// Unbounded: by decision, the steps that can be taken from the plan again and again.
  std::vector<Rational> direction;
  std::vector<std::string> generated;  ///< names of the rules that were generated, in order
  SearchCounts search;
  std::string reason;  ///< why it is undecided or unproven without a limit

  /// The model that was asked, as it stood.
  [[nodiscard]] const Model& model() const noexcept { return model_; }
  /// Whether a plan was found.
  [[nodiscard]] bool has_plan() const noexcept { return plan.has_value(); }
  /// The goal's value; throws UsageError where there is no plan or no goal.
  [[nodiscard]] const Rational& goal() const&;
  [[nodiscard]] Rational goal() && { return std::as_const(*this).goal(); }
  /// A decision's value; throws UsageError where there is no plan.
  [[nodiscard]] const Rational& operator[](const Decision& d) const&;
  [[nodiscard]] Rational operator[](const Decision& d) && { return std::as_const(*this)[d]; }
  /// Full names of the decisions of a family that are not 0, in order.
  [[nodiscard]] std::vector<std::string> chosen(const Decisions& family) const;

 private:
  Model model_;
};

}  // namespace kiteknot
#pragma GCC visibility pop
