#pragma once
// What is left of a group of permutations when some points have to stay where they are: the
// stabilizers along a sequence of points, by Schreier's generators (Sims 1970, "Computational
// methods in the study of permutation groups"), of which a few are taken, by chance where there are
// many. Any of them fix the points, so what comes out is a subgroup that does; it may be a smaller
// one than there is.

#include "mip/structures/symmetry.hpp"

namespace kiteknot::mip {

class Stabilizers {
 public:
  /// Over the columns that the symmetry moves.
  Stabilizers(const Symmetry& symmetry, Index num_columns);

  /// The orbits of the subgroup that leaves these columns where they are: by moved columns (see
  /// columns()), the number of one of the orbit. Sequences that begin like the last one are cheap.
  const std::vector<Index>& orbits(std::span<const Index> points, WorkCounter& work);
  [[nodiscard]] const std::vector<Index>& columns() const noexcept { return columns_; }
  /// The place of a column among those; -1: it never moves.
  [[nodiscard]] Index place(Index column) const { return place_[at(column)]; }

 private:
  using Permutation = std::vector<Index>;  // of places
  struct Level {
    Index point = -1;  // that stays from here on
    std::vector<Permutation> generators;
    std::vector<Index> orbit_of;
  };
  [[nodiscard]] Level level(Index point, std::vector<Permutation> generators) const;
  [[nodiscard]] std::vector<Permutation> stabilizer(const std::vector<Permutation>& generators,
                                                    Index point, WorkCounter& work) const;

  std::vector<Index> columns_, place_;
  std::vector<Level> levels_;
};

}  // namespace kiteknot::mip
