#pragma once
// Words for people: near names, figures with thousands separators, lists in a sentence.

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "kiteknot/errors.hpp"
#include "kiteknot/rational.hpp"

namespace kiteknot {

/// The known name nearest to `wanted` (optimal string alignment distance, case ignored), or ""
/// where none is near enough to be meant: at most a third of its letters differ.
std::string nearest_name(std::string_view wanted, std::span<const std::string> known);

/// "; nearest is 'capacity'", or "" where nothing is near.
std::string nearest_hint(std::string_view wanted, std::span<const std::string> known);
/// The same, and where nothing is near what there is: "; there are rain and wind".
std::string known_hint(std::string_view wanted, const std::vector<std::string>& known);

/// "1,200", "0.25", "-3.5", "1/3" as 0.3333333; at most 7 significant digits behind the point.
std::string figure(const Rational& value);
std::string figure(double value);

/// As people calculate with it: "3/2", "-4".
std::string fraction(const Rational& value);

/// For files: the exact decimal, or the nearest double's shortest one where there is none.
std::string decimal(const Rational& value);

/// To four digits, whole figures in full: "8.267", "17,640".
std::string rough(double value);
/// "2.0 %"
std::string percent(double share);

/// "0.01 s", "12 s", "3 min 20 s"
std::string duration(double seconds);

/// "a", "a and b", "a, b and c"; after `most` names "... and 7 more".
std::string listed(std::span<const std::string> names, std::size_t most = 12);

/// Signs that a terminal would obey or swallow, shown: ESC as U+241B, a line break as U+240A, signs
/// that turn the direction of writing by their number. Documents keep them as they are. `kept`
/// stays.
std::string visible(std::string_view text, char kept = '\0');

/// The place of the first byte that is not UTF-8, or npos.
std::size_t not_utf8(std::string_view text);

/// "1 rule", "3 rules"
std::string counted(std::size_t count, std::string_view noun);

}  // namespace kiteknot
