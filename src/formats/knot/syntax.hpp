#pragma once
// The syntax tree of a Knot file: what the parser builds and the binder gives a meaning.

#include <memory>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "kiteknot/outcome.hpp"
#include "kiteknot/rational.hpp"
#include "kiteknot/table.hpp"

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
  name,       // text: a row, number, decision, named expression or goal
  cell,       // args[0] . text
  member,     // text [ args ]
  negate,     // args[0]
  add,        // all args
  multiply,   // all args
  divide,     // 1 / args[0]
  power,      // args[0] ^ args[1]
  total,      // args[0] over rows where args[1] (if there)
  compare,    // args[0] text args[1]
  range,      // args[0] <= args[1] <= args[2]
  both,       // args: and
  either,     // args: or
  inverse,    // not args[0]
  exclusive,  // args[0] xor args[1]
  implies,    // args[0] implies args[1]
  same,       // args[0] iff args[1]
  count_of,   // text ("most", "least", "exactly") args[0] of the others; with rows: of args[1] over
              // rows where args[2] (if there)
  apply,      // text ( args ): a curve, or min, max, abs, sqrt, exp, log, round, floor, ceil
  extreme,    // text (largest, smallest): args[0] over rows where args[1] (if there)
  number_of,  // count(over rows where args[0] (if there))
  choice,     // if args[0] then args[1] else args[2]
  has,        // text (a table) has (args)
  beside,     // text (before, after) of the row args[0]
  at_end      // text (first, last): whether the row args[0] is it
};

/// ROW in TABLE
struct RowName {
  std::string row, table;
  Position at, table_at;
};

struct SyntaxNode;
using NodePtr = std::unique_ptr<SyntaxNode>;

struct SyntaxNode {
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

/// A name or a text, and where it stands.
struct Told {
  std::string text;
  Position at;
};

/// LEGS forms tour | at most N tours over STOPS, and more about it.
struct TourText {
  Told legs, stops;
  Position at;
  NodePtr at_most;  // several tours
  std::optional<Told> visiting, from, carrying;
  NodePtr capacity;  // with carrying
  std::vector<std::pair<Told, Told>> ahead;
};

enum class StatementKind { model, table, column, number, curve, decide, let, goal, rule, scenario };

enum class CurveShape { tiers, all_units, through, table };

enum class ChangeKind { number, cell, scale, with, without, hold, table };

/// One change of a scenario.
struct ScenarioChange {
  ChangeKind kind = ChangeKind::number;
  Position at;
  std::string name;               // of the number, table or rule
  std::string column;             // cell, scale
  std::vector<std::string> keys;  // cell
  NodePtr value;                  // number, cell, scale, hold
  NodePtr decision;               // hold
  std::string file;               // table
  /// What is changed; two changes of one thing are an error.
  [[nodiscard]] std::string thing() const;
};

// What a statement says beside its name, in the order of StatementKind.

struct ModelText {};

struct TableText {
  std::string file;  // "" where the rows stand in the model
  Position file_at;
  std::string query;  // of a database
  std::vector<KeyName> keys, refers;
  std::optional<KeyName> across;  // headings of the columns that are no keys are a key as well, ...
  std::string across_as;          // ... and their cells one column
  std::string block;              // the rows, with their line numbers kept
  int block_line = 0;
  bool ordered = false;
  DecimalMark decimal = DecimalMark::as_found;
  std::string combined;  // "pairs" or "product": of the tables below
  std::vector<RowName> of;
};

struct ColumnText {
  std::string table;
};

struct NumberText {};

struct CurveText {
  CurveShape shape = CurveShape::tiers;
  NodePtr once;
  std::vector<NodePtr> rates,
      widths;               // tiers (the last width may be missing), all units (from), points
  std::vector<RowName> of;  // the table, if it is from one
  std::string at_column, value_column;
};

struct DecideText {
  bool integer = true, bounded = false;
  bool or_zero = false;
  NodePtr low, high;
  std::vector<NodePtr> values;  // one of
};

struct LetText {};

struct GoalText {
  Sense sense = Sense::minimize;
  Rational yields{};
};

struct RuleText {
  bool off = false;
  NodePtr price;
  std::optional<TourText> tour;  // in place of a body
};

struct ScenarioText {
  std::string like;
  Position like_at;
  std::vector<ScenarioChange> changes;
};

struct Statement {
  Position at;
  bool broken = false;  // only its name could be read; it was complained about
  std::string stated;   // the source, white space folded
  Heading heading;      // name of what is stated
  NodePtr body;         // expression, condition
  std::variant<ModelText, TableText, ColumnText, NumberText, CurveText, DecideText, LetText,
               GoalText, RuleText, ScenarioText>
      text;

  [[nodiscard]] StatementKind kind() const { return static_cast<StatementKind>(text.index()); }
  template <class Text>
  [[nodiscard]] const Text& as() const {
    return std::get<Text>(text);
  }
};

}  // namespace kiteknot::formats::knot
