#pragma once
// The node that is looked at: its task, what is known of it, and what goes back.

#include "mip/interface/task.hpp"

namespace kiteknot::mip {

struct PresentNode {
  const Task* task = nullptr;  ///< null: between nodes
  NodeOutcome out;
  std::int64_t nodes = 0, pivots = 0;  ///< of the search, before it
  CertainCosts costs;                  ///< of the relaxation solved last
  std::vector<Index> fractional;       ///< whole columns with a fractional value
  double relaxed_goal = 0.0;
};

}  // namespace kiteknot::mip
