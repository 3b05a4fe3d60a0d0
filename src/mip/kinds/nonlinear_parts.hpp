#pragma once
// What nonlinear terms are to a search, each in a file of its own.

#include <memory>

#include "mip/branching/disjunction.hpp"
#include "mip/kinds/nonlinear_terms.hpp"
#include "mip/propagators/propagator.hpp"
#include "mip/relaxation/relaxed_kind.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

/// Bounds of a term's columns from those of the others, both ways, to a fixed point or until what
/// they gain is little (Messine 1997; Belotti, Lee, Liberti, Margot and Wächter 2009).
std::unique_ptr<Propagator> nonlinear_propagator(const std::vector<NonlinearTerm>& terms,
                                                 std::uint8_t kind, Domain& domain);
/// Rows for each term that are stated anew for the box of the node (RelaxedKind::tighten).
std::unique_ptr<RelaxedKind> nonlinear_relaxation(const std::vector<NonlinearTerm>& terms,
                                                  const Problem& problem, Relaxation& relaxation);
/// Splits the range of a column in the terms that a point breaks (Tawarmalani and Sahinidis 2004).
std::unique_ptr<Disjunction> nonlinear_branching(const std::vector<NonlinearTerm>& terms);
/// Tangents that hold everywhere (Duran and Grossmann 1986).
std::unique_ptr<Separator> nonlinear_tangents(const std::vector<NonlinearTerm>& terms);

}  // namespace kiteknot::mip
