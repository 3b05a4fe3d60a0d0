#pragma once
// Jobs beside each other, on as many threads as there are lanes, the first of them the caller's.
// What a job throws comes out once all have ended, that of the first job that threw; jobs that have
// not begun by then are left. Where the machine has no thread left, fewer lanes do it all.

#include <cstddef>
#include <functional>

namespace kiteknot {

/// Lane k does the jobs k, k + lanes, k + 2 lanes, ... in this order: what one of them leaves for
/// the next of its lane does not depend on how fast the others are.
void in_lanes(std::size_t jobs, std::size_t lanes,
              const std::function<void(std::size_t job, std::size_t lane)>& act);

/// Whoever is free takes the next job.
void as_they_come(std::size_t jobs, std::size_t lanes,
                  const std::function<void(std::size_t job)>& act);

}  // namespace kiteknot
