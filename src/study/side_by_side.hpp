#pragma once
// The solves that a question takes, side by side: so many lanes as there are threads, one thread a
// solve. What one solve of a lane leaves for later ones is its lane's: the answers depend on the
// number of threads only.

#include "base/lanes.hpp"
#include "methods/budget.hpp"
#include "methods/memory.hpp"
#include "study/time_left.hpp"

namespace kiteknot {

/// `act(job, memory, options)` for every job; options with the job's name, as `name(job)` says.
/// `work`: what a solve of this kind took. Short ones go one after the other, each with what all
/// before it left: so that everyday answers are the same on every machine.
template <class Name, class Act>
void side_by_side(std::size_t jobs, std::int64_t work, const TimeLeft& time,
                  methods::Memory& memory, const Name& name, const Act& act) {
  constexpr std::int64_t kShort = 5'000'000;
  const auto threads = static_cast<std::size_t>(methods::threads_of(time.all().threads));
  const std::size_t lanes = std::min(threads, jobs);
  if (lanes < 2 || work < kShort) {
    for (std::size_t k = 0; k < jobs; ++k) act(k, memory, time.options(name(k)));
    return;
  }
  std::vector<methods::Memory> memories(lanes, memory);
  in_lanes(jobs, lanes, [&](std::size_t k, std::size_t lane) {
    SolveOptions options = time.options(name(k));
    options.threads = 1;
    act(k, memories[lane], options);
  });
}

}  // namespace kiteknot
