#include "kiteknot/vary.hpp"

#include <unordered_map>

#include "methods/exact.hpp"
#include "model/model_data.hpp"
#include "study/variants.hpp"

namespace kiteknot {

Variation compare_scenarios(const Model& base,
                            const std::vector<std::pair<std::string, Model>>& scenarios,
                            const SolveOptions& options) {
  Variation v;
  methods::Memory memory;  // for scenarios with the same decisions
  const Result as_it_stands = methods::search(base, options, nullptr, false, &memory);
  v.base = variant_of("as it stands", as_it_stands, nullptr, kItself);
  for (const auto& [name, model] : scenarios) {
    // Usually the same decisions in the same places; otherwise by name.
    const ModelData &a = base.data(), &b = model.data();
    std::unordered_map<std::string, std::int32_t> place;
    const bool alike = a.num_decisions == b.num_decisions;
    if (!alike)
      for (Index d = 0; d < b.num_decisions; ++d) place.emplace(b.decision_name(d), d);
    const auto same = [&](std::int32_t d) -> std::int32_t {
      if (alike) return d;
      const auto it = place.find(a.decision_name(d));
      return it == place.end() ? -1 : it->second;
    };
    const Result r = methods::search(model, options, nullptr, false, alike ? &memory : nullptr);
    v.variants.push_back(variant_of(name, r, plan_of(as_it_stands), same));
  }
  return v;
}

Variation without_each(const Model& model, bool rows, const SolveOptions& options) {
  Variation v;
  v.kind = Variation::Kind::rules;
  Study study(model);
  const Result base = study.solve(options);
  v.base = variant_of("as it stands", base, nullptr, kItself);
  const ModelData& m = model.data();
  for (std::size_t r = 0; r < m.rules.size(); ++r) {
    const auto family = static_cast<Index>(r);
    if (m.rules_off.contains(family)) continue;
    const RuleFamily& rule = *m.rules[r];
    const Index parts = rows ? rule.index.count : 1;
    for (Index i = 0; i < parts; ++i) {
      Model less = model;
      if (rows)
        less.keep_rows([&](Index f, Index member) { return f != family || member != i; });
      else
        less.without(rule.name);
      v.variants.push_back(variant_of(rows ? m.rule_name(family, i) : rule.name,
                                      study.ask(less, options), plan_of(base), kItself));
    }
  }
  return v;
}

}  // namespace kiteknot
