#pragma once
// From text to statements of tokens. A statement starts in column one; a line that starts with
// white space goes on with it. The rows of a table block are kept as text.

#include <string>
#include <string_view>
#include <vector>

#include "formats/knot/syntax.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot::formats::knot {

struct RawStatement {
  std::vector<Token> tokens;  // the last one is an end
  std::string stated;
  std::string block;  // raw lines of a table block
  int block_line = 0;
};

std::vector<RawStatement> lex(std::string_view text, const std::string& file, Diagnostics& notes);

bool reserved(std::string_view word);
/// Of a function that is built in: no curve has that name.
bool function(std::string_view word);

}  // namespace kiteknot::formats::knot
