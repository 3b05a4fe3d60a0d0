#pragma once
// Columns that a binary switches: in one of its states it leaves them one value, or nearly. Rows of
// two columns say so, and what probing found.

#include <unordered_map>

#include "base/interval_functions.hpp"
#include "mip/kinds/nonlinear_terms.hpp"
#include "mip/structures/implications.hpp"

namespace kiteknot::mip {

struct Switch {
  Index binary = -1;
  Interval off, on;       ///< of the column, in either state
  bool on_at_one = true;  ///< which state is which
  [[nodiscard]] double share_on(std::span<const double> point) const {
    return on_at_one ? point[at(binary)] : 1.0 - point[at(binary)];
  }
};

class Switches {
 public:
  /// Takes what probing has found by now; of the columns that terms are of.
  void learn(const Problem& problem, const std::vector<NonlinearTerm>& terms,
             const Implications& implied);
  [[nodiscard]] std::span<const Switch> of(Index column) const {
    const auto found = by_column_.find(column);
    return found == by_column_.end() ? std::span<const Switch>{} : found->second;
  }

 private:
  std::unordered_map<Index, std::vector<Switch>> by_column_;
  std::optional<std::size_t> known_;  // implications seen so far
};

/// A row that holds in both states and is tight at the point in both, for a side of `value` and
/// f(x) that bends the right way: with the slope s of f where x is when it is on,
///   value - s x >= (least of f(t) - s t over on) share_on + (the same over off) (1 - share_on),
/// the tangent of the function's perspective. Source: Frangioni and Gentile 2006, "Perspective cuts
/// for a class of convex 0-1 mixed integer programs". False: the point does not break it by `least`
/// relative to the term.
[[nodiscard]] bool perspective_row(const NonlinearTerm& term, const UnaryFunction& f, bool above,
                                   const Switch& by, std::span<const double> point, double least,
                                   LinearRow& row);

}  // namespace kiteknot::mip
