#pragma once
// Ranges of single columns by the whole relaxation: what each can be at least and at most, given
// that only plans better than the best one count. Source: Zamora and Grossmann 1999, "A branch and
// contract algorithm for problems with concave univariate, bilinear and linear fractional terms".
// Every end is a bound of the linear engine, rounded outward.

#include "mip/domain/cutoff.hpp"
#include "mip/domain/domain.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {

struct RangeLimits {
  std::int64_t work = 0;  ///< units
  Interrupt interrupt{};
};

/// For these columns in turn, within the limits; false: nothing better is left.
/// Ends that some point of the relaxation comes near are left alone: nothing is to be won there
/// (Gleixner, Berthold, Müller and Weltge 2017, "Three enhancements for optimization-based bound
/// tightening"). `start`: of a relaxation of the same rows, or empty. The domain's propagators hear
/// of it by its trail.
[[nodiscard]] bool tighten_ranges(Domain& domain, std::span<const Index> columns,
                                  const Cutoff& cutoff, const lp::Basis& start,
                                  const RangeLimits& limits, WorkCounter& work);

}  // namespace kiteknot::mip
