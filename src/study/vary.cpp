#include "kiteknot/vary.hpp"

#include <algorithm>
#include <deque>
#include <unordered_map>

#include <fmt/format.h>

#include "kiteknot/solve.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

// How a solve went, told against the base's plan; `same` finds a decision of the base in the
// answer.
template <class Same>
Variant variant_of(std::string name, const Result& r, const Plan* base, const Same& same) {
  Variant v;
  v.name = std::move(name);
  v.outcome = r.outcome;
  v.reason = r.reason;
  v.seconds = r.search.seconds;
  if (!r.goals.empty()) {
    v.goal = r.goals[0].value;
    v.bound = r.goals[0].bound;
  }
  if (r.plan)
    v.nothing = std::all_of(r.plan->values().begin(), r.plan->values().end(),
                            [](const Rational& x) { return x.is_zero(); });
  if (!r.plan || base == nullptr) return v;
  for (std::int32_t d = 0; d < static_cast<std::int32_t>(base->values().size()); ++d) {
    const std::int32_t there = same(d);
    if (there >= 0 && (*r.plan)[there] != (*base)[d]) v.changed.emplace_back(d, (*r.plan)[there]);
  }
  return v;
}

const auto kItself = [](std::int32_t d) { return d; };

const Plan* plan_of(const Result& r) {
  return r.plan ? &*r.plan : nullptr;
}

}  // namespace

Variation compare_scenarios(const Model& base,
                            const std::vector<std::pair<std::string, Model>>& scenarios,
                            const SolveOptions& options) {
  Variation v;
  const Result as_it_stands = solve(base, options);
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
    v.variants.push_back(variant_of(name, solve(model, options), plan_of(as_it_stands), same));
  }
  return v;
}

Variation without_each(const Model& model, const SolveOptions& options) {
  Variation v;
  v.kind = Variation::Kind::rules;
  Study study(model);
  const Result base = study.solve(options);
  v.base = variant_of("as it stands", base, nullptr, kItself);
  const ModelData& m = model.data();
  for (std::size_t r = 0; r < m.rules.size(); ++r) {
    if (m.rules_off.contains(static_cast<Index>(r))) continue;
    const std::string& name = m.rules[r]->name;
    study.without(name);
    v.variants.push_back(variant_of(name, study.solve(options), plan_of(base), kItself));
    study.with(name);
  }
  return v;
}

Variation sweep(const Model& model, const std::string& number, const Rational& from,
                const Rational& to, int points, const SolveOptions& options) {
  if (points < 1) throw UsageError("a sweep has at least one point");
  Variation v;
  v.kind = Variation::Kind::sweep;
  v.varied = number;
  Study study(model);
  const Result base = study.solve(options);
  v.base = variant_of("as it stands", base, nullptr, kItself);
  v.variants.resize(static_cast<std::size_t>(points));
  const auto ask = [&](int k) {
    const Rational value = points == 1 ? from : from + (to - from) * Rational::ratio(k, points - 1);
    study.set(number, value);
    v.variants[static_cast<std::size_t>(k)] =
        variant_of(value.text(), study.solve(options), plan_of(base), kItself);
  };
  // Ends first, then middles: what holds at both ends of a stretch is known all over it.
  ask(0);
  if (points > 1) ask(points - 1);
  std::deque<std::pair<int, int>> open = {{0, points - 1}};
  for (; !open.empty(); open.pop_front()) {
    const auto [a, b] = open.front();
    if (b - a < 2) continue;
    const int middle = a + (b - a) / 2;
    ask(middle);
    open.emplace_back(a, middle);
    open.emplace_back(middle, b);
  }
  return v;
}

}  // namespace kiteknot
