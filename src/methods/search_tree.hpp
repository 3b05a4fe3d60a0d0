#pragma once
// The tree of a search in the user's names and units.

#include "kiteknot/result.hpp"
#include "mip/interface/result.hpp"
#include "model/lowering.hpp"

namespace kiteknot {

/// `conditions`: the column that stands for each condition of the problem, -1: none.
std::vector<SearchNode> tree_of(const mip::SearchResult& found, const Lowering& lowering,
                                const std::vector<Index>& conditions, const ModelData& model);

}  // namespace kiteknot
