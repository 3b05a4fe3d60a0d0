#pragma once
// A start for programs with many more columns than rows: a few columns of every row are solved
// alone, the others are priced with the multipliers, those that would lower the goal (or undo a
// proof that there is no point) come in, and so on until none would. And for programs of mostly
// rows of two columns: those wait until a point breaks them. Nothing rests on either: the basis
// that comes out is where the simplex methods start over the whole program. Source: Bixby, Gregory,
// Lustig, Marsten and Shanno 1992, "Very large-scale linear programming: a case study in combining
// interior point and simplex methods".

#include "lp/simplex.hpp"

namespace kiteknot::lp {

struct SiftingOptions {
  std::span<const Index> wanted;  ///< columns to begin with, beside the cheapest ones of every row
  Interrupt interrupt{};
  std::uint64_t seed = 1;
};

struct Sifted {
  Basis basis;  ///< empty: no start came out
  std::int64_t pivots = 0, work = 0;
};

/// Nothing for programs of another shape.
Sifted sift(const Program& program, const SiftingOptions& options);

}  // namespace kiteknot::lp
