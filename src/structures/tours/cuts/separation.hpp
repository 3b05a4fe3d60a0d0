#pragma once
// Rows that a relaxed point of a round trip breaks, of every kind, the cheapest to find first.

#include <vector>

#include "base/random.hpp"
#include "structures/tours/cuts/stop_row.hpp"
#include "structures/tours/cuts/support.hpp"

namespace kiteknot::structures::tours {

class TourSeparation {
 public:
  explicit TourSeparation(Index stops) : stops_(stops), counts_(stops) {}

  /// Rows that the point breaks by more than `margin`, worst first, at most `most`. Nothing: none
  /// was found; of whole points with 2 legs at every stop that means a tour.
  std::vector<StopRow> look(std::span<const Leg> legs, std::span<const double> x, double margin,
                            std::size_t most);

 private:
  void look_for_combs(const Support& support, double margin, std::vector<StopRow>& found);
  void keep_sets(const std::vector<StopRow>& found);

  Index stops_;
  LegCounts counts_;
  Random random_{1};
  std::vector<std::vector<Index>> sets_;  // that once were too little in and out of; the last ones
};

}  // namespace kiteknot::structures::tours
