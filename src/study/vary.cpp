#include "kiteknot/vary.hpp"

#include <set>
#include <unordered_map>

#include "methods/exact.hpp"
#include "methods/variants.hpp"
#include "model/limit_changes.hpp"
#include "model/model_data.hpp"
#include "study/side_by_side.hpp"
#include "study/variants.hpp"

namespace kiteknot {
namespace {

// A rule, or one row of it.
struct Part {
  std::string name;
  Index family = 0, member = -1;  // -1: all of them
  std::size_t from = 0, to = 0;   // in Lowering::rows and PlanReport::rules
};

std::vector<Part> parts_of(const ModelData& m, bool rows) {
  std::vector<Part> parts;
  std::size_t next = 0;
  for (std::size_t r = 0; r < m.rules.size(); ++r) {
    const auto family = static_cast<Index>(r);
    if (m.rules_off.contains(family)) continue;
    const RuleFamily& rule = *m.rules[r];
    const auto count = static_cast<std::size_t>(rule.index.count);
    if (!rows) parts.push_back({rule.name, family, -1, next, next + count});
    for (Index i = 0; rows && i < rule.index.count; ++i) {
      const std::size_t place = next + static_cast<std::size_t>(i);
      parts.push_back({m.rule_name(family, i), family, i, place, place + 1});
    }
    next += count;
  }
  return parts;
}

Model without_part(const Model& model, const Part& part) {
  Model less = model;
  if (part.member < 0)
    less.without(model.data().rules[static_cast<std::size_t>(part.family)]->name);
  else
    less.keep_rows([&](Index f, Index i) { return f != part.family || i != part.member; });
  return less;
}

// Limits of rows are all that goes with a part; empty where it is more.
std::optional<mip::LimitChanges> limits_without(const Lowering& lowering, const Part& part) {
  mip::LimitChanges changes;
  for (std::size_t k = part.from; k < part.to; ++k) {
    const std::optional<mip::LimitChanges> one = without_row(lowering, k);
    if (!one) return std::nullopt;
    changes.insert(changes.end(), one->begin(), one->end());
  }
  return changes;
}

// Answers to those that a search for all of them at once can give.
std::vector<std::optional<methods::Answer>> ask_together(const Model& model, const Result& base,
                                                         const std::vector<Part>& parts,
                                                         const SolveOptions& options,
                                                         methods::Memory& memory) {
  std::vector<std::optional<methods::Answer>> answers(parts.size());
  if (model.data().goals.size() > 1) return answers;
  const Lowering lowering = lower(model.data());
  std::vector<mip::LimitChanges> changes;
  std::vector<std::size_t> places;
  for (std::size_t k = 0; k < parts.size(); ++k)
    if (auto c = limits_without(lowering, parts[k])) {
      changes.push_back(std::move(*c));
      places.push_back(k);
    }
  // The model as it stands is the judge, but for the part that is left out.
  const auto judge = [&](std::size_t k, const Plan& plan) -> methods::Held {
    if (base.plan && plan.values() == base.plan->values()) return {true, base.report->goal};
    PlanReport report = check(model, plan);
    const Part& part = parts[places[k]];
    bool feasible = report.faults.empty();
    for (std::size_t r = 0; r < report.rules.size(); ++r)
      if (r < part.from || r >= part.to)
        feasible = feasible && (report.rules[r].met || report.rules[r].soft);
    return {feasible, std::move(report.goal)};
  };
  auto found = methods::solve_variants(model, lowering, changes, judge, options, memory);
  for (std::size_t k = 0; k < places.size(); ++k) answers[places[k]] = std::move(found[k]);
  return answers;
}

}  // namespace

namespace {

// `memory`: what was left by those before, for scenarios with the same decisions.
Variant under_scenario(const Result& as_it_stands, const std::pair<std::string, Model>& scenario,
                       const SolveOptions& limits, methods::Memory& memory) {
  const auto& [name, model] = scenario;
  const Model& base = as_it_stands.model();
  // Usually the same decisions in the same places; otherwise by name.
  const ModelData &a = base.data(), &b = model.data();
  std::unordered_map<std::string, std::int32_t> place;
  bool alike = a.num_decisions == b.num_decisions;
  for (Index d = 0; d < a.num_decisions && alike; ++d)
    alike = a.decision_name(d) == b.decision_name(d);
  if (!alike)
    for (Index d = 0; d < b.num_decisions; ++d) place.emplace(b.decision_name(d), d);
  const auto same = [&](std::int32_t d) -> std::int32_t {
    if (alike) return d;
    const auto it = place.find(a.decision_name(d));
    return it == place.end() ? -1 : it->second;
  };
  const Result r = methods::search(model, limits, nullptr, false, alike ? &memory : nullptr);
  Variant one = variant_of(name, methods::answer_of(r), plan_of(as_it_stands), same);
  if (alike || !r.plan || !as_it_stands.plan) return one;
  std::set<std::string> known;
  for (Index d = 0; d < a.num_decisions; ++d) {
    known.insert(a.decision_name(d));
    if (same(d) < 0 && !(*as_it_stands.plan)[d].is_zero())
      one.not_here.push_back(a.decision_name(d));
  }
  for (Index d = 0; d < b.num_decisions; ++d)
    if (!(*r.plan)[d].is_zero() && !known.contains(b.decision_name(d)))
      one.only_here.emplace_back(b.decision_name(d), (*r.plan)[d]);
  return one;
}

Variation beside(const Result& as_it_stands,
                 const std::vector<std::pair<std::string, Model>>& scenarios, const TimeLeft& time,
                 methods::Memory& memory) {
  Variation v;
  const Model& base = as_it_stands.model();
  v.base = variant_of("as it stands", methods::answer_of(as_it_stands), nullptr, kItself);
  v.later_goals = base.data().later_goals();
  std::vector<Variant> variants(scenarios.size());
  side_by_side(
      scenarios.size(), as_it_stands.search.work, time, memory,
      [&](std::size_t k) { return scenarios[k].first; },
      [&](std::size_t k, methods::Memory& own, const SolveOptions& limits) {
        variants[k] = under_scenario(as_it_stands, scenarios[k], limits, own);
      });
  v.variants = std::move(variants);
  return v;
}

}  // namespace

Variation compare_scenarios(const Model& base,
                            const std::vector<std::pair<std::string, Model>>& scenarios,
                            const SolveOptions& options) {
  const TimeLeft time(options);
  methods::Memory memory;
  const Result as_it_stands =
      methods::search(base, time.options("as it stands"), nullptr, false, &memory);
  return beside(as_it_stands, scenarios, time, memory);
}

Variation compare_scenarios(const Result& base,
                            const std::vector<std::pair<std::string, Model>>& scenarios,
                            const SolveOptions& options) {
  const TimeLeft time(options);
  methods::Memory memory;
  return beside(base, scenarios, time, memory);
}

Variation without_each(const Model& model, bool rows, const SolveOptions& options) {
  Variation v;
  v.kind = Variation::Kind::rules;
  const TimeLeft time(options);
  methods::Memory memory;
  const Result base = methods::search(model, time.options("as it stands"), nullptr, false, &memory);
  v.base = variant_of("as it stands", methods::answer_of(base), nullptr, kItself);
  v.later_goals = model.data().later_goals();
  const std::vector<Part> parts = parts_of(model.data(), rows);
  auto known = ask_together(model, base, parts, time.all(), memory);
  std::vector<std::size_t> open;
  for (std::size_t k = 0; k < parts.size(); ++k)
    if (!known[k]) open.push_back(k);
  side_by_side(
      open.size(), base.search.work, time, memory,
      [&](std::size_t k) { return parts[open[k]].name; },
      [&](std::size_t k, methods::Memory& own, const SolveOptions& limits) {
        known[open[k]] = methods::answer_of(
            methods::search(without_part(model, parts[open[k]]), limits, nullptr, false, &own));
      });
  for (std::size_t k = 0; k < parts.size(); ++k)
    v.variants.push_back(variant_of(parts[k].name, *known[k], plan_of(base), kItself));
  return v;
}

}  // namespace kiteknot
