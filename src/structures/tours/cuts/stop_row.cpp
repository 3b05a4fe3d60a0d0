#include "structures/tours/cuts/stop_row.hpp"

#include <algorithm>

namespace kiteknot::structures::tours {

void normalise(StopRow& row, Index stops) {
  std::vector<char> inside;
  for (std::vector<Index>& set : row.sets) {
    std::sort(set.begin(), set.end());
    const bool half = 2 * set.size() == at(stops);
    if (2 * set.size() < at(stops) || (half && set.front() == 0)) continue;
    inside.assign(at(stops), 0);
    for (const Index stop : set) inside[at(stop)] = 1;
    set.clear();
    for (Index stop = 0; stop < stops; ++stop)
      if (inside[at(stop)] == 0) set.push_back(stop);
  }
  if (row.sets.size() > 2) std::sort(row.sets.begin() + 1, row.sets.end());
}

}  // namespace kiteknot::structures::tours
