#include "mip/branching/reliability.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {
namespace {

constexpr std::int64_t kReliable = 4;  // looks in either direction
constexpr std::int64_t kPivotsALook = 40;
constexpr int kPatience = 6;           // candidates without a better one
constexpr std::int64_t kGrace = 1000;  // pivots before the share counts

}  // namespace

Reliability::Choice Reliability::choose(const Fractions& here, const Domain& domain,
                                        const Cutoff& cutoff, std::int64_t node_pivots,
                                        const Interrupt& interrupt, PseudoCosts& costs,
                                        Relaxation& relaxation) {
  const auto fraction = [&](Index j) { return here.point[at(j)] - std::floor(here.point[at(j)]); };
  const auto affordable = [&] { return pivots_ < node_pivots / 2 + kGrace && !interrupt.now(); };
  const auto reliable = [&](Index j) {
    return costs.count(j, false) >= kReliable && costs.count(j, true) >= kReliable;
  };
  if (!affordable() || std::all_of(here.columns.begin(), here.columns.end(), reliable))
    return {costs.choose(here.columns, here.point), {}, false};

  std::vector<std::pair<double, Index>> order;
  for (const Index j : here.columns) order.emplace_back(-costs.score(j, fraction(j)), j);
  std::sort(order.begin(), order.end());
  lp::Simplex& simplex = relaxation.simplex();
  std::optional<lp::Snapshot> stand;
  Choice choice;
  double best = -1.0;
  int since = 0;
  for (const auto& [unused, j] : order) {
    const double f = fraction(j);
    if (!reliable(j) && affordable()) {
      if (!stand) stand = simplex.save();
      ++looks_;
      bool closed[2] = {false, false};
      for (const bool up : {false, true}) {
        const double split = std::floor(here.point[at(j)]) + (up ? 1.0 : 0.0);
        simplex.set_bounds(j, up ? split : domain.lower(j), up ? domain.upper(j) : split);
        const lp::Report r = simplex.solve({.max_pivots = kPivotsALook,
                                            .cutoff = cutoff.target(),
                                            .quick = true,
                                            .exact_pivots = 0,
                                            .interrupt = interrupt});
        pivots_ += r.pivots;
        closed[up ? 1 : 0] = r.status == lp::Status::infeasible ||
                             ((r.status == lp::Status::optimal || r.status == lp::Status::cutoff) &&
                              cutoff.closes(simplex.bound()));
        if (r.status == lp::Status::optimal || r.status == lp::Status::limit)
          costs.learn(j, up, up ? 1.0 - f : f, r.objective - here.objective);
        simplex.set_bounds(j, domain.lower(j), domain.upper(j));
        simplex.restore(*stand);
      }
      if (closed[0] && closed[1]) return {-1, {}, true};
      if (closed[0] || closed[1]) {
        const double below = std::floor(here.point[at(j)]);
        choice.implied.push_back(closed[1] ? Change{Change::What::upper, j, below}
                                           : Change{Change::What::lower, j, below + 1.0});
        return choice;
      }
    }
    const double score = costs.score(j, f);
    if (score > best) {
      best = score;
      choice.column = j;
      since = 0;
    } else if (++since >= kPatience) {
      break;
    }
  }
  return choice;
}

}  // namespace kiteknot::mip
