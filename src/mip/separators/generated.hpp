#pragma once
// The rows that a problem's own generator adds.

#include "mip/problem/generator.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

class GeneratedRows final : public Separator {
 public:
  explicit GeneratedRows(Generator& generator) : generator_(generator) {}
  [[nodiscard]] std::string_view name() const override { return "generated rows"; }
  [[nodiscard]] bool wants(const SeparationContext& where) const override {
    return where.integral || generator_.wants_fractions();
  }
  void look(const SeparationContext& where, std::vector<LinearRow>& found) override {
    found = generator_.look(where.point, where.integral);
  }

 private:
  Generator& generator_;
};

}  // namespace kiteknot::mip
