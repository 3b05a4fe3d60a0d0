#pragma once
// The generalised assignment problem on plain arrays: every job to one agent, whose room its jobs
// share.

#include <functional>
#include <vector>

#include "base/random.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

struct RoomProblem {
  Index agents = 0, jobs = 0;
  std::vector<double> cost, use;  ///< by agent x jobs + job; an infinite cost: not allowed
  std::vector<double> room;       ///< by agent
  [[nodiscard]] std::size_t place(Index agent, Index job) const {
    return static_cast<std::size_t>(agent) * static_cast<std::size_t>(jobs) +
           static_cast<std::size_t>(job);
  }
};
struct RoomPlan {
  std::vector<Index> agent_of;  ///< by job
  double cost = 0.0;
  double over = 0.0;  ///< of all rooms together, what is too much; 0: a plan
};

/// The job goes first that would lose most if its best agent were full (Martello and Toth 1981, "An
/// algorithm for the generalized assignment problem"); what fits nowhere goes where it is least too
/// much.
RoomPlan by_regret(const RoomProblem& problem);
struct RoomWatch {
  std::function<void(const RoomPlan&)> better;  ///< each plan that fits, better than those before
  std::function<bool(double entries)> over;     ///< asked before each pass over so many entries
};
/// Shifts of one job and swaps of two as long as they are better, what is too much being paid for
/// by each agent at a rate of its own, which rises where it has too much and falls where all fits
/// (Yagiura, Yamaguchi and Ibaraki 1998, "A variable depth search algorithm with branching search
/// for the generalized assignment problem"); with a few lots where nothing moves any more.
void exchange(const RoomProblem& problem, RoomPlan from, Random& random, const RoomWatch& watch);

}  // namespace kiteknot::structures
