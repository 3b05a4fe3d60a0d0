#pragma once
// The rows of one constraint kind in a relaxation, as far as they follow the domain.

#include <span>

#include "mip/domain/domain.hpp"

namespace kiteknot::mip {

class Explanation;
class Relaxation;

class RelaxedKind {
 public:
  virtual ~RelaxedKind() = default;
  /// The state of a condition may have changed.
  virtual void follow(Index condition, const Domain& domain, Relaxation& relaxation) const = 0;
  /// Rows that hold for the domain's box alone are stated for this one; until the next call the
  /// domain stays within it.
  virtual void tighten(const Domain& domain, Relaxation& relaxation) {
    (void)domain, (void)relaxation;
  }
  /// The same, chosen where the relaxation's point lies after a solve. True: one of them cuts it
  /// off.
  virtual bool sharpen(const Domain& domain, Relaxation& relaxation) {
    (void)domain, (void)relaxation;
    return false;
  }
  /// Rows that say what is stated, no more and no less, under the states as they are: an exact look
  /// takes these.
  [[nodiscard]] virtual std::span<const Index> stated_rows() const = 0;
  /// Adds what rows of a sum with these multipliers (by rows of the relaxation) rest on; false:
  /// that is not known.
  virtual bool explain_sum(std::span<const double> multipliers, Explanation& why) const = 0;
};

}  // namespace kiteknot::mip
