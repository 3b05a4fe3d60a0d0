#pragma once
// Permutations of columns that turn a problem into itself. Colours of columns and rows are refined
// until equal ones cannot be told apart by their neighbours; then one of them is told apart by
// force, on one side this one, on the other side that one, and where both sides end alike a
// permutation is read off and checked entry by entry. Sources: McKay 1981, "Practical graph
// isomorphism" (refinement and search); Darga, Sakallah, Markov 2008, "Faster symmetry discovery
// using sparsity of symmetries" (early candidates that leave most where it is).
//
// What is found are generators of a group, perhaps of a part of the whole one: no way is gone
// twice.

#include <vector>

#include "base/work.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

struct Symmetry {
  struct Move {
    Index from = -1, to = -1;
  };
  using Permutation = std::vector<Move>;  ///< columns that move only, by rising `from`
  std::vector<Permutation> generators;

  [[nodiscard]] bool empty() const noexcept { return generators.empty(); }
};

/// Of a problem of linear rows whose numbers doubles say; none of any other one. Stops after `most`
/// units of work with what was found until then.
Symmetry find_symmetry(const Problem& problem, std::int64_t most, WorkCounter& work);

/// Whether the permutation turns the problem into itself, entry by entry.
bool is_symmetry(const Problem& problem, const Symmetry::Permutation& moves);

}  // namespace kiteknot::mip
