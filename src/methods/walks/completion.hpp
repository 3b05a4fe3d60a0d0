#pragma once
// The best real decisions for given whole ones, by the warm dual simplex.

#include <optional>
#include <vector>

#include "methods/walks/standing.hpp"
#include "mip/propagators/propagation.hpp"
#include "mip/relaxation/relaxation.hpp"
#include "model/lowering.hpp"

namespace kiteknot::methods {

class Completion {
 public:
  /// Throws UsageError where linear rows do not say what real decisions have to keep.
  Completion(const Model& model, const CompiledModel& compiled, const Interrupt& interrupt);

  /// All decisions with the whole ones as they stand in `values`, judged by the compiled model:
  /// nothing where the rules leave the reals no value.
  [[nodiscard]] std::optional<Score> at(std::span<const double> values, std::vector<double>& point);

 private:
  const Interrupt& interrupt_;
  Lowering lowering_;
  mip::Domain domain_;
  mip::Propagation propagation_;
  mip::Relaxation relaxation_;
  Standing judge_;
  std::vector<Index> whole_;  // decisions
  WorkCounter work_;
};

}  // namespace kiteknot::methods
