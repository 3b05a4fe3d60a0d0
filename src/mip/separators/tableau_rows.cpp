#include "mip/separators/tableau_rows.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {

void TableauRows::look(const SeparationContext& where, std::vector<LinearRow>& found) {
  constexpr std::size_t kMost = 100;  // columns a round
  constexpr double kNoise = 1e-9;     // of the largest multiplier
  lp::Simplex& simplex = where.relaxation.simplex();
  const SumVariables variables(where.relaxation);
  const lp::Program& program = simplex.program();
  order_.clear();
  for (const Index j : simplex.basic()) {
    if (j >= variables.num_columns() || !where.domain.problem().integer(j)) continue;
    const double fraction = where.point[at(j)] - std::floor(where.point[at(j)]);
    if (std::min(fraction, 1.0 - fraction) > 0.01) order_.emplace_back(std::abs(fraction - 0.5), j);
  }
  std::sort(order_.begin(), order_.end());
  if (order_.size() > kMost) order_.resize(kMost);
  combination_.reset(variables.num_columns(), program.num_rows());
  for (const auto& [unused, j] : order_) {
    const std::vector<double> inverse = simplex.inverse_row(j);
    where.work.add(program.num_rows());
    double largest = 0.0;
    for (const double y : inverse) largest = std::max(largest, std::abs(y));
    combination_.clear();
    for (Index i = 0; i < program.num_rows(); ++i) {
      if (std::abs(inverse[at(i)]) < kNoise * largest || inverse[at(i)] == 0.0) continue;
      combination_.add(program, i, inverse[at(i)]);
      where.work.add(program.rows().size(i));
    }
    const double factor = combination_.make_whole(variables);
    const auto plan = choice_.choose(variables, combination_, false, factor);
    if (!plan) continue;
    if (auto cut = rounding_.round(variables, combination_, *plan, kLeastEfficacy))
      found.push_back(std::move(cut->row));
    where.work.add(2 * static_cast<std::int64_t>(combination_.columns().list().size()));
    if (where.work.interrupted()) return;
  }
}

}  // namespace kiteknot::mip
