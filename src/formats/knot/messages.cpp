#include "formats/knot/messages.hpp"

#include <algorithm>
#include <cctype>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"

namespace kiteknot::formats::knot::messages {

std::string told(const Token& t) {
  switch (t.kind) {
    case TokenKind::end:
      return "the end of the statement";
    case TokenKind::text:
      return fmt::format("the text \"{}\"", t.text);
    case TokenKind::number:
      return fmt::format("the figure {}", t.text);
    default:
      return fmt::format("'{}'", t.text);
  }
}

std::string told(const TableData& table) {
  std::vector<std::string> names;
  for (const Index c : table.key) names.push_back(table.columns[static_cast<std::size_t>(c)]);
  return fmt::format("{} ({})", table.name, fmt::join(names, ", "));
}

std::string told(std::span<const Table> tables) {
  std::vector<std::string> names;
  for (const Table& t : tables) names.push_back(told(t.data()));
  return names.empty() ? "nothing" : fmt::format("{}", fmt::join(names, " and "));
}

std::string expected(std::string_view what, const Token& found) {
  return fmt::format("{} was expected, not {}", what, told(found));
}

// What people write on paper, or elsewhere, for what goes by another name here; empty: no idea.
std::string said_here_as(std::string word) {
  std::transform(word.begin(), word.end(), word.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  static const std::pair<std::vector<std::string_view>, std::string_view> kHints[] = {
      {{"var", "vars", "variable", "variables", "binary", "integer", "int", "real", "bool"},
       "decide NAME[row in TABLE] binary"},
      {{"param", "params", "parameter", "parameters", "const", "constant"},
       "number NAME = 3, or a column of a table"},
      {{"set", "sets", "data", "index", "range"}, "table NAME from \"file.csv\" key COLUMN"},
      {{"constraint", "constraints", "subject", "st", "such", "rules", "forall", "foreach", "for"},
       "rule NAME[row in TABLE]: left <= right"},
      {{"objective", "goal", "min", "minimise", "minimum", "cost"}, "minimize NAME: expression"},
      {{"max", "maximise", "maximum", "profit"}, "maximize NAME: expression"},
      {{"sum", "sigma", "add"}, "total(expression over row in TABLE)"},
      {{"size", "length", "card", "len"}, "count(over row in TABLE)"},
      {{"avg", "average", "mean"},
       "total(expression over row in TABLE) / count(over row in TABLE)"},
      {{"end", "solve", "display", "print"},
       "nothing: the file ends where it ends, and 'kiteknot solve FILE' solves it"}};
  for (const auto& [words, hint] : kHints)
    if (std::find(words.begin(), words.end(), word) != words.end())
      return fmt::format("; here that is {}", hint);
  return {};
}

std::string unknown_statement(const std::string& word) {
  static const std::vector<std::string> kStarts = {"model",    "table", "column", "number",
                                                   "decide",   "let",   "curve",  "minimize",
                                                   "maximize", "rule"};
  const std::string hint = said_here_as(word);
  return fmt::format("no statement starts with '{}'{}", word,
                     hint.empty() ? nearest_hint(word, kStarts) : hint);
}

std::string not_read_yet(const std::string& word) {
  return fmt::format("'{}' is not read by this version", word);
}

std::string reserved_word(const std::string& word, std::string_view what) {
  return fmt::format("'{}' is a word of the language and cannot name {}", word, what);
}

std::string nested_too_deep(int levels) {
  return fmt::format("the expression is nested more than {} levels deep", levels);
}

std::string too_many_terms(int terms) {
  return fmt::format(
      "more than {} written terms in one chain; use a table and total(...), or 'at least 1 of'",
      terms);
}

std::string no_column(const std::string& column, const TableData& table) {
  return no_column(column, table.name, table.all_columns());
}

std::string no_column(const std::string& column, const std::string& table,
                      std::span<const std::string> known) {
  return fmt::format("no column '{}' in table {}{}", column, table, nearest_hint(column, known));
}

std::string no_reference(const std::string& column, const TableData& table) {
  return fmt::format(
      "column '{}' of table {} refers to no table, so nothing can be read through it", column,
      table.name);
}

std::string no_table(const std::string& name, std::span<const std::string> known) {
  return fmt::format("there is no table '{}'{}", name, nearest_hint(name, known));
}

std::string no_row_name(const std::string& name, std::span<const std::string> rows) {
  if (rows.empty())
    return fmt::format(
        "'{}' is no row name here; rows are named in [row in table] and in total(... over row in "
        "table)",
        name);
  return fmt::format("'{}' is no row name here{}", name, nearest_hint(name, rows));
}

std::string no_value(const std::string& name, std::span<const std::string> known) {
  return fmt::format("nothing has the name '{}'{}", name, nearest_hint(name, known));
}

std::string no_family(const std::string& name, std::span<const std::string> known) {
  return fmt::format("no decision or expression has the name '{}'{}", name,
                     nearest_hint(name, known));
}

std::string row_as_figure(const std::string& row, const TableData& table) {
  return fmt::format("'{}' is a row; name one of its columns, such as {}.{}", row, row,
                     table.all_columns().back());
}

std::string table_as_figure(const std::string& table) {
  return fmt::format("'{}' is a table; an expression reads it by 'total(... over r in {})'", table,
                     table);
}

std::string key_without_quotes(const std::string& name) {
  return fmt::format("'{}' is no row name here; a key in quotes was perhaps meant: \"{}\"", name,
                     name);
}

std::string key_of_several(const std::string& row, const TableData& table) {
  return fmt::format("'{}' is a row of {}, whose key has {}; name one of them", row, told(table),
                     counted(table.key.size(), "column"));
}

std::string wrong_key_count(const std::string& name, std::span<const Table> tables,
                            std::size_t given) {
  const std::string count =
      given == 0 ? "no key was" : counted(given, "key") + (given == 1 ? " was" : " were");
  return fmt::format("{} is indexed by {}; {} given", name, told(tables), count);
}

std::string wrong_key_table(const std::string& name, std::span<const Table> tables,
                            const std::string& row, const TableData& row_table,
                            const std::string& column) {
  return fmt::format("{} is indexed by {}; '{}' is a row of {}, where {} belongs", name,
                     told(tables), row, row_table.name, column);
}

std::string no_curve(const std::string& name, std::span<const std::string> known) {
  const std::string hint = said_here_as(name);
  return fmt::format("no curve and no function '{}'{}", name,
                     hint.empty() ? nearest_hint(name, known) : hint);
}

std::string no_neighbour(const TableData& table, Index row, bool before) {
  return fmt::format("nothing comes {} {}, the {} row of {}; guard it with 'where' or 'if'",
                     before ? "before" : "after", fmt::join(table.keys_of(row), ", "),
                     before ? "first" : "last", table.name);
}

std::string no_member(const std::string& name, const std::vector<std::string>& keys,
                      const IndexSet& index) {
  return fmt::format("there is no {}{}", full_name(name, keys), index.why_not(keys));
}

std::string no_member(const std::string& name, std::span<const std::string_view> keys,
                      const TableData& table) {
  std::string nearest;  // to the first key that no row has
  for (std::size_t k = 0; k < keys.size() && k < table.key.size() && nearest.empty(); ++k) {
    std::vector<std::string> known;
    for (Index row = 0; row < table.num_rows(); ++row)
      known.emplace_back(table.cell(row, table.key[k]));
    if (std::find(known.begin(), known.end(), keys[k]) == known.end())
      nearest = nearest_hint(std::string(keys[k]), known);
  }
  // The same keys in another order.
  std::vector<std::string_view> turned(keys.begin(), keys.end());
  std::sort(turned.begin(), turned.end());
  if (keys.size() > 1 && keys.size() == table.key.size()) do {
      if (table.find(turned) < 0) continue;
      std::vector<std::string> columns;
      for (const Index c : table.key) columns.push_back(table.columns[static_cast<std::size_t>(c)]);
      return fmt::format(
          "there is no {}[{}]: its keys are in the wrong order; they are {}, as in {}[{}]", name,
          fmt::join(keys, ", "), fmt::join(columns, ", "), name, fmt::join(turned, ", "));
    } while (std::next_permutation(turned.begin(), turned.end()));
  return fmt::format("there is no {}[{}]: table {} has no such row{}", name, fmt::join(keys, ", "),
                     table.name, nearest);
}

std::string stated_before(std::string_view what, const std::string& name, int line) {
  return fmt::format("there is {} '{}' already, on line {}", what, name, line);
}

std::string circle(const std::vector<std::string>& through) {
  return fmt::format("a circle of definitions: {}", fmt::join(through, " needs "));
}

std::string text_for_figure(const std::string& text, const std::string& row) {
  return fmt::format("the text \"{}\" stands where a figure belongs{}", text,
                     row.empty() ? "" : fmt::format("; the column is {}.\"{}\"", row, text));
}

std::string decides_nothing(std::span<const std::string> empty_tables) {
  std::string why = "the model decides nothing: it has no 'decide' statement with a row";
  for (const std::string& table : empty_tables) why += fmt::format("; table {} has no rows", table);
  return why;
}

}  // namespace kiteknot::formats::knot::messages
