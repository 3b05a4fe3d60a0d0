// What people do by hand: needs first (greedy_needs.hpp), then gains (greedy_gains.hpp). Nothing is
// taken back. Where needs are left open, they are tried in another order.

#include "methods/greedy.hpp"

#include <fmt/format.h>

#include "base/text.hpp"
#include "methods/budget.hpp"
#include "methods/greedy_gains.hpp"
#include "methods/greedy_needs.hpp"

namespace kiteknot {
namespace {

using methods::GreedyNeeds;
using methods::GreedyRow;
using methods::GreedyRows;
using methods::NeedOrder;

class GreedyRun {
 public:
  GreedyRun(const Model& model, const SolveOptions& options)
      : model_(model),
        m_(model.data()),
        interrupt_(methods::budget_of(options).interrupt(clock_)),
        rows_(model, interrupt_),
        picks_(m_, rows_, interrupt_) {}

  MethodAnswer run() {
    MethodAnswer answer = in_order(NeedOrder::best_step);
    const std::string stuck = answer.note;
    for (const auto& [order, words] :
         {std::pair{NeedOrder::as_stated, "in the order of the rules"},
          std::pair{NeedOrder::fewest_ways, "those with the fewest ways first"}}) {
      if (answer.report->feasible || !needs_left_ || interrupt_.now()) break;
      MethodAnswer other = in_order(order);
      if (!other.report->feasible) continue;
      other.note = fmt::format("needs are met {}; best steps first, it got {}", words, stuck);
      answer = std::move(other);
    }
    answer.seconds = clock_.seconds();
    return answer;
  }

 private:
  MethodAnswer in_order(NeedOrder order) {
    rows_.take_back(0);
    picks_.clear();
    GreedyNeeds needs(m_, rows_, picks_, interrupt_);
    methods::GreedyGains gains(m_, rows_, picks_, interrupt_);
    const bool done = !interrupt_.now() && needs.meet(order) && gains.collect();
    MethodAnswer answer;
    answer.method = answer.label = "greedy";
    answer.plan = rows_.plan();
    answer.report = check(model_, rows_.plan());
    answer.outcome = answer.report->feasible ? Outcome::unproven : Outcome::undecided;
    picks_.tell(answer, done);
    for (const GreedyPick& p : answer.picks) answer.by_needs = answer.by_needs || p.by_need;
    if (!done)
      answer.note = "it was stopped before it was through";
    else if (!gains.endless().empty())
      answer.note = "the goal has no end along " + gains.endless();
    else if (!answer.report->feasible)
      answer.note = why_stuck(answer, needs);
    return answer;
  }

  // The first rule that is broken, and why no step could mend it.
  std::string why_stuck(const MethodAnswer& answer, GreedyNeeds& needs) {
    needs_left_ = false;
    std::string first;
    for (const RuleValue& v : answer.report->rules) {
      if (v.met || v.soft) continue;
      const std::string name = m_.rule_name(v.family, v.member);
      std::string why = fmt::format("stuck: {} is no plain sum, and no step looks at it", name);
      for (const GreedyRow& row : rows_.rows()) {
        if (row.family != v.family || row.member != v.member) continue;
        if (row.need().sign() > 0) {
          needs_left_ = true;
          const auto held_by = needs.in_the_way(row);
          why =
              fmt::format("stuck: {} is short of {}, and what could give it is held by {}", name,
                          figure(row.need()), held_by.empty() ? "its limits" : listed(held_by, 3));
          break;
        }
        if (row.activity > row.rule.high)
          why = fmt::format("stuck: the least values already pass {}", name);
      }
      if (first.empty()) first = why;
    }
    if (first.empty() && !answer.report->faults.empty()) {
      const DecisionFault& f = answer.report->faults[0];
      return "stuck: " + (f.decision < 0
                              ? f.what
                              : fmt::format("{} is {} and {}", m_.decision_name(f.decision),
                                            figure(f.value), f.what));
    }
    return first;
  }

  const Model& model_;
  const ModelData& m_;
  Stopwatch clock_;
  Interrupt interrupt_;
  GreedyRows rows_;
  methods::GreedyPicks picks_;
  bool needs_left_ = false;  // after the last order
};

class GreedyMethod final : public Method {
 public:
  std::string name() const override { return "greedy"; }
  std::string about() const override {
    return "needs first, for the least cost; then gains, by share of the scarcest rule";
  }
  std::string source() const override { return "Dantzig 1957; needs: Chvatal 1979"; }
  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer*) const override {
    need_sensible(options);
    if (options.generator) throw UsageError("'greedy' cannot follow rules that are generated");
    return {GreedyRun(model, options).run()};
  }
};

}  // namespace

std::unique_ptr<Method> make_greedy() {
  return std::make_unique<GreedyMethod>();
}

}  // namespace kiteknot
