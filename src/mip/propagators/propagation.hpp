#pragma once
// All propagators of a search, in turn to a fixed point, and the table of what each of them costs
// and brings.

#include "mip/propagators/propagator.hpp"
#include "mip/propagators/rows.hpp"

namespace kiteknot::mip {

struct Tally {
  std::int64_t calls = 0, work = 0, steps = 0, conflicts = 0;
};

class Propagation {
 public:
  /// Those that the problem's own constraints need. The domain's trail is read from here on.
  explicit Propagation(Domain& domain);
  void add(std::unique_ptr<Propagator> propagator);

  /// To a fixed point, or until the gains get small; false: a conflict.
  [[nodiscard]] bool run(Domain& domain, WorkCounter& work);
  /// What the last run found a conflict in.
  [[nodiscard]] const Reason& conflict() const noexcept { return conflict_; }
  [[nodiscard]] std::string_view name(std::size_t k) const { return all_[k]->name(); }
  [[nodiscard]] const std::vector<Tally>& tallies() const noexcept { return tallies_; }
  void check_invariants(const Domain& domain) const;

 private:
  void forget(Domain& domain);
  std::vector<std::unique_ptr<Propagator>> all_;
  std::vector<Tally> tallies_;
  std::int64_t entries_ = 0;  // of all constraints
  Reason conflict_;
};

}  // namespace kiteknot::mip
