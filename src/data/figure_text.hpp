#pragma once
// Figures as people and spreadsheets write them: decimal point or decimal comma, thousands set
// apart, a percent sign, a currency sign. What a text can mean in two ways is no figure until it is
// known which mark its table uses.

#include <optional>
#include <string>
#include <string_view>

#include "kiteknot/rational.hpp"
#include "kiteknot/table.hpp"

namespace kiteknot {

/// The figure that the text stands for where `mark` is the decimal mark; nothing: it is none, or,
/// with DecimalMark::as_found, it would be another one with the other mark. Exactly `1.500` counts
/// as 1.5 there, as in every program's own numbers.
std::optional<Rational> figure_of(std::string_view text, DecimalMark mark);

/// Whether a text, "1.250", is one figure with a decimal point and another one where points set
/// thousands apart.
bool may_be_thousands(std::string_view text);

/// What a text says about the mark of its table: `point` or `comma` where it is a figure with one
/// of them only, else `as_found`.
DecimalMark mark_told_by(std::string_view text);

}  // namespace kiteknot
