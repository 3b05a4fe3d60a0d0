#pragma once
// What the stages of one solve share: the clock, the best plans, and what was spent so far. All of
// it is told in the terms of the problem as it came.

#include "base/work.hpp"
#include "mip/interface/options.hpp"
#include "mip/search/incumbents.hpp"

namespace kiteknot::mip {

struct SolveContext {
  Judge judge;                   ///< of plans of the problem as it came
  Listener* listener = nullptr;  ///< null: nobody listens
  Stopwatch clock{};             ///< one for all stages: limits of time count from its start
  Incumbents incumbents{};
  std::size_t few_told = 0;  ///< of the best few, to the listener
  Counts spent{};            ///< by what is over: stages, presolve, parts
  std::vector<Standing> history{};
  double kept_at = 0.0, keeping_took = 0.0;  ///< when it was kept last, and what that took

  /// Of the best few those that a bound of all that is left to find proves to be in their place.
  void tell_in_place(double bound) {
    if (listener == nullptr) return;
    for (const Found* found : incumbents.in_place(bound, few_told))
      listener->in_place(few_told++, found->plan, found->goal);
  }
};

}  // namespace kiteknot::mip
