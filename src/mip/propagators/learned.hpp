#pragma once
// Propagation over learned conflicts: where all bounds of one hold but one, that one cannot. Two of
// the bounds that do not hold are watched, so that a bound that moves costs nothing where no
// watched one comes to hold. Source: Moskewicz, Madigan, Zhao, Zhang and Malik 2001, "Chaff:
// engineering an efficient SAT solver".

#include "mip/domain/conflict.hpp"
#include "mip/propagators/propagator.hpp"

namespace kiteknot::mip {

class LearnedPropagator final : public Propagator {
 public:
  explicit LearnedPropagator(Domain& domain);
  [[nodiscard]] std::string_view name() const override { return "learned conflicts"; }
  [[nodiscard]] bool propagate(Domain& domain, const Allowance& allowance) override;
  void forget(Domain& domain) override;

  /// The bounds in the order in which they came to hold, the last one first. Those that have been
  /// of no use for longest go where there are too many.
  void add(Conflict conflict);
  /// By the place that a reason names; null: it is gone.
  [[nodiscard]] const Conflict* find(Index id) const;
  [[nodiscard]] std::vector<Conflict> all() const;
  /// Whether conflicts have been of use about as often as they were learned, or it is early.
  [[nodiscard]] bool pays() const noexcept { return learned_ < 100 || uses_ >= learned_; }

 private:
  struct Known {
    Conflict conflict;  // the first two bounds are watched
    std::int64_t used = 0;
  };
  [[nodiscard]] std::vector<Index>& watchers(const Change& bound);
  void watch(Index id, const Change& bound) { watchers(bound).push_back(id); }
  struct Look {
    bool possible = true, stays = true;  // stays: as a watcher of what moved
  };
  [[nodiscard]] Look look_at(Index id, const Change& moved, Domain& domain, WorkCounter& work);
  [[nodiscard]] bool rule_out(Index id, const Change& bound, Domain& domain);
  void let_old_go();

  Index columns_;
  std::size_t reader_;
  std::vector<Known> known_;                  // by id - first_; empty: gone
  std::vector<Index> alone_;                  // of one bound only
  std::vector<std::vector<Index>> watchers_;  // by column and side, then by condition
  std::vector<Change> moved_;                 // to be looked at
  std::size_t alive_ = 0;
  std::int64_t learned_ = 0, uses_ = 0;
};

}  // namespace kiteknot::mip
