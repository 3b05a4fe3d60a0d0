#include "lp/working_program.hpp"

#include <algorithm>
#include <cmath>

#include "lp/scaling.hpp"

namespace kiteknot::lp {

void WorkingProgram::set_cost(Index j, double value) {
  touch();
  const double old = program.cost(j);
  program.set_cost(j, value);
  goal.changed = goal.changed || old != value;
  goal.loaded = false;
  if (old != value) ++goal.number;
}

void WorkingProgram::set_bounds(Index j, double low, double high) {
  touch();
  program.set_bounds(j, low, high);
  if (j < n) note_moved(j);
}

void WorkingProgram::set_row_limits(Index i, double low, double high) {
  touch();
  program.set_row_limits(i, low, high);
  if (i < m) note_moved(n + i);
}

// Bounds that moved, and costs where they may differ; returns whether some cost did.
bool WorkingProgram::load_bounds_and_costs() {
  if (moved.all) {
    unboxed = 0;
    for (Index k = 0; k < n + m; ++k) {
      lower[at(k)] = k < n ? program.lower(k) : program.row_lower(k - n);
      upper[at(k)] = k < n ? program.upper(k) : program.row_upper(k - n);
      unboxed += boxed(k) ? 0 : 1;
    }
  } else {
    for (const Index k : moved.list) load_bounds(k);
  }
  return load_costs();
}

void WorkingProgram::load_bounds(Index k) {
  unboxed -= boxed(k) ? 0 : 1;
  lower[at(k)] = k < n ? program.lower(k) : program.row_lower(k - n);
  upper[at(k)] = k < n ? program.upper(k) : program.row_upper(k - n);
  unboxed += boxed(k) ? 0 : 1;
}

bool WorkingProgram::load_costs() {
  if (goal.loaded && !goal.shifted) return false;
  bool differ = false;
  goal.largest = 1.0;
  for (Index j = 0; j < n; ++j) {
    differ = differ || cost[at(j)] != program.cost(j);
    cost[at(j)] = program.cost(j);
    goal.largest = std::max(goal.largest, std::abs(program.cost(j)) / unit[at(j)]);
  }
  for (Index i = 0; i < m; ++i) {
    differ = differ || cost[at(n + i)] != 0.0;
    cost[at(n + i)] = 0.0;
  }
  goal.shifted = false;
  goal.loaded = true;
  return differ;
}

void WorkingProgram::note_moved(Index k) {
  if (moved.all || moved.listed[at(k)]) return;
  moved.listed[at(k)] = 1;
  moved.list.push_back(k);
}

// Every variable stands at its bounds, with a reduced cost of the right sign.
void WorkingProgram::nothing_moved() {
  for (const Index k : moved.list) moved.listed[at(k)] = 0;
  moved.list.clear();
  moved.all = false;
}

bool WorkingProgram::boxed(Index k) const {
  return std::isfinite(lower[at(k)]) && std::isfinite(upper[at(k)]);
}

// Columns are measured again only when some were added: new rows take the columns' units.
void WorkingProgram::measure_units(Index rows_before) {
  if (columns_measured != n) {
    columns_measured = n;
    rows_before = 0;
    const std::vector<double> scale =
        column_scales(program.rows(), std::vector<char>(at(n), char{1}));
    for (Index j = 0; j < n; ++j) unit[at(j)] = 1.0 / scale[at(j)];
    work.add(program.num_nonzeros());
  }
  for (Index i = rows_before; i < m; ++i) measure_unit(i);
}

void WorkingProgram::measure_unit(Index row) {
  double largest = 0.0;
  const auto index = program.rows().index(row);
  const auto value = program.rows().value(row);
  for (std::size_t e = 0; e < index.size(); ++e)
    largest = std::max(largest, std::abs(value[e]) / unit[at(index[e])]);
  unit[at(n + row)] = row_scale({&largest, 1});
}

}  // namespace kiteknot::lp
