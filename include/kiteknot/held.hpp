#pragma once
// Prices of limits while the whole decisions of the best plan stay as they are.

#include <optional>

#include "kiteknot/result.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// The relaxation with every whole decision held at its best value by a rule of its own, behind
/// those of the model.
struct HeldPrices {
  Result relaxed;
  std::size_t rows = 0;  ///< rule rows of the model; those after them hold decisions
};

/// Of a proven best plan: the prices are those of what the real decisions still can do. Nothing
/// where there are no whole decisions or no real ones, several goals, or where logic leaves more
/// open than the plan has (the value then is not the plan's).
std::optional<HeldPrices> held_prices(const Result& best, const SolveOptions& options = {});

}  // namespace kiteknot
#pragma GCC visibility pop
