// The data of a model as tables in a folder, for programs that plan by themselves.

#include <filesystem>
#include <functional>
#include <set>

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "data/files.hpp"
#include "data/tables/csv.hpp"
#include "kiteknot/read.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

std::string table_csv(const TableData& t) {
  const std::vector<std::string> columns = t.all_columns();
  std::string text;
  const auto line = [&](const std::vector<std::string>& cells) {
    for (std::size_t k = 0; k < cells.size(); ++k)
      text += (k > 0 ? "," : "") + data::csv_cell(cells[k]);
    text += '\n';
  };
  line(columns);
  for (Index row = 0; row < t.num_rows(); ++row) {
    std::vector<std::string> cells;
    for (const std::string& name : columns) {
      const auto made = t.computed.find(name);
      const Index c = t.column(name);
      // Figures that were set count, not the text that they replaced.
      if (made != t.computed.end())
        cells.push_back(decimal(made->second[at(row)]));
      else if (t.is_empty(row, c))
        cells.emplace_back();
      else if (const auto figure = t.figure(row, c); figure && figure->is_finite())
        cells.push_back(decimal(*figure));
      else
        cells.emplace_back(t.cell(row, c));
    }
    line(cells);
  }
  return text;
}

std::string decisions_csv(const ModelData& m) {
  std::size_t most_keys = 0;
  for (const auto& f : m.families)
    if (f->index.count > 0) most_keys = std::max(most_keys, f->index.keys(0).size());
  std::string text = "decision";
  for (std::size_t k = 1; k <= most_keys; ++k) text += fmt::format(",key{}", k);
  text += ",least,greatest,kind\n";
  const std::vector<Rational> numbers = m.number_values();
  const auto limit = [](const Rational& r) { return r.is_finite() ? decimal(r) : std::string(); };
  for (const auto& f : m.families)
    for (Index i = 0; i < f->index.count; ++i) {
      text += data::csv_cell(f->name);
      std::vector<std::string> keys = f->index.keys(i);
      keys.resize(most_keys);
      for (const std::string& k : keys) text += "," + data::csv_cell(k);
      std::string kind = m.whole(*f, i) ? "whole" : "real";
      if (!f->listed.empty()) {
        std::vector<std::string> values;
        for (const Rational& v : f->listed) values.push_back(decimal(v));
        kind = fmt::format("one of {}", fmt::join(values, " "));
      }
      if (f->or_zero) kind += " or 0";
      text += fmt::format(",{},{},{}\n", limit(m.lower(*f, i, numbers)),
                          limit(m.upper(*f, i, numbers)), kind);
    }
  return text;
}

}  // namespace

void write_model_data(const std::string& folder, const Model& model) {
  namespace fs = std::filesystem;
  const ModelData& m = model.data();
  std::error_code code;
  fs::create_directories(fs::path(folder) / "tables", code);
  if (code) throw OutputError(fmt::format("{} cannot be made: {}", folder, code.message()));
  std::set<std::string> written;
  const std::function<void(const TableData&)> write = [&](const TableData& t) {
    // A name that is none for a file would leave the folder.
    if (t.name.find('/') != std::string::npos || t.name.starts_with('.') ||
        !written.insert(t.name).second)
      return;
    data::write_file((fs::path(folder) / "tables" / (t.name + ".csv")).string(), table_csv(t));
    for (const auto& [column, of] : t.tables) write(*of);  // what its keys name
  };
  for (const Table& t : m.tables) write(t.data());
  for (const Table& t : m.data_tables) write(t.data());
  const auto write_all = [&](const auto& stated) {  // of models made in C++
    for (const auto& f : stated)
      for (const Table& t : f->index.tables) write(t.data());
  };
  write_all(m.families);
  write_all(m.lets);
  write_all(m.rules);
  std::string numbers = "number,value\n";
  const std::vector<Rational> values = m.number_values();
  for (std::size_t n = 0; n < m.numbers.size(); ++n)
    numbers += fmt::format("{},{}\n", data::csv_cell(m.numbers[n].name), decimal(values[n]));
  data::write_file((fs::path(folder) / "numbers.csv").string(), numbers);
  data::write_file((fs::path(folder) / "decisions.csv").string(), decisions_csv(m));
}

}  // namespace kiteknot
