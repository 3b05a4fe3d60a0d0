#pragma once
// Variants of one model that differ in limits of rows only, answered in one search.

#include <optional>
#include <span>

#include "kiteknot/result.hpp"
#include "methods/memory.hpp"
#include "mip/together.hpp"

namespace kiteknot::methods {

struct LimitVariant {
  Model model;
  mip::LimitChanges changes;  ///< against the lowering of the model they are variants of
};

/// One answer a variant, in order; empty where it has to be asked alone: the model is more than
/// linear rows over whole decisions, an answer short of the proof will do (options.gap,
/// options.nodes), or a limit stopped the search. Seconds are told in equal parts.
std::vector<std::optional<Result>> search_together(const Lowering& lowering,
                                                   std::span<const LimitVariant> variants,
                                                   const SolveOptions& options, Memory& memory);

}  // namespace kiteknot::methods
