// Jobs beside each other: all are done once, in their lane's order, and what is thrown comes out.
#include "base/lanes.hpp"

#include <atomic>
#include <mutex>
#include <stdexcept>
#include <vector>

#include <catch2/catch.hpp>

using namespace kiteknot;

TEST_CASE("every job is done once, in the order of its lane", "[base][threads]") {
  for (std::size_t jobs : {0U, 1U, 2U, 7U, 50U})
    for (std::size_t lanes : {0U, 1U, 2U, 3U, 8U, 100U}) {
      std::vector<int> done(jobs, 0);
      std::vector<std::vector<std::size_t>> order(std::max<std::size_t>(lanes, 1));
      in_lanes(jobs, lanes, [&](std::size_t job, std::size_t lane) {
        ++done[job];
        order[lane].push_back(job);
      });
      CHECK(done == std::vector<int>(jobs, 1));
      for (const auto& of_lane : order)
        for (std::size_t k = 1; k < of_lane.size(); ++k)
          CHECK(of_lane[k] - of_lane[k - 1] == std::min(std::max<std::size_t>(lanes, 1), jobs));
      std::vector<std::atomic<int>> taken(jobs);
      as_they_come(jobs, lanes, [&](std::size_t job) { ++taken[job]; });
      for (const auto& t : taken) CHECK(t == 1);
    }
}

TEST_CASE("what a job throws comes out once the others have ended, and no more begin",
          "[base][threads]") {
  std::atomic<int> ended = 0;
  const auto act = [&](std::size_t job) {
    if (job == 3) throw std::runtime_error("job 3");
    ++ended;
  };
  CHECK_THROWS_WITH(in_lanes(1000, 4, [&](std::size_t job, std::size_t) { act(job); }), "job 3");
  CHECK(ended < 1000);
  ended = 0;
  CHECK_THROWS_WITH(as_they_come(1000, 4, act), "job 3");
  CHECK(ended < 1000);
  CHECK_THROWS_WITH(as_they_come(4, 1, act), "job 3");
}
