#include "mip/interface/result.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {

double relative_gap(double value, double bound, double goal_size) {
  if (value == bound) return 0.0;
  constexpr double kLeast = 1e-10;
  return std::abs(value - bound) / std::max(std::abs(value), kLeast * goal_size);
}

std::string_view name_of(ClosedBy by) {
  constexpr std::array<std::string_view, kWaysToClose> kNames = {
      "none",     "conflict", "relaxation", "bound",     "remainder",
      "children", "point",    "nearly",     "unresolved"};
  return kNames[static_cast<std::size_t>(by)];
}

std::string_view word(StoppedBy by) {
  constexpr std::array<std::string_view, 6> kWords = {"", "time", "nodes", "gap", "memory", "hand"};
  return kWords[static_cast<std::size_t>(by)];
}

void add_part(std::vector<PartTally>& parts, PartTally part) {
  const auto it = std::find_if(parts.begin(), parts.end(), [&](const PartTally& p) {
    return p.kind == part.kind && p.name == part.name;
  });
  if (it == parts.end()) {
    parts.push_back(std::move(part));
    return;
  }
  it->tally.calls += part.tally.calls;
  it->tally.work += part.tally.work;
  it->tally.steps += part.tally.steps;
  it->tally.conflicts += part.tally.conflicts;
}

}  // namespace kiteknot::mip
