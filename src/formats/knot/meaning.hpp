#pragma once
// A syntax tree with every name looked up: what the evaluator walks once a row. Rows live in slots;
// a slot is the place of its row name in the scope.

#include <memory>
#include <string>
#include <vector>

#include "formats/knot/syntax.hpp"
#include "model/model_data.hpp"

namespace kiteknot::formats::knot {

/// An error at a place of the model file.
struct Failure {
  Position at;
  std::string message;
};

enum class Op {
  constant,  // value
  cell,      // the figure of a cell
  number,    // number
  decision,  // a member of family
  named,     // a member of let
  negate,
  add,       // of all args
  multiply,  // of all args
  divide,    // 1 / args[0]
  power,     // args[0] ^ args[1]
  total,
  apply,         // curve, or text: min, max, abs, sqrt, exp, log, round, floor, ceil
  extreme,       // text: largest, smallest
  number_of,     // of rows
  choice,        // args: a condition on data, then, else
  compare,       // text: the sign
  range,         // args[0] <= args[1] <= args[2]
  compare_text,  // two keys, "=" or "!="
  truth,         // args[0], a binary decision, is 1
  has,           // member[0] names a row of its table
  at_end,        // path: the row; text: first, last
  both,
  either,
  inverse,
  exclusive,
  implies,
  same,
  count_of  // text: most, least, exactly; args[0] of the others, or of args[1] over the levels
};

struct Key;

/// How to get from a slot's row, or the row that keys name, to a cell: through references, then a
/// column.
struct CellPath {
  int slot = -1;
  std::vector<Key> keys;  // without a slot: of a row of `start`
  const TableData* start = nullptr;
  std::vector<const std::vector<Index>*> steps;
  const TableData* table = nullptr;                // of the row that the steps lead to
  Index column = -1;                               // stored column, or -1
  Position at{};                                   // for a step that leads to no row
  const std::vector<Rational>* figures = nullptr;  // where the cell is used as a figure
  bool some_special = false;                       // some figures are empty cells, or infinite
};

/// A text to look up or compare: a literal, a row's key, or a cell.
struct Key {
  enum class Kind { literal, row, cell } kind = Kind::literal;
  std::string text;
  CellPath path;  // row: slot and table only
  Position at;
};

/// One table of a family's index, and what names its row: a row in a slot, or the key's texts.
struct MemberPart {
  int slot = -1;
  CellPath path{};  // with a slot: how to get to the row from there
  std::vector<Key> keys;
};

struct Meaning;
using MeaningPtr = std::unique_ptr<Meaning>;

[[noreturn]] inline void fail(Position at, std::string message) {
  throw Failure{at, std::move(message)};
}
/// One row name of a total, how its rows are found, and the conditions that can be tested then.
struct Level {
  int slot = 0;
  const TableData* table = nullptr;
  Index lookup_column = -1;  // rows whose cell equals lookup
  Key lookup;
  std::vector<const Meaning*> guards;  // that do not depend on this row or a later one: first
  std::vector<const Meaning*> tests;
};

struct Meaning {
  Op op = Op::constant;
  Position at;
  bool has_decisions = false, has_numbers = false;
  bool infinite_too = false;  // cell: a bound may have no end
  [[nodiscard]] bool is_figure() const noexcept { return !has_decisions && !has_numbers; }
  Rational value;
  std::string text;
  CellPath path;
  Key left, right;
  Index number = -1;
  std::shared_ptr<const Family> family;
  std::shared_ptr<const LetFamily> named;
  std::shared_ptr<const CurveData> curve;
  const TableData* table = nullptr;  // has
  MeaningPtr where;                  // of levels
  std::vector<MemberPart> member;
  std::vector<Level> levels;
  std::vector<MeaningPtr> args;
};

inline MeaningPtr make_meaning(Op op, Position at) {
  auto m = std::make_unique<Meaning>();
  m->op = op;
  m->at = at;
  return m;
}

}  // namespace kiteknot::formats::knot
