#pragma once
// Builds a Problem row by row while a model is lowered: columns with their exact ranges, rows that
// hold only while some literals do, logical conditions, and columns that stand for derived terms.
// A derived term is held only from the sides from which some row or the goal pulls at it, so that a
// convex cost or the largest of some needs no binaries where it is minimised.

#include <functional>
#include <map>
#include <string>
#include <unordered_map>
#include <unordered_set>

#include "base/at.hpp"
#include "mip/kinds/nonlinear_terms.hpp"
#include "mip/problem/problem.hpp"
#include "model/derived.hpp"
#include "model/lowering.hpp"
#include "model/model_data.hpp"

namespace kiteknot {

/// A binary column, or one minus it.
struct ColumnLiteral {
  Index column = -1;
  bool positive = true;
  [[nodiscard]] ColumnLiteral operator!() const { return {column, !positive}; }
  friend bool operator==(const ColumnLiteral&, const ColumnLiteral&) = default;
  friend auto operator<=>(const ColumnLiteral&, const ColumnLiteral&) = default;
};
using Literals = std::vector<ColumnLiteral>;

/// A condition without negations: what has to hold.
struct Logic {
  enum class Kind { constant, literal, atom, all, any, at_least } kind = Kind::constant;
  bool value = true;        // constant
  ColumnLiteral literal{};  // literal
  LinearForm form{};        // atom: low <= form <= high
  Rational low = Rational::minus_infinity(), high = Rational::infinity();
  std::vector<Logic> parts{};
  Index least = 0;      // at_least
  bool closed = false;  // atom: what is left of a negated comparison of reals, with its edge
};

struct Range {
  Rational low, high;
};

class Builder {
 public:
  Builder(const ModelData& model, mip::Problem& problem, bool drop_integrality);

  // columns
  Index add_column(const Rational& low, const Rational& high, bool integer);
  /// The column's values at plans are multiples of this.
  void set_step(Index column, const Rational& step) { columns_[at(column)].step = step; }
  ColumnLiteral add_binary();
  /// The decision's values are chosen by these binaries, one of which is 1.
  void note_listed(Index decision, LinearForm value) {
    listed_.emplace(decision, std::move(value));
  }
  [[nodiscard]] bool binary(Index column) const;
  [[nodiscard]] Index num_columns() const { return static_cast<Index>(columns_.size()); }

  // forms
  /// Columns for all derived terms in it, and rows that keep the arguments of curves within them.
  void prepare(const Expression& e);
  void prepare(const Condition& c);
  LinearForm form(const Expression& e);
  LinearRule rule(const Condition& c);
  [[nodiscard]] Range range(const LinearForm& f) const;
  /// The terms of the form take multiples of this at whole plans, columns of derived terms by what
  /// they stand for; 0: of nothing.
  [[nodiscard]] Rational step(const LinearForm& f) const;
  [[nodiscard]] const std::vector<Rational>& numbers() const { return collector_.numbers(); }

  // rows; `guards`: the row holds where all of them do
  Index add_row(const LinearForm& f, const Rational& low, const Rational& high, Rational* scale);
  void guarded(LinearForm f, const Rational& low, const Rational& high, const Literals& guards);
  void clause(Literals literals);
  /// Notes from which sides the columns of derived terms in the form are pulled at when the form
  /// is kept small (upper) or large.
  void pull(const LinearForm& f, bool upper);

  // logic (lowering_logic.cpp)
  Logic normal(const Condition& c, bool wanted);
  void require(const Logic& logic, const Literals& guards);

  /// Defines every derived column from the sides it is needed; call last.
  void settle();
  /// States the nonlinear terms; call after settle. UsageError where one is of something without
  /// an end, or may be of what it is not stated for, whatever the rules say.
  void add_terms();

  LoweringNote* note = nullptr;                         ///< where what is done is written down
  std::vector<std::pair<Index, std::string>> made_for;  ///< see Lowering::made_for
  std::vector<std::pair<Rational, Rational>>* limits = nullptr;  ///< ... and the rows' exact limits

 private:
  struct Column {
    Rational low, high;
    bool integer = false;
    Rational step;         // its values at whole plans are multiples of it; 0: of nothing
    Index auxiliary = -1;  // the derived term that it stands for
  };
  struct Auxiliary {
    std::shared_ptr<const Derived> what;
    Index column = -1;
    LoweringNote* note = nullptr;
    bool above = false, below = false;  // column >= term, column <= term
    bool above_done = false, below_done = false;
  };

  void prepare(const std::shared_ptr<const Derived>& what);
  void conditional(const LinearForm& f, const Rational& low, const Rational& high, Literals guards);
  Rational step_of(const Derived& d);

  // logic
  /// A condition from both sides: what it takes to hold, and to fail. Of whole decisions one is the
  /// contrary of the other; between reals both may be met (the edge of a comparison).
  struct Sides {
    Logic holds, fails;
    bool edged = false;  // both can be met
  };
  Sides sides(const Condition& c);
  [[nodiscard]] static const Logic* decided(const Sides& s);
  Logic compared(const LinearRule& rule, bool wanted);
  Logic simplified(Logic atom);
  Logic joined(Logic::Kind kind, std::vector<Logic> parts, Index least = 0);
  Sides same(Sides a, Sides b);
  Sides counted(std::vector<Sides> parts, Index least, Index most);
  ColumnLiteral implying(const Logic& logic);
  ColumnLiteral equivalent(const Sides& s);
  [[nodiscard]] static std::string key(const Logic& logic);

  // nonlinear terms (lowering_nonlinear.cpp)
  [[nodiscard]] std::shared_ptr<const Derived> simplified(const std::shared_ptr<const Derived>& d);
  [[nodiscard]] std::string structure_of(const Derived& d);
  [[nodiscard]] Range range_of_smooth(const Derived& d);
  void define_smooth(const Auxiliary& a, bool above);
  bool define_by_values(const Auxiliary& a, bool above);
  bool define_by_list(const Auxiliary& a, bool above);
  [[nodiscard]] std::optional<LinearForm> power_by_list(const Derived& d);
  [[nodiscard]] LinearForm by_choice(const LinearForm& f);
  [[nodiscard]] Index column_of(const LinearForm& f);
  [[nodiscard]] mip::UnaryFunction function_of(const Derived& d) const;
  [[nodiscard]] std::string names_in(const LinearForm& f) const;
  void need_domains();
  void need_ends();
  [[nodiscard]] double end_by_rows(Index column, bool upper) const;
  Interval tightened(Index column, Interval range, bool low, bool high);

  // derived (lowering_derived.cpp)
  const std::vector<CurvePiece>& pieces_of(const CurveData& curve) {
    return curves_.pieces(curve, numbers());
  }
  Range range_of(const Derived& d);
  [[nodiscard]] bool only_binaries(const LinearForm& f) const;
  void define(std::size_t aux, bool above);
  void define_product(const Auxiliary& a, bool above);
  void define_binary_times(Index column, Index binary, LinearForm e, bool above);
  void define_largest(const Auxiliary& a, bool above);
  void define_curve(const Auxiliary& a, bool above);
  void define_pieces(const Auxiliary& a, const LinearForm& x, std::vector<CurvePiece> pieces,
                     bool above, const std::string& name);
  void by_lines(Index column, const LinearForm& x, const std::vector<CurvePiece>& pieces,
                bool above);
  void by_increments(Index column, const LinearForm& x, const std::vector<CurvePiece>& pieces,
                     bool above);
  void by_codes(Index column, const LinearForm& x, const std::vector<CurvePiece>& pieces,
                bool above);
  void by_choice(Index column, const LinearForm& x, const std::vector<CurvePiece>& pieces,
                 bool above);

  const ModelData& model_;
  mip::Problem& problem_;
  bool relaxed_;
  std::vector<Column> columns_;
  std::unordered_map<const Derived*, std::size_t> auxiliary_of_;
  std::vector<Auxiliary> auxiliaries_;
  std::map<std::string, ColumnLiteral> implying_, equivalent_;
  std::unordered_map<Index, LinearForm> listed_;     // sums of values times binaries
  std::map<std::string, std::size_t> by_structure_;  // nonlinear terms
  std::map<std::string, Index> column_of_form_;
  std::unordered_set<std::shared_ptr<const Derived>> made_;  // simplified ones, kept alive
  std::vector<std::pair<Index, LinearForm>> steps_;          // columns of sums that terms are of
  struct PlacedTerm {
    mip::NonlinearTerm term;
    LinearForm x, z;
    std::shared_ptr<const Derived> what;
    LoweringNote* note;
  };
  void tell_smooth(const PlacedTerm& term);
  std::string words_of(const Expression& e, int deep);
  std::string words_of(const Derived& d, int deep);
  std::vector<PlacedTerm> terms_;
  std::unordered_map<Index, std::size_t> term_of_value_;  // among these, by columns
  Index defining_ = -1;  // the column whose own rows are being added: they do not pull at it
  Collector collector_;
  CurvesNow curves_;
};

/// 2^53: whole numbers up to here are exact doubles.
inline const Rational kExactLimit(9007199254740992LL);
/// The factor that makes all coefficients whole and coprime, or 0 where they would not fit a
/// double.
Rational whole_scale(const std::vector<Expression::Term>& terms);
/// low <= f <= high times the scale (0: none is exact) as a row, with the model's own numbers where
/// doubles cannot say them.
mip::LinearRow problem_row(const LinearForm& f, const Rational& low, const Rational& high,
                           const Rational& scale);
/// The greatest step of which both are multiples; 0 is a multiple of any.
Rational common_step(const Rational& a, const Rational& b);
/// a + scale * b
LinearForm plus(const LinearForm& a, const LinearForm& b, const Rational& scale);
/// How many of the literals are true, repetitions counted. O(n log n).
LinearForm number_true(const Literals& literals);
/// coefficient * column + constant
LinearForm single(Index column, const Rational& coefficient = 1, const Rational& constant = 0);

}  // namespace kiteknot
