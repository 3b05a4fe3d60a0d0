#pragma once
// Files in and out: models in the Knot language or as MPS, plans as CSV, results as JSON.

#include <string>

#include "kiteknot/errors.hpp"
#include "kiteknot/model.hpp"
#include "kiteknot/plan.hpp"
#include "kiteknot/result.hpp"

namespace kiteknot {

/// Reads a model by its ending: .knot, or .mps (fixed or free form). Errors carry file, line and
/// column. Throws IoError where the file itself cannot be read.
Reading<Model> read_model(const std::string& path);
/// A model in the Knot language; tables are read relative to `folder`.
Reading<Model> parse_knot(const std::string& text, const std::string& file,
                          const std::string& folder = "");
Reading<Model> parse_mps(const std::string& text, const std::string& file);

/// A plan: CSV with the columns decision and value, full names, missing decisions at 0.
Reading<Plan> read_plan(const std::string& path, const Model& model);
/// Writes every decision that is not 0, under a temporary name first.
void write_plan(const std::string& path, const Model& model, const Plan& plan);

/// The result document (docs/result.md), as text that ends with a line break.
std::string result_document(const Result& result);
void write_result(const std::string& path, const Result& result);

}  // namespace kiteknot
