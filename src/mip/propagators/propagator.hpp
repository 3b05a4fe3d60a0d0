#pragma once
// What draws conclusions from a domain. A propagator reads the trail to find out what moved, and
// knows nothing of the search; what it costs and brings is booked by whoever calls it.

#include <memory>
#include <string_view>
#include <vector>

#include "base/work.hpp"
#include "mip/domain/domain.hpp"

namespace kiteknot::mip {

/// What is left to spend.
struct Allowance {
  WorkCounter& work;
  std::int64_t until = 0;  ///< units of work
  [[nodiscard]] bool spent() const { return work.units() >= until || work.interrupted(); }
};

class Propagator {
 public:
  virtual ~Propagator() = default;
  [[nodiscard]] virtual std::string_view name() const = 0;
  /// Concludes from all that moved since the last call, until nothing moves or the allowance is
  /// spent; false: nothing is left possible. Every change gives its reason.
  [[nodiscard]] virtual bool propagate(Domain& domain, const Allowance& allowance) = 0;
  /// What moved so far is not to be looked at: a part was left, or there is no time for it. That
  /// costs strength, not truth.
  virtual void forget(Domain& domain) = 0;
  /// Figures that are kept equal those worked out anew.
  virtual void check_invariants(const Domain& domain) const { (void)domain; }
};

}  // namespace kiteknot::mip
