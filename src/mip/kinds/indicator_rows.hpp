#pragma once
// Indicator rows: L <= a'x <= U whenever a literal holds.

#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

struct IndicatorRow {
  ConditionLiteral when;
  LinearRow row;
};

class IndicatorRows final : public ConstraintKind {
 public:
  void add(const IndicatorRow& row, bool whole);
  [[nodiscard]] Index num_rows() const noexcept { return store_.num_rows(); }
  [[nodiscard]] RowView row(Index k) const {
    return store_.view(k, sides_.lower[at(k)], sides_.upper[at(k)]);
  }
  /// When the row has to hold.
  [[nodiscard]] ConditionLiteral when(Index k) const { return when_[at(k)]; }
  /// The model's own numbers of it where no double is.
  [[nodiscard]] const lp::Exact* known(Index k) const { return store_.known(k); }

  std::unique_ptr<ConstraintKind> clone() const override;
  void add_columns(Index count) override { store_.add_columns(count); }
  std::string_view name() const override { return "indicator rows"; }
  bool any(const Problem&) const override { return num_rows() > 0; }
  std::int64_t num_entries(const Problem&) const override { return store_.rows().num_nonzeros(); }
  Index num_rows(const Problem&) const override { return num_rows(); }
  void visit(const Problem& p, const Visitor& visitor) const override;
  void lock(const Problem& p, Locks& locks) const override;
  bool said_by_doubles(const Problem& p) const override;
  void visit_rows(const Problem& p, const RowVisitor& visitor) const override;
  void visit_guarded_rows(const Problem& p, const GuardedRowVisitor& visitor) const override;
  bool satisfied(const Problem& p, ExactPoint& point) const override;
  bool recedes(const Problem& p, std::span<const Rational> direction) const override;
  std::unique_ptr<Propagator> propagator(std::uint8_t kind, Domain& domain) const override;
  bool explains() const override { return true; }
  bool explain(const Problem& p, Index place, const Change* concluded,
               Explanation& why) const override;
  std::unique_ptr<RelaxedKind> relax(const Problem& p, Relaxation& relaxation) const override;
  std::unique_ptr<Disjunction> disjunction() const override;
  std::unique_ptr<Separator> separator() const override;
  bool mark(const Problem& p, Mark& mark) const override;
  void carry(const Problem& from, const Image& image, Problem& to) const override;

 private:
  RowStore store_;
  Sides sides_;
  std::vector<ConditionLiteral> when_;
};

/// Registers it; the literal's condition is one of the problem's.
void add_indicator_row(Problem& problem, const IndicatorRow& row);
/// Those of a problem; null: it has none.
[[nodiscard]] const IndicatorRows* indicator_rows(const Problem& problem);
[[nodiscard]] inline Index num_indicator_rows(const Problem& problem) {
  const IndicatorRows* rows = indicator_rows(problem);
  return rows == nullptr ? 0 : rows->num_rows();
}

}  // namespace kiteknot::mip
