#pragma once
// A step in words, read against the names of a tableau.

#include <optional>
#include <string>
#include <vector>

#include "kiteknot/workbench.hpp"

namespace kiteknot::workbench {

enum class StepKind {
  bring_in,
  take_out,
  next,
  to_the_end,
  first_phase,
  ratios,
  fractions,
  cut,
  all_the_way,
  add,
  drop,
  branch,
  copies,
  copy,
  close,
  undo,
  redo,
  back_to,
  history,
  prices,
  show,
  help
};

struct Step {
  StepKind kind = StepKind::show;
  std::optional<Tableau::Column> name, other;  // "bring in NAME for OTHER"
  std::string row;                             // "drop NAME"
  bool goal_row = false;                       // "cut on GOAL"
  bool anyway = false, mixed = false;
  std::optional<StepRule> rule;
  TableauSum sum;     // add, branch
  std::string title;  // of what is added
  std::optional<std::int32_t> number;
  std::size_t name_at = 0, other_at = 0;  // where they stand, in characters from 1
};

/// What is wrong with the words, and where; thrown inside this layer only.
struct StepError {
  std::size_t column = 1;
  std::string message;
};

/// Throws StepError.
Step read_step(const Tableau& tableau, const std::string& words);

}  // namespace kiteknot::workbench
