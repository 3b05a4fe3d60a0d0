#include "mip/branching/reliability.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {
namespace {

constexpr std::int64_t kReliable = 2;  // looks in either direction
constexpr std::int64_t kPivotsALook = 40;
constexpr int kPatience = 4;          // candidates without a better one
constexpr std::int64_t kGrace = 200;  // pivots before the share counts

double fraction_of(const BranchingContext& node, Index j) {
  return node.point[at(j)] - std::floor(node.point[at(j)]);
}

}  // namespace

bool Reliability::closes(const BranchingContext& node, Index j, bool up, PseudoCosts& costs) {
  lp::Simplex& simplex = node.relaxation.simplex();
  const double split = std::floor(node.point[at(j)]) + (up ? 1.0 : 0.0);
  simplex.set_bounds(j, up ? split : node.domain.lower(j), up ? node.domain.upper(j) : split);
  const lp::Report r = simplex.solve({.max_pivots = kPivotsALook,
                                      .cutoff = node.cutoff.target(),
                                      .rough = true,
                                      .exact_pivots = 0,
                                      .interrupt = node.interrupt});
  pivots_ += r.pivots;
  const bool bounded = r.status == lp::Status::optimal || r.status == lp::Status::cutoff;
  // A bound is no better than the objective, but for rounding.
  constexpr double kRounding = 1e-6;
  const bool near = r.objective + kRounding * (1.0 + std::abs(r.objective)) >= node.cutoff.target();
  const bool closed = r.status == lp::Status::infeasible ||
                      (bounded && near && node.cutoff.closes(simplex.bound()));
  if (r.status == lp::Status::optimal || r.status == lp::Status::limit) {
    const double f = fraction_of(node, j);
    costs.learn({j, up, up ? 1.0 - f : f, r.objective - node.objective});
  }
  simplex.set_bounds(j, node.domain.lower(j), node.domain.upper(j));
  return closed;
}

BranchingRule::Choice Reliability::choose(const BranchingContext& node, PseudoCosts& costs) {
  const std::int64_t before = pivots_;
  Choice choice = look_at_children(node, costs);
  choice.pivots = pivots_ - before;
  return choice;
}

BranchingRule::Choice Reliability::look_at_children(const BranchingContext& node,
                                                    PseudoCosts& costs) {
  const auto affordable = [&] {
    return pivots_ < node.pivots / 2 + kGrace && !node.interrupt.now();
  };
  const auto reliable = [&](Index j) {
    return costs.count(j, false) >= kReliable && costs.count(j, true) >= kReliable;
  };
  if (!affordable() || std::all_of(node.columns.begin(), node.columns.end(), reliable))
    return {costs.choose(node.columns, node.point), {}, false, 0};

  std::vector<std::pair<double, Index>> order;
  for (const Index j : node.columns) order.emplace_back(-costs.score(j, fraction_of(node, j)), j);
  std::sort(order.begin(), order.end());
  lp::Simplex& simplex = node.relaxation.simplex();
  std::optional<lp::BasisSnapshot> stand;
  Choice choice;
  double best = -1.0;
  int since = 0;
  for (const auto& [unused, j] : order) {
    if (!reliable(j) && affordable()) {
      if (!stand) stand = simplex.save();
      const bool down = closes(node, j, false, costs);
      simplex.restore(*stand);
      const bool up = closes(node, j, true, costs);
      simplex.restore(*stand);
      if (down && up) return {-1, {}, true, 0};
      const double below = std::floor(node.point[at(j)]);
      if (up) choice.implied.push_back({Change::What::upper, j, below});
      if (down) choice.implied.push_back({Change::What::lower, j, below + 1.0});
      if (down || up) return choice;
    }
    const double score = costs.score(j, fraction_of(node, j));
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
