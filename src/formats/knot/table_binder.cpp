#include "formats/knot/table_binder.hpp"

#include <filesystem>

#include <fmt/format.h>

#include "data/tables/csv.hpp"
#include "data/tables/table_source.hpp"
#include "data/tables/wide_table.hpp"
#include "formats/knot/evaluator.hpp"
#include "formats/knot/messages.hpp"
#include "formats/knot/scenarios.hpp"
#include "model/internals.hpp"

namespace kiteknot::formats::knot {
namespace {

// Pairs (rows a and b) and products (rows under their tables' names).
Table combined(const Statement& st, NameSource& names, Diagnostics& notes, const Tag& model) {
  const TableText& t = st.as<TableText>();
  std::vector<Table> of;
  for (const RowName& r : t.of) of.push_back(names.need_table(r.table, r.table_at));
  Resolver resolver(names, notes);
  Evaluator evaluator(model);
  resolver.open(t.of);
  const MeaningPtr where =
      st.heading.where ? resolver.data_condition(*st.heading.where) : MeaningPtr();
  const auto holds = [&](std::span<const Row> rows) {
    if (!where) return true;
    evaluator.set_rows(rows);
    return evaluator.holds(*where);
  };
  if (t.combined == "product") return Table::product(st.heading.name, of, holds);
  return Table::pairs(st.heading.name, of[0], [&](Row a, Row b) {
    const Row rows[] = {a, b};
    return holds(rows);
  });
}

// Where a scenario has another file, and it is a database, its rows are selected in the same way.
std::shared_ptr<TableData> rows_of(const Statement& st, const BindSource& source,
                                   const std::vector<const ScenarioChange*>& changes,
                                   Diagnostics& notes) {
  const TableText& t = st.as<TableText>();
  std::string file = t.file;
  for (const ScenarioChange* c : changes)
    if (c->kind == ChangeKind::table && c->name == st.heading.name) file = c->file;
  if (file.empty())
    return data::parse_csv({st.heading.name, source.file, t.block, t.block_line}, notes);
  const std::string path =
      file == "-" ? file : (std::filesystem::path(source.folder) / file).string();
  try {
    return data::read_table({st.heading.name, path, t.query}, notes);
  } catch (const IoError& e) {
    throw Failure{t.file_at, e.what()};
  }
}

}  // namespace

Table make_table(const Statement& st, const BindSource& source,
                 const std::vector<const ScenarioChange*>& changes, NameSource& names,
                 Diagnostics& notes, const Tag& model) {
  const TableText& t = st.as<TableText>();
  if (!t.combined.empty()) return combined(st, names, notes, model);
  Diagnostics wrong;
  const auto data = rows_of(st, source, changes, wrong);
  data->decimal = t.decimal;
  TableOptions options;
  for (const auto& [from, to] :
       {std::pair(&t.keys, &options.key), std::pair(&t.refers, &options.refers)})
    for (const KeyName& k : *from) {
      if (wrong.has_errors()) break;
      if (data->column(k.column) < 0)
        throw Failure{k.at, messages::no_column(k.column, st.heading.name, data->columns)};
      KeyColumn column(k.column);
      if (!k.table.empty()) column.in = Internals::of(names.need_table(k.table, k.table_at));
      to->push_back(std::move(column));
    }
  if (t.across) {
    options.across.emplace(t.across->column);
    if (!t.across->table.empty())
      options.across->in = Internals::of(names.need_table(t.across->table, t.across->table_at));
    options.across_as = t.across_as;
    if (!wrong.has_errors()) data::make_long(*data, options, wrong);
  }
  if (!wrong.has_errors()) data->set_keys(options, wrong);
  notes.append(wrong);
  if (wrong.has_errors()) throw Failure{st.at, ""};
  if (data->num_rows() == 0)
    notes.warn({source.file, st.at.line, st.at.column,
                fmt::format("table {} has no rows", st.heading.name), true});
  for (const ScenarioChange* c : changes)
    if (c->name == st.heading.name) change_table(*c, *data, names, notes, model);
  if (t.ordered) data->set_ordered();
  return Table(data);
}

}  // namespace kiteknot::formats::knot
