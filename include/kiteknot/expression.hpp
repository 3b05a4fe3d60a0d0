#pragma once
// Expressions over decisions, and conditions on them. An expression is a sum of decisions with
// exact coefficients and a constant; a Number is a leaf whose value can be set again later, so
// products with numbers are kept as stated until the model is solved. What is not a sum (products,
// largest, curves) is a term of its own, made linear when the model is solved. Everything is a
// value; nothing is evaluated here.
//
//   total(shows, [&](Row s) { return hours[s] * run[s]; }) <= crew_hours

#include <concepts>
#include <cstdint>
#include <memory>
#include <string>
#include <type_traits>
#include <vector>

#include "kiteknot/rational.hpp"
#include "kiteknot/table.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

struct Family;
struct NumberNode;  // a figure computed from numbers
struct TourRule;
struct Derived;  // a function of expressions: a product, the largest of some, a curve, a truth
using Factor = std::shared_ptr<const NumberNode>;

struct ModelTag;
/// Which model a decision or number belongs to; mixing two models throws UsageError with both
/// titles. A model that changes while a copy of it lives gets a tag of its own, and remembers where
/// it came from: what was stated before is understood by both, what was stated later by one of them
/// only.
using Tag = std::shared_ptr<const ModelTag>;
struct ModelTag {
  std::string title;
  Tag from{};                               ///< the model before, ...
  std::int32_t decisions = 0, numbers = 0;  ///< ... and how many of each it had
};
/// Whether handles of `made` up to these counts mean the same things in a model tagged `there`:
/// both come from one model that had as many.
[[nodiscard]] bool understood(const Tag& made, std::int32_t decisions, std::int32_t numbers,
                              const Tag& there) noexcept;

/// One decision of a model.
struct Decision {
  Tag model;
  std::int32_t id = -1;
  bool yes_or_no = false;  ///< known to be binary
};

/// A named figure of a model that can be set again.
struct Number {
  Tag model;
  std::int32_t id = -1;
};

/// A family of decisions, one for each row of its table (or pair of rows of two tables, ...).
class Decisions {
 public:
  /// Of no model yet: whatever is asked of it throws UsageError.
  Decisions() = default;
  Decisions(Tag model, std::shared_ptr<const Family> family)
      : model_(std::move(model)), family_(std::move(family)) {}
  Decisions(const Decisions&) = default;  // also where it is moved from: it stays usable
  Decisions& operator=(const Decisions&) = default;
  /// The decision of a row; throws UsageError with both names for a row of another table.
  Decision operator[](Row row) const { return at({&row, 1}); }
  Decision operator[](const std::string& key) const { return named({key}); }
  Decision operator()(Row row) const { return at({&row, 1}); }
  Decision operator()(Row first, Row second) const {
    const Row rows[] = {first, second};
    return at(rows);
  }
  Decision operator()(const std::string& first, const std::string& second) const {
    return named({first, second});
  }
  /// One row for each table of the family.
  [[nodiscard]] Decision at(std::span<const Row> rows) const;
  /// The key's texts; throws UsageError where the family has no such member.
  [[nodiscard]] Decision named(const std::vector<std::string>& keys) const;
  /// How many members the family has.
  [[nodiscard]] std::int32_t size() const noexcept;
  /// By its place in the family; UsageError where it has no such place.
  [[nodiscard]] Decision member(std::int32_t i) const;
  /// The decision itself, for a family without tables.
  [[nodiscard]] Decision only() const;
  operator Decision() const { return only(); }
  /// For the library itself.
  [[nodiscard]] const Family& family() const;
  /// For the library itself.
  [[nodiscard]] const std::shared_ptr<const Family>& shared_family() const noexcept {
    return family_;
  }
  [[nodiscard]] const Tag& model() const noexcept { return model_; }

 private:
  Tag model_;
  std::shared_ptr<const Family> family_;
};

class Expression {
 public:
  struct Term {
    Rational coefficient;
    std::int32_t decision = -1;
  };
  struct FactoredTerm {
    Factor factor;
    std::int32_t decision = -1;  ///< -1: the factor stands alone
  };

  struct DerivedTerm {
    Rational coefficient;
    Factor factor;  ///< multiplies it; may be null
    std::shared_ptr<const Derived> what;
  };

  Expression() = default;
  Expression(int value) : constant_(value) {}
  Expression(long value) : constant_(value) {}
  Expression(long long value) : constant_(value) {}
  template <std::unsigned_integral T>
  Expression(T value) : constant_(value) {}
  /// The shortest decimal that names it: 0.1 is 1/10. UsageError for NaN.
  Expression(double value);
  /// Exactly this figure.
  Expression(Rational value);
  /// A decision once.
  Expression(const Decision& d);
  Expression(const Decisions& d) : Expression(d.only()) {}
  /// A number as it will stand when the model is asked.
  Expression(const Number& n);
  /// For the library itself.
  explicit Expression(std::shared_ptr<const Derived> what);

  /// The sum of the plain terms, not yet collected by decision, ...
  [[nodiscard]] const std::vector<Term>& terms() const noexcept { return terms_; }
  /// ... of the terms with numbers in them, of those that are not sums of decisions, and of the
  /// constant. Functions of numbers alone are figures and stand among the former.
  [[nodiscard]] const std::vector<FactoredTerm>& factored() const noexcept { return factored_; }
  /// Terms that are not sums of decisions: products, curves, largest.
  [[nodiscard]] const std::vector<DerivedTerm>& derived() const noexcept { return derived_; }
  /// The part without decisions and numbers.
  [[nodiscard]] const Rational& constant() const noexcept { return constant_; }
  [[nodiscard]] const Tag& model() const noexcept { return model_; }
  /// Throws UsageError where it holds what a model tagged `there`, which has so many decisions and
  /// numbers, does not know.
  void need_understood(const Tag& there, std::int32_t decisions, std::int32_t numbers) const;
  /// Whether it is a figure, without decisions and numbers.
  [[nodiscard]] bool is_constant() const noexcept {
    return terms_.empty() && factored_.empty() && derived_.empty();
  }
  /// Whether it is a sum of decisions and figures.
  [[nodiscard]] bool is_linear() const noexcept { return derived_.empty(); }
  /// Whether some decision stands in it, however deep.
  [[nodiscard]] bool has_decisions() const noexcept;
  /// Levels of functions and conditions inside each other; UsageError is thrown beyond 1,000.
  [[nodiscard]] std::int32_t depth() const noexcept { return depth_; }

  Expression& operator+=(const Expression& other);
  Expression& operator-=(const Expression& other);
  /// A product of decisions is kept as stated; with binaries on one side it is made linear.
  Expression& operator*=(const Expression& other);
  /// What it is divided by cannot be 0: solving throws UsageError where its limits do not say so.
  Expression& operator/=(const Expression& other);
  /// this += factor * decision, without temporaries.
  void add(const Rational& coefficient, const Decision& d) { add(coefficient, d.id, d.model); }
  /// Adds a term of a decision of the model with this tag.
  void add(const Rational& coefficient, std::int32_t decision, const Tag& model);
  /// Adds a figure.
  void add(const Rational& constant);

 private:
  void join(const Expression& other) { join(other.model_, other.decisions_, other.numbers_); }
  void join(const Tag& other, std::int32_t decisions, std::int32_t numbers);
  friend Expression operator-(Expression e);
  Rational take_coefficient();
  static Expression of_two(bool quotient, Expression a, Expression b);
  void scale(const Rational& by);
  void scale(const Factor& by);

  Rational constant_;
  std::vector<Term> terms_;
  std::vector<FactoredTerm> factored_;
  std::vector<DerivedTerm> derived_;
  std::int32_t depth_ = 0;
  std::int32_t decisions_ = 0, numbers_ = 0;  // one more than the last of each that stands in it
  Tag model_;
};

Expression operator-(Expression e);
inline Expression operator+(Expression a, const Expression& b) {
  a += b;
  return a;
}
inline Expression operator-(Expression a, const Expression& b) {
  a -= b;
  return a;
}
inline Expression operator*(Expression a, const Expression& b) {
  a *= b;
  return a;
}
inline Expression operator/(Expression a, const Expression& b) {
  a /= b;
  return a;
}

/// The greatest (least) of some expressions; UsageError for none. The distance from 0.
Expression largest(std::vector<Expression> of);
Expression smallest(std::vector<Expression> of);
Expression absolute(const Expression& e);

/// base ^ exponent; the exponent holds no decisions (UsageError). A fractional power wants a base
/// from 0 on, a negative one a base that cannot be 0: solving throws UsageError where the limits of
/// its decisions do not say so.
Expression power(const Expression& base, const Expression& exponent);
/// power(e, 1/2).
Expression sqrt(const Expression& e);
/// e to the power of the expression, and the natural logarithm of one that stays above 0.
Expression exp(const Expression& e);
Expression log(const Expression& e);

/// Something that holds or does not: a comparison, a binary decision ("it is 1"), or conditions
/// joined. It does not convert to bool, and does nothing until a model is given it as a rule.
struct [[nodiscard]] Condition {
  enum class Kind {
    compare,    ///< low <= body <= high, where either limit may be missing
    truth,      ///< body, a binary decision, is 1
    negation,   ///< not parts[0]
    all,        ///< every part holds; none: always
    any,        ///< some part holds; none: never
    exclusive,  ///< exactly one of parts[0] and parts[1]
    implies,    ///< parts[0] implies parts[1]
    same,       ///< both parts hold or neither
    count,      ///< least <= number of parts that hold <= most
    tour        ///< some legs form round trips; Model::tour states it, and it stands alone
  };
  Condition() = default;
  /// A binary decision stands for "it is 1"; a model refuses any other with UsageError.
  Condition(const Decision& d);
  Condition(const Decisions& d) : Condition(d.only()) {}
  /// For the functions below.
  Condition(Kind joining, std::vector<Condition> joined);

  Kind kind = Kind::compare;
  bool has_low = false, has_high = false;
  Expression body, low, high;
  std::vector<Condition> parts;
  std::int32_t least = 0, most = 0;         ///< count
  std::int32_t depth = 0;                   ///< levels of conditions in parts
  bool yes_or_no = false;                   ///< truth: the decision is known to be binary
  std::shared_ptr<const TourRule> trips{};  ///< tour
};

/// It does not hold.
Condition negated(Condition c);
/// Every one of them holds; of none: always.
Condition all_of(std::vector<Condition> parts);
/// Some of them holds; of none: never.
Condition any_of(std::vector<Condition> parts);
/// Exactly one of the two holds.
Condition exclusive(Condition a, Condition b);
/// Where the first holds, so does the second.
Condition implies(Condition a, Condition b);
/// Both hold, or neither does.
Condition same(Condition a, Condition b);
/// UsageError for a negative count.
Condition at_least(std::int32_t count, std::vector<Condition> parts);
/// So many hold at most. UsageError for a negative count.
Condition at_most(std::int32_t count, std::vector<Condition> parts);
/// So many hold, no more and no fewer. UsageError for a negative count.
Condition exactly(std::int32_t count, std::vector<Condition> parts);
/// The conditions f(row), for the functions above.
template <class F>
std::vector<Condition> each(const Rows& rows, const F& f) {
  static_assert(std::is_invocable_r_v<Condition, F, Row>,
                "each() wants a function of one kiteknot::Row that gives a Condition");
  std::vector<Condition> all;
  for (const Row row : rows) all.emplace_back(f(row));
  return all;
}
template <class F>
std::vector<Condition> each(const Table& table, const F& f) {
  return each(Rows(table), f);
}
/// 1 where the condition holds, 0 where it does not.
Expression truth_of(Condition c);
/// By how much a comparison is missed; 1 for any other condition that does not hold.
Expression violation_of(const Condition& c);

Condition operator<=(Expression left, Expression right);
Condition operator>=(Expression left, Expression right);
Condition operator==(Expression left, Expression right);
/// low <= body <= high
Condition within(Expression low, Expression body, Expression high);

/// The sum of f(row) over some rows, or over all rows of a table.
template <class F>
Expression total(const Rows& rows, const F& f) {
  static_assert(std::is_invocable_r_v<Expression, F, Row>,
                "total() wants a function of one kiteknot::Row that gives an Expression");
  Expression sum;
  for (const Row row : rows) sum += f(row);
  return sum;
}
template <class F>
Expression total(const Table& table, const F& f) {
  return total(Rows(table), f);
}
/// The sum of all decisions of a family.
Expression total(const Decisions& decisions);

}  // namespace kiteknot
#pragma GCC visibility pop
