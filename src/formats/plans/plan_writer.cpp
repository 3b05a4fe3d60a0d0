// Plans written: one table as CSV or JSON, or a table for each family in a folder, a workbook or a
// database.

#include <filesystem>
#include <fstream>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "base/text.hpp"
#include "data/files.hpp"
#include "data/tables/database.hpp"
#include "formats/plans/plan_tables.hpp"
#include "formats/plans/workbook.hpp"
#include "kiteknot/read.hpp"

namespace kiteknot {
namespace {

namespace fs = std::filesystem;
using formats::PlanTable;

// Figures as they are, texts as texts; what is empty is left out.
std::string json_of(const PlanTable& table) {
  std::string text = "[";
  for (std::size_t r = 1; r < table.size(); ++r) {
    text += r > 1 ? ",\n {" : "\n {";
    bool first = true;
    for (std::size_t c = 0; c < table[r].size(); ++c) {
      if (table[r][c].empty()) continue;
      text +=
          fmt::format("{}{}: {}", first ? "" : ", ", nlohmann::json(table[0][c]).dump(),
                      table[0][c] == "value" ? table[r][c] : nlohmann::json(table[r][c]).dump());
      first = false;
    }
    text += "}";
  }
  return text + "\n]\n";
}

// The tables of a plan that has one for each family, by name.
std::vector<std::pair<std::string, PlanTable>> by_family(const ModelData& m, const Plan& plan,
                                                         const PlanForm& form, bool grids) {
  std::vector<std::pair<std::string, PlanTable>> tables;
  for (const auto& f : m.families)
    if (!f->index.tables.empty())
      tables.emplace_back(f->name, grids && formats::fits_a_grid(*f)
                                       ? formats::grid_table(*f, plan)
                                       : formats::family_table(*f, plan, form.with_data));
  PlanTable singles = formats::single_table(m, plan);
  if (!singles.empty()) tables.emplace_back(formats::kSingles, std::move(singles));
  return tables;
}

// The same as sheets, where figures of data are figures.
std::vector<formats::Sheet> sheets_of(const ModelData& m, const Plan& plan, const PlanForm& form) {
  std::vector<formats::Sheet> sheets;
  for (auto& [name, table] : by_family(m, plan, form, form.grids))
    sheets.push_back({name, std::move(table)});
  for (const auto& f : m.families)
    for (formats::Sheet& sheet : sheets)
      if (form.with_data && sheet.name == f->name && !(form.grids && formats::fits_a_grid(*f)))
        sheet.table = formats::family_table(*f, plan, true, &sheet.formats);
  return sheets;
}

// Whether a file of a folder begins as this tool's plans of the family (null: of single decisions)
// do, in either form. An empty one is nobody's.
bool holds_plan(const fs::path& file, const Family* f) {
  std::ifstream in(file, std::ios::binary);
  std::string line;
  if (!std::getline(in, line)) return in.eof();
  if (line.ends_with('\r')) line.pop_back();
  const auto begins = [&](PlanTable heading) {
    std::string text = formats::csv_of(heading);
    text.pop_back();
    return line == text || line.starts_with(text + ",");
  };
  if (f == nullptr) return begins({{"decision", "value"}});
  std::vector<std::string> columns = formats::key_columns(*f);
  if (formats::fits_a_grid(*f) && begins({{columns[0] + " / " + columns[1]}})) return true;
  columns.emplace_back("value");
  return begins({columns});
}

struct Target {
  bool folder, database, workbook, json;
};
Target target_of(const std::string& path) {
  const std::string ending = fs::path(path).extension().string();
  const bool folder = path.ends_with('/') || fs::is_directory(path);
  return {folder, !folder && (ending == ".db" || ending == ".sqlite"), !folder && ending == ".xlsx",
          !folder && ending == ".json"};
}

}  // namespace

void need_fitting(const PlanForm& form, const std::string& path) {
  const Target target = target_of(path);
  if (form.grids && !target.folder && !target.workbook)
    throw UsageError(
        "grids go into a folder (end its name with /) or a workbook (.xlsx), each into a file or "
        "sheet of its own");
  if (form.with_data && !target.folder && !target.database && !target.workbook)
    throw UsageError(
        "data columns go into a folder (end its name with /), a workbook (.xlsx) or a database "
        "(.db)");
}

std::vector<std::string> plan_files(const std::string& path, const Model& model) {
  if (!target_of(path).folder) return {path};
  std::vector<std::string> files;
  const auto add = [&](const std::string& name, const Family* f) {
    if (name.find('/') != std::string::npos)
      throw UsageError("decisions with a / in their name have no file of their own: " + name);
    const fs::path file = fs::path(path) / (name + ".csv");
    if (fs::exists(file) && !holds_plan(file, f))
      throw UsageError(file.string() + " is there and holds no plan of " +
                       (f == nullptr ? name : "'" + name + "'") +
                       "; it is left alone: name another folder");
    files.push_back(file.string());
  };
  bool singles = false;
  for (const auto& f : model.data().families) {
    if (!f->index.tables.empty()) add(f->name, f.get());
    singles = singles || f->index.tables.empty();
  }
  if (singles) add(formats::kSingles, nullptr);
  return files;
}

void write_plan(const std::string& path, const Model& model, const Plan& plan,
                const PlanForm& form) {
  const ModelData& m = model.data();
  need_plan_of(m, plan);
  need_fitting(form, path);
  (void)plan_files(path, model);
  const Target target = target_of(path);
  if (target.database) {
    data::PlanDatabase out(path);
    for (const auto& [name, table] : by_family(m, plan, form, false)) out.write(name, table);
    return out.finish();
  }
  if (target.workbook) return formats::write_workbook(path, sheets_of(m, plan, form));
  if (!target.folder) {
    const PlanTable table = formats::one_table(m, plan);
    data::write_file(path, target.json ? json_of(table) : formats::csv_of(table));
    return;
  }
  // The folder itself; where it would lie has to be there.
  std::error_code code;
  const fs::path folder = path.ends_with('/') ? fs::path(path).parent_path() : fs::path(path);
  if (!fs::is_directory(folder)) fs::create_directory(folder, code);
  if (code) throw OutputError(path + ": cannot be made (" + code.message() + ")");
  for (const auto& [name, table] : by_family(m, plan, form, form.grids))
    data::write_file((fs::path(path) / (name + ".csv")).string(), formats::csv_of(table));
}

}  // namespace kiteknot
