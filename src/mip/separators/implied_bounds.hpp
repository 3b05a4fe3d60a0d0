#pragma once
// Cuts from probing: where the literal l holds the column y has the bound b, else its own bound u,
// so y <= b + (u - b) (1 - l); likewise from below. Source: Savelsbergh 1994, "Preprocessing and
// probing techniques for mixed integer programming problems", section 3.

#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

class ImpliedBounds final : public Separator {
 public:
  [[nodiscard]] std::string_view name() const override { return "bounds that a choice implies"; }
  [[nodiscard]] bool wants(const SeparationContext& where) const override {
    return !where.integral && !where.implied.empty();
  }
  void look(const SeparationContext& where, std::vector<LinearRow>& found) override;
};

}  // namespace kiteknot::mip
