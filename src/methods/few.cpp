#include "methods/few.hpp"

#include <algorithm>
#include <cmath>

#include "methods/budget.hpp"
#include "methods/plan_of.hpp"
#include "mip/search/search.hpp"
#include "model/lowering.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {
namespace {

// Tells how many plans there are so far, and each that is in its place.
class Teller final : public mip::Listener {
 public:
  Teller(const Model& model, const Lowering& lowering, Observer* observer)
      : model_(model), lowering_(lowering), observer_(observer) {}
  void in_place(std::size_t place, std::span<const Rational> plan, const Rational&) override {
    if (observer_ != nullptr && place > 0) observer_->next_plan(place + 1, plan_of(model_, plan));
  }
  void progress(const mip::Standing& s) override {
    if (observer_ == nullptr) return;
    Progress p;
    p.seconds = s.seconds;
    p.nodes = s.nodes;
    p.open = s.open;
    p.found_by = s.found_by;
    p.plans = static_cast<std::int64_t>(s.plans);
    if (std::isfinite(s.bound)) p.bound = lowering_.to_user(s.bound);
    observer_->progress(p);
  }

 private:
  const Model& model_;
  const Lowering& lowering_;
  Observer* observer_;
};

}  // namespace

FewPlans search_few(const Model& model, std::size_t count, const std::vector<Decision>& key,
                    const Plan& best, const SolveOptions& options, Observer* observer) {
  const Stopwatch clock;
  const Interrupt interrupt = budget_of(options).interrupt(clock);
  const ModelData& m = model.data();
  FewPlans out;
  Lowering lowering;
  try {
    lowering = lower(m, false, false, interrupt);
  } catch (const LoweringStopped&) {
    out.stopped_by = interrupt.by_hand() ? "hand" : "time";
    out.plans.push_back(best);
    out.proven = 1;
    return out;
  }
  mip::SearchOptions engine;
  engine.budget = budget_of(options).less(clock.seconds(), 0);
  engine.memory_bytes = options.memory_bytes;
  engine.decisions = m.num_decisions;
  engine.goal_offset =
      (lowering.goal_constant * lowering.goal_scale * lowering.goal_sign).to_double();
  engine.goal_unit = lowering.goal_scale.to_double();
  mip::FewWanted few{count, {}};
  for (const Decision& d : key) few.key.push_back(d.id);
  const mip::Judge judge = [&](std::span<const Rational> values) {
    const PlanReport report = check_exactly(model, plan_of(model, values));
    mip::Verdict verdict{report.feasible, 0, {}};
    if (report.goal) verdict.goal = lowering.to_problem(*report.goal);
    return verdict;
  };
  // It comes first in the list, and is looked at as decisions only: the judge knows no others.
  std::vector<Rational> given(best.values().begin(), best.values().end());
  given.resize(static_cast<std::size_t>(lowering.problem.num_columns()));
  engine.given.plans.push_back(std::move(given));
  Teller teller(model, lowering, observer);
  mip::SearchResult found = mip::Search(std::move(lowering.problem), judge,
                                        mip::for_few(std::move(engine), std::move(few)), &teller)
                                .run();
  const bool all = found.outcome == Outcome::optimal || found.outcome == Outcome::infeasible;
  for (const mip::RankedPoint& p : found.few.plans) out.plans.push_back(plan_of(model, p.plan));
  out.proven = std::max<std::size_t>(found.few.in_place, 1);
  if (out.plans.empty()) out.plans.push_back(best);  // stopped before anything was looked at
  out.all_there_is = all && out.plans.size() < count;
  out.nodes = found.counts.nodes;
  if (!all)
    out.stopped_by =
        found.stopped_by == mip::StoppedBy::nothing ? "arithmetic" : word(found.stopped_by);
  return out;
}

}  // namespace kiteknot::methods
