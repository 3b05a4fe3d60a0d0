#pragma once
// Tables as people keep them: rows with named columns and a key of one or more columns. Data are
// read by name, never by position. A Table is a cheap handle; copies share the rows. A column may
// refer to the rows of another table, and then the other table's columns are read through it. Const
// calls may run concurrently.

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "kiteknot/errors.hpp"
#include "kiteknot/rational.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

class Table;
struct TableData;

/// A row of a table; valid as long as some handle of its table lives. UsageError for a row that the
/// table does not have.
class Row {
 public:
  Row(const TableData* table, std::int32_t index) noexcept : table_(table), index_(index) {}
  /// Its place in the table, from 0.
  [[nodiscard]] std::int32_t index() const noexcept { return index_; }
  /// For the library itself; null for a row of no table.
  [[nodiscard]] const TableData* table() const noexcept { return table_; }
  /// The key's cells in order.
  [[nodiscard]] std::vector<std::string> keys() const;
  /// The cell's text; throws UsageError for a column that is not there.
  [[nodiscard]] std::string_view text(std::string_view column) const;
  /// The cell as a figure; throws InputError with file, line and column where it is not one.
  [[nodiscard]] Rational number(std::string_view column) const;
  /// The row that a key or reference column names in its table.
  [[nodiscard]] Row row(std::string_view column) const;
  friend bool operator==(const Row& a, const Row& b) noexcept = default;

 private:
  const TableData* table_;
  std::int32_t index_;
};

/// Some rows of one table, in its order; a view on the table.
class Rows {
 public:
  class Iterator {
   public:
    Iterator(const TableData* table, const std::int32_t* list, std::int32_t at) noexcept
        : table_(table), list_(list), at_(at) {}
    Row operator*() const noexcept { return {table_, list_ != nullptr ? list_[at_] : at_}; }
    Iterator& operator++() noexcept {
      ++at_;
      return *this;
    }
    bool operator!=(const Iterator& other) const noexcept { return at_ != other.at_; }

   private:
    const TableData* table_;
    const std::int32_t* list_;
    std::int32_t at_;
  };
  /// All rows of a table, which has to live as long.
  Rows(const Table& table);
  Rows(Table&&) = delete;
  Rows(const TableData* table, std::span<const std::int32_t> list) noexcept
      : table_(table), list_(list.data()), size_(static_cast<std::int32_t>(list.size())) {}
  /// How many rows it has.
  [[nodiscard]] std::int32_t size() const noexcept { return size_; }
  [[nodiscard]] Iterator begin() const noexcept { return {table_, list_, 0}; }
  [[nodiscard]] Iterator end() const noexcept { return {table_, list_, size_}; }

 private:
  const TableData* table_;
  const std::int32_t* list_ = nullptr;  // null: rows 0 .. size
  std::int32_t size_;
};

/// A column of figures, checked once. Reading it with a row of another table throws UsageError.
class Numbers {
 public:
  /// Of no table yet: reading it throws UsageError.
  Numbers() = default;
  Numbers(std::shared_ptr<const TableData> table, const std::vector<Rational>* values,
          std::string column)
      : table_(std::move(table)), values_(values), column_(std::move(column)) {}
  const Rational& operator[](Row row) const;
  Numbers(const Numbers&) = default;  // also where it is moved from: it stays usable
  Numbers& operator=(const Numbers&) = default;
  /// The column's heading.
  [[nodiscard]] const std::string& column() const noexcept { return column_; }

 private:
  std::shared_ptr<const TableData> table_;
  const std::vector<Rational>* values_ = nullptr;
  std::string column_;
};

/// A column of the key (or a reference), and the table whose rows it names, if any.
struct KeyColumn {
  KeyColumn(const char* column_name) : column(column_name) {}
  KeyColumn(std::string column_name) : column(std::move(column_name)) {}
  /// Its texts are keys of that table.
  KeyColumn(std::string column_name, const Table& table);
  std::string column;
  std::shared_ptr<TableData> in;  ///< null: any text
};

/// What stands before a figure's fraction. `as_found`: a point, as programs write figures, unless
/// the file says otherwise beyond doubt ("2,5", "1.250,00"); what is open then is refused
/// ("1,250").
enum class DecimalMark { as_found, point, comma };

struct TableOptions {
  std::vector<KeyColumn> key{};     ///< at least one column; together they name a row
  std::vector<KeyColumn> refers{};  ///< further columns that name rows of other tables
  bool ordered = false;             ///< the order of the rows counts: before, after, first, last
  DecimalMark decimal = DecimalMark::as_found;
  std::string query{};  ///< of an SQLite database: which rows are meant, "select ..."
  /// A wide table read as a long one: the headings of all columns that are neither keys nor
  /// references become one more key column, and their cells, where they are not empty, the column
  /// `across_as`.
  std::optional<KeyColumn> across{};
  std::string across_as{};
};

/// A figure and the key of the row that it belongs to.
struct KeyedNumber {
  std::string key;
  Rational number;
};

class Table {
 public:
  /// Reads a CSV file: first line column names, separated by commas, semicolons or tabs (found from
  /// that line, or said before it: "sep=;"); a JSON array of objects; or what `query` selects from
  /// an SQLite database. "-" is standard input. Throws IoError, or InputError with every line
  /// that is wrong: a missing column, a key that is empty or there twice, a reference to no row.
  static Table read(const std::string& path, const TableOptions& options);
  /// The same from a text; `name` appears in messages.
  static Table parse(std::string name, std::string csv, const TableOptions& options);

  /// From a program's own cells: one list a row, in the order of `columns`. Throws InputError as
  /// above.
  static Table of(std::string name, std::vector<std::string> columns,
                  const std::vector<std::vector<std::string>>& rows, const TableOptions& options);
  /// One key column and its cells; figures follow with add_numbers.
  static Table of_keys(std::string name, std::string key, const std::vector<std::string>& keys);
  /// One key column and one of figures, in the list's order.
  static Table of_figures(std::string name, std::string key, const std::string& column,
                          const std::vector<KeyedNumber>& figures);
  /// The same from a map or another container of pairs of a key and a figure.
  template <class Map>
  requires requires(const Map& map) { Rational(map.begin()->second); }
  static Table of_figures(std::string name, std::string key, const std::string& column,
                          const Map& figures) {
    return of_figures(std::move(name), std::move(key), column, keyed(figures));
  }

  /// As it was read or stated.
  [[nodiscard]] const std::string& name() const noexcept;
  /// How many rows it has.
  [[nodiscard]] std::int32_t size() const noexcept;
  // Rows look at a table that lives: not at one that ends with the statement.
  /// All of them, in their order.
  [[nodiscard]] Rows rows() const& { return {*this}; }
  Rows rows() && = delete;
  [[nodiscard]] Rows::Iterator begin() const& { return rows().begin(); }
  [[nodiscard]] Rows::Iterator end() const& { return rows().end(); }
  Rows::Iterator begin() && = delete;
  Rows::Iterator end() && = delete;
  /// Their headings, keys first.
  [[nodiscard]] std::vector<std::string> columns() const;
  /// The row with this key; throws UsageError with the nearest key where there is none.
  [[nodiscard]] Row row(const std::vector<std::string>& keys) const&;
  Row row(const std::vector<std::string>& keys) && = delete;
  [[nodiscard]] Row operator[](const std::string& key) const& { return row({key}); }
  Row operator[](const std::string& key) && = delete;
  /// The rows whose `column` names the row, or has the text. The first call per column costs
  /// O(rows), later ones only their answer.
  [[nodiscard]] Rows where(std::string_view column, Row row) const&;
  /// Those with this text in the column; UsageError where there is no such column.
  [[nodiscard]] Rows where(std::string_view column, std::string_view text) const&;
  Rows where(std::string_view column, Row row) && = delete;
  Rows where(std::string_view column, std::string_view text) && = delete;
  /// All unordered pairs of different rows of a table (keys a, b), and all combinations of rows of
  /// several (keys named as theirs), as far as `where` holds. The tables need keys of one column.
  static Table pairs(std::string name, const Table& of,
                     const std::function<bool(Row, Row)>& where = {});
  /// One row for each combination of theirs for which `where` holds.
  static Table product(std::string name, const std::vector<Table>& of,
                       const std::function<bool(std::span<const Row>)>& where = {});
  /// Neighbours in an ordered table; nothing before the first and after the last. UsageError where
  /// the order does not count.
  [[nodiscard]] std::optional<Row> before(Row row) const;
  /// The next one of an ordered table; nothing after the last.
  [[nodiscard]] std::optional<Row> after(Row row) const;
  /// A column as figures; throws InputError where a cell is not one.
  [[nodiscard]] Numbers numbers(std::string_view column) const;
  /// Adds a computed column; or one figure a row, in order; or one for each key of a table with
  /// one key column, UsageError where a row has none or two or a key is of no row. It is there for
  /// all handles of the table.
  void add_numbers(const std::string& column, const std::function<Rational(Row)>& figure);
  /// A column of figures, one for each row; UsageError for another number of them.
  void add_numbers(const std::string& column, const std::vector<Rational>& figures);
  /// The same by key; UsageError for a key that is not there, or missing.
  void add_numbers(const std::string& column, const std::vector<KeyedNumber>& figures);
  template <class Map>
  requires requires(const Map& map) { Rational(map.begin()->second); }
  void add_numbers(const std::string& column, const Map& figures) {
    add_numbers(column, keyed(figures));
  }

  /// For the library itself.
  explicit Table(std::shared_ptr<TableData> data);
  Table(const Table&) = default;  // also where it is moved from: it stays usable
  Table& operator=(const Table&) = default;
  /// For the library itself.
  [[nodiscard]] const TableData& data() const noexcept { return *data_; }

 private:
  friend struct Internals;
  friend struct KeyColumn;
  template <class Map>
  static std::vector<KeyedNumber> keyed(const Map& figures) {
    std::vector<KeyedNumber> list;
    for (const auto& [key, number] : figures) list.push_back({key, Rational(number)});
    return list;
  }
  std::shared_ptr<TableData> data_;
};

inline KeyColumn::KeyColumn(std::string column_name, const Table& table)
    : column(std::move(column_name)), in(table.data_) {}

}  // namespace kiteknot

template <>
struct std::hash<kiteknot::Row> {
  std::size_t operator()(const kiteknot::Row& row) const noexcept {
    constexpr std::size_t kSpread = 0x9E3779B1U;
    return std::hash<const void*>()(row.table()) ^
           (static_cast<std::size_t>(row.index()) * kSpread);
  }
};
#pragma GCC visibility pop
