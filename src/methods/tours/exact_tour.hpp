#pragma once
// The shortest round trip with its proof: a good tour, the relaxation over all legs, the legs that
// a better tour may use, and branch and bound over these.

#include "methods/tours/leg_search.hpp"

namespace kiteknot::methods {

struct ExactTourOptions {
  Budget budget{};
  double gap = 0.0;
  /// From so many stops on good tours are merged before the branching.
  linalg::Index merge_from = 500;
  /// Better tours and better bounds, in units: seconds, length (0: none), bound.
  std::function<void(double, std::int64_t, std::int64_t)> watch{};
};

struct ExactTour {
  Outcome outcome = Outcome::undecided;
  std::vector<linalg::Index> tour;
  std::int64_t length = 0, bound = 0, root_bound = 0, start_length = 0;  ///< in units
  std::int64_t nodes = 0, legs_kept = 0;
  std::array<std::int64_t, 3> rows{};
  std::string stopped_by, reason;
  /// The relaxed point of two legs at every stop, and the first rows that it breaks.
  std::vector<tours::Leg> first_legs;
  std::vector<double> first_values;
  std::vector<tours::StopRow> first_rows;
};

/// Symmetric lengths; a tour has all legs of `sure`. `better(tour, kicks, draw)`: a tour as good or
/// better, by whatever way there is; called with what is there, which may be empty, and a number
/// that says which lots are drawn. Two are asked for at the same time.
using BetterTour = std::function<std::vector<linalg::Index>(
    std::vector<linalg::Index>, std::int64_t kicks, std::uint64_t draw)>;
ExactTour solve_exactly(const tours::WholeLengths& lengths, const std::vector<tours::Leg>& sure,
                        const BetterTour& better, const ExactTourOptions& options);

/// Legs to begin a relaxation with: the nearest of every stop, and those of the tour.
std::vector<tours::Leg> first_legs(const tours::WholeLengths& lengths,
                                   const std::vector<linalg::Index>& tour);

/// Solved whole without rules against loops, which are then ruled out, and again. The last round
/// has one loop. `tour`: a known one, for which legs are left out.
struct LoopRound {
  std::int64_t length = 0;
  std::vector<std::vector<linalg::Index>> loops;
};
struct Rounds {
  std::vector<LoopRound> rounds;
  Outcome outcome = Outcome::undecided;  ///< optimal: the last round is the shortest tour
  std::int64_t nodes = 0, loops = 0, legs_kept = 0;
  std::string stopped_by, reason;
};
Rounds solve_in_rounds(const tours::WholeLengths& lengths, const std::vector<tours::Leg>& sure,
                       const std::vector<linalg::Index>& tour, int most,
                       const ExactTourOptions& options);

}  // namespace kiteknot::methods
