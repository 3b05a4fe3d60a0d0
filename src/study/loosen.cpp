// The cheapest way out of a clash: every rule may be missed at a price (elastic rules; Brown and
// Graves 1975), the least total first, then as few rules as possible.

#include "study/loosen.hpp"

#include <fmt/format.h>

#include "base/text.hpp"
#include "base/tolerances.hpp"
#include "kiteknot/solve.hpp"
#include "model/evaluation.hpp"
#include "model/free_names.hpp"
#include "model/model_data.hpp"
#include "study/time_left.hpp"

namespace kiteknot {
namespace {

class Loosener {
 public:
  Loosener(const Model& model, const LooseningOptions& options)
      : stated_(model), left_(options.solve), weight_(model.data().rules.size(), Rational(0)) {
    const ModelData& m = model.data();
    for (std::size_t r = 0; r < m.rules.size(); ++r)
      if (!m.rules_off.contains(static_cast<Index>(r)) && !m.rules[r]->soft() &&
          !m.rules[r]->is_tour())  // a tour is one, or none: there is nothing between
        weight_[r] = 1;
    for (const auto& [name, weight] : options.weights) {
      if (weight.sign() <= 0) throw UsageError("the weight of a rule is above 0");
      if (!weight_[place(name)].is_zero()) weight_[place(name)] = weight;
    }
    for (const std::string& name : options.keep) weight_[place(name)] = 0;
  }

  Loosening run() {
    Model priced = with_prices(true);
    const Result r = solve(priced, left_.options());
    if (r.outcome == Outcome::infeasible) {
      out_.kind = Loosening::Kind::impossible;
      return std::move(out_);
    }
    if (!r.plan) return std::move(out_);
    out_.least = r.outcome == Outcome::optimal;
    take(*r.plan);
    out_.fewest = out_.least && out_.misses.size() <= 1;
    if (out_.least && out_.misses.size() > 1) use_few_rules(priced);
    return std::move(out_);
  }

 private:
  std::size_t place(const std::string& rule) const {
    std::vector<std::string> known;
    for (std::size_t r = 0; r < weight_.size(); ++r) {
      known.push_back(stated_.data().rules[r]->name);
      if (known.back() == rule) return r;
    }
    throw UsageError(fmt::format("no rule '{}' in the model{}", rule, nearest_hint(rule, known)));
  }

  // Rules that count may be missed, at their weight or for nothing; so may those that were stated
  // with a price of their own.
  Model with_prices(bool weighted) const {
    Model m = stated_;
    m.forget_goals();
    for (std::size_t r = 0; r < weight_.size(); ++r) {
      const RuleFamily& rule = *stated_.data().rules[r];
      if (rule.soft())
        m.or_pay(rule.name, 0);
      else if (!weight_[r].is_zero())
        m.or_pay(rule.name, weighted ? weight_[r] : Rational(0));
    }
    if (weighted) m.minimize(free_name(m, "what is missed"), 0);
    return m;
  }

  // The misses of a plan, by the check as stated.
  void take(const Plan& plan) {
    const PlanReport report = check(stated_, Plan(stated_, plan.values()));
    out_.misses.clear();
    out_.total = 0;
    for (const RuleValue& v : report.rules) {
      if (v.met || v.soft) continue;
      const Rational& weight = weight_[static_cast<std::size_t>(v.family)];
      const Rational by = v.logical ? Rational(1) : v.slack.abs();
      out_.misses.push_back({{v.family, v.member}, by, weight});
      out_.total += by * weight;
    }
    out_.kind = out_.misses.empty() ? Loosening::Kind::not_needed : Loosening::Kind::found;
    out_.plan.emplace(stated_, plan.values());
  }

  void use_few_rules(const Model& priced) {
    const ModelData& m = priced.data();
    Expression total = m.goal_with_charges(0), missed;
    Rational most = out_.total;
    if (!moves_in_steps(m, total)) most += Rational(kStatedTolerance) * (Rational(1) + most);
    Model few = with_prices(false);
    few.rule(free_rule(few, "what is missed at most"), std::move(total) <= most);
    for (std::size_t r = 0; r < weight_.size(); ++r) {
      if (weight_[r].is_zero()) continue;
      for (const Condition& c : stated_.data().rules[r]->conditions) missed += 1 - truth_of(c);
    }
    few.minimize(free_name(few, "rules missed"), missed);
    try {
      SolveOptions limited = left_.options();
      constexpr std::int64_t kMostNodes = 20'000;
      limited.nodes = std::min(limited.nodes, kMostNodes);
      const Result r = solve(few, limited);
      if (!r.plan) return;
      const Loosening before = out_;
      take(*r.plan);
      if (out_.misses.size() > before.misses.size() || out_.total > before.total) out_ = before;
      out_.fewest = r.outcome == Outcome::optimal;
    } catch (const UsageError&) {  // a condition without a linear form: the total stands
    }
  }

  const Model& stated_;
  TimeLeft left_;
  std::vector<Rational> weight_;  // by rule; 0: not to be missed
  Loosening out_;
};

}  // namespace

void check_rule_names(const Model& model, const LooseningOptions& options) {
  (void)Loosener(model, options);
}

Loosening cheapest_loosening(const Model& model, const LooseningOptions& options) {
  return Loosener(model, options).run();
}

}  // namespace kiteknot
