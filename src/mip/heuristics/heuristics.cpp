// The heuristics of a search, each from a node's relaxation to one point.

#include "mip/heuristics/alternation.hpp"
#include "mip/heuristics/construction.hpp"
#include "mip/heuristics/core.hpp"
#include "mip/heuristics/dive.hpp"
#include "mip/heuristics/neighbourhood.hpp"
#include "mip/heuristics/pump.hpp"
#include "mip/heuristics/rounding.hpp"
#include "mip/heuristics/sequencing.hpp"

namespace kiteknot::mip {

std::vector<std::unique_ptr<Heuristic>> heuristics(const HeuristicSwitches& switches) {
  std::vector<std::unique_ptr<Heuristic>> all;
  if (switches.core) all.push_back(std::make_unique<AroundRelaxation>());
  if (switches.alternation) all.push_back(std::make_unique<Alternation>());
  if (switches.rounding) all.push_back(std::make_unique<RoundingWithPropagation>());
  if (switches.sequencing) all.push_back(std::make_unique<Sequencing>());
  if (switches.construction) all.push_back(std::make_unique<FirstPlans>());
  if (switches.dives) all.push_back(std::make_unique<Dive>());
  if (switches.near_plan) all.push_back(std::make_unique<NearRelaxedPoint>());
  if (switches.pump) all.push_back(std::make_unique<Pump>());
  if (switches.near_plan) all.push_back(std::make_unique<NearBestPlan>());
  return all;
}

}  // namespace kiteknot::mip
