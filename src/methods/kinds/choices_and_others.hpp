#pragma once
// Rows of a binary problem in two sorts, each decision in at most one of either: choices (exactly
// one of them, or at most one), and all others.

#include "methods/kinds/plain_problem.hpp"

namespace kiteknot::methods {

struct ChoicesAndOthers {
  std::vector<Index> choice, other;    ///< by decision: place among rows of that sort, or -1
  std::vector<Index> choices, others;  ///< rows
};

/// `or_none`: of choices at most one, else exactly one. Nothing where a decision stands in two of a
/// sort, or is not binary.
inline std::optional<ChoicesAndOthers> choices_and_others(const PlainProblem& p,
                                                          bool or_none = false) {
  if (!p.all_binary()) return {};
  ChoicesAndOthers s;
  s.choice.assign(p.cost.size(), -1);
  s.other.assign(p.cost.size(), -1);
  for (Index i = 0; i < p.num_rows(); ++i) {
    const bool choice = or_none ? p.at_most_one_of(i) : p.one_of(i);
    std::vector<Index>& place = choice ? s.choice : s.other;
    std::vector<Index>& list = choice ? s.choices : s.others;
    for (const WeightedNode& t : p.row(i)) {
      if (place[at(t.node)] >= 0) return {};
      place[at(t.node)] = static_cast<Index>(list.size());
    }
    list.push_back(i);
  }
  return s;
}

}  // namespace kiteknot::methods
