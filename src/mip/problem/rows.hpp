#pragma once
// The pieces of a Problem: rows with limits, literals, ordered sets.

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
struct When {
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

struct ConditionalRow {
  When when;
  LinearRow row;
};

struct OrderedSet {
  std::vector<Index> columns;  ///< in order; each must admit 0
  Index width = 1;             ///< 1: at most one is not 0; 2: at most two neighbours
};

/// A row wherever it is stored.
struct RowView {
  std::span<const Index> index;
  std::span<const double> value;
  double lower = 0.0, upper = 0.0;
  bool exact = true;
};

}  // namespace kiteknot::mip
