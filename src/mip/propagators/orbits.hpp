#pragma once
// Orbital fixing: where a binary column was decided to be 0, all that symmetries of the problem
// can bring it to, while those decided to be 1 stay where they are, may be 0 too. For a plan with
// one of them at 1 has an image, no worse, with the decided one at 1, which a part of the search
// has that comes first where ones go before zeros; of the best plans the first one is so never left
// out, at whichever nodes this is done. Sources: Margot 2003, "Exploiting orbits in symmetric ILP";
// Ostrowski, Linderoth, Rossi, Smriglio 2011, "Orbital branching". Keeps one best plan.

#include "mip/domain/domain.hpp"
#include "mip/structures/stabilizers.hpp"

namespace kiteknot::mip {

class OrbitalFixing {
 public:
  OrbitalFixing(const Symmetry& symmetry, Index num_columns) : group_(symmetry, num_columns) {}
  /// By the decisions on the domain's trail; false where nothing is left possible. `fixed` counts
  /// columns.
  [[nodiscard]] bool fix(Domain& domain, std::int64_t& fixed, WorkCounter& work);

 private:
  Stabilizers group_;
};

}  // namespace kiteknot::mip
