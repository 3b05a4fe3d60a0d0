#include "study/told_plan.hpp"

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/free_names.hpp"
#include "model/model_data.hpp"

namespace kiteknot {

Result told_plan(Study& study, const Model& model, Model& first, const SolveOptions& options) {
  first = model;
  const std::vector<Goal>& goals = model.data().goals;
  if (goals.size() < 2) return study.ask(model, options);
  Result told = study.ask(model, options);
  first.only_goal(0);
  if (told.outcome != Outcome::optimal || !told.plan) return study.ask(first, options);
  if (told.goals[0].value != told.goals[0].reached)
    for (std::size_t k = 1; k < goals.size(); ++k) {
      const std::string name = "goal " + goals[k].name;
      if (goals[k].sense == Sense::minimize)
        first.rule(free_rule(first, name), goals[k].expression <= *told.goals[k].value);
      else
        first.rule(free_rule(first, name), goals[k].expression >= *told.goals[k].value);
    }
  Result one = study.ask(first, options);
  if (one.outcome != Outcome::optimal || !one.plan) return one;
  if (*one.goals[0].value != *told.goals[0].value)
    throw UsageError(fmt::format(
        "the plan that is told yields in {}: it is {} there, and with all that comes after as good "
        "it could be {}; ask it of a model without 'yielding'",
        goals[0].name, figure(*told.goals[0].value), figure(*one.goals[0].value)));
  one.plan.emplace(one.model(), told.plan->values());
  one.report = check(one.model(), *one.plan);
  return one;
}

}  // namespace kiteknot
