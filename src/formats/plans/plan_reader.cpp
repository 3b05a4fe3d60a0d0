// Plans read back: one table, or a folder or a database with a table for each family.

#include <algorithm>
#include <filesystem>
#include <unordered_map>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/tables/database.hpp"
#include "data/tables/table_source.hpp"
#include "formats/plans/plan_tables.hpp"
#include "kiteknot/read.hpp"
#include "kiteknot/saved.hpp"

namespace kiteknot {
namespace {

namespace fs = std::filesystem;

// The table has no columns for a family's keys.
struct NoKeys : std::runtime_error {
  using std::runtime_error::runtime_error;
};

class PlanReader {
 public:
  PlanReader(const Model& model, Diagnostics& notes)
      : model_(model), m_(model.data()), notes_(notes) {}

  void read(const std::string& path) {
    if (fs::is_directory(path)) return folder(path);
    if (data::is_database(path)) return database(path);
    if (is_saved_answer(path)) return answer(path);
    const auto data = data::read_table({"plan", path, ""}, notes_);
    if (!notes_.has_errors()) table(*data);
  }
  std::vector<std::pair<Decision, Rational>> take() { return std::move(plan_); }

  // What the model no longer has is left out: how much that is, and what of it was not 0. A plan of
  // which nothing is left is one of another model.
  void tell_gone(const std::string& path) {
    if (gone_.empty() && gone_at_zero_ == 0) return;
    if (plan_.empty() && !gone_.empty() && !notes_.has_errors()) {
      notes_.error(gone_.front().where);
      return;
    }
    constexpr std::size_t kMost = 8;
    for (std::size_t k = 0; k < gone_.size() && k < kMost; ++k) {
      Diagnostic told = gone_[k].where;
      told.message += gone_[k].value.is_zero()
                          ? "; they are left out"
                          : fmt::format("; its value, {}, is left out", figure(gone_[k].value));
      notes_.warn(std::move(told));
    }
    if (gone_.size() > kMost)
      notes_.warn({path, 0, 0,
                   counted(gone_.size() - kMost, "more decision") +
                       " that the model does not have, left out",
                   true});
    if (gone_at_zero_ > 0)
      notes_.warn(
          {path, 0, 0,
           counted(gone_at_zero_, "decision") + " at 0 that the model does not have, left out",
           true});
  }

 private:
  void folder(const std::string& path) {
    std::vector<fs::path> files;
    for (const auto& entry : fs::directory_iterator(path))
      if (entry.path().extension() == ".csv") files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    if (files.empty())
      notes_.error({path, 0, 0, "the folder has no CSV files, where a plan would be", false});
    for (const fs::path& file : files) {
      const std::string name = file.stem().string();
      const auto data = data::read_table({name, file.string(), ""}, notes_);
      if (notes_.has_errors()) return;
      if (name == formats::kSingles)
        table(*data);
      else if (const auto f = family(name))
        of_family(f, *data);
      else
        gone_.push_back(
            {{file.string(), 0, 0, "there are no such decisions: " + unknown(name), true}, 0});
    }
  }

  void answer(const std::string& path) {
    const Reading<SavedAnswer> saved = read_answer(path);
    notes_.append(saved.notes());
    if (!saved.ok()) return;
    for (const SavedAnswer::DecisionLine& line : saved.value().decisions) {
      try {
        plan_.emplace_back(model_.decision(line.name), exact(line));
      } catch (const UsageError& e) {
        gone({path, 0, 0, e.what(), true}, exact(line));
      }
    }
  }

  void gone(Diagnostic where, const Rational& value) {
    if (value.is_zero()) {
      ++gone_at_zero_;
      return;
    }
    gone_.push_back({std::move(where), value});
  }

  // "1/3" where the document gives it, else the figure as it stands there.
  static Rational exact(const SavedAnswer::DecisionLine& line) {
    const std::size_t slash = line.exact.find('/');
    const auto above = Rational::parse(std::string_view(line.exact).substr(0, slash));
    if (!above) return line.value;
    if (slash == std::string::npos) return *above;
    const auto below = Rational::parse(std::string_view(line.exact).substr(slash + 1));
    return below && !below->is_zero() ? *above / *below : Rational(line.value);
  }

  void database(const std::string& path) {
    bool any = false;
    for (const std::string& name : data::tables_of(path)) {
      if (!name.starts_with(data::kPlanTable)) continue;
      const std::string of = name.substr(std::string_view(data::kPlanTable).size());
      const auto f = family(of);  // tables of other models may stand beside
      if (f == nullptr && of != formats::kSingles) continue;
      any = true;
      const auto data = data::select_table(
          {name, path, fmt::format("select * from {}", data::quoted(name))}, notes_);
      if (notes_.has_errors()) return;
      f != nullptr ? of_family(f, *data) : table(*data);
    }
    if (!any) notes_.error({path, 0, 0, "the database has no plan for these decisions", false});
  }

  std::shared_ptr<const Family> family(std::string_view name) const {
    for (const auto& f : m_.families)
      if (f->name == name) return f;
    return nullptr;
  }
  std::string unknown(const std::string& name) const {
    std::vector<std::string> known;
    for (const auto& f : m_.families) known.push_back(f->name);
    return name + nearest_hint(name, known);
  }

  // The columns of a family's keys; empty: some are not there.
  static std::vector<Index> key_places(const Family& f, const TableData& data) {
    std::vector<Index> places;
    for (const std::string& column : formats::key_columns(f)) {
      places.push_back(data.column(column));
      if (places.back() < 0) return {};
    }
    return places;
  }

  void of_family(const std::shared_ptr<const Family>& f, const TableData& data) {
    const Index value = data.column("value");
    const std::vector<Index> places = key_places(*f, data);
    if (value < 0 && formats::fits_a_grid(*f)) return grid(f, data);
    if (value < 0 || places.empty()) {
      notes_.error({data.file, data.first_line, 0,
                    fmt::format("decisions {} have the columns {} and value; these are {}", f->name,
                                fmt::join(formats::key_columns(*f), ", "), listed(data.columns)),
                    false});
      return;
    }
    for (Index r = 0; r < data.num_rows() && !notes_.full(); ++r)
      take(data, r, places[0], value, [&] { return member(f, keys(data, r, places)); });
  }

  // First keys down, second ones across; empty cells are not given.
  void grid(const std::shared_ptr<const Family>& f, const TableData& data) {
    for (Index r = 0; r < data.num_rows() && !notes_.full(); ++r)
      for (Index c = 1; c < static_cast<Index>(data.columns.size()); ++c)
        if (!data.cell(r, c).empty())
          take(data, r, c, c, [&] {
            return member(
                f, {std::string(data.cell(r, 0)), data.columns[static_cast<std::size_t>(c)]});
          });
  }

  void table(const TableData& data) {
    const Index name = data.column("decision"), value = data.column("value");
    if (name < 0 || value < 0) {
      notes_.error({data.file, data.first_line, 0,
                    fmt::format("a plan has the columns decision and value, and one for each key; "
                                "these are {}",
                                listed(data.columns)),
                    false});
      return;
    }
    for (Index r = 0; r < data.num_rows() && !notes_.full(); ++r)
      take(data, r, name, value, [&] {
        const std::string wanted(data.cell(r, name));
        const auto f = family(wanted);
        if (f == nullptr || f->index.tables.empty()) return model_.decision(wanted);
        const std::vector<Index> places = key_places(*f, data);
        if (places.empty())
          throw NoKeys(fmt::format("decisions {} need {} for their keys: {}", wanted,
                                   formats::key_columns(*f).size() == 1 ? "a column" : "columns",
                                   fmt::join(formats::key_columns(*f), ", ")));
        return member(f, keys(data, r, places));
      });
  }

  static std::vector<std::string> keys(const TableData& data, Index row,
                                       const std::vector<Index>& places) {
    std::vector<std::string> cells;
    for (const Index c : places) cells.emplace_back(data.cell(row, c));
    return cells;
  }
  // An unknown key is told with its nearest.
  Decision member(const std::shared_ptr<const Family>& f,
                  const std::vector<std::string>& keys) const {
    return Decisions(m_.tag, f).named(keys);
  }

  // What `named` finds gets the row's value, once.
  template <class Named>
  void take(const TableData& data, Index row, Index at, Index value, const Named& named) {
    const std::optional<Rational> figure = data.figure(row, value);
    if (!figure)
      notes_.error(data.at_cell(row, value,
                                fmt::format("'{}' is not a finite figure", data.cell(row, value))));
    try {
      const Decision d = named();
      const Place here{data.file, data.lines[static_cast<std::size_t>(row)]};
      const auto [first, fresh] = seen_.emplace(d.id, here);
      const auto& [file, line] = first->second;
      if (!fresh)
        notes_.error(data.at_cell(
            row, at,
            fmt::format("{} is there twice; first on line {}{}", m_.decision_name(d.id), line,
                        file == data.file ? "" : " of " + file)));
      else if (figure)
        plan_.emplace_back(d, *figure);
    } catch (const NoKeys& e) {
      notes_.error(data.at_cell(row, at, e.what()));
    } catch (const UsageError& e) {
      if (figure) gone(data.at_cell(row, at, e.what()), *figure);
    }
  }

  const Model& model_;
  const ModelData& m_;
  Diagnostics& notes_;
  std::vector<std::pair<Decision, Rational>> plan_;
  using Place = std::pair<std::string, int>;  // file, line
  std::unordered_map<Index, Place> seen_;     // decisions
  struct Gone {
    Diagnostic where;
    Rational value;  // 0: of a whole file
  };
  std::vector<Gone> gone_;  // named, and not 0, and not in the model
  std::size_t gone_at_zero_ = 0;
};

}  // namespace

Reading<Plan> read_plan(const std::string& path, const Model& model) {
  Reading<std::vector<std::pair<Decision, Rational>>> given = read_partial_plan(path, model);
  if (!given.ok()) return given.notes();
  Plan plan(model);
  for (const auto& [decision, value] : given.value()) plan.set(decision, value);
  return {std::move(plan), given.notes()};
}

Reading<std::vector<std::pair<Decision, Rational>>> read_partial_plan(const std::string& path,
                                                                      const Model& model) {
  Diagnostics notes;
  PlanReader reader(model, notes);
  reader.read(path);
  reader.tell_gone(path);
  if (notes.has_errors()) return notes;
  return {reader.take(), std::move(notes)};
}

}  // namespace kiteknot
