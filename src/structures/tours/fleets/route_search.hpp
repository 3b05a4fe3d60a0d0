#pragma once
// Better trips from given ones.

#include <functional>
#include <limits>

#include "base/work.hpp"
#include "structures/tours/fleets/fleet.hpp"

namespace kiteknot::structures::tours {

/// Each trip by itself: legs exchanged (symmetric lengths), and up to three stops in a row put
/// elsewhere.
void improve_each(const Fleet& fleet, Routes& routes);

/// Near stops only: up to three in a row put elsewhere (Or 1976), two stops exchanged, the ends of
/// two trips exchanged (Potvin and Rousseau 1995, "An exchange heuristic for routeing problems with
/// time windows": 2-opt*), two legs of a trip exchanged. None is left that shortens the trips; an
/// empty trip may be used where there may be more.
void improve_routes(const Fleet& fleet, Routes& routes, const Interrupt& interrupt);

struct RuinOptions {
  std::int64_t rounds = -1;  ///< -1: 20,000 and 1,000 a stop
  double seconds = std::numeric_limits<double>::infinity();
  std::uint64_t seed = 1;
  Interrupt interrupt{};
  std::function<void(double, double)> progress{};  ///< seconds, length
};
/// Strings of stops that are near each other are taken out of their trips and put back where each
/// costs least, some places passed over by chance; what is worse is kept at first, and less and
/// less (Schrimpf et al. 2000, "Record breaking optimization results using the ruin and recreate
/// principle"; Christiaens and Vanden Berghe 2020, "Slack induction by string removals for vehicle
/// routing problems"). Too many trips are got rid of where that can be done.
Routes ruin_and_recreate(const Fleet& fleet, Routes routes, const RuinOptions& options);

}  // namespace kiteknot::structures::tours
