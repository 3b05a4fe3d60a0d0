#pragma once
// Jobs that several processes do together, each process several at a time: whoever is free asks
// rank 0 for the next one and tells it what came of it. Every process knows all jobs by their
// number.

#include <cstddef>
#include <cstdint>
#include <functional>
#include <string>

#include "kiteknot/ranks.hpp"

namespace kiteknot {

struct HandedOut {
  std::size_t jobs = 0;
  std::size_t lanes = 1;   ///< of this process: so many jobs at a time, a thread for each
  std::uint64_t mark = 0;  ///< of what is asked: the same in every process
  /// Does the job here and says what came of it. Called for several jobs at once. What it throws
  /// ends everything at rank 0; elsewhere the job goes back to rank 0.
  std::function<std::string(std::size_t job)> act;
  /// At rank 0, one at a time: what came of a job, here or elsewhere.
  std::function<void(std::size_t job, const std::string& came)> take;
  std::function<bool()> stopped;  ///< nothing is begun any more
  /// Elsewhere than at rank 0, while jobs are done: nobody wants what comes of them any more.
  std::function<void()> unwanted;
  double silent = 30.0;  ///< seconds without a word after which a process counts as gone
};

/// At rank 0: until all is done, or stopped. What a process that fell silent was to do is done by
/// another. UsageError where one has other jobs.
void hand_out(Transport& transport, const HandedOut& work);

/// At any other: until rank 0 has nothing left.
void do_handed_out(Transport& transport, const HandedOut& work);

}  // namespace kiteknot
