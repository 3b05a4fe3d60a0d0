#pragma once
// All reductions in turn, until none of them finds much.

#include "mip/presolve/reduction.hpp"
#include "mip/propagators/propagation.hpp"

namespace kiteknot::mip {

struct Presolved {
  bool possible = true;  ///< otherwise no plan is left
  PresolveModel::Reduced left;
  Implications implied;  ///< by columns of what is left
  struct Part {
    std::string_view name;
    Tally tally;  ///< steps: changes
  };
  std::vector<Part> parts;
  std::int64_t changes = 0;
};

/// Reduces a problem; what is kept of its plans is what `keeps` says or more. `only`: the one
/// reduction to use, by name; empty: all. Nothing where the goal is not known exactly.
std::optional<Presolved> presolve(const Problem& problem, ReductionStrength keeps, bool probing,
                                  WorkCounter& work, std::string_view only = {});

/// The names of all reductions, in the order in which they are tried.
std::vector<std::string_view> names_of_reductions();

}  // namespace kiteknot::mip
