#pragma once
// Both values of a binary column are tried: a value that propagation excludes leaves the other
// one; a bound of another column that both bring holds anyhow. Source: Savelsbergh 1994,
// "Preprocessing and probing techniques for mixed integer programming problems".

#include "mip/propagators/propagation.hpp"
#include "mip/structures/implications.hpp"

namespace kiteknot::mip {

/// At a domain that propagation has been through. Columns in many rows first, within `most` units
/// of work; false: nothing is left possible. Keeps every plan. `implied`: what else follows from
/// either value is added, at most a few times as much as there are columns.
[[nodiscard]] bool probe(Domain& domain, Propagation& propagation, std::int64_t most,
                         WorkCounter& work, Implications& implied);

}  // namespace kiteknot::mip
