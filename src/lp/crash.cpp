// A triangular start. Rows are taken in turn, equations first and then ranges, the one with the
// fewest columns left before the others; it gets the column with the most room and the fewest
// entries whose pivot is of some size, and every column that meets the row goes out of the game, so
// that each later column has 0 there: the basis is triangular. Maros and Mitra 1998.

#include <algorithm>
#include <cmath>
#include <set>
#include <tuple>

#include "lp/basis_state.hpp"

namespace kiteknot::lp {
namespace {

// How willingly a variable is basic: free, one bound, boxed; 0 for fixed.
int room_rank(double lower, double upper) {
  if (lower == upper) return 0;
  return 1 + (std::isinf(lower) ? 1 : 0) + (std::isinf(upper) ? 1 : 0);
}

}  // namespace

void BasisState::start_from_triangle() {
  start_from_rows();
  constexpr double kSizable = 0.01;  // of the largest entry of the column
  const Lines& rows = program.rows();
  const Lines& columns = program.columns();
  std::vector<char> open(at(n), 0);
  std::vector<double> largest(at(n), 0.0);
  for (Index j = 0; j < n; ++j) {
    open[at(j)] = room_rank(program.lower(j), program.upper(j)) > 1;
    for (const double v : columns.value(j)) largest[at(j)] = std::max(largest[at(j)], std::abs(v));
  }
  std::vector<Index> left(at(m), 0);
  std::set<std::tuple<int, Index, Index>> queue;  // rank of the row, columns left, row
  const auto rank = [&](Index i) { return room_rank(program.row_lower(i), program.row_upper(i)); };
  for (Index i = 0; i < m; ++i) {
    for (const Index j : rows.index(i)) left[at(i)] += open[at(j)];
    if (rank(i) <= 1 && left[at(i)] > 0) queue.insert({rank(i), left[at(i)], i});
  }
  while (!queue.empty()) {
    const Index i = std::get<2>(*queue.begin());
    queue.erase(queue.begin());
    Index best = -1;
    std::tuple<int, Index> best_key{};
    for (std::size_t e = 0; e < rows.index(i).size(); ++e) {
      const Index j = rows.index(i)[e];
      if (!open[at(j)] || std::abs(rows.value(i)[e]) < kSizable * largest[at(j)]) continue;
      const std::tuple<int, Index> key{-room_rank(program.lower(j), program.upper(j)),
                                       columns.size(j)};
      if (best >= 0 && key >= best_key) continue;
      best = j;
      best_key = key;
    }
    if (best < 0) continue;
    place[at(best)] = VariableStatus::basic;
    place[at(n + i)] = VariableStatus::at_lower;
    for (const Index j : rows.index(i)) {
      if (!open[at(j)]) continue;
      open[at(j)] = 0;
      for (const Index k : columns.index(j)) {
        const auto it = queue.find({rank(k), left[at(k)], k});
        --left[at(k)];
        if (it == queue.end()) continue;
        queue.erase(it);
        if (left[at(k)] > 0) queue.insert({rank(k), left[at(k)], k});
      }
    }
  }
  work.add(program.num_nonzeros() + n + m);
  stale();
}

}  // namespace kiteknot::lp
