#pragma once
// What a constructive method sees of a model: rows of sums, how full each is, and what every
// decision does to them. Logic that is a sum in other words is one here too.

#include <optional>
#include <span>
#include <utility>

#include "base/at.hpp"
#include "base/work.hpp"
#include "kiteknot/plan.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {

/// In place of a rule family: the row keeps the argument of a curve within it.
inline constexpr Index kOfCurve = -1;

struct GreedyRow {
  Index family = 0, member = 0;  // of the model's rules
  LinearRule rule;
  Rational activity{};
  std::string curve{};                // whose ends it keeps
  bool rises = false, falls = false;  // with some decision

  /// What it is short of.
  [[nodiscard]] Rational need() const {
    if (!rule.low.is_finite() || activity >= rule.low) return 0;
    return rule.low - activity;
  }
};

/// A plan that only grows, with all rows that look at it. Moves can be taken back as far as a mark.
class GreedyRows {
 public:
  struct Use {
    Index row;
    Rational coefficient;
  };
  using Move = std::pair<Index, Rational>;  // a decision, and what was added to it

  GreedyRows(const Model& model, const Interrupt& interrupt);

  [[nodiscard]] Index num_decisions() const noexcept { return m_.num_decisions; }
  [[nodiscard]] std::span<const GreedyRow> rows() const noexcept { return rows_; }
  [[nodiscard]] const GreedyRow& row(Index r) const { return rows_[at(r)]; }
  [[nodiscard]] std::span<const Use> uses(Index d) const { return uses_[at(d)]; }
  [[nodiscard]] const Rational& value(Index d) const { return plan_[d]; }
  [[nodiscard]] const Plan& plan() const noexcept { return plan_; }
  [[nodiscard]] bool integer(Index d) const { return integer_[at(d)]; }
  [[nodiscard]] const Rational& upper(Index d) const { return upper_[at(d)]; }
  /// What one unit more does for the goal; positive is better.
  [[nodiscard]] const Rational& worth(Index d) const { return worth_[at(d)]; }

  /// The least permitted increase of a decision by at least `wanted`; none where there is none.
  [[nodiscard]] std::optional<Rational> increase(Index d, const Rational& wanted) const;
  /// How much more of a decision fits before a limit is passed; needs are not made worse either.
  [[nodiscard]] Rational room(Index d) const;

  void raise(Index d, const Rational& by);
  [[nodiscard]] std::size_t mark() const noexcept { return moves_.size(); }
  [[nodiscard]] std::span<const Move> moves_since(std::size_t mark) const {
    return std::span(moves_).subspan(mark);
  }
  void take_back(std::size_t mark);

 private:
  void see_goal(Collector& collector);
  void see_rule(Collector& collector, Index family, Index member);
  void add(Index family, Index member, LinearRule rule);
  void see_curves(Collector& collector);
  void set_limits(Collector& collector);

  const ModelData& m_;
  Plan plan_;
  std::vector<GreedyRow> rows_;
  std::vector<std::vector<Use>> uses_;  // by decision
  std::vector<Rational> lower_, upper_, worth_, least_used_;
  std::vector<char> integer_;
  std::vector<Move> moves_;
};

}  // namespace kiteknot::methods
