#pragma once
// What a table holds. Cells are views into one text, so that a file costs little more than its
// size.

#include <map>
#include <memory>
#include <mutex>
#include <unordered_map>

#include "kiteknot/table.hpp"

namespace kiteknot {

using Index = std::int32_t;

/// A cell's place in TableData::text.
struct Cell {
  std::uint32_t begin = 0, length = 0;
};

/// Rows by the text (or the referred row) of one column.
struct Grouping {
  std::unordered_map<std::string_view, Index> group;  // text to group; empty for references
  std::vector<Index> start, rows;  // rows of group g: rows[start[g] .. start[g + 1])
  [[nodiscard]] std::span<const Index> of(Index g) const {
    if (g < 0) return {};
    const auto begin = start[static_cast<std::size_t>(g)],
               end = start[static_cast<std::size_t>(g) + 1];
    return {rows.data() + begin, static_cast<std::size_t>(end - begin)};
  }
};

struct TableData {
  std::string name;
  std::string file;                  // for messages; empty where rows came from a program
  int first_line = 0;                // line of the header in the file
  std::vector<std::string> columns;  // stored columns
  std::string text;
  std::vector<Cell> cells;   // row by row
  std::vector<Index> lines;  // of each row
  char separator = ',';      // of the file's columns
  DecimalMark decimal = DecimalMark::as_found;
  std::uint32_t source_length = 0;  // text beyond this was unescaped and has no place in the file
  std::vector<Index> key;           // columns
  std::map<Index, std::shared_ptr<const TableData>> tables;  // of reference columns (key or not)
  std::map<Index, std::vector<Index>> references;            // column to row of its table, by row
  std::map<std::string, std::vector<Rational>, std::less<>> computed;

  bool unordered_pairs = false;  // Table::pairs: each pair of rows of one table stands once

  std::vector<Index> before, after;  // of each row, -1: none; empty: the order does not count

  /// Replaces a cell's text; not for keys and references, nor once figures were read.
  void set_cell(Index row, Index column, const std::string& text);
  /// The same with a figure, which counts exactly where no decimal says it.
  void set_figure(Index row, Index column, const Rational& value);
  /// Makes the order of the rows count.
  void set_ordered();
  [[nodiscard]] Index num_rows() const { return static_cast<Index>(lines.size()); }
  [[nodiscard]] std::string_view cell(Index row, Index column) const {
    const Cell& c =
        cells[static_cast<std::size_t>(row) * columns.size() + static_cast<std::size_t>(column)];
    return {text.data() + c.begin, c.length};
  }
  [[nodiscard]] Index column(std::string_view wanted) const;       // -1: none
  [[nodiscard]] Index need_column(std::string_view wanted) const;  // throws UsageError
  [[nodiscard]] std::vector<std::string> all_columns() const;      // stored and computed
  /// Row with the key, or -1.
  [[nodiscard]] Index find(std::span<const std::string_view> keys) const;
  [[nodiscard]] const Grouping& grouping(Index column) const;
  /// Stored column as figures; complaints go to `notes`, and such cells are 0.
  [[nodiscard]] const std::vector<Rational>& figures(Index column, Diagnostics& notes) const;
  /// The same with empty cells (as 0) and "inf" let pass; whoever reads such a cell has to ask.
  struct Given {
    const std::vector<Rational>* figures = nullptr;
    bool some_special = false;  ///< some are empty or infinite
  };
  [[nodiscard]] Given figures_given(Index column, Diagnostics& notes) const;
  /// Whether the cell has neither a text nor a figure that was set.
  [[nodiscard]] bool is_empty(Index row, Index column) const;
  /// The complaints about all empty cells of a column of figures.
  void tell_empty(Index column, Diagnostics& notes) const;
  /// One cell of them; nothing: it is no figure.
  [[nodiscard]] std::optional<Rational> figure(Index row, Index column) const;
  /// Whether figures of the column were read with a decimal comma.
  [[nodiscard]] bool with_comma(Index column) const;
  /// file:line:column of a cell, with a message.
  [[nodiscard]] Diagnostic at_cell(Index row, Index column, std::string message) const;
  [[nodiscard]] std::vector<std::string> keys_of(Index row) const;

  /// Sets key and references and builds the key index; complaints go to `notes`.
  void set_keys(const TableOptions& options, Diagnostics& notes);

 private:
  /// The decimal mark of a column, and the row that says so; -1: none does.
  struct Told {
    DecimalMark mark = DecimalMark::as_found;
    Index row = -1;
    bool both = false;  // some cells say one, some the other
  };
  void hear(Index row, Index column, Told& told) const;
  [[nodiscard]] const Told& mark_of(Index column) const;
  [[nodiscard]] std::optional<Rational> figure_with(Index row, Index column,
                                                    DecimalMark mark) const;
  [[nodiscard]] std::string no_figure(Index row, Index column) const;
  [[nodiscard]] std::uint64_t hash_of(Index row) const;
  std::map<std::pair<Index, Index>, Rational> changed_figures_;
  // Open addressing by the hash of the key; some bits of it stand by, so that rows with other keys
  // are hardly ever looked at.
  struct Slot {
    Index row = -1;  // -1: free
    std::uint32_t tag = 0;
  };
  static std::uint32_t tag_of(std::uint64_t hash) { return static_cast<std::uint32_t>(hash >> 32); }
  std::vector<Slot> slots_;
  mutable std::mutex mutex_;
  mutable std::map<Index, std::unique_ptr<Grouping>> groupings_;
  mutable std::map<Index, std::vector<Rational>> figures_, given_;
  mutable std::map<Index, Told> told_;  // by columns; -1: the file
};

}  // namespace kiteknot
