#pragma once
// A generator of the problem as it came, asked from a reduced one: it sees points of the former,
// and its rows are told over the columns that are left.

#include "mip/presolve/way_back.hpp"

namespace kiteknot::mip {

class ReducedGenerator final : public Generator {
 public:
  /// `way_back` outlives it; no columns were joined on it.
  ReducedGenerator(Generator& full, const WayBack& way_back) : full_(full), way_back_(way_back) {}
  [[nodiscard]] bool wants_fractions() const override { return full_.wants_fractions(); }
  std::vector<LinearRow> look(std::span<const double> point, bool integral) override {
    std::vector<LinearRow> rows = full_.look(way_back_.restore(point), integral);
    for (LinearRow& row : rows) row = way_back_.reduce(row);
    return rows;
  }

 private:
  Generator& full_;
  const WayBack& way_back_;
};

}  // namespace kiteknot::mip
