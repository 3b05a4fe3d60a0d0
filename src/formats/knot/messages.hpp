#pragma once
// What the reader of the Knot language says when something is wrong. One recipe: what was found,
// what was expected, what may have been meant; one sentence without a full stop, names in quotes.

#include <span>
#include <string>
#include <vector>

#include "formats/knot/syntax.hpp"
#include "model/model_data.hpp"

namespace kiteknot::formats::knot::messages {

/// "the figure 3", "'rule'", "the end of the statement"
std::string told(const Token& token);
/// "lanes (depot, field)": a table and its key.
std::string told(const TableData& table);
/// The tables of an index and their keys; "nothing" where there are none.
std::string told(std::span<const Table> tables);

std::string expected(std::string_view what, const Token& found);
std::string unknown_statement(const std::string& word);
std::string not_read_yet(const std::string& word);
std::string reserved_word(const std::string& word, std::string_view what);
std::string nested_too_deep(int levels);
std::string too_many_terms(int terms);

std::string no_column(const std::string& column, const TableData& table);
std::string no_column(const std::string& column, const std::string& table,
                      std::span<const std::string> known);
std::string no_reference(const std::string& column, const TableData& table);
std::string no_table(const std::string& name, std::span<const std::string> known);
std::string no_row_name(const std::string& name, std::span<const std::string> rows);
std::string no_value(const std::string& name, std::span<const std::string> known);
std::string no_family(const std::string& name, std::span<const std::string> known);
std::string row_as_figure(const std::string& row, const TableData& table);
std::string table_as_figure(const std::string& table);
std::string key_without_quotes(const std::string& name);
std::string key_of_several(const std::string& row, const TableData& table);
std::string wrong_key_count(const std::string& name, std::span<const Table> tables,
                            std::size_t given);
std::string wrong_key_table(const std::string& name, std::span<const Table> tables,
                            const std::string& row, const TableData& row_table,
                            const std::string& column);
std::string no_curve(const std::string& name, std::span<const std::string> known);
/// "nothing comes before w1, the first row of weeks"
std::string no_neighbour(const TableData& table, Index row, bool before);
std::string no_member(const std::string& name, const std::vector<std::string>& keys,
                      const IndexSet& index);
std::string no_member(const std::string& name, std::span<const std::string_view> keys,
                      const TableData& table);

/// A hint to our own word for a thing that goes by another name elsewhere; empty: there is none.
std::string said_here_as(std::string word);
std::string stated_before(std::string_view what, const std::string& name, int line);
std::string circle(const std::vector<std::string>& through);
/// `row`: one in view that has a column of this name, or empty.
std::string text_for_figure(const std::string& text, const std::string& row);
std::string decides_nothing(std::span<const std::string> empty_tables);

}  // namespace kiteknot::formats::knot::messages
