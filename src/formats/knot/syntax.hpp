#pragma once
// The syntax tree of a Knot file: what the parser builds and the binder gives a meaning.

#include <memory>
#include <string>
#include <vector>

#include "kiteknot/outcome.hpp"
#include "kiteknot/rational.hpp"

namespace kiteknot::formats::knot {

struct Position {
  int line = 0, column = 0;  // from 1
};

enum class TokenKind { word, number, text, symbol, end };

struct Token {
  TokenKind kind = TokenKind::end;
  std::string text;  // a word, a symbol, the inside of a text
  Rational value;    // of a number
  Position at;
};

enum class NodeKind {
  number,  // value
  text,    // text
  infinity,
  name,    // text: a row, number, decision, named expression or goal
  cell,    // args[0] . text
  member,  // text [ args ]
  negate,  // args[0]
  add,
  subtract,
  multiply,
  divide,
  total,    // args[0] over rows where args[1] (if there)
  compare,  // args[0] text args[1]
  range,    // args[0] <= args[1] <= args[2]
  both,     // args: and
  either,   // args: or
  inverse   // not args[0]
};

/// ROW in TABLE
struct RowName {
  std::string row, table;
  Position at, table_at;
};

struct Node;
using NodePtr = std::unique_ptr<Node>;

struct Node {
  NodeKind kind = NodeKind::number;
  Position at;
  std::string text;
  Rational value;
  std::vector<NodePtr> args;
  std::vector<RowName> rows;  // total
};

/// NAME[ROW in TABLE, ... where condition]
struct Heading {
  std::string name;
  Position at;
  std::vector<RowName> rows;
  NodePtr where;
};

struct KeyName {
  std::string column, table;  // table: "" for none
  Position at, table_at;
};

enum class StatementKind { model, table, column, number, decide, let, goal, rule };

struct Statement {
  StatementKind kind = StatementKind::model;
  Position at;
  bool broken = false;  // only its name could be read; it was complained about
  std::string stated;   // the source, white space folded
  Heading heading;      // name of what is stated
  NodePtr body;         // expression, condition
  // table
  std::string file;  // "" where the rows stand in the model
  Position file_at;
  std::vector<KeyName> keys, refers;
  std::string block;  // the rows, with their line numbers kept
  int block_line = 0;
  // column TABLE.NAME
  std::string table;
  // decide
  bool integer = true, bounded = false;
  NodePtr low, high;
  // goal
  Sense sense = Sense::minimize;
};

}  // namespace kiteknot::formats::knot
