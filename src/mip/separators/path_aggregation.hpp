#pragma once
// Cuts from rows added up along paths: a row is rounded; where that does not cut the point off, a
// real column (or a whole one with a wide range) between its ends is cleared by adding a row that
// has it, as stocks link one period to the next, and the sum is rounded. Columns that a row of two
// limits by a binary column (a flow by its link) are measured from that limit where the point is
// near it. Source: Marchand and Wolsey 2001, "Aggregation and mixed integer rounding to solve
// MIPs". Flow covers and simple lot-sizing rows come out of it.

#include "mip/separators/rounding_choice.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

class PathAggregation final : public Separator {
 public:
  [[nodiscard]] std::string_view name() const override { return "rows along paths, rounded"; }
  [[nodiscard]] bool wants(const SeparationContext& where) const override {
    return !where.integral;
  }
  void look(const SeparationContext& where, std::vector<LinearRow>& found) override;

 private:
  void find_limits(const SeparationContext& where);
  void start_order(const SumVariables& variables);
  void follow(const SeparationContext& where, const SumVariables& variables, Index start,
              std::vector<LinearRow>& found);
  void replace_by_limits(const SumVariables& variables);
  [[nodiscard]] Index next_column(const SumVariables& variables) const;
  [[nodiscard]] Index next_row(const SumVariables& variables, Index column) const;
  [[nodiscard]] double slack(const SumVariables& variables, Index row) const;
  [[nodiscard]] double distance(const SumVariables& variables, Index column, Index* limit) const;
  bool round(const SumVariables& variables, std::vector<LinearRow>& found);

  bool limits_found_ = false;
  std::vector<char> wide_;                  // columns: not yes-or-no
  std::vector<std::vector<Index>> limits_;  // by columns: rows of two that limit it
  std::vector<char> is_limit_;              // rows
  std::vector<char> used_;                  // rows, on the present path
  std::vector<std::pair<double, Index>> order_;
  RowCombination path_, rounded_;
  RoundingChoice choice_;
  SafeRounding rounding_;
};

}  // namespace kiteknot::mip
