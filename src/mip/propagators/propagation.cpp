#include "mip/propagators/propagation.hpp"

#include "base/check.hpp"

namespace kiteknot::mip {

Propagation::Propagation(Domain& domain) {
  const auto& kinds = domain.problem().kinds().all();
  KITEKNOT_CHECK(kinds.size() <= std::numeric_limits<std::uint8_t>::max(),
                 "a reason names the kind in one byte");
  for (std::size_t k = 0; k < kinds.size(); ++k) {
    if (k > 0 && !kinds[k]->any(domain.problem())) continue;
    if (auto propagator = kinds[k]->propagator(static_cast<std::uint8_t>(k), domain))
      add(std::move(propagator));
    entries_ += kinds[k]->num_entries(domain.problem());
  }
}

void Propagation::add(std::unique_ptr<Propagator> propagator) {
  all_.push_back(std::move(propagator));
  tallies_.emplace_back();
}

bool Propagation::run(Domain& domain, WorkCounter& work) {
  // Bounds may creep for ever.
  constexpr std::int64_t kMostLooks = 30;  // at everything there is, on average
  const Allowance allowance{
      work, work.units() + kMostLooks * (entries_ + domain.problem().num_columns() + 50)};
  for (bool moved = true; moved;) {
    const std::size_t mark = domain.mark();
    for (std::size_t k = 0; k < all_.size(); ++k) {
      Tally& tally = tallies_[k];
      const std::int64_t before = work.units();
      const std::size_t from = domain.mark();
      const bool possible = all_[k]->propagate(domain, allowance);
      if (!possible) conflict_ = domain.reason();
      domain.because({});
      ++tally.calls;
      tally.work += work.units() - before;
      tally.steps += static_cast<std::int64_t>(domain.mark() - from);
      if (possible) continue;
      ++tally.conflicts;
      forget(domain);
      return false;
    }
    moved = domain.mark() != mark;
    if (moved && allowance.spent()) {
      forget(domain);
      return true;
    }
  }
  return true;
}

void Propagation::forget(Domain& domain) {
  for (const auto& p : all_) p->forget(domain);
}

void Propagation::check_invariants(const Domain& domain) const {
  for (const auto& p : all_) p->check_invariants(domain);
}

}  // namespace kiteknot::mip
