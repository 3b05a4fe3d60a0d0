#pragma once
// Indicator rows in the relaxation. Each stands there with free limits until its literal holds;
// where the row's range is finite at the root and a column stands for the condition, a linear row
// with the bound computed from that range is there as well.

#include "mip/kinds/indicator_rows.hpp"
#include "mip/relaxation/relaxed_kind.hpp"

namespace kiteknot::mip {

class RelaxedIndicatorRows final : public RelaxedKind {
 public:
  /// Adds them to the relaxation. `rows` outlives it.
  RelaxedIndicatorRows(const IndicatorRows& rows, const Problem& problem, Relaxation& relaxation);
  void follow(Index condition, const Domain& domain, Relaxation& relaxation) const override;
  std::span<const Index> stated_rows() const override { return relaxed_; }
  bool explain_sum(std::span<const double> multipliers, Explanation& why) const override;

 private:
  const IndicatorRows& rows_;
  std::vector<std::vector<Index>> rows_of_;  // by conditions: indicator rows
  std::vector<Index> relaxed_;               // by indicator rows
};

}  // namespace kiteknot::mip
