#include "kiteknot/table.hpp"

#include <limits>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/table_data.hpp"

namespace kiteknot {

namespace {
// Rows that a program made up have numbers of their own.
const TableData& table_with(const Row& row) {
  if (row.table() == nullptr) throw UsageError("a row of no table was used");
  if (row.index() < 0 || row.index() >= row.table()->num_rows())
    throw UsageError(fmt::format("table {} has {}, not one at place {}", row.table()->name,
                                 counted(static_cast<std::size_t>(row.table()->num_rows()), "row"),
                                 row.index()));
  return *row.table();
}
}  // namespace

std::vector<std::string> Row::keys() const {
  return table_with(*this).keys_of(index_);
}

std::string_view Row::text(std::string_view column) const {
  return table_with(*this).cell(index_, table_->need_column(column));
}

Rational Row::number(std::string_view column) const {
  const auto computed = table_with(*this).computed.find(column);
  if (computed != table_->computed.end()) return computed->second[static_cast<std::size_t>(index_)];
  const Index c = table_->need_column(column);
  Diagnostics notes;
  const std::vector<Rational>& values = table_->figures(c, notes);
  if (notes.has_errors()) throw InputError(notes);
  return values[static_cast<std::size_t>(index_)];
}

Row Row::row(std::string_view column) const {
  const Index c = table_with(*this).need_column(column);
  const auto it = table_->references.find(c);
  if (it == table_->references.end())
    throw UsageError(
        fmt::format("column '{}' of table {} refers to no table", column, table_->name));
  return {table_->tables.at(c).get(), it->second[static_cast<std::size_t>(index_)]};
}

Rows::Rows(const Table& table) : table_(&table.data()), size_(table.size()) {}

const Rational& Numbers::operator[](Row row) const {
  if (!table_) throw UsageError("figures of no table were read");
  if (row.table() != nullptr && row.table() != table_.get())
    throw UsageError(fmt::format("{}.{} was read with a row of table {}", table_->name, column_,
                                 row.table()->name));
  (void)table_with(row);
  return (*values_)[static_cast<std::size_t>(row.index())];
}

Table::Table(std::shared_ptr<TableData> data) : data_(std::move(data)) {
  if (!data_) throw UsageError("a table was made of nothing");
}

const std::string& Table::name() const noexcept {
  return data_->name;
}
std::int32_t Table::size() const noexcept {
  return data_->num_rows();
}
std::vector<std::string> Table::columns() const {
  return data_->all_columns();
}

Row Table::row(const std::vector<std::string>& keys) const& {
  const std::vector<std::string_view> views(keys.begin(), keys.end());
  const Index row = data_->find(views);
  if (row >= 0) return {data_.get(), row};
  if (keys.size() != data_->key.size())
    throw UsageError(fmt::format("table {} has {}, not {}", name(),
                                 counted(data_->key.size(), "key column"), keys.size()));
  std::vector<std::string> known;
  for (Index r = 0; r < size(); ++r)
    known.push_back(fmt::format("{}", fmt::join(data_->keys_of(r), ", ")));
  const std::string wanted = fmt::format("{}", fmt::join(keys, ", "));
  throw UsageError(
      fmt::format("no row '{}' in table {}{}", wanted, name(), nearest_hint(wanted, known)));
}

namespace {
std::optional<Row> beside(const TableData& table, const std::vector<Index>& step, Row row) {
  if (&table_with(row) != &table)
    throw UsageError(
        fmt::format("a row of {} was given to table {}", row.table()->name, table.name));
  if (step.empty())
    throw UsageError(
        fmt::format("table {} is not ordered: nothing is before or after", table.name));
  const Index next = step[static_cast<std::size_t>(row.index())];
  return next < 0 ? std::nullopt : std::optional(Row(&table, next));
}
}  // namespace

std::optional<Row> Table::before(Row row) const {
  return beside(*data_, data_->before, row);
}
std::optional<Row> Table::after(Row row) const {
  return beside(*data_, data_->after, row);
}

Rows Table::where(std::string_view column, Row row) const& {
  (void)table_with(row);
  const Index c = data_->need_column(column);
  const auto it = data_->tables.find(c);
  if (it == data_->tables.end() || it->second.get() != row.table())
    throw UsageError(fmt::format("column '{}' of table {} does not refer to table {}", column,
                                 name(), row.table()->name));
  return {data_.get(), data_->grouping(c).of(row.index())};
}

Rows Table::where(std::string_view column, std::string_view text) const& {
  const Index c = data_->need_column(column);
  const Grouping& grouping = data_->grouping(c);
  const auto reference = data_->tables.find(c);
  if (reference != data_->tables.end()) {
    const std::string_view keys[] = {text};
    return {data_.get(), grouping.of(reference->second->find(keys))};
  }
  const auto it = grouping.group.find(text);
  return {data_.get(), grouping.of(it == grouping.group.end() ? -1 : it->second)};
}

Numbers Table::numbers(std::string_view column) const {
  const auto computed = data_->computed.find(column);
  if (computed != data_->computed.end()) return {data_, &computed->second, std::string(column)};
  const Index c = data_->need_column(column);
  Diagnostics notes;
  const std::vector<Rational>& values = data_->figures(c, notes);
  if (notes.has_errors()) throw InputError(notes);
  return {data_, &values, std::string(column)};
}

namespace {
void need_new_column(const TableData& table, const std::string& column) {
  if (column.empty()) throw UsageError("a column needs a name");
  if (table.column(column) >= 0 || table.computed.contains(column))
    throw UsageError(fmt::format("table {} has a column '{}' already", table.name, column));
}
}  // namespace

void Table::add_numbers(const std::string& column, const std::function<Rational(Row)>& figure) {
  need_new_column(*data_, column);
  std::vector<Rational> values;
  for (const Row row : *this) values.push_back(figure(row));
  add_numbers(column, values);
}

void Table::add_numbers(const std::string& column, const std::vector<Rational>& figures) {
  need_new_column(*data_, column);
  if (figures.size() != static_cast<std::size_t>(size()))
    throw UsageError(fmt::format("column '{}' of table {} was given {} for {}", column, name(),
                                 counted(figures.size(), "figure"),
                                 counted(static_cast<std::size_t>(size()), "row")));
  for (const Rational& figure : figures)
    if (!figure.is_finite())
      throw UsageError(
          fmt::format("column '{}' of table {} was given an infinite figure", column, name()));
  data_->computed.emplace(column, figures);
}

void Table::add_numbers(const std::string& column, const std::vector<KeyedNumber>& figures) {
  need_new_column(*data_, column);
  if (data_->key.size() != 1)
    throw UsageError(fmt::format("table {} has {}: figures by key need one", name(),
                                 counted(data_->key.size(), "key column")));
  std::vector<const Rational*> of_row(static_cast<std::size_t>(size()), nullptr);
  for (const KeyedNumber& figure : figures) {
    const Rational*& place = of_row[static_cast<std::size_t>(row({figure.key}).index())];
    if (place != nullptr)
      throw UsageError(fmt::format("column '{}' of table {} was given two figures for '{}'", column,
                                   name(), figure.key));
    place = &figure.number;
  }
  std::vector<Rational> values;
  for (const Row row : *this) {
    const Rational* figure = of_row[static_cast<std::size_t>(row.index())];
    if (figure == nullptr)
      throw UsageError(fmt::format("column '{}' of table {} has no figure for '{}'", column, name(),
                                   row.keys().front()));
    values.push_back(*figure);
  }
  add_numbers(column, values);
}

Table Table::of(std::string name, std::vector<std::string> columns,
                const std::vector<std::vector<std::string>>& rows, const TableOptions& options) {
  if (options.across || !options.query.empty())
    throw UsageError(
        fmt::format("table {} is given by its cells: it is neither wide nor a query", name));
  auto data = std::make_shared<TableData>();
  data->name = std::move(name);
  data->columns = std::move(columns);
  for (const std::vector<std::string>& row : rows) {
    if (row.size() != data->columns.size())
      throw UsageError(fmt::format("row {} of table {} has {} for {}", data->num_rows() + 1,
                                   data->name, counted(row.size(), "cell"),
                                   counted(data->columns.size(), "column")));
    for (const std::string& cell : row) {
      constexpr std::size_t kMost = std::numeric_limits<std::uint32_t>::max();
      if (data->text.size() + cell.size() > kMost)
        throw UsageError(fmt::format("table {} holds more than 4 GB of text", data->name));
      data->cells.push_back(
          {static_cast<std::uint32_t>(data->text.size()), static_cast<std::uint32_t>(cell.size())});
      data->text += cell;
    }
    data->lines.push_back(0);
  }
  data->source_length = static_cast<std::uint32_t>(data->text.size());
  Diagnostics notes;
  data->set_keys(options, notes);
  if (notes.has_errors()) throw InputError(notes);
  if (options.ordered) data->set_ordered();
  data->decimal = options.decimal;
  return Table(data);
}

Table Table::of_keys(std::string name, std::string key, const std::vector<std::string>& keys) {
  std::vector<std::vector<std::string>> rows;
  for (const std::string& k : keys) rows.push_back({k});
  return of(std::move(name), {key}, rows, {.key = {key}});
}

Table Table::of_figures(std::string name, std::string key, const std::string& column,
                        const std::vector<KeyedNumber>& figures) {
  std::vector<std::string> keys;
  for (const KeyedNumber& figure : figures) keys.push_back(figure.key);
  Table table = of_keys(std::move(name), std::move(key), keys);
  table.add_numbers(column, figures);
  return table;
}

}  // namespace kiteknot
