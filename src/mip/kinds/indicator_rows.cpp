#include "mip/kinds/indicator_rows.hpp"

#include <cmath>

#include "base/check.hpp"
#include "mip/branching/disjunction.hpp"
#include "mip/conflict/explanation.hpp"
#include "mip/kinds/indicator_relaxation.hpp"
#include "mip/problem/exact_rows.hpp"
#include "mip/problem/problem_mark.hpp"
#include "mip/problem/violation.hpp"
#include "mip/propagators/rows.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {
namespace {

// A point that breaks a row: into the parts where its literal fails and where it holds.
class BrokenRows final : public Disjunction {
 public:
  explicit BrokenRows(const IndicatorRows& rows) : rows_(rows) {}
  bool met(const Domain& domain, std::span<const double> point) const override {
    for (Index k = 0; k < rows_.num_rows(); ++k) {
      const ConditionLiteral when = rows_.when(k);
      if (domain.fails(when)) continue;
      const Index column = domain.problem().column_of_condition(when.condition);
      if (column >= 0 && (point[at(column)] > 0.5) != when.holds) continue;
      if (row_violation(rows_.row(k), point) > 0.0) return false;
    }
    return true;
  }
  bool split(const Domain& domain, std::span<const double> point, Branching& out) const override {
    for (Index k = 0; k < rows_.num_rows(); ++k) {
      const ConditionLiteral when = rows_.when(k);
      if (domain.state(when.condition) != State::open || row_violation(rows_.row(k), point) == 0.0)
        continue;
      for (const bool state : {!when.holds, when.holds})
        out.children.push_back({{Change::What::condition, when.condition, state ? 1.0 : 0.0}});
      return true;
    }
    return false;
  }

 private:
  const IndicatorRows& rows_;
};

// Whether the literal holds where its column has this value.
bool holds(const ConditionLiteral& when, double value) {
  return (value == 1.0) == when.holds;
}

}  // namespace

void IndicatorRows::add(const IndicatorRow& row, bool whole) {
  store_.add(row.row, whole);
  sides_.lower.push_back(row.row.lower);
  sides_.upper.push_back(row.row.upper);
  when_.push_back(row.when);
}

std::unique_ptr<ConstraintKind> IndicatorRows::clone() const {
  return std::make_unique<IndicatorRows>(*this);
}

void IndicatorRows::visit(const Problem& p, const Visitor& visitor) const {
  (void)p;
  for (Index k = 0; k < num_rows(); ++k) visitor(row(k).index, {&when_[at(k)].condition, 1});
}

void IndicatorRows::lock(const Problem& p, Locks& locks) const {
  for (Index k = 0; k < num_rows(); ++k) {
    lock_row(row(k), known(k), locks);
    // The literal may come to hold.
    if (const Index j = p.column_of_condition(when(k).condition); j >= 0)
      ++(when(k).holds ? locks.up : locks.down)[at(j)];
  }
}

bool IndicatorRows::said_by_doubles(const Problem& p) const {
  (void)p;
  for (Index k = 0; k < num_rows(); ++k)
    if (!row(k).exact || known(k) != nullptr) return false;
  return true;
}

void IndicatorRows::visit_rows(const Problem& p, const RowVisitor& visitor) const {
  for (Index k = 0; k < num_rows(); ++k) {
    const Index j = p.column_of_condition(when(k).condition);
    if (j >= 0 && p.lower(j) == p.upper(j) && holds(when(k), p.lower(j))) visitor(row(k), known(k));
  }
}

void IndicatorRows::visit_guarded_rows(const Problem& p, const GuardedRowVisitor& visitor) const {
  for (Index k = 0; k < num_rows(); ++k) {
    const Index j = p.column_of_condition(when(k).condition);
    if (j >= 0 && known(k) == nullptr) visitor(row(k), j, when(k).holds ? 1.0 : 0.0);
  }
}

bool IndicatorRows::satisfied(const Problem& p, ExactPoint& point) const {
  for (Index k = 0; k < num_rows(); ++k) {
    if (row_holds(row(k), point.columns)) continue;
    const Index column = p.column_of_condition(when(k).condition);
    if (column < 0)
      (when(k).holds ? point.must_fail : point.must_hold)[at(when(k).condition)] = 1;
    else if ((point.columns[at(column)] == Rational(1)) == when(k).holds)
      return false;
  }
  return true;
}

bool IndicatorRows::recedes(const Problem& p, std::span<const Rational> direction) const {
  for (Index k = 0; k < num_rows(); ++k) {
    const Index column = p.column_of_condition(when(k).condition);
    if (column >= 0 && p.lower(column) == p.upper(column) && !holds(when(k), p.lower(column)))
      continue;  // it need not hold
    if (!row_recedes(row(k), known(k), direction)) return false;
  }
  return true;
}

std::unique_ptr<Propagator> IndicatorRows::propagator(std::uint8_t kind, Domain& domain) const {
  return std::make_unique<RowPropagator>(
      name(), RowSource{&store_, &sides_, &when_, Reason::of(kind)}, domain);
}

bool IndicatorRows::explain(const Problem& p, Index place, const Change* concluded,
                            Explanation& why) const {
  (void)p;
  // That the literal fails follows from the row alone.
  if (concluded != nullptr && concluded->what == Change::What::condition)
    return why.needs_row(row(place), nullptr);
  return why.needs(when(place)) && why.needs_row(row(place), concluded);
}

std::unique_ptr<RelaxedKind> IndicatorRows::relax(const Problem& p, Relaxation& relaxation) const {
  return std::make_unique<RelaxedIndicatorRows>(*this, p, relaxation);
}

std::unique_ptr<Separator> IndicatorRows::separator() const {
  return nullptr;
}

std::unique_ptr<Disjunction> IndicatorRows::disjunction() const {
  return std::make_unique<BrokenRows>(*this);
}

void IndicatorRows::carry(const Problem& from, const Image& image, Problem& to) const {
  for (Index k = 0; k < num_rows(); ++k) {
    const Index c = image.condition[at(when(k).condition)];
    if (c < 0) continue;
    LinearRow out = carried(row(k), known(k), image.column);
    const Index j = to.column_of_condition(c);
    if (j < 0 || to.lower(j) != to.upper(j))
      add_indicator_row(to, {{c, when(k).holds}, std::move(out)});
    else if (holds(when(k), to.lower(j)))
      (void)to.add_row(out);
  }
  (void)from;
}

void add_indicator_row(Problem& problem, const IndicatorRow& row) {
  KITEKNOT_CHECK(row.when.condition >= 0 && row.when.condition < problem.num_conditions(),
                 "unknown condition");
  problem.own<IndicatorRows>().add(row, problem.moves_in_whole_steps(row.row));
}

const IndicatorRows* indicator_rows(const Problem& problem) {
  return problem.kinds().find<IndicatorRows>();
}

bool IndicatorRows::mark(const Problem&, Mark& mark) const {
  for (Index k = 0; k < num_rows(); ++k) {
    mark.add(when(k).condition);
    mark.add(when(k).holds);
    add_row(mark, row(k), known(k));
  }
  return true;
}

}  // namespace kiteknot::mip
