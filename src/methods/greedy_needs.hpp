#pragma once
// The first half of greedy: while some rule still needs more, the step that meets the most of all
// needs for its cost (Chvatal 1979, "A greedy heuristic for the set-covering problem"), with
// whatever it cannot do without: a depot is opened with the fields that it serves best, as many as
// make the most of its rent (Hochbaum 1982, "Heuristics for the fixed cost median problem").

#include <set>

#include "methods/greedy_picks.hpp"
#include "methods/greedy_steps.hpp"

namespace kiteknot::methods {

/// Whose turn is next.
enum class NeedOrder {
  best_step,    ///< the best step of all
  as_stated,    ///< the first need that is open, in the order of the rules
  fewest_ways,  ///< the need that the fewest steps can meet
};

class GreedyNeeds {
 public:
  GreedyNeeds(const ModelData& model, GreedyRows& rows, GreedyPicks& picks,
              const Interrupt& interrupt)
      : m_(model), rows_(rows), steps_(rows), picks_(picks), interrupt_(interrupt) {}

  /// Until nothing is needed, or no step meets anything of it. False: stopped.
  [[nodiscard]] bool meet(NeedOrder order);
  /// The rules that stand in the way of whatever could meet more of a row's need.
  [[nodiscard]] std::vector<std::string> in_the_way(const GreedyRow& row);

 private:
  // A step that meets needs, as it was when it was looked at.
  struct Step {
    double ratio = -1.0;  // share of all needs met for its cost; below 0: there is none
    bool free = false;    // it costs nothing, and is ranked by what it brings
    Rational amount{};
    std::vector<Index> followers{};  // that make the most of what it opens
    int looked_at = -1;              // steps made by then
    Index thanks_to = -1;            // what has been opened since, if it is better for that
  };

  // What a decision by itself can meet now.
  struct Share {
    Rational amount{};
    double met = 0.0, cost = 0.0;
  };

  [[nodiscard]] Step look_at(Index d);
  [[nodiscard]] Rational wanted(Index d) const;
  [[nodiscard]] Share own_share(Index d) const;
  void gather(Step& step, Index d, std::size_t mark);
  [[nodiscard]] bool make(Index d, const std::string& why);
  void look_again(std::size_t mark, NeedOrder order);
  [[nodiscard]] double share_met(std::size_t mark) const;
  [[nodiscard]] Index next(NeedOrder order) const;
  [[nodiscard]] Index best_of(const GreedyRow* row) const;

  const ModelData& m_;
  GreedyRows& rows_;
  GreedySteps steps_;
  GreedyPicks& picks_;
  const Interrupt& interrupt_;
  std::vector<Rational> first_need_;          // by row
  std::vector<Step> looked_;                  // by decision
  std::vector<std::pair<int, Index>> leads_;  // by what is opened: who does, as of so many steps
  int made_ = 0;
};

}  // namespace kiteknot::methods
