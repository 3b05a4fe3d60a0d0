#include "data/table_data.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "data/figure_text.hpp"

namespace kiteknot {
namespace {

std::uint64_t mix(std::uint64_t hash, std::string_view text) {
  // FNV-1a, with a separator so that ("ab", "c") is not ("a", "bc").
  for (const char c : text) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3ULL;
  return (hash ^ 0x1ffULL) * 0x100000001b3ULL;
}
constexpr std::uint64_t kHashStart = 0xcbf29ce484222325ULL;

}  // namespace

Index TableData::column(std::string_view wanted) const {
  const auto it = std::find(columns.begin(), columns.end(), wanted);
  return it == columns.end() ? -1 : static_cast<Index>(it - columns.begin());
}

std::vector<std::string> TableData::all_columns() const {
  std::vector<std::string> all = columns;
  for (const auto& [column_name, values] : computed) all.push_back(column_name);
  return all;
}

Index TableData::need_column(std::string_view wanted) const {
  const Index c = column(wanted);
  if (c < 0)
    throw UsageError(fmt::format("no column '{}' in table {}{}", wanted, name,
                                 nearest_hint(wanted, all_columns())));
  return c;
}

std::vector<std::string> TableData::keys_of(Index row) const {
  std::vector<std::string> keys;
  for (const Index c : key) keys.emplace_back(cell(row, c));
  return keys;
}

std::uint64_t TableData::hash_of(Index row) const {
  std::uint64_t hash = kHashStart;
  for (const Index c : key) hash = mix(hash, cell(row, c));
  return hash;
}

Index TableData::find(std::span<const std::string_view> keys) const {
  if (slots_.empty() || keys.size() != key.size()) return -1;
  std::uint64_t hash = kHashStart;
  for (const std::string_view k : keys) hash = mix(hash, k);
  for (std::size_t slot = static_cast<std::size_t>(hash) & (slots_.size() - 1);;
       slot = (slot + 1) & (slots_.size() - 1)) {
    const Index row = slots_[slot].row;
    if (row < 0) return -1;
    bool same = slots_[slot].tag == tag_of(hash);
    for (std::size_t k = 0; k < keys.size() && same; ++k) same = cell(row, key[k]) == keys[k];
    if (same) return row;
  }
}

Diagnostic TableData::at_cell(Index row, Index column, std::string message) const {
  Diagnostic d{file.empty() ? name : file, lines[at(row)], 0, std::move(message), false};
  const Cell& c = cells[at(row) * columns.size() + at(column)];
  if (c.begin < source_length) {
    std::size_t begin = c.begin;
    while (begin > 0 && text[begin - 1] != '\n') --begin;
    d.column = static_cast<int>(c.begin - begin) + 1;
  }
  return d;
}

const Grouping& TableData::grouping(Index column) const {
  const std::lock_guard lock(mutex_);
  std::unique_ptr<Grouping>& stored = groupings_[column];
  if (stored) return *stored;
  stored = std::make_unique<Grouping>();
  std::vector<Index> group(at(num_rows()));
  const auto reference = references.find(column);
  Index count = 0;
  if (reference != references.end()) {
    group = reference->second;
    count = tables.at(column)->num_rows();
  } else {
    for (Index r = 0; r < num_rows(); ++r) {
      const auto [it, fresh] = stored->group.try_emplace(cell(r, column), count);
      if (fresh) ++count;
      group[at(r)] = it->second;
    }
  }
  stored->start.assign(at(count) + 1, 0);
  for (const Index g : group) ++stored->start[at(g) + 1];
  for (Index g = 0; g < count; ++g) stored->start[at(g) + 1] += stored->start[at(g)];
  stored->rows.resize(group.size());
  std::vector<Index> next(stored->start.begin(), stored->start.end() - 1);
  for (Index r = 0; r < num_rows(); ++r) stored->rows[at(next[at(group[at(r)])]++)] = r;
  return *stored;
}

void TableData::hear(Index row, Index column, Told& told) const {
  const std::string_view written = cell(row, column);
  const std::size_t first = written.find_first_of(".,");
  if (first == std::string_view::npos) return;
  // One sign of the kind that is known: it says the same, or nothing.
  if (told.row >= 0 && written[first] == (told.mark == DecimalMark::comma ? ',' : '.') &&
      written.find_first_of(".,", first + 1) == std::string_view::npos)
    return;
  const DecimalMark mark = mark_told_by(written);
  if (mark == DecimalMark::as_found) return;
  if (told.row < 0) {
    told.mark = mark;
    told.row = row;
  }
  told.both = told.both || mark != told.mark;
}

// Where commas do not separate columns they may stand in figures anywhere, and all of the file is
// of one kind; else a column speaks for itself.
const TableData::Told& TableData::mark_of(Index column) const {
  const bool by_file = separator != ',';
  const Index which = by_file ? -1 : column;
  const auto known = told_.find(which);
  if (known != told_.end()) return known->second;
  Told told;
  if (decimal != DecimalMark::as_found) {
    told.mark = decimal;
  } else {
    const Index from = by_file ? 0 : column,
                to = by_file ? static_cast<Index>(columns.size()) : column + 1;
    for (Index r = 0; r < num_rows() && !told.both; ++r)
      for (Index c = from; c < to; ++c) hear(r, c, told);
    if (told.both) told.mark = DecimalMark::as_found;
  }
  return told_.emplace(which, told).first->second;
}

std::optional<Rational> TableData::figure_with(Index row, Index column, DecimalMark mark) const {
  if (const auto changed = changed_figures_.find({row, column}); changed != changed_figures_.end())
    return changed->second;
  // In a file that leaves commas free for figures, and says nothing of its mark.
  if (mark == DecimalMark::as_found && separator != ',' && may_be_thousands(cell(row, column)))
    return std::nullopt;
  return figure_of(cell(row, column), mark);
}

std::optional<Rational> TableData::figure(Index row, Index column) const {
  const std::lock_guard lock(mutex_);
  return figure_with(row, column, mark_of(column).mark);
}

bool TableData::with_comma(Index column) const {
  const std::lock_guard lock(mutex_);
  if (separator == ',' && decimal == DecimalMark::as_found) {
    // Only where some cell is not as programs write figures was the mark looked for.
    const auto known = told_.find(column);
    return known != told_.end() && known->second.mark == DecimalMark::comma;
  }
  if (mark_of(column).mark != DecimalMark::comma) return false;
  for (Index r = 0; r < num_rows(); ++r)
    if (cell(r, column).find_first_of(".,") != std::string_view::npos) return true;
  return false;
}

std::string TableData::no_figure(Index row, Index column) const {
  const std::string_view written = cell(row, column);
  const std::string& title = columns[at(column)];
  if (written.empty())
    return fmt::format("an empty cell in column {}, where a figure belongs", title);
  const Told& told = mark_of(column);
  const std::optional<Rational> point = figure_of(written, DecimalMark::point),
                                comma = figure_of(written, DecimalMark::comma);
  if (!point && !comma)
    return fmt::format("'{}' in column {} is not a finite figure", written, title);
  if (told.mark != DecimalMark::as_found)
    return fmt::format(
        "'{}' in column {} is no figure with a decimal {}{}", written, title,
        told.mark == DecimalMark::comma ? "comma" : "point",
        told.row < 0 ? std::string() : fmt::format(", which line {} has", lines[at(told.row)]));
  return fmt::format(
      "'{}' in column {} may be {} or {}{}; say 'decimal comma' or 'decimal point' "
      "behind the table's keys",
      written, title, kiteknot::decimal(*comma), kiteknot::decimal(*point),
      told.both ? ", and the file has figures of both kinds" : "");
}

namespace {
const std::vector<Rational>& values_of_nothing() {
  static const std::vector<Rational> kNone;
  return kNone;
}
}  // namespace

const std::vector<Rational>& TableData::figures(Index column, Diagnostics& notes) const {
  const std::lock_guard lock(mutex_);
  const auto known = figures_.find(column);
  if (known != figures_.end()) return known->second;
  std::vector<Rational> values;
  values.reserve(at(num_rows()));
  const bool told = decimal != DecimalMark::as_found || separator != ',';
  bool plain = !told;
  // As programs write them, while that goes well.
  for (Index r = 0; plain && r < num_rows(); ++r) {
    std::optional<Rational> value = Rational::parse(cell(r, column));
    if (const auto changed = changed_figures_.find({r, column}); changed != changed_figures_.end())
      value = changed->second;
    plain = value.has_value();
    if (value) values.push_back(std::move(*value));
  }
  if (plain) return figures_.emplace(column, std::move(values)).first->second;
  values.clear();
  bool clean = true;
  const DecimalMark mark = mark_of(column).mark;
  for (Index r = 0; r < num_rows(); ++r) {
    std::optional<Rational> value = figure_with(r, column, mark);
    if (!value) {
      clean = false;
      notes.error(at_cell(r, column, no_figure(r, column)));
    }
    values.push_back(value.value_or(Rational(0)));
  }
  if (clean) return figures_.emplace(column, std::move(values)).first->second;
  return values_of_nothing();
}

bool TableData::is_empty(Index row, Index column) const {
  return cell(row, column).empty() && !changed_figures_.contains({row, column});
}

void TableData::tell_empty(Index column, Diagnostics& notes) const {
  for (Index r = 0; r < num_rows() && !notes.full(); ++r)
    if (is_empty(r, column)) notes.error(at_cell(r, column, no_figure(r, column)));
}

TableData::Given TableData::figures_given(Index column, Diagnostics& notes) const {
  {
    const std::lock_guard lock(mutex_);
    const auto known = given_.find(column);
    if (known != given_.end()) return {&known->second, true};
  }
  Diagnostics strict;
  const std::vector<Rational>& all = figures(column, strict);
  if (!strict.has_errors()) return {&all, false};
  const std::lock_guard lock(mutex_);
  std::vector<Rational> values;
  values.reserve(at(num_rows()));
  const DecimalMark mark = mark_of(column).mark;
  bool clean = true;
  for (Index r = 0; r < num_rows(); ++r) {
    const std::string_view written = cell(r, column);
    std::optional<Rational> value = figure_with(r, column, mark);
    if (!value && is_empty(r, column)) value = Rational(0);
    if (!value && (written == "inf" || written == "-inf"))
      value = written == "inf" ? Rational::infinity() : -Rational::infinity();
    if (!value) notes.error(at_cell(r, column, no_figure(r, column)));
    clean = clean && value;
    values.push_back(value.value_or(Rational(0)));
  }
  if (!clean) return {&values_of_nothing(), false};
  return {&given_.emplace(column, std::move(values)).first->second, true};
}

void TableData::set_keys(const TableOptions& options, Diagnostics& notes) {
  const std::string where = file.empty() ? name : file;
  const auto complain = [&](std::string message) {
    notes.error({where, first_line, 0, std::move(message), false});
  };
  if (options.key.empty()) complain(fmt::format("table {} has no key", name));
  const auto refer = [&](const KeyColumn& k, bool in_key) {
    const Index c = column(k.column);
    if (c < 0) {
      complain(fmt::format("no column '{}' in table {}{}", k.column, name,
                           nearest_hint(k.column, columns)));
      return;
    }
    if (in_key) key.push_back(c);
    if (k.in) tables[c] = k.in;
  };
  for (const KeyColumn& k : options.key) refer(k, true);
  for (const KeyColumn& k : options.refers) refer(k, false);
  if (notes.has_errors()) return;

  for (const auto& [c, table] : tables) {
    std::vector<Index>& rows = references[c];
    rows.reserve(at(num_rows()));
    for (Index r = 0; r < num_rows(); ++r) {
      const std::string_view wanted[] = {cell(r, c)};
      const Index row = table->key.size() == 1 ? table->find(wanted) : -1;
      if (row < 0) {
        std::vector<std::string> known;
        for (Index k = 0; k < std::min<Index>(table->num_rows(), 2000); ++k)
          known.emplace_back(table->cell(k, table->key[0]));
        notes.error(at_cell(r, c,
                            fmt::format("'{}' names no row of table {}{}", wanted[0], table->name,
                                        nearest_hint(wanted[0], known))));
      }
      rows.push_back(std::max<Index>(row, 0));
    }
  }

  std::size_t size = 16;  // a power of two
  while (size < 2 * at(num_rows())) size *= 2;
  slots_.assign(size, {});
  std::vector<std::string_view> keys;
  for (Index r = 0; r < num_rows(); ++r) {
    keys.clear();
    for (const Index c : key) {
      keys.push_back(cell(r, c));
      if (keys.back().empty())
        notes.error(at_cell(r, c,
                            fmt::format("an empty key in column {}{}", columns[at(c)],
                                        r > 0 && !cell(r - 1, c).empty()
                                            ? "; of cells that were merged only the first has the "
                                              "text: fill it down"
                                            : "")));
    }
    const std::uint64_t hash = hash_of(r);
    std::size_t slot = static_cast<std::size_t>(hash) & (size - 1);
    for (; slots_[slot].row >= 0; slot = (slot + 1) & (size - 1)) {
      const Index other = slots_[slot].row;
      if (slots_[slot].tag == tag_of(hash) &&
          std::equal(keys.begin(), keys.end(), key.begin(),
                     [&](std::string_view k, Index c) { return cell(other, c) == k; })) {
        notes.error(at_cell(r, key[0],
                            fmt::format("the key '{}' is there twice; first on line {}",
                                        fmt::join(keys, ", "), lines[at(other)])));
        break;
      }
    }
    if (slots_[slot].row < 0) slots_[slot] = {r, tag_of(hash)};
    if (notes.full()) return;
  }
}

void TableData::set_cell(Index row, Index column, const std::string& replacement) {
  Cell& c =
      cells[static_cast<std::size_t>(row) * columns.size() + static_cast<std::size_t>(column)];
  c.begin = static_cast<std::uint32_t>(text.size());
  c.length = static_cast<std::uint32_t>(replacement.size());
  text += replacement;
}

void TableData::set_figure(Index row, Index column, const Rational& value) {
  set_cell(row, column, kiteknot::decimal(value));
  changed_figures_[{row, column}] = value;
}

void TableData::set_ordered() {
  before.clear();
  after.clear();
  for (Index r = 0; r < num_rows(); ++r) {
    before.push_back(r - 1);
    after.push_back(r + 1 < num_rows() ? r + 1 : -1);
  }
}

}  // namespace kiteknot
