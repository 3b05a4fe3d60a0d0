#include "mip/relaxation.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {

Relaxation::Relaxation(const Problem& problem) {
  for (Index j = 0; j < problem.num_columns(); ++j)
    simplex_.add_column(problem.cost(j), problem.lower(j),
                        std::max(problem.lower(j), problem.upper(j)));
  simplex_.set_cost_exact(problem.cost_exact());
}

Index Relaxation::add(const RowView& row) {
  double largest = 0.0;
  for (const double v : row.value) largest = std::max(largest, std::abs(v));
  const double scale = largest > 0.0 ? std::ldexp(1.0, -std::ilogb(largest)) : 1.0;
  std::vector<Entry> entries;
  entries.reserve(row.index.size());
  for (std::size_t k = 0; k < row.index.size(); ++k)
    if (row.value[k] != 0.0) entries.push_back({row.index[k], row.value[k] * scale});
  scale_.push_back(scale);
  return simplex_.add_row(row.lower * scale, row.upper * scale, entries, row.exact);
}

void Relaxation::set_limits(Index row, double lower, double upper) {
  const double scale = scale_[static_cast<std::size_t>(row)];
  simplex_.set_row_limits(row, lower * scale, upper * scale);
}

void Relaxation::take_bounds(const Domain& domain, bool loose) {
  const Problem& problem = domain.problem();
  for (Index j = 0; j < problem.num_columns(); ++j) {
    double lower = domain.lower(j), upper = domain.upper(j);
    if (loose && !problem.integer(j)) {
      if (lower != std::trunc(lower)) lower = problem.lower(j);
      if (upper != std::trunc(upper)) upper = problem.upper(j);
    }
    simplex_.set_bounds(j, lower, upper);
  }
}

std::vector<double> Relaxation::row_duals() {
  std::vector<double> y = simplex_.row_duals();
  for (std::size_t i = 0; i < y.size(); ++i) y[i] *= scale_[i];
  return y;
}

Interval Relaxation::limit_room(Index row) {
  const Interval room = simplex_.limit_room(row);
  const double scale = scale_[static_cast<std::size_t>(row)];
  return {room.low / scale, room.high / scale};
}

}  // namespace kiteknot::mip
