#pragma once
// Several knapsacks on plain arrays: items of a profit and a weight, each into one sack at most
// (Martello and Toth 1990, "Knapsack problems: algorithms and computer implementations", chapter
// 6). Whole figures; sums and bounds are exact.

#include <cstdint>
#include <functional>
#include <vector>

#include "base/random.hpp"
#include "base/work.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

struct SackProblem {
  std::vector<std::int64_t> profit, weight;  ///< by item, above 0
  std::vector<std::int64_t> room;            ///< by sack
};
struct SackPlan {
  std::vector<Index> sack_of;  ///< by item; -1: it stays
  std::int64_t profit = 0;
};

/// Items that are worth most for their weight first, each into the smallest sack that takes it;
/// then exchanges: two items of two sacks change places where one that stayed then fits, and an
/// item makes way for others that are worth more (Martello and Toth 1981, "Heuristic algorithms for
/// the multiple knapsack problem").
SackPlan fill_by_worth(const SackProblem& problem);

/// One sack in place of all: no plan is worth more (surrogate relaxation, the same source). Where
/// the work ended before that was solved, a looser bound. `taken`: the items of its best choice.
struct SackBound {
  std::int64_t profit = 0;
  std::vector<Index> taken;
};
SackBound joined_sacks(const SackProblem& problem, WorkCounter& work);

/// The items of the joined sack into the sacks, smallest first, each as full as can be (Pisinger
/// 1999, "An exact algorithm for large multiple knapsack problems", splits them so); what they
/// leave is filled by exchanges. Where all go in, nothing is worth more.
SackPlan split_joined(const SackProblem& problem, const SackBound& joined, WorkCounter& work);

struct SackWatch {
  std::function<void(const SackPlan&)> better;  ///< each plan better than those before
  std::function<bool(double entries)> over;     ///< asked before each round
};
/// From a plan, again and again: some sacks are emptied and filled anew, one after the other, each
/// exactly (Shaw 1998, "Using constraint programming and local search methods to solve vehicle
/// routing problems", for the idea). Lots say which and in what order.
void refill(const SackProblem& problem, SackPlan from, Random& random, const SackWatch& watch);

}  // namespace kiteknot::structures
