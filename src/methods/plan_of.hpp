#pragma once
// What a point of the engine decides.

#include <span>

#include "kiteknot/model.hpp"
#include "kiteknot/plan.hpp"

namespace kiteknot::methods {

/// The decisions are the first columns.
inline Plan plan_of(const Model& model, std::span<const Rational> columns) {
  return {model, {columns.begin(), columns.begin() + model.num_decisions()}};
}

}  // namespace kiteknot::methods
