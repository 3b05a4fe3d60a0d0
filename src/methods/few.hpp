#pragma once
// The best few plans of a model with one goal, found in one search.

#include "kiteknot/solve.hpp"

namespace kiteknot::methods {

struct FewPlans {
  std::vector<Plan> plans;    ///< the best first
  std::size_t proven = 0;     ///< of these, in their place for certain
  bool all_there_is = false;  ///< proven: there are no others
  std::string stopped_by;     ///< empty: all that were asked for are proven
  std::int64_t nodes = 0;
};

/// `key`: whole decisions; plans that agree in them count as one. `best`: a proven best plan,
/// which comes first.
FewPlans search_few(const Model& model, std::size_t count, const std::vector<Decision>& key,
                    const Plan& best, const SolveOptions& options, Observer* observer);

}  // namespace kiteknot::methods
