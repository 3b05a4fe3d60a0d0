#pragma once
// Conditional rows in the relaxation. Each stands there with free limits until its literal holds;
// where the row's range is finite at the root and a column stands for the condition, a linear row
// with the bound computed from that range is there as well.

#include <vector>

#include "mip/domain/domain.hpp"

namespace kiteknot::mip {

class Relaxation;

class SwitchedRows {
 public:
  /// Adds them to the relaxation.
  SwitchedRows(const Problem& problem, Relaxation& relaxation);
  /// Gives the rows of a condition the limits that its state asks for.
  void follow(Index condition, const Domain& domain, Relaxation& relaxation) const;
  /// Where the conditional row stands in the relaxation.
  [[nodiscard]] const std::vector<Index>& rows() const noexcept { return relaxed_; }
  [[nodiscard]] Index row_of(Index conditional) const { return relaxed_[at(conditional)]; }

 private:
  std::vector<std::vector<Index>> rows_of_;  // by conditions: conditional rows
  std::vector<Index> relaxed_;               // by conditional rows
};

}  // namespace kiteknot::mip
