#include "mip/kinds/machine_order.hpp"

#include <algorithm>

namespace kiteknot::mip {

bool MachineOrderRule::split(const Site& site, Branching& out) const {
  constexpr double kFault = 20.0;  // the weight of what was at fault most
  const Domain& d = site.domain;
  const Precedence* first = nullptr;
  double best = 0.0;
  for (const MachineTasks& machine : found_.machines)
    for (std::size_t a = 0; a < machine.size(); ++a)
      for (std::size_t b = 0; b < a; ++b) {
        const Precedence &there = machine.order(a, b), &back = machine.order(b, a);
        if (there.from < 0 || back.from < 0 || d.fixed(there.when.column)) continue;
        const double room_there = d.upper(there.to) - d.lower(there.from) - there.gap;
        const double room_back = d.upper(back.to) - d.lower(back.from) - back.gap;
        const double score = (1.0 + site.history.conflict_share(there.when.column) * kFault) /
                             (1.0 + std::max(0.0, room_there) + std::max(0.0, room_back));
        if (!(score > best)) continue;
        best = score;
        first = room_there >= room_back ? &there : &back;
      }
  if (first == nullptr) return false;
  bool one = first->when.one;
  if (!site.best_plan.empty()) one = site.best_plan[at(first->when.column)] > 0.5;
  const Index z = first->when.column;
  const Change up{Change::What::lower, z, 1.0}, down{Change::What::upper, z, 0.0};
  out.children = one ? std::vector<std::vector<Change>>{{up}, {down}}
                     : std::vector<std::vector<Change>>{{down}, {up}};
  return true;
}

}  // namespace kiteknot::mip
