#pragma once
// Ranges of single columns by the whole relaxation: what each can be at least and at most, given
// that only plans better than the best one count. Source: Zamora and Grossmann 1999, "A branch and
// contract algorithm for problems with concave univariate, bilinear and linear fractional terms".
// Every end is a bound of the linear engine, rounded outward.

#include "mip/domain/cutoff.hpp"
#include "mip/domain/domain.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {

/// For these columns in turn, until `most` units of work are spent; false: nothing better is left.
/// The domain's propagators hear of it by its trail.
[[nodiscard]] bool tighten_ranges(Domain& domain, std::span<const Index> columns,
                                  const Cutoff& cutoff, std::int64_t most, WorkCounter& work);

}  // namespace kiteknot::mip
