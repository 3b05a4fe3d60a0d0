#include "mip/propagators/propagation.hpp"

#include "mip/propagators/ordered_sets.hpp"

namespace kiteknot::mip {

Propagation::Propagation(Domain& domain) {
  const Problem& p = domain.problem();
  const Statement& s = p.stated();
  add(std::make_unique<RowPropagator>(
      "linear rows", RowSource{&s.linear, &p.limits().rows, nullptr, Reason::By::linear_row},
      domain));
  if (p.num_conditional_rows() > 0)
    add(std::make_unique<RowPropagator>(
        "conditional rows",
        RowSource{&s.conditional, &s.conditional_sides, &s.when, Reason::By::conditional_row},
        domain));
  if (!p.ordered_sets().empty()) add(std::make_unique<OrderedSetPropagator>(domain));
}

void Propagation::add(std::unique_ptr<Propagator> propagator) {
  all_.push_back(std::move(propagator));
  tallies_.emplace_back();
}

bool Propagation::run(Domain& domain, WorkCounter& work) {
  // Bounds may creep for ever.
  constexpr std::int64_t kMostLooks = 30;  // at everything there is, on average
  const Problem& p = domain.problem();
  const Allowance allowance{
      work, work.units() +
                kMostLooks * (p.rows().num_nonzeros() +
                              p.stated().conditional.rows().num_nonzeros() + p.num_columns() + 50)};
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
