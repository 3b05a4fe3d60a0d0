#pragma once
// Columns of an ordered set that cannot be 0 leave room for `width` places around them; all others
// become 0. Beale and Tomlin 1970, "Special facilities in a general mathematical programming system
// for non-convex problems using ordered sets of variables".

#include "mip/propagators/propagator.hpp"

namespace kiteknot::mip {

class OrderedSetPropagator final : public Propagator {
 public:
  explicit OrderedSetPropagator(Domain& domain);
  [[nodiscard]] std::string_view name() const override { return "ordered sets"; }
  [[nodiscard]] bool propagate(Domain& domain, const Allowance& allowance) override;
  void forget(Domain& domain) override;

 private:
  void follow_trail(Domain& domain);
  void wake(Index set);
  [[nodiscard]] static bool look_at(const OrderedSet& set, Domain& domain);

  std::size_t reader_;
  std::vector<std::vector<Index>> sets_of_;  // by columns
  std::vector<Index> queue_;
  std::vector<char> awake_;
};

}  // namespace kiteknot::mip
