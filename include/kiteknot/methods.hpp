#pragma once
// Named ways to get a plan, behind one interface, so that they can be compared.

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "kiteknot/result.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// One choice of the greedy method, in order.
struct GreedyPick {
  std::int32_t decision = 0;
  Rational amount;     ///< how much was added
  double ratio = 0.0;  ///< infinite where it uses nothing of the scarce rule, not a number for what
                       ///< another one needs
  Rational worth;      ///< change of the goal
  Rational used;       ///< of the scarce rule's limit after this pick
  bool by_need = false;         ///< the ratio is the share of all needs met for its cost
  std::int32_t needed_by = -1;  ///< the decision that could not grow without this one, or -1
  std::string why;              ///< where it comes after one with a lower ratio: the reason
};

struct MethodAnswer {
  std::string method;  ///< "rounded"
  std::string label;   ///< "rounded down"
  Outcome outcome = Outcome::undecided;
  std::optional<Plan> plan;
  std::optional<PlanReport> report;  ///< of the plan; relaxed plans are checked without wholeness
  double seconds = 0.0;
  std::optional<double> bound;  ///< a proven bound on the goal, where the method gives one
  std::string note;             ///< one sentence, where there is more to say
  bool refused = false;         ///< it does not take such models: the note says why
  std::vector<GreedyPick> picks;
  std::string scarce;     ///< greedy: the rule that ratios are measured by, all its rows, or ""
  Rational scarce_limit;  ///< the sum of its limits
  std::vector<std::int32_t> no_room{};  ///< greedy: decisions that only this rule kept out
  bool by_needs = false;                ///< greedy: picks were ranked by needs met for their cost
  /// Every better plan, with its value and when it was found; empty where a method finds one only.
  std::vector<Progress> progress{};
};

class Method {
 public:
  virtual ~Method() = default;
  /// As compare tells it.
  [[nodiscard]] virtual std::string name() const = 0;
  /// One line on what it does.
  [[nodiscard]] virtual std::string about() const = 0;
  /// Where it comes from, as "Glover 1989"; empty for what has no source.
  [[nodiscard]] virtual std::string source() const { return {}; }
  /// Scores of moves that it looks at where no clock is set; 0: it ends by itself.
  [[nodiscard]] virtual std::int64_t looks() const { return 0; }
  /// Whether it is of use for a model like this one.
  [[nodiscard]] virtual bool takes(const Model& model) const {
    (void)model;
    return true;
  }
  /// Whether its answer depends on SolveOptions::seed.
  [[nodiscard]] virtual bool draws_lots() const { return false; }
  /// One answer, or several variants of it. It ends by SolveOptions::seconds, or when the observer
  /// finds a plan good enough; UsageError for a model that it does not take.
  [[nodiscard]] virtual std::vector<MethodAnswer> run(const Model& model,
                                                      const SolveOptions& options,
                                                      Observer* observer) const = 0;
};

/// exact, relaxed, rounded, greedy; of nonlinear models local and local from many starts; and walks
/// from plan to plan: greedy in other orders, climbs, tabu, annealing, breeding, ruin, violations,
/// multipliers.
const std::vector<std::unique_ptr<Method>>& all_methods();
/// Those that are of use for any model.
std::vector<std::string> method_names();
/// Those that a first comparison of this model is made of; with `all`, every one that is of use
/// for it.
std::vector<std::string> method_names(const Model& model, bool all = false);
/// Throws UsageError with the nearest name.
const Method& method(const std::string& name);

/// What classic problem the model is from end to end, if it is one: "a cover of 200 needs by 2,000
/// sets", or "". It then has ways of its own: "cover greedy", "cover prices"; "first fit", "best
/// fit"; "add places", "drop places", "swap places", "dual ascent"; "job regret", "job exchange";
/// "sack worth", "sack refill"; "choice slopes", "choice program"; "pair greedy", "pair rings";
/// "least tree"; "least cut".
std::string known_kind(const Model& model);

/// What 'exact' would say of a search that was done.
MethodAnswer exact_answer(const Result& result);

/// The relaxed point of a result with its whole decisions rounded to nearest, down and up; empty
/// where there is no relaxed point.
std::vector<MethodAnswer> roundings(const Result& result);

}  // namespace kiteknot
#pragma GCC visibility pop
