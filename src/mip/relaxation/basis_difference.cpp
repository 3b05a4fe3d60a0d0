#include "mip/relaxation/basis_difference.hpp"

namespace kiteknot::mip {

std::shared_ptr<const BasisDifference> BasisDifference::keep(
    NodeBasis basis, std::shared_ptr<const BasisDifference>& full) {
  auto kept = std::make_shared<BasisDifference>();
  kept->own_ = std::move(basis);
  std::vector<lp::VariableStatus>& columns = kept->own_.basis.columns;
  if (full == nullptr || full->own_.basis.columns.size() != columns.size()) return full = kept;
  constexpr std::size_t kShare = 16;  // a difference takes 8 bytes, a column one
  const std::vector<lp::VariableStatus>& from = full->own_.basis.columns;
  for (std::size_t j = 0; j < columns.size(); ++j) {
    if (columns[j] == from[j]) continue;
    if (kept->differ_.size() >= columns.size() / kShare) {
      kept->differ_ = {};
      return full = kept;
    }
    kept->differ_.emplace_back(static_cast<Index>(j), columns[j]);
  }
  kept->differ_.shrink_to_fit();
  columns = {};
  kept->full_ = full;
  return kept;
}

NodeBasis BasisDifference::load() const {
  NodeBasis basis = own_;
  if (full_ == nullptr) return basis;
  basis.basis.columns = full_->own_.basis.columns;
  for (const auto& [j, place] : differ_) basis.basis.columns[at(j)] = place;
  return basis;
}

std::size_t BasisDifference::bytes() const noexcept {
  const lp::Basis& b = own_.basis;
  return sizeof(BasisDifference) + b.columns.size() + b.rows.size() +
         sizeof(float) * b.weights.size() + sizeof(RowName) * own_.named.size() +
         sizeof(differ_[0]) * differ_.size();
}

}  // namespace kiteknot::mip
