#include "mip/worker/term_ranges.hpp"

#include "mip/relaxation/range_tightening.hpp"

namespace kiteknot::mip {

TermRanges::TermRanges(NodeWorkspace& space, const KnownBest& known, const SearchOptions& options)
    : space_(space), known_(known) {
  if (space.problem.exact() || !options.node.price_fixing) return;
  for (const auto& kind : space.problem.kinds().all())
    if (kind->any(space.problem)) kind->add_ranged(space.problem, columns_);
}

bool TermRanges::settle() {
  constexpr std::int64_t kShare = 4, kGrace = 200'000;  // of what was spent so far
  constexpr int kRounds = 2;
  settled_for_ = known_.best();
  const std::int64_t begun = space_.work.units();
  bool possible = true;
  for (int round = 0; round < kRounds && possible && !columns_.empty(); ++round) {
    const std::size_t before = space_.domain.mark();
    // Where no pool rows are in, the relaxation's basis fits one of the same problem.
    const lp::Basis start =
        space_.pool.num_in_relaxation() == 0 ? space_.relaxation.simplex().basis() : lp::Basis{};
    space_.domain.because({Reason::By::reduced_cost});
    possible = tighten_ranges(space_.domain, columns_, known_.cutoff(), start,
                              {kGrace + space_.spent() / kShare, space_.interrupt}, space_.work);
    space_.domain.because({});
    possible = possible && space_.propagation.run(space_.domain, space_.work);
    if (space_.domain.mark() == before) break;
  }
  work_ += space_.work.units() - begun;
  return possible;
}

bool TermRanges::due() const {
  constexpr std::int64_t kShare = 20;  // of all work
  constexpr double kLeastGain = 1e-3;  // relative
  if (columns_.empty() || !known_.any() || work_ > space_.spent() / kShare) return false;
  const double gain = settled_for_ - known_.best();
  return gain > kLeastGain * std::max(1.0, std::abs(known_.best()));
}

}  // namespace kiteknot::mip
