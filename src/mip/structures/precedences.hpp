#pragma once
// Machines in a problem: sets of columns each two of which some row, or a choice between two rows,
// keeps apart ("this one begins when that one ends, or the other way round"), stated as rows under
// a condition or with a large number beside a binary column.

#include <vector>

#include "base/work.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

/// A binary column at one of its values; column -1: always.
struct Choice {
  Index column = -1;
  bool one = false;
};

/// `to` is at least `gap` above `from` where the choice was made.
struct Precedence {
  Index from = -1, to = -1;
  double gap = 0.0;  ///< above 0, rounded down
  Choice when;
};

/// Columns that are begins of tasks, no two of which are done at the same time.
struct MachineTasks {
  std::vector<Index> begin;        ///< columns
  std::vector<double> takes;       ///< the least gap to any other that comes later
  std::vector<Precedence> before;  ///< size^2: [a * size + b] a before b; from -1 at [a, a]
  [[nodiscard]] std::size_t size() const noexcept { return begin.size(); }
  [[nodiscard]] const Precedence& order(std::size_t a, std::size_t b) const {
    return before[a * size() + b];
  }
};

struct Precedences {
  std::vector<Precedence> always;
  std::vector<MachineTasks> machines;  ///< of three tasks or more
};

/// O(entries) and what the work allows for cliques of pairs that are kept apart.
[[nodiscard]] Precedences find_precedences(const Problem& problem, WorkCounter& work);

/// As the problem's kinds have it; null: there are no machines.
[[nodiscard]] const Precedences* precedences_of(const Problem& problem);

}  // namespace kiteknot::mip
