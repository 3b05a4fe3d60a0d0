#pragma once
// Recursive descent over the tokens of one statement; a statement with an error is left out and the
// next one is read. One message recipe: what was found, what was expected.

#include <vector>

#include "formats/knot/lexer.hpp"

namespace kiteknot::formats::knot {

std::vector<Statement> parse(std::vector<RawStatement> statements, const std::string& file,
                             Diagnostics& notes);

/// A condition by itself; null where there is none to read. Positions are told as of `named`.
NodePtr parse_question(const std::string& text, const std::string& named, Diagnostics& notes);

}  // namespace kiteknot::formats::knot
