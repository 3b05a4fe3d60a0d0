#include "kiteknot/vary.hpp"

#include <unordered_map>

#include "methods/exact.hpp"
#include "methods/together.hpp"
#include "model/limit_changes.hpp"
#include "model/model_data.hpp"
#include "study/variants.hpp"

namespace kiteknot {
namespace {

// A model without a rule, or without one row of it.
struct Left {
  std::string name;
  Model model;
  Index family = 0, member = -1;  // -1: all of them
};

std::vector<Left> each_left_out(const Model& model, bool rows) {
  std::vector<Left> left;
  const ModelData& m = model.data();
  for (std::size_t r = 0; r < m.rules.size(); ++r) {
    const auto family = static_cast<Index>(r);
    if (m.rules_off.contains(family)) continue;
    const RuleFamily& rule = *m.rules[r];
    if (!rows) {
      left.push_back({rule.name, model, family, -1});
      left.back().model.without(rule.name);
      continue;
    }
    for (Index i = 0; i < rule.index.count; ++i) {
      left.push_back({m.rule_name(family, i), model, family, i});
      left.back().model.keep_rows([&](Index f, Index k) { return f != family || k != i; });
    }
  }
  return left;
}

// Answers to those that a search for all of them at once can give.
std::vector<std::optional<Result>> ask_together(const Model& model, const std::vector<Left>& left,
                                                const SolveOptions& options,
                                                methods::Memory& memory) {
  std::vector<std::optional<Result>> answers(left.size());
  if (model.data().goals.size() > 1) return answers;
  const Lowering lowering = lower(model.data());
  std::vector<methods::LimitVariant> variants;
  std::vector<std::size_t> places;
  std::size_t next = 0;  // rows are in the order of the rules
  for (std::size_t k = 0; k < left.size(); ++k) {
    mip::LimitChanges changes;
    bool plain = true;
    for (; next < lowering.rows.size() && lowering.rows[next].family == left[k].family &&
           (left[k].member < 0 || lowering.rows[next].member == left[k].member);
         ++next) {
      const std::optional<mip::LimitChanges> without = without_row(lowering, next);
      plain = plain && without;
      if (plain) changes.insert(changes.end(), without->begin(), without->end());
    }
    if (!plain) continue;
    variants.push_back({left[k].model, std::move(changes)});
    places.push_back(k);
  }
  std::vector<std::optional<Result>> found =
      methods::search_together(lowering, variants, options, memory);
  for (std::size_t k = 0; k < places.size(); ++k) answers[places[k]] = std::move(found[k]);
  return answers;
}

}  // namespace

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
  methods::Memory memory;
  const Result base = methods::search(model, options, nullptr, false, &memory);
  v.base = variant_of("as it stands", base, nullptr, kItself);
  const std::vector<Left> left = each_left_out(model, rows);
  const std::vector<std::optional<Result>> known = ask_together(model, left, options, memory);
  for (std::size_t k = 0; k < left.size(); ++k)
    v.variants.push_back(variant_of(
        left[k].name,
        known[k] ? *known[k] : methods::search(left[k].model, options, nullptr, false, &memory),
        plan_of(base), kItself));
  return v;
}

}  // namespace kiteknot
