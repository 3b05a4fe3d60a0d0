#pragma once
// Where every variable stands: enough to start from, and what is kept to come back to.

#include <cstdint>
#include <vector>

#include "linalg/lu.hpp"

namespace kiteknot::lp {

using linalg::Index;

enum class VariableStatus : std::uint8_t { basic, at_lower, at_upper, at_zero };

/// Where every variable stands; enough to restart from. n and m are those of the program at the
/// time.
struct Basis {
  std::vector<VariableStatus> columns, rows;
  /// Dual steepest-edge weights of the basic variables, columns first; empty: to be started anew.
  std::vector<float> weights{};
  [[nodiscard]] bool empty() const noexcept { return columns.empty() && rows.empty(); }
};

/// A basis with its factor and weights, and values and duals where they were known; see
/// Simplex::save.
struct BasisSnapshot {
  Index num_columns = 0, num_rows = 0, removals = 0, unboxed = 0;
  std::int64_t goals = 0;
  std::vector<VariableStatus> place;
  std::vector<Index> basic;
  std::vector<double> weight;
  linalg::Lu lu;
  std::vector<double> x, d, lower, upper;  ///< empty where something was still to be looked at
};

}  // namespace kiteknot::lp
