#include "mip/propagators/orbits.hpp"

namespace kiteknot::mip {

bool OrbitalFixing::fix(Domain& domain, std::int64_t& fixed, WorkCounter& work) {
  const Problem& p = domain.problem();
  std::vector<Index> zeros, stay;  // places of those decided to be 0; columns that stay
  for (const Domain::Step& step : domain.trail()) {
    if ((step.reason.by != Reason::By::decision &&
         step.reason.by != Reason::By::strong_branching) ||
        step.change.what == Change::What::condition)
      continue;
    const Index j = step.change.index;
    if (group_.place(j) < 0) continue;
    const bool binary = p.integer(j) && p.lower(j) == 0.0 && p.upper(j) == 1.0;
    if (binary && step.change.what == Change::What::upper)
      zeros.push_back(group_.place(j));
    else
      stay.push_back(j);
  }
  work.add(static_cast<std::int64_t>(domain.trail().size()));
  if (zeros.empty()) return true;
  const std::vector<Index>& orbit = group_.orbits(stay, work);
  work.add(2 * static_cast<std::int64_t>(orbit.size()));
  std::vector<char> zero(orbit.size(), 0);
  for (const Index k : zeros) zero[at(orbit[at(k)])] = 1;
  domain.because({Reason::By::orbit});
  bool possible = true;
  for (std::size_t k = 0; k < orbit.size() && possible; ++k) {
    const Index j = group_.columns()[k];
    if (!zero[at(orbit[k])] || domain.upper(j) <= 0.0) continue;
    possible = domain.drop_upper(j, 0.0);
    ++fixed;
  }
  domain.because({});
  return possible;
}

}  // namespace kiteknot::mip
