#pragma once
// Files in and out: models in the Knot language or as MPS, plans as tables, results as JSON.

#include <string>

#include "kiteknot/errors.hpp"
#include "kiteknot/model.hpp"
#include "kiteknot/plan.hpp"
#include "kiteknot/result.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// A table of a model and the file that its rows are read from instead.
struct OtherData {
  std::string table, file;
};

/// Reads a model by its ending: .knot, or .mps (fixed or free form). Errors carry file, line and
/// column. Throws IoError where the file itself cannot be read.
/// With `scenario`, the model is read with its changes made; an unknown one is an error, as is a
/// table in `other` that it has not (of MPS: any).
Reading<Model> read_model(const std::string& path, const std::string& scenario = "",
                          const std::vector<OtherData>& other = {});
/// A model in the Knot language; tables are read relative to `folder`.
Reading<Model> parse_knot(const std::string& text, const std::string& file,
                          const std::string& folder = "", const std::string& scenario = "");
/// `file`: what messages call it.
Reading<Model> parse_mps(const std::string& text, const std::string& file);

/// A condition on the decisions of a model, written in the Knot language, and the model.
struct Question {
  Model model;
  Condition condition;
};
/// For .knot models; errors in the condition carry its column.
Reading<Question> read_question(const std::string& path, const std::string& condition,
                                const std::string& scenario = "");

/// The model as lowered, in free-form MPS (rows r1, r2, ..., decisions x1, ..., further columns h1,
/// ...), and a CSV that says what each name stands for. Throws UsageError, with the reason, where
/// MPS cannot say it.
struct MpsText {
  std::string problem, names;
  std::vector<std::string> notes{};  ///< sentences on what MPS cannot say exactly; mostly none
};
/// What the format cannot say is told beside the text.
MpsText mps_text(const Model& model);
/// Writes both, the names beside the file under NAME.names.csv; the notes come back.
std::vector<std::string> write_mps(const std::string& path, const Model& model);

/// A plan: a table (CSV or JSON) with the columns decision and value and one for each key, or with
/// full names as decision; or a folder of CSV files or an SQLite database with a table for each
/// family, as write_plan has them; or a saved answer (saved.hpp). Decisions that are not named are
/// 0.
Reading<Plan> read_plan(const std::string& path, const Model& model);
/// The same, with only the decisions that the file names.
Reading<std::vector<std::pair<Decision, Rational>>> read_partial_plan(const std::string& path,
                                                                      const Model& model);
/// How a plan is written.
struct PlanForm {
  bool grids = false;  ///< in a folder or workbook: families with two keys as grids
  /// In a folder, a workbook or a database: with the columns of the keyed rows.
  bool with_data = false;
};
/// Throws UsageError where the form does not go with what the name stands for.
void need_fitting(const PlanForm& form, const std::string& path);
/// The files that write_plan writes; throws UsageError where one of them, in a folder that is
/// there, holds something else than a plan of these decisions.
std::vector<std::string> plan_files(const std::string& path, const Model& model);
/// Writes every decision that is not 0, with a column for each key. The ending says how: a name
/// that ends with / (or a folder that is there) gets a CSV file for each family, .db or .sqlite
/// a table for each (plan_NAME; other tables stay), .xlsx a sheet for each (which is not read
/// back), .json a list of objects, all others CSV. Throws UsageError where the form does not go
/// with that or plan_files does, before anything is written, and OutputError.
void write_plan(const std::string& path, const Model& model, const Plan& plan,
                const PlanForm& form = {});

/// The data that a model stands on, as it stands, for programs that plan by themselves: in the
/// folder tables/NAME.csv for every table, numbers.csv (number, value) and decisions.csv (decision,
/// its keys, least, greatest, kind). Throws OutputError.
void write_model_data(const std::string& folder, const Model& model);

/// The result document (docs/result.md), as text that ends with a line break.
std::string result_document(const Result& result);
/// As result_document, under a temporary name first; IoError where that cannot be.
void write_result(const std::string& path, const Result& result);
/// Any text, under a temporary name first.
void write_text(const std::string& path, const std::string& text);

}  // namespace kiteknot
#pragma GCC visibility pop
