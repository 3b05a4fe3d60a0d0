#pragma once
// A propagator of a kind whose constraints are few columns each: a constraint is looked at again
// when one of its columns moved. The first time all are.

#include <vector>

#include "mip/propagators/propagator.hpp"

namespace kiteknot::mip {

class WakingPropagator : public Propagator {
 public:
  bool propagate(Domain& domain, const Allowance& allowance) final {
    follow_trail(domain);
    bool possible = true;
    for (std::size_t next = 0; next < queue_.size() && possible && !allowance.spent(); ++next) {
      const Index k = queue_[next];
      awake_[at(k)] = 0;
      allowance.work.add(work_of(k));
      domain.because(Reason::of(kind_, k));
      possible = look_at(k, domain);
      if (possible) follow_trail(domain);
    }
    fall_asleep();
    return possible;
  }
  void forget(Domain& domain) final {
    follow_trail(domain);
    fall_asleep();
  }

 protected:
  /// `kind`: its place in the register.
  WakingPropagator(std::uint8_t kind, std::size_t constraints, Domain& domain)
      : kind_(kind),
        reader_(domain.add_reader()),
        of_column_(at(domain.problem().num_columns())),
        awake_(constraints, 0) {
    for (std::size_t k = 0; k < constraints; ++k) wake(static_cast<Index>(k));
  }
  void listen(Index constraint, Index column) { of_column_[at(column)].push_back(constraint); }
  /// Units of a look at it.
  [[nodiscard]] virtual std::int64_t work_of(Index constraint) const = 0;
  /// Draws its conclusions; false where nothing is left.
  [[nodiscard]] virtual bool look_at(Index constraint, Domain& domain) = 0;

 private:
  void wake(Index k) {
    if (awake_[at(k)]) return;
    awake_[at(k)] = 1;
    queue_.push_back(k);
  }
  void fall_asleep() {
    for (const Index k : queue_) awake_[at(k)] = 0;
    queue_.clear();
  }
  void follow_trail(Domain& domain) {
    domain.read_trail(
        reader_, [](std::size_t) {},
        [&](const Domain::Step& step, std::size_t) {
          if (step.change.what == Change::What::condition) return;
          for (const Index k : of_column_[at(step.change.index)]) wake(k);
        });
  }

  std::uint8_t kind_;
  std::size_t reader_;
  std::vector<std::vector<Index>> of_column_;
  std::vector<Index> queue_;
  std::vector<char> awake_;
};

}  // namespace kiteknot::mip
