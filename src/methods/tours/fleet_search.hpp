#pragma once
// Branch and bound over the legs of several trips from one gate: two at every stop, and rows by
// sets of stops as points break them.

#include "methods/tours/leg_search.hpp"
#include "mip/search/search.hpp"
#include "structures/tours/fleets/fleet.hpp"

namespace kiteknot::methods {

struct FleetAnswer {
  Outcome outcome = Outcome::undecided;
  tours::Routes routes;                                          ///< the best ones; empty: none
  std::int64_t length = 0;                                       ///< in units
  double bound = -std::numeric_limits<double>::infinity();       ///< in units
  double root_bound = -std::numeric_limits<double>::infinity();  ///< in units, before branching
  std::int64_t nodes = 0;
  std::array<std::int64_t, 2> rows{};  ///< generated: against loops, by loads
  std::string stopped_by, reason;
};

/// `lengths` are those of the fleet, in whole units; `known`: trips to begin with, or none.
FleetAnswer search_fleet(const tours::Fleet& fleet, const tours::WholeLengths& lengths,
                         const tours::Routes& known, const LegSearchOptions& options,
                         mip::Listener* watch = nullptr);

}  // namespace kiteknot::methods
