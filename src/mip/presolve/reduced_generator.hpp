#pragma once
// A generator of the problem as it came, asked from a reduced one: it sees points of the former,
// and its rows are told over the columns that are left.

#include <memory>

#include "mip/presolve/postsolve_stack.hpp"

namespace kiteknot::mip {

class ReducedGenerator final : public RowGenerator {
 public:
  /// No columns were joined on the way.
  ReducedGenerator(std::shared_ptr<RowGenerator> full,
                   std::shared_ptr<const PostsolveStack> postsolve)
      : full_(std::move(full)), postsolve_(std::move(postsolve)) {}
  [[nodiscard]] bool wants_fractions() const override { return full_->wants_fractions(); }
  std::vector<LinearRow> look(std::span<const double> point, bool integral) override {
    std::vector<LinearRow> rows = full_->look(postsolve_->restore(point), integral);
    for (LinearRow& row : rows) row = postsolve_->reduce(row);
    return rows;
  }
  [[nodiscard]] std::shared_ptr<RowGenerator> twin() const override {
    auto full = full_->twin();
    return full == nullptr ? nullptr
                           : std::make_shared<ReducedGenerator>(std::move(full), postsolve_);
  }
  // What presolve left of it follows from the problem as it came.
  [[nodiscard]] bool mark(Mark& mark) const override { return full_->mark(mark); }

 private:
  std::shared_ptr<RowGenerator> full_;
  std::shared_ptr<const PostsolveStack> postsolve_;
};

}  // namespace kiteknot::mip
