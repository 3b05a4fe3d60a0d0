#pragma once
// Cuts from the basis: the row of a whole basic column with a fractional value, as a combination of
// the relaxation's rows, is rounded. Gomory 1960, "An algorithm for the mixed integer problem".

#include "mip/separators/rounding_choice.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

class TableauRows final : public Separator {
 public:
  [[nodiscard]] std::string_view name() const override { return "rows of the basis, rounded"; }
  [[nodiscard]] bool wants(const SeparationContext& where) const override {
    return !where.integral;
  }
  /// They are long, and others bring as much.
  [[nodiscard]] bool last_resort() const override { return true; }
  void look(const SeparationContext& where, std::vector<LinearRow>& found) override;

 private:
  RowCombination combination_;
  RoundingChoice choice_;
  SafeRounding rounding_;
  std::vector<std::pair<double, Index>> order_;
};

}  // namespace kiteknot::mip
