#pragma once
// Where curves are used, and whether such a use is a limit: beyond a curve's ends nothing is
// stated.

#include <functional>

#include "model/derived.hpp"
#include "model/model_data.hpp"

namespace kiteknot {

/// Every use of a curve of decisions in a goal or in a rule that is switched on, once, in order.
void each_curve_use(const ModelData& model, const std::function<void(const Derived& use)>& see);

/// The least and the greatest value of a sum of decisions within their limits; infinite where there
/// is no end, or where it is no plain sum.
std::pair<Rational, Rational> reach_of(const ModelData& model, const Expression& e);

}  // namespace kiteknot
