#pragma once
// Constraints that a relaxed point may break though all its whole columns are whole, because the
// relaxation has nothing of them or only a part: a point is asked first, then split away.

#include <memory>
#include <vector>

#include "mip/domain/domain.hpp"

namespace kiteknot::mip {

/// The two (or more) parts that a node is split into: each a list of changes.
struct Branching {
  std::vector<std::vector<Change>> children;  ///< the first is looked at first
};

class Disjunction {
 public:
  virtual ~Disjunction() = default;
  /// Whether the point meets the constraints within the engine's tolerances, given the node's
  /// states.
  [[nodiscard]] virtual bool met(const Domain& domain, std::span<const double> point) const = 0;
  /// A split for a point that breaks them; false where there is none to offer.
  [[nodiscard]] virtual bool split(const Domain& domain, std::span<const double> point,
                                   Branching& out) const = 0;
};

/// Those that a problem has.
std::vector<std::unique_ptr<Disjunction>> disjunctions_of(const Problem& problem);

}  // namespace kiteknot::mip
