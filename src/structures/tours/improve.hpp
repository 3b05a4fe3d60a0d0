#pragma once
// Better tours from a given one. All of them take symmetric lengths and leave a permutation. Near
// stops only are looked at, and of stops around which nothing changed none (Bentley 1992, "Fast
// algorithms for geometric traveling salesman problems").

#include <functional>
#include <limits>
#include <vector>

#include "base/work.hpp"
#include "structures/tours/neighbours.hpp"

namespace kiteknot::structures::tours {

struct Improved {
  std::vector<Index> tour;
  double length = 0.0;
  std::int64_t moves = 0, kicks = 0;
};

/// Which simple moves: two legs exchanged (Croes 1958), or up to three stops in a row put
/// elsewhere, either way round (Or 1976), or two segments of any length that follow each other
/// change places (a move of three legs without turning: Or-3opt, Babin, Deneault and Laporte 2007,
/// "Improvements to the Or-opt heuristic for the symmetric travelling salesman problem"). Of the
/// first two none is left that shortens the tour.
struct Moves {
  bool exchange = true, shift = true, swap = false;
};
Improved improve(const Distances& distances, const Neighbours& near, std::vector<Index> tour,
                 const Moves& moves, const Interrupt& interrupt);

struct ChainOptions {
  double seconds = std::numeric_limits<double>::infinity();
  std::int64_t kicks = -1;  ///< -1: as many as there are stops
  std::uint64_t seed = 1;
  Interrupt interrupt{};
  /// Told now and then: seconds, length.
  std::function<void(double, double)> progress{};
};

/// Chains of exchanged legs, each closed where that pays most, up to 30 deep, from every stop
/// around which something changed; then three near segments change places, and what that opened up
/// is improved again; what does not pay is taken back. Sources: Lin and Kernighan 1973, "An
/// effective heuristic algorithm for the traveling-salesman problem"; Johnson and McGeoch 1997,
/// "The traveling salesman problem: a case study in local optimization"; Applegate, Cook and Rohe
/// 2003, "Chained Lin-Kernighan for large traveling salesman problems" (segments that are near each
/// other).
Improved improve_by_chains(const Distances& distances, const Neighbours& near,
                           std::vector<Index> tour, const ChainOptions& options);

}  // namespace kiteknot::structures::tours
