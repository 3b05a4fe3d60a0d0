#pragma once
// A model as columns and rows for a tableau: its decisions and rules, read off as stated, and where
// that was asked for the sums that conditions and the like become.

#include "kiteknot/tableau.hpp"

namespace kiteknot::workbench {

struct StatedSum {
  TableauRow row;
  Rational low = Rational::minus_infinity(), high = Rational::infinity();
};

struct Statement {
  std::vector<TableauColumn> columns;
  std::int32_t num_decisions = 0;
  std::vector<StatedSum> rows;
  std::string goal_name;
  bool maximize = true;
  Rational goal_constant;
  std::vector<Rational> goal;  // by columns
};

/// Throws UsageError as Tableau's constructor does.
Statement state(const Model& model, const TableauOptions& options);

}  // namespace kiteknot::workbench
