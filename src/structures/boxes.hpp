#pragma once
// Bin packing on plain arrays: items of sizes into as few boxes of one size as can be (Martello and
// Toth 1990, "Knapsack problems: algorithms and computer implementations", chapter 8).

#include <cstdint>
#include <vector>

#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

/// By item its box, from 0 on; sizes above 0, none larger than `room`.
struct Boxes {
  std::vector<Index> box_of;
  Index used = 0;
};
/// Largest first, each into the first box with room. O(n log n + n boxes).
Boxes first_fit(const std::vector<std::int64_t>& sizes, std::int64_t room);
/// The same into the fullest box with room.
Boxes best_fit(const std::vector<std::int64_t>& sizes, std::int64_t room);
/// So many boxes are needed at least: L2 of Martello and Toth, over all thresholds up to half of
/// the room. O(n log n).
Index boxes_needed(const std::vector<std::int64_t>& sizes, std::int64_t room);

}  // namespace kiteknot::structures
