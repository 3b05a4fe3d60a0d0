#pragma once
// The exact search on a model: lower, search, translate back. What a Study remembers goes in and
// out.

#include <map>
#include <utility>

#include "kiteknot/solve.hpp"
#include "lp/simplex.hpp"

namespace kiteknot::methods {

/// What a later solve of a similar model can start from.
struct Memory {
  std::vector<lp::Place> columns;                                   // by decision
  std::map<std::pair<std::int32_t, std::int32_t>, lp::Place> rows;  // by rule family and member
  std::vector<std::vector<Rational>> plans;                         // most recent last
};

Result search(const Model& model, const SolveOptions& options, Observer* observer, bool relaxed,
              Memory* memory = nullptr);

/// The same for a model of several goals.
Result search_in_order(const Model& model, const SolveOptions& options, Observer* observer,
                       bool relaxed, Memory* memory);

}  // namespace kiteknot::methods
