// The heuristics of a search, each from a node's relaxation to one point.

#include "mip/heuristics/core.hpp"
#include "mip/heuristics/rounding.hpp"

namespace kiteknot::mip {

std::vector<std::unique_ptr<Heuristic>> heuristics(const HeuristicSwitches& switches) {
  std::vector<std::unique_ptr<Heuristic>> all;
  if (switches.core) all.push_back(std::make_unique<AroundRelaxation>());
  if (switches.rounding) all.push_back(std::make_unique<RoundingWithPropagation>());
  return all;
}

}  // namespace kiteknot::mip
