#pragma once
// Plans of problems with smooth constraints: whole columns are held at whole values, the others go
// to a local optimum (nonlinear/local_solver.hpp) from a point nearby.

#include <optional>
#include <vector>

#include "base/random.hpp"
#include "mip/domain/domain.hpp"
#include "mip/nonlinear/local_solver.hpp"

namespace kiteknot::mip {

class LocalSearch {
 public:
  /// `decisions`: the columns that a judge looks at.
  LocalSearch(const Problem& problem, Index decisions, std::uint64_t seed);
  /// Whether a problem has constraints that call for it.
  [[nodiscard]] static bool wanted(const Problem& problem);

  /// With whole columns at the values of the point; nothing where none lies within the bounds.
  [[nodiscard]] std::optional<LocalEnd> around(const Domain& domain, std::vector<double> point,
                                               WorkCounter& work);
  /// With whole columns free.
  [[nodiscard]] std::optional<LocalEnd> relaxed(const Domain& domain, std::vector<double> point,
                                                WorkCounter& work);
  /// With real columns at their bounds, and at whole values, that they nearly have; what follows
  /// from them follows. It may miss constraints by as little.
  [[nodiscard]] static std::vector<double> tidied(const Domain& domain, std::vector<double> point);
  /// Somewhere in the box; ranges without an end count for a part near the point.
  [[nodiscard]] std::vector<double> anywhere(const Domain& domain, std::span<const double> near);

 private:
  [[nodiscard]] std::optional<LocalEnd> solve(Problem here, std::vector<double> point,
                                              WorkCounter& work) const;
  bool only_whole_decisions_ = true;
  Random random_;
};

}  // namespace kiteknot::mip
