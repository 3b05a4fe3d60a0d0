#pragma once
// The bases of open nodes. Neighbours differ in few columns: a basis is kept as its differences
// from a full one that many share.

#include <memory>
#include <utility>
#include <vector>

#include "mip/relaxation/row_pool.hpp"

namespace kiteknot::mip {

class BasisDifference {
 public:
  /// `full`: the full basis to tell it against; becomes this one where too much differs, or there
  /// is none yet.
  static std::shared_ptr<const BasisDifference> keep(NodeBasis basis,
                                                     std::shared_ptr<const BasisDifference>& full);
  [[nodiscard]] NodeBasis load() const;
  /// That it holds by itself.
  [[nodiscard]] std::size_t bytes() const noexcept;

 private:
  NodeBasis own_;  // without columns where these are told as differences
  std::shared_ptr<const BasisDifference> full_;  // from which; null: it is one itself
  std::vector<std::pair<Index, lp::VariableStatus>> differ_;
};

}  // namespace kiteknot::mip
