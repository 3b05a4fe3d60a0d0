#include "report/questions/data_cells.hpp"

#include "data/table_data.hpp"

namespace kiteknot::report {
std::string cell_behind(const ModelData& model, const std::string& statement, const IndexSet& index,
                        Index member, const Rational& figure) {
  // A row that several members share would move several figures.
  if (!model.uses_noted || index.tables.size() != 1) return {};
  const Row row = index.rows(member)[0];
  const TableData& table = *row.table();
  const auto uses = model.column_uses.find(table.name);
  if (uses == model.column_uses.end()) return {};
  std::string found;
  for (const auto& [column, users] : uses->second) {
    const Index c = table.column(column);
    if (c < 0 || users.size() != 1 || users[0] != statement || table.tables.contains(c)) continue;
    if (table.figure(row.index(), c) != figure) continue;
    if (!found.empty()) return {};
    found = full_name(table.name, table.keys_of(row.index())) + "." + column;
  }
  return found;
}

}  // namespace kiteknot::report
