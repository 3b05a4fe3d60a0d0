#pragma once
// What a constructive method measures its choices by, and the list of them in order.

#include "kiteknot/methods.hpp"
#include "methods/greedy_rows.hpp"

namespace kiteknot::methods {

class GreedyPicks {
 public:
  GreedyPicks(const ModelData& model, const GreedyRows& rows, const Interrupt& interrupt);

  /// Goal for each 1 of the scarcest rule; infinite where a decision uses nothing of it.
  [[nodiscard]] double gain_ratio(Index d) const;
  /// Decisions that improve the goal, the highest such ratio first; none after an interrupt.
  [[nodiscard]] const std::vector<Index>& by_ratio();
  [[nodiscard]] std::vector<Index> by_ratio(std::vector<Index> candidates);

  /// Notes down what moved since a mark: first the decision itself, then what it needed. `by_need`:
  /// the ratio is a share of needs for its cost.
  void note(Index d, std::size_t mark, double ratio, bool by_need, const std::string& why);
  [[nodiscard]] GreedyPick& last() { return picks_.back(); }
  [[nodiscard]] bool empty() const noexcept { return picks_.empty(); }
  void clear() { picks_.clear(); }
  /// Puts picks and scarce rule into an answer; where it is done, also what had no room.
  void tell(MethodAnswer& answer, bool done);

 private:
  void find_scarce();
  [[nodiscard]] Rational use_of_scarce(Index d) const;
  [[nodiscard]] double gain_by_shares(Index d) const;

  const ModelData& m_;
  const GreedyRows& rows_;
  const Interrupt& interrupt_;
  int goal_sign_ = 1;                  // -1 where the user minimises
  std::vector<Index> scarce_;          // the rows of the scarcest rule
  std::vector<char> of_scarce_;        // by rows
  std::vector<Index> ranked_, place_;  // by_ratio(), and where a decision stands there or -1
  bool is_ranked_ = false;
  std::vector<GreedyPick> picks_;
};

}  // namespace kiteknot::methods
