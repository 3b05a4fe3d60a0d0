#pragma once
// Knapsacks with choices on plain arrays: one item of every class, within one capacity, for the
// most profit. Solved by a dynamic program over a core that grows (Pisinger 1995, "A minimal
// algorithm for the multiple-choice knapsack problem"): classes join in the order in which they
// could depart from the relaxed choice, and sums that no class still outside can mend are dropped.
// Whole figures; everything is exact. A plain knapsack is the same with two items a class.

#include <cstdint>
#include <optional>
#include <vector>

#include "base/work.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

struct ChoiceItem {
  std::int64_t profit = 0, weight = 0;  ///< weight from 0 up; both at most 2^50 in sum
};
struct ChoiceProblem {
  std::vector<std::vector<ChoiceItem>> classes;  ///< none is empty
  std::int64_t capacity = 0;
};
/// By class the item taken.
struct ChoicePlan {
  std::vector<Index> item;
  std::int64_t profit = 0, weight = 0;
};

/// The relaxed choice rounded: from the lightest items on, the steps that pay most for their weight
/// while they fit (Sinha and Zoltners 1979, "The multiple-choice knapsack problem"). Nothing where
/// not even the lightest items fit. O(items log items).
std::optional<ChoicePlan> choose_by_slopes(const ChoiceProblem& problem);

struct ChoiceProgram {
  std::optional<ChoicePlan> plan;  ///< none: not even the lightest items fit
  bool best = false;               ///< nothing is better; false where the work or the memory ended
};
/// At most 10 million sums are kept, some 40 bytes each.
ChoiceProgram choose_best(const ChoiceProblem& problem, WorkCounter& work);

}  // namespace kiteknot::structures
