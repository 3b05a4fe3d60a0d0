#pragma once
// The round trips of a plan in words.

#include <string>
#include <vector>

#include "kiteknot/plan.hpp"
#include "model/model_data.hpp"

namespace kiteknot::report {

/// A row for each trip of every tour rule that holds: the rule, what the trip carries where that is
/// limited, and its stops in order. Of rules that do not hold, nothing.
std::vector<std::vector<std::string>> trip_rows(const ModelData& model, const Plan& plan);

}  // namespace kiteknot::report
