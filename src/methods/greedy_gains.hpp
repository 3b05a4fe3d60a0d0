#pragma once
// The second half of greedy, while there is something to gain: decisions by goal per share of the
// scarcest rule (Dantzig 1957, "Discrete-variable extremum problems"), then openings that bring
// more, by all that they make room for, than they cost.

#include "methods/greedy_picks.hpp"
#include "methods/greedy_steps.hpp"

namespace kiteknot::methods {

class GreedyGains {
 public:
  GreedyGains(const ModelData& model, GreedyRows& rows, GreedyPicks& picks,
              const Interrupt& interrupt)
      : m_(model), rows_(rows), steps_(rows), picks_(picks), interrupt_(interrupt) {}

  /// False: stopped.
  [[nodiscard]] bool collect() { return take_by_ratio() && (!endless_.empty() || open()); }
  /// A decision along which the goal has no end, by name, or "".
  [[nodiscard]] const std::string& endless() const noexcept { return endless_; }

 private:
  [[nodiscard]] bool take_by_ratio();
  [[nodiscard]] bool open();
  void take_what_fits(std::size_t mark);
  void make(const std::vector<GreedyRows::Move>& moves);

  const ModelData& m_;
  GreedyRows& rows_;
  GreedySteps steps_;
  GreedyPicks& picks_;
  const Interrupt& interrupt_;
  std::string endless_;
};

}  // namespace kiteknot::methods
