#include "formats/plans/plan_tables.hpp"

#include <algorithm>
#include <unordered_map>
#include <unordered_set>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/tables/csv.hpp"

namespace kiteknot::formats {
namespace {

std::string fresh(const std::string& name, const std::vector<std::string>& taken) {
  const auto is_taken = [&](const std::string& n) {
    return n == "decision" || n == "value" ||
           std::find(taken.begin(), taken.end(), n) != taken.end();
  };
  if (!is_taken(name)) return name;
  int k = 2;
  while (is_taken(fmt::format("{} {}", name, k))) ++k;
  return fmt::format("{} {}", name, k);
}

// Texts of one key as members have them: in the order of the table whose rows it names, else as
// they come.
std::vector<std::string> texts_of_key(const Family& family, std::size_t key) {
  std::vector<std::string> texts;
  std::unordered_set<std::string> used, kept;
  for (Index i = 0; i < family.index.count; ++i) used.insert(family.index.keys(i)[key]);
  const auto keep = [&](std::string text) {
    if (used.contains(text) && kept.insert(text).second) texts.push_back(std::move(text));
  };
  const TableData* of = nullptr;
  Index column = 0;
  for (const Table& t : family.index.tables)
    for (const Index c : t.data().key)
      if (key-- == 0) {
        of = &t.data();
        column = c;
      }
  const auto named = of->tables.find(column);
  if (named != of->tables.end()) {
    of = named->second.get();
    column = of->key[0];
  }
  for (Index r = 0; r < of->num_rows(); ++r) keep(std::string(of->cell(r, column)));
  return texts;
}

}  // namespace

std::vector<std::string> key_columns(const Family& family) {
  std::vector<std::string> columns;
  for (const Table& t : family.index.tables)
    for (const Index c : t.data().key)
      columns.push_back(fresh(t.data().columns[static_cast<std::size_t>(c)], columns));
  return columns;
}

PlanTable one_table(const ModelData& model, const Plan& plan) {
  std::vector<std::string> heading{"decision"};
  for (const auto& f : model.families)
    for (const std::string& column : key_columns(*f))
      if (std::find(heading.begin(), heading.end(), column) == heading.end())
        heading.push_back(column);
  heading.emplace_back("value");
  PlanTable table{heading};
  for (const auto& f : model.families) {
    std::vector<std::size_t> places;
    for (const std::string& column : key_columns(*f))
      places.push_back(static_cast<std::size_t>(std::find(heading.begin(), heading.end(), column) -
                                                heading.begin()));
    for (Index i = 0; i < f->index.count; ++i) {
      if (plan[f->first + i].is_zero()) continue;
      std::vector<std::string>& row = table.emplace_back(heading.size());
      row.front() = f->name;
      row.back() = decimal(plan[f->first + i]);
      const std::vector<std::string> keys = f->index.keys(i);
      for (std::size_t k = 0; k < keys.size(); ++k) row[places[k]] = keys[k];
    }
  }
  return table;
}

namespace {

// How a figure is written, as a spreadsheet's format: "8.200,00 €" is #,##0.00 "€", "30%" is 0%.
std::string format_of(std::string text, bool comma) {
  const bool percent = text.find('%') != std::string::npos;
  std::string before, after;
  const std::size_t first = text.find_first_of("0123456789"),
                    last = text.find_last_of("0123456789");
  if (first == std::string::npos) return {};
  const std::string digits = text.substr(first, last - first + 1);
  const std::size_t point = digits.rfind(comma ? ',' : '.');
  const std::size_t decimals = point == std::string::npos ? 0 : digits.size() - point - 1;
  const bool grouped = digits.substr(0, point).find_first_not_of("0123456789") != std::string::npos;
  std::string format = grouped ? "#,##0" : "0";
  if (decimals > 0) format += "." + std::string(decimals, '0');
  if (percent) return format + "%";
  const auto sign = [](std::string part) {
    std::erase_if(part, [](char c) { return c == ' ' || c == '-' || c == '+' || c == '"'; });
    return part;
  };
  before = sign(text.substr(0, first));
  after = sign(text.substr(last + 1));
  if (!before.empty()) format = "\"" + before + "\" " + format;
  if (!after.empty()) format += " \"" + after + "\"";
  return before.empty() && after.empty() && !grouped ? std::string() : format;
}

}  // namespace

PlanTable family_table(const Family& family, const Plan& plan, bool data,
                       std::vector<std::string>* formats) {
  PlanTable table{key_columns(family)};
  table[0].emplace_back("value");
  struct Further {
    std::size_t table;
    std::string column;
    bool figures = false;  // to be written as such
  };
  std::vector<Further> further;
  for (std::size_t t = 0; data && t < family.index.tables.size(); ++t) {
    const TableData& of = family.index.tables[t].data();
    for (const std::string& column : of.all_columns()) {
      const Index stored = of.column(column);
      if (std::find(of.key.begin(), of.key.end(), stored) != of.key.end()) continue;
      further.push_back({t, column});
      if (formats != nullptr && stored >= 0 && !of.tables.contains(stored)) {
        Diagnostics wrong;
        const TableData::Given given = of.figures_given(stored, wrong);
        further.back().figures =
            given.figures != nullptr && !given.some_special && !wrong.has_errors();
      }
      table[0].push_back(fresh(of.name + "." + column, table[0]));
    }
  }
  for (Index i = 0; i < family.index.count; ++i) {
    if (plan[family.first + i].is_zero()) continue;
    std::vector<std::string>& row = table.emplace_back(family.index.keys(i));
    row.push_back(decimal(plan[family.first + i]));
    if (further.empty()) continue;
    const std::vector<Row> rows = family.index.rows(i);
    for (const Further& c : further) {
      const TableData& of = family.index.tables[c.table].data();
      const std::string text(of.computed.contains(c.column) ? "" : rows[c.table].text(c.column));
      row.push_back(of.computed.contains(c.column) || c.figures
                        ? decimal(rows[c.table].number(c.column))
                        : text);
      if (formats == nullptr || !c.figures) continue;
      formats->resize(table[0].size());
      std::string& format = (*formats)[row.size() - 1];
      if (format.empty()) format = format_of(text, of.with_comma(of.column(c.column)));
    }
  }
  return table;
}

PlanTable single_table(const ModelData& model, const Plan& plan) {
  PlanTable table{{"decision", "value"}};
  for (const auto& f : model.families)
    if (f->index.tables.empty()) table.push_back({f->name, decimal(plan[f->first])});
  if (table.size() == 1) table.clear();
  return table;
}

bool fits_a_grid(const Family& family) {
  return key_columns(family).size() == 2;
}

Grid grid_of(const Family& family) {
  Grid grid{texts_of_key(family, 0), texts_of_key(family, 1), {}};
  std::unordered_map<std::string, std::size_t> row, column;
  for (const std::string& t : grid.down) row.emplace(t, row.size());
  for (const std::string& t : grid.across) column.emplace(t, column.size());
  grid.members.assign(row.size() * column.size(), -1);
  for (Index i = 0; i < family.index.count; ++i) {
    const std::vector<std::string> keys = family.index.keys(i);
    grid.members[row[keys[0]] * column.size() + column[keys[1]]] = i;
  }
  return grid;
}

PlanTable grid_table(const Family& family, const Plan& plan) {
  const std::vector<std::string> names = key_columns(family);
  const Grid grid = grid_of(family);
  PlanTable table{{names[0] + " / " + names[1]}};
  table[0].insert(table[0].end(), grid.across.begin(), grid.across.end());
  for (std::size_t r = 0; r < grid.down.size(); ++r) {
    table.push_back({grid.down[r]});
    for (std::size_t c = 0; c < grid.across.size(); ++c) {
      const Index member = grid.at(r, c);
      table.back().push_back(member < 0 ? "" : decimal(plan[family.first + member]));
    }
  }
  return table;
}

std::string csv_of(const PlanTable& table) {
  std::string text;
  for (const std::vector<std::string>& row : table) {
    for (std::size_t k = 0; k < row.size(); ++k)
      text += (k > 0 ? "," : "") + data::csv_cell(row[k]);
    text += '\n';
  }
  return text;
}

}  // namespace kiteknot::formats
