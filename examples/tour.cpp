// The crew's round over all stops of the festival: the shortest one with its proof, and what people
// would have done by hand.
#include "kiteknot/tour.hpp"

#include <iostream>

namespace kk = kiteknot;

int main() {
  const kk::Stops stops = kk::Stops::read("stops.csv").value();
  const kk::TourAnswer best = kk::find_tour(stops, {.first = stops.find("Gate")});
  std::cout << "the shortest round is " << best.length.to_double() << " km, and "
            << kk::word(best.outcome) << "\n";
  for (const char* way : {"nearest", "savings", "exchange"}) {
    const kk::TourAnswer by_hand = kk::find_tour(stops, {.way = way});
    const double more = (by_hand.length / best.length).to_double() - 1.0;
    std::cout << way << ": " << by_hand.length.to_double() << " km, " << 100.0 * more
              << " % more\n";
  }
  std::cout << "after the Gate: " << stops.name(best.order[1]) << ", then "
            << stops.name(best.order[2]) << "\n";
}
