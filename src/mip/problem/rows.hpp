#pragma once
// The pieces of a Problem: literals, rows with limits.

#include <optional>
#include <span>
#include <vector>

#include "base/infinity.hpp"
#include "lp/program.hpp"

namespace kiteknot::mip {

using linalg::Index;
using linalg::Lines;
using lp::Entry;

/// A condition in one of its two states: when something holds, or has to.
struct ConditionLiteral {
  Index condition = -1;
  bool holds = true;  ///< the state of the condition that is meant
};

struct LinearRow {
  std::vector<Entry> entries;  ///< each column at most once
  double lower = 0.0, upper = 0.0;
  bool exact =
      true;  ///< entries are the model's numbers, not nearest doubles; limits never cut a plan off
  std::optional<lp::Exact> known{};  ///< the model's numbers, where doubles are not
  bool local = false;  ///< of a generated row: holds only below the node whose point it cuts off
};

/// A row wherever it is stored.
struct RowView {
  std::span<const Index> index;
  std::span<const double> value;
  double lower = 0.0, upper = 0.0;
  bool exact = true;
};

}  // namespace kiteknot::mip
