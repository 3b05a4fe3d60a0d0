#pragma once
// The program as a solve works with it: bounds and costs of all variables, columns first, then the
// rows' logicals; what of them moved since the last solve; the units in which costs are small.

#include "base/at.hpp"
#include "base/work.hpp"
#include "lp/program.hpp"

namespace kiteknot::lp {

using linalg::Offset;

class WorkingProgram {
 public:
  explicit WorkingProgram(Program stated) : program(std::move(stated)) {}

  void set_cost(Index j, double cost);
  void set_bounds(Index j, double lower, double upper);
  void set_row_limits(Index i, double lower, double upper);
  /// Bounds that moved, and costs where they may differ; returns whether some cost did.
  bool load_bounds_and_costs();
  bool load_costs();
  void note_moved(Index k);
  /// Every variable stands at its bounds, with a reduced cost of the right sign.
  void nothing_moved();
  /// Whatever was found out of the present basis is not known any more.
  void touch() noexcept { ++version; }
  [[nodiscard]] bool boxed(Index k) const;

  Program program;
  Index n = 0, m = 0;                ///< columns and rows that are known here
  std::vector<double> lower, upper;  ///< n + m
  std::vector<double> cost;          ///< n + m; may be shifted
  Index unboxed = 0;                 ///< variables without one of their bounds
  struct {
    bool shifted = false;     ///< cost differs from the program's
    bool loaded = false;      ///< cost is the program's
    bool changed = false;     ///< since the last solve
    std::int64_t number = 0;  ///< how many there have been
    double largest = 1.0;     ///< cost, in units of reduced costs
  } goal;
  /// What a warm start has to look at: variables whose bounds were set since all of them stood at
  /// their bounds, with reduced costs of the right sign; or everything.
  struct {
    std::vector<Index> list;
    std::vector<char> listed;  ///< n + m
    bool all = true;
  } moved;
  /// n + m: the size of one unit of a reduced cost, from the powers of two that would bring the
  /// variable's entries near 1. The program itself is not scaled here: its owner may.
  std::vector<double> unit;
  Index columns_measured = 0;  ///< by the units
  std::int64_t version = 0;    ///< counts what may change an answer
  WorkCounter work;

 protected:
  void load_bounds(Index k);
  void measure_units(Index rows_before);
  void measure_unit(Index row);
};

}  // namespace kiteknot::lp
