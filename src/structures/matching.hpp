#pragma once
// Assignments of least cost by shortest augmenting paths. Plain arrays; no model. Sources: Kuhn
// 1955, "The Hungarian method for the assignment problem"; Tomizawa 1971, "On some techniques
// useful for solution of transportation network problems" (shortest paths with prices).

#include <optional>
#include <vector>

#include "base/work.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

/// A possible pair of a row and a column.
struct Pair {
  Index row = 0, column = 0;
  double cost = 0.0;
};

struct Matching {
  std::vector<Index> pair_of;     ///< by rows
  std::vector<double> row_price;  ///< row_price + column_price <= cost, with = for pairs taken
  std::vector<double> column_price;
  /// 2 size - 1 pairs without slack that join all rows and columns: those taken, and those along
  /// which a last search went.
  std::vector<Index> tree;
};

/// Every row with a column of its own. Nothing where that cannot be, where not all of it hangs
/// together, or where the work ends. O(size pairs + size^2 log size) at worst.
std::optional<Matching> cheapest_matching(Index size, const std::vector<Pair>& pairs,
                                          WorkCounter& work);

}  // namespace kiteknot::structures
