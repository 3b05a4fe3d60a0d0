#pragma once
// What the user's options leave to an engine.

#include <algorithm>
#include <thread>

#include "base/budget.hpp"
#include "kiteknot/result.hpp"
#include "kiteknot/tour.hpp"

namespace kiteknot::methods {

inline Budget budget_of(const SolveOptions& options) {
  return {options.seconds, options.nodes, options.seed, options.stop.flag()};
}

inline Budget budget_of(const TourOptions& options) {
  return {.seconds = options.seconds, .seed = options.seed, .stop = options.stop.flag()};
}

/// Where none are asked for, one for each core.
inline int threads_of(int asked) {
  return asked > 0 ? asked : static_cast<int>(std::max(1U, std::thread::hardware_concurrency()));
}

}  // namespace kiteknot::methods
