#pragma once
// How a solve under other circumstances went, told against the base's plan.

#include <algorithm>

#include "kiteknot/vary.hpp"
#include "methods/variants.hpp"

namespace kiteknot {

/// `same` finds a decision of the base in the answer's model, -1 where it is not there.
template <class Same>
Variant variant_of(std::string name, const methods::Answer& a, const Plan* base, const Same& same) {
  Variant v;
  v.name = std::move(name);
  v.outcome = a.outcome;
  v.reason = a.reason;
  v.seconds = a.seconds;
  v.goal = a.goal;
  v.bound = a.bound;
  v.later = a.later;
  if (!a.plan) return v;
  v.nothing = a.goal && std::ranges::all_of(a.plan->values(), &Rational::is_zero);
  if (base == nullptr) return v;
  for (std::int32_t d = 0; d < static_cast<std::int32_t>(base->values().size()); ++d) {
    const std::int32_t there = same(d);
    if (there >= 0 && (*a.plan)[there] != (*base)[d]) v.changed.emplace_back(d, (*a.plan)[there]);
  }
  return v;
}

inline const auto kItself = [](std::int32_t d) { return d; };

/// Whether there is a plan that is proven best.
inline bool proven(const Result& r) {
  return r.outcome == Outcome::optimal && r.plan && !r.goals.empty();
}

inline const Plan* plan_of(const Result& r) {
  return r.plan ? &*r.plan : nullptr;
}

}  // namespace kiteknot
