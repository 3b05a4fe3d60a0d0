#pragma once
// A generator of the problem as it came, asked from a reduced one: it sees points of the former,
// and its rows are told over the columns that are left.

#include "mip/presolve/postsolve_stack.hpp"

namespace kiteknot::mip {

class ReducedGenerator final : public Generator {
 public:
  /// `postsolve` outlives it; no columns were joined on it.
  ReducedGenerator(Generator& full, const PostsolveStack& postsolve)
      : full_(full), postsolve_(postsolve) {}
  [[nodiscard]] bool wants_fractions() const override { return full_.wants_fractions(); }
  std::vector<LinearRow> look(std::span<const double> point, bool integral) override {
    std::vector<LinearRow> rows = full_.look(postsolve_.restore(point), integral);
    for (LinearRow& row : rows) row = postsolve_.reduce(row);
    return rows;
  }

 private:
  Generator& full_;
  const PostsolveStack& postsolve_;
};

}  // namespace kiteknot::mip
