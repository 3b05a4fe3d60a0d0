#pragma once
// How a solve under other circumstances went, told against the base's plan.

#include <algorithm>

#include "kiteknot/vary.hpp"

namespace kiteknot {

/// `same` finds a decision of the base in the answer's model, -1 where it is not there.
template <class Same>
Variant variant_of(std::string name, const Result& r, const Plan* base, const Same& same) {
  Variant v;
  v.name = std::move(name);
  v.outcome = r.outcome;
  v.reason = r.reason;
  v.seconds = r.search.seconds;
  if (!r.goals.empty() && r.outcome != Outcome::unbounded) {
    v.goal = r.goals[0].value;
    v.bound = r.goals[0].bound;
  }
  if (r.plan && !r.goals.empty() && r.outcome != Outcome::unbounded)
    v.nothing = std::all_of(r.plan->values().begin(), r.plan->values().end(),
                            [](const Rational& x) { return x.is_zero(); });
  if (!r.plan || base == nullptr) return v;
  for (std::int32_t d = 0; d < static_cast<std::int32_t>(base->values().size()); ++d) {
    const std::int32_t there = same(d);
    if (there >= 0 && (*r.plan)[there] != (*base)[d]) v.changed.emplace_back(d, (*r.plan)[there]);
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
