#pragma once
// Steps on a tableau: the ratios of a primal and of a dual step, choosing one by a rule, and going
// on to the end. Sources: Dantzig 1951 (largest gain), Bland 1977 (least index), Goldfarb and Reid
// 1977 (steepest edge), Lemke 1954 (the dual method). All in fractions; nothing is rounded.

#include "kiteknot/tableau.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// How a step is chosen among those that help: by the size of the gain, the least index (which
/// never goes round in a circle), the gain by the length of the edge, or what the step brings.
enum class StepRule { largest, first, steepest, best };
/// As the command line names it.
std::string_view word(StepRule rule);

/// How far a column that comes in can move before a basic one reaches a limit.
struct Ratio {
  Tableau::Column basic = -1;
  Rational entry;                 ///< of the column in its row
  Rational value;                 ///< of the basic one
  bool rises = false;             ///< it moves up as the column comes in
  std::optional<Rational> limit;  ///< that it moves to; none: it may go on for ever
  std::optional<Rational> ratio;  ///< none: it never gets there
  bool smallest = false;
};
struct Ratios {
  Tableau::Column entering = -1;
  bool up = true;                 ///< it rises from where it stands
  bool helps = false;             ///< the goal, or what is missing, gets better by it
  std::vector<Ratio> rows;        ///< one a row
  std::optional<Rational> own;    ///< how far it is to its own other limit
  std::optional<Rational> least;  ///< the smallest of all; none: it has no end
  std::int32_t ties = 0;          ///< rows that have it
  std::int32_t row = -1;          ///< that leaves by the rule; -1: none, its own limit comes first
};
/// Of an other, by its place. A basic one that is outside its limits ends the step where it comes
/// in. Ties go to the least column.
Ratios ratios(const Tableau& tableau, std::int32_t place);

/// What each other costs the goal for one unit of the row that is taken out.
struct DualRatio {
  Tableau::Column other = -1;
  Rational entry, gain;
  bool can = false;               ///< it can move the row towards its limit
  std::optional<Rational> ratio;  ///< |gain| over |entry|, of those that can
  bool smallest = false;
};
struct DualRatios {
  Tableau::Column leaving = -1;
  Rational value, limit;  ///< of it, and what it is brought to
  bool to_high = false;
  std::vector<DualRatio> places;  ///< one an other
  std::int32_t place = -1;        ///< that comes in by the rule; -1: none, there is no plan
  std::int32_t ties = 0;
};
/// UsageError where the basic one is within its limits.
DualRatios dual_ratios(const Tableau& tableau, std::int32_t row);

/// What one step did.
struct TableauStep {
  bool dual = false, first_phase = false;
  Tableau::Column entering = -1, leaving = -1;  ///< leaving -1: it went to its own other limit
  Rational entry;                               ///< the pivot
  Rational moved;                               ///< by how much the entering one moved
  std::optional<Ratios> ratios;
  std::optional<DualRatios> dual_ratios;
  Rational goal_before, goal_after, missing_before, missing_after;
};

/// The column at this place comes in; the smallest ratio tells who leaves. Nothing where there is
/// no end to it.
std::optional<TableauStep> bring_in(Tableau& tableau, std::int32_t place);
/// The same for a named row. UsageError for an entry of 0.
TableauStep bring_in(Tableau& tableau, std::int32_t place, std::int32_t row);
/// The row goes out to the limit that it is beyond; the smallest ratio tells who comes in. Nothing
/// where nobody can: no plan meets the row.
std::optional<TableauStep> take_out(Tableau& tableau, std::int32_t row);
/// The row's basic column leaves, the one at this place comes in.
TableauStep take_out(Tableau& tableau, std::int32_t row, std::int32_t place);

/// What is to be done next, by the signs.
enum class TableauState {
  optimal,
  primal,     ///< feasible, and something makes the goal better
  dual,       ///< not feasible, and nothing would make the goal better
  neither,    ///< a first phase is called for
  infeasible  ///< shown: by a column without a value, or a first phase at its end
};
/// What the page says of it.
TableauState state(const Tableau& tableau);

/// The place that a primal step would bring in, or the row that a dual one would take out; -1:
/// none.
std::int32_t next_place(const Tableau& tableau, StepRule rule);
/// Of a step that lowers what is missing; -1: none.
std::int32_t next_row(const Tableau& tableau, StepRule rule);

/// How a run of steps ended.
struct TableauRun {
  enum class End { optimal, feasible, unbounded, infeasible, neither, limit };
  End end = End::optimal;
  std::vector<TableauStep> steps;
  /// Of an unbounded goal the column that shows it, of an infeasible tableau the basic one; -1: a
  /// first phase that came to its end shows it.
  Tableau::Column shown_by = -1;
  bool by_first =
      false;  ///< steps that moved nothing came one upon another: least index since then
};
/// Steps until the goal is at its best, or `most` of them. In the first phase: until nothing is
/// missing (`feasible`), which ends that phase.
TableauRun run(Tableau& tableau, StepRule rule, std::int32_t most = 10'000);

}  // namespace kiteknot
#pragma GCC visibility pop
