#pragma once
// Where a figure of a model comes from: the one cell of its tables that it is, if there is one.

#include <string>

#include "model/model_data.hpp"

namespace kiteknot::report {

/// "depots[Lantern Pier].capacity" for a figure of a statement ("rule capacity", "cost") at a
/// member of its index: the cell of that row which has it, in a column that no other statement
/// reads, so that moving the cell moves this figure and nothing else. "" where there is no such
/// cell, or more than one.
std::string cell_behind(const ModelData& model, const std::string& statement, const IndexSet& index,
                        Index member, const Rational& figure);

}  // namespace kiteknot::report
