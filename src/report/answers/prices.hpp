#pragma once
// What limits are worth, and how firm a plan is against the goal's figures, from the prices of a
// model that was solved without whole decisions.

#include "report/forms/page.hpp"

namespace kiteknot::report {

/// Shadow prices of the first `rows` rule rows and the stretches over which they hold, then the
/// prices of the decisions' own limits.
void tell_prices(Page& page, const Result& result, std::size_t rows, const std::string& heading);
/// The goal coefficients of decisions in the plan that have least room before the plan changes.
void tell_firmness(Page& page, const Result& result);

}  // namespace kiteknot::report
