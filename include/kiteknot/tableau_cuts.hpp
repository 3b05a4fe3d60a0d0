#pragma once
// Cutting planes read off a row of a tableau, with every step of how they come about. Sources:
// Gomory 1958, "Outline of an algorithm for integer solutions to linear programs" (fractional cut);
// Gomory 1960, "An algorithm for the mixed integer problem" (mixed-integer cut). All in fractions.

#include "kiteknot/tableau_steps.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// The sum of coefficient x column is at least (`at_least`) or at most `limit`.
struct TableauSum {
  std::vector<std::pair<Tableau::Column, Rational>> terms;
  bool at_least = true;
  Rational limit;
};

/// Where an other stands in the row that a cut comes from: by how much it is off its limit counts.
struct CutTerm {
  Tableau::Column column = -1;
  bool from_high = false;  ///< off its greatest value, downward
  Rational entry;          ///< in the row, of one step off the limit
  bool whole = false;      ///< it moves in whole steps
  Rational step;           ///< of that size; 1 where it is not whole
  Rational fraction;       ///< of entry x step, where it is whole
  Rational coefficient;    ///< in the cut, of one step
};

struct TableauCut {
  enum class Kind { fractional, mixed };
  Kind kind = Kind::fractional;
  Tableau::Column source = -1;  ///< the basic one of the row; -1: the goal's row
  Rational value, step;         ///< of it: value / step is not whole
  Rational fraction;            ///< the part of value / step above the whole one
  std::vector<CutTerm> terms;   ///< sum of coefficient x steps off the limit >= fraction
  TableauSum in_others;         ///< the same in the names of the others
  TableauSum in_decisions;  ///< and in decisions (and helpers), in small whole numbers if it can
  std::string name;         ///< "cut 1"
};

/// Rows whose basic one has to be whole and is not; -1 at the end: the goal's row is one.
std::vector<std::int32_t> fractional_rows(const Tableau& tableau);
/// Why no fractional cut can be read off this row (-1: the goal's); empty: one can.
std::string why_no_fractional_cut(const Tableau& tableau, std::int32_t row);
/// UsageError where the row is whole, or, for a fractional cut, as said above.
TableauCut derive_cut(const Tableau& tableau, std::int32_t row, TableauCut::Kind kind);
/// As the next row of the tableau, with its room as a basic column, which is returned.
Tableau::Column append(Tableau& tableau, const TableauCut& cut);

/// A sum in other names: rooms by their rows, so that only decisions and helpers are left.
TableauSum in_decisions(const Tableau& tableau, const TableauSum& sum);
/// The left side's value as the tableau stands.
Rational value_of(const Tableau& tableau, const TableauSum& sum);

/// One round of cutting until all is whole.
struct CutRound {
  TableauCut cut;
  Rational before, after;       ///< the goal
  std::vector<Rational> point;  ///< of decisions and helpers, after the steps
  TableauRun steps;
  std::vector<std::string> dropped;  ///< cuts that hold nothing back any more
};
struct CutRun {
  enum class End { whole, infeasible, limit, not_optimal, too_long };
  End end = End::whole;
  TableauRun first;  ///< the way to the goal's best before any cut, where it was not there
  std::vector<CutRound> rounds;
};
/// Steps to the goal's best, then rounds from the first fractional row by column, until every
/// decision is whole, or `most` of them; `too_long`: denominators got more than `digits` digits.
/// Fractional cuts where the row admits one, unless `mixed`.
inline constexpr std::size_t kReadableDigits = 9;
/// Cut after cut, until the point is whole, none is found or there were `most`.
CutRun cut_all_the_way(Tableau& tableau, StepRule rule, bool mixed, std::int32_t most = 100,
                       std::size_t digits = kReadableDigits);

}  // namespace kiteknot
#pragma GCC visibility pop
