#pragma once
// Exact values of expressions and conditions under a plan, as stated.

#include <optional>
#include <set>
#include <string>
#include <unordered_map>
#include <unordered_set>

#include "model/derived.hpp"
#include "model/model_data.hpp"
#include "model/real_functions.hpp"

namespace kiteknot {

/// A value, whether real decisions stand in it, and the size of the largest term with some, which
/// tolerances are relative to. Roots, exp and log that no fraction says are known to lie within
/// `radius` of the value; all else is exact.
struct Sum {
  Rational value, size{};
  bool real = false;
  Rational radius{};
};

class Evaluation {
 public:
  /// With `tolerant`, comparisons with real decisions in them hold within kStatedTolerance x (1 +
  /// size of the largest of their terms); those over whole decisions never have any. With `relaxed`
  /// every decision counts as real.
  Evaluation(const ModelData& model, std::span<const Rational> values, bool tolerant,
             bool relaxed = false);

  [[nodiscard]] Sum sum(const Expression& e) const;
  /// One less the other. What falls out of it (a factor of 0, the same term on both sides) has no
  /// part in it: whether it is real is asked of what is left, as the lowering does.
  [[nodiscard]] Sum difference(const Expression& a, const Expression& b) const;
  [[nodiscard]] Rational value(const Expression& e) const { return sum(e).value; }
  /// Whether the condition holds (fails, with `wanted` false). Over whole decisions exactly one of
  /// both is true; over reals both may be at the edge of a comparison, whose edge belongs to both
  /// sides.
  [[nodiscard]] bool is(const Condition& c, bool wanted = true) const;
  /// Asks all curves in an expression or condition for their values, whether these count or not.
  void look_inside(const Expression& e) const;
  void look_inside(const Condition& c) const;
  /// A sentence for every curve that was asked for a value outside its range.
  [[nodiscard]] const std::set<std::string>& outside() const noexcept { return outside_; }
  [[nodiscard]] const std::vector<Rational>& numbers() const noexcept { return numbers_; }
  [[nodiscard]] std::span<const Rational> values() const noexcept { return values_; }
  [[nodiscard]] bool tolerant() const noexcept { return !tolerance_.is_zero(); }
  /// What a comparison of these may be missed by.
  [[nodiscard]] Rational slack(const Sum& s) const {
    return s.real ? tolerance_ * (Rational(1) + s.size) : Rational(0);
  }
  [[nodiscard]] bool real(Index decision) const {
    return real_[static_cast<std::size_t>(decision)];
  }

 private:
  [[nodiscard]] Nearly value(const std::shared_ptr<const Derived>& d) const;
  [[nodiscard]] Nearly worked_out(const Derived& d) const;
  [[nodiscard]] Nearly smooth(const Derived& d) const;
  [[nodiscard]] Nearly on_curve(const Derived& d) const;
  [[nodiscard]] Nearly nearly(const Expression& e) const {
    Sum s = sum(e);
    return {std::move(s.value), std::move(s.radius)};
  }
  [[nodiscard]] bool compares(const Condition& c, bool wanted) const;
  [[nodiscard]] bool has_real(const Derived& d) const;
  [[nodiscard]] LinearForm left_over(const Expression& a, const Expression& b) const;
  [[nodiscard]] bool moves_in_steps(const Expression& a, const Expression& b) const;

  const ModelData& model_;
  std::span<const Rational> values_;
  std::vector<Rational> numbers_;
  Rational tolerance_;
  std::vector<char> real_;  // by decision
  mutable CurvesNow curves_;
  // Collects terms; those that are no decisions are numbered behind the decisions.
  mutable std::optional<Collector> collector_;
  mutable std::unordered_map<const Derived*, Index> number_of_;
  mutable std::vector<std::shared_ptr<const Derived>> derived_;
  mutable std::set<std::string> outside_;
  // A term may stand in many places; it is held, so that no other one takes its address.
  mutable std::unordered_map<std::shared_ptr<const Derived>, Nearly> known_;
  mutable std::unordered_set<std::shared_ptr<const Derived>> looked_inside_;
};

/// Whether it is a sum in which every decision is binary.
bool only_binaries(const ModelData& model, const Expression& e);
/// Whether fractions of whole decisions mean something in it: of its terms that are not sums all
/// are products, quotients, powers, exp or log, and none is switched by binaries.
bool takes_fractions(const ModelData& model, const Expression& e);
/// The same of a comparison; no other condition has a truth in fractions.
bool takes_fractions(const ModelData& model, const Condition& c);
/// Whether the term has a fraction for fractions that it is stated for, whatever they are; and
/// whether it moves in steps where its parts do.
bool tells_fractions(const Derived& d, const std::vector<Rational>& numbers);
bool keeps_steps(const Derived& d, const std::vector<Rational>& numbers);
/// The step that a decision's values are multiples of: 1 where it is whole, the common one where
/// they are listed; 0 for any other.
Rational step_of(const ModelData& model, Index decision);
/// Whether an expression is made of such decisions only, so that it moves in steps. The lowering
/// (Builder::step) knows the steps of every such expression.
bool moves_in_steps(const ModelData& model, const Expression& e);
/// The step in which a sum of such decisions moves at least; 0 for anything else.
Rational step_of(const ModelData& model, const Expression& e);

}  // namespace kiteknot
