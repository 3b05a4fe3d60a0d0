#include "methods/few.hpp"

#include <cmath>

#include "mip/search/search.hpp"
#include "model/lowering.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {
namespace {

// Tells how many plans there are so far.
class Teller final : public mip::Listener {
 public:
  Teller(const Lowering& lowering, Observer* observer) : lowering_(lowering), observer_(observer) {}
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
  const Lowering& lowering_;
  Observer* observer_;
};

}  // namespace

FewPlans search_few(const Model& model, std::size_t count, const std::vector<Decision>& key,
                    const Plan& best, const SolveOptions& options, Observer* observer) {
  const Stopwatch clock;
  const Interrupt interrupt{&clock, options.seconds, options.stop.flag()};
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
  engine.seconds = std::max(0.0, options.seconds - clock.seconds());
  engine.nodes = options.nodes;
  engine.memory_bytes = options.memory_bytes;
  engine.decisions = m.num_decisions;
  engine.seed = options.seed;
  engine.stop = options.stop.flag();
  engine.goal_offset =
      (lowering.goal_constant * lowering.goal_scale * lowering.goal_sign).to_double();
  mip::FewWanted few{count, {}};
  for (const Decision& d : key) few.key.push_back(d.id);
  const mip::Judge judge = [&](std::span<const Rational> values) {
    const PlanReport report =
        check_exactly(model, Plan(model, {values.begin(), values.begin() + m.num_decisions}));
    mip::Verdict verdict{report.feasible, 0, {}};
    if (report.goal) verdict.goal = lowering.to_problem(*report.goal);
    return verdict;
  };
  Teller teller(lowering, observer);
  mip::SearchResult found = mip::Search(std::move(lowering.problem), judge,
                                        mip::for_few(std::move(engine), std::move(few)), &teller)
                                .run();
  const bool all = found.outcome == Outcome::optimal || found.outcome == Outcome::infeasible;
  for (const mip::RankedPoint& p : found.few) {
    out.plans.emplace_back(model,
                           std::vector<Rational>(p.plan.begin(), p.plan.begin() + m.num_decisions));
    if (all || (std::isfinite(found.bound) && p.goal <= Rational::exactly(found.bound)))
      ++out.proven;
  }
  if (out.plans.empty() && !all) {  // stopped before anything was looked at
    out.plans.push_back(best);
    out.proven = 1;
  }
  out.all_there_is = all && out.plans.size() < count;
  out.nodes = found.nodes;
  if (!all) out.stopped_by = found.stopped_by.empty() ? "arithmetic" : found.stopped_by;
  return out;
}

}  // namespace kiteknot::methods
