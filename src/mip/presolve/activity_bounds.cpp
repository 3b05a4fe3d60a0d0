#include <cmath>

#include "base/exact_double.hpp"
#include "mip/presolve/reduction.hpp"
#include "mip/presolve/row_range.hpp"

namespace kiteknot::mip {
namespace {

// A row of one column is a bound; a real one takes it only where a double says it.
void become_bound(PresolveModel& model, Index i) {
  const PresolveModel::Row& row = model.row(i);
  const Entry e = row.entries.front();
  const bool integer = model.column(e.index).integer;
  const double low = e.value > 0.0 ? row.lower : row.upper;
  const double high = e.value > 0.0 ? row.upper : row.lower;
  const auto exact = [&](double limit) {
    return integer || std::isinf(limit) || exact_quotient(limit, e.value).has_value();
  };
  if (!exact(low) || !exact(high)) return;
  // A whole column's bound needs the next whole number only: found with rounding outward, tested.
  const auto bound = [&](double limit, bool lower) {
    if (std::isinf(limit)) return lower ? -kInf : kInf;
    if (!integer) return limit / e.value;
    double near = std::round(limit / e.value);
    const auto below = [&](double x) {  // x e.value against the limit, exactly
      const Rational value = Rational::exactly(x) * Rational::exactly(e.value);
      return (e.value > 0.0) == lower ? value < Rational::exactly(limit)
                                      : value > Rational::exactly(limit);
    };
    if (!(std::abs(near) < 0x1p52)) return lower ? -kInf : kInf;
    if (below(near))
      near += lower ? 1.0 : -1.0;
    else if (!below(near + (lower ? -1.0 : 1.0)))
      near += lower ? -1.0 : 1.0;
    return near;
  };
  const double lower = bound(low, true), upper = bound(high, false);
  if (std::isinf(lower) != std::isinf(low) || std::isinf(upper) != std::isinf(high)) return;
  model.drop_row(i);
  (void)model.raise_lower(e.index, lower);
  if (model.possible()) (void)model.drop_upper(e.index, upper);
}

// Where the row holds at one corner of its columns' bounds only, or nowhere: they go there, and
// what is left of the row tells which.
void force(PresolveModel& model, Index i, bool lower) {
  const PresolveModel::Row row = model.row(i);  // columns that are fixed leave it
  for (const Entry& e : row.entries)
    if (model.column(e.index).outward) return;
  for (const Entry& e : row.entries) {
    const auto& c = model.column(e.index);
    (void)model.fix(e.index, (e.value > 0.0) == lower ? c.lower : c.upper);
    if (!model.possible()) return;
  }
}

// What the rest of the row leaves to each whole column, rounded outward and then to the next whole
// value inward.
void tighten_bounds(PresolveModel& model, Index i, const RowRange& range) {
  const PresolveModel::Row row = model.row(i);  // columns that are fixed leave it
  for (const Entry& e : row.entries) {
    const PresolveModel::Column& c = model.column(e.index);
    if (!c.integer || c.gone || c.fixed() || e.value == 0.0) continue;
    const Interval a = factor_of(row, e);
    const Reaches own = reaches(a, c.lower, c.upper);
    const auto rest = [&](double sum, Index infinite, double term) {
      const Index others = infinite - (std::isinf(term) ? 1 : 0);
      if (others > 0) return std::optional<double>();
      return std::optional(std::isinf(term) ? sum : sum - term);
    };
    // Sums less a term lose what rounding took: a step outward for each of the two.
    if (const auto low = rest(range.low, range.infinite_low, own.low);
        low && std::isfinite(row.upper)) {
      const double room = step_up(add_up(row.upper, -step_down(*low)));
      if (e.value > 0.0)
        (void)model.drop_upper(e.index,
                               room >= 0.0 ? divide_up(room, a.low) : divide_up(room, a.high));
      else
        (void)model.raise_lower(e.index,
                                room >= 0.0 ? divide_down(room, a.high) : divide_down(room, a.low));
    }
    if (!model.possible()) return;
    if (const auto high = rest(range.high, range.infinite_high, own.high);
        high && std::isfinite(row.lower)) {
      const double room = step_down(add_down(row.lower, -step_up(*high)));
      if (e.value > 0.0)
        (void)model.raise_lower(e.index,
                                room >= 0.0 ? divide_down(room, a.high) : divide_down(room, a.low));
      else
        (void)model.drop_upper(e.index,
                               room >= 0.0 ? divide_up(room, a.low) : divide_up(room, a.high));
    }
    if (!model.possible()) return;
  }
}

}  // namespace

void tighten_by_activity(PresolveModel& model, const PresolveBudget& budget) {
  for (Index j = 0; j < model.num_columns(); ++j) {
    const PresolveModel::Column& c = model.column(j);
    if (!c.integer || c.gone) continue;
    (void)model.raise_lower(j, std::ceil(c.lower));
    if (model.possible()) (void)model.drop_upper(j, std::floor(c.upper));
    if (!model.possible()) return;
  }
  for (Index i = 0; i < model.num_rows(); ++i) {
    if (!model.possible() || budget.spent()) return;
    const PresolveModel::Row& row = model.row(i);
    if (row.gone) continue;
    budget.work.add(4 * static_cast<std::int64_t>(row.entries.size()) + 4);
    const RowRange range = range_of(model, row);
    if (range.least() > row.upper || range.most() < row.lower) {
      model.give_up();
      return;
    }
    // A firm row's own limits may lie a little further in.
    const bool low_met = range.least() >= (row.firm ? step_up(row.lower) : row.lower);
    const bool high_met = range.most() <= (row.firm ? step_down(row.upper) : row.upper);
    if (low_met && high_met) {
      model.drop_row(i);
      continue;
    }
    if (!row.firm) {
      if (row.entries.size() == 1) {
        become_bound(model, i);
        continue;
      }
      if (range.least() >= row.upper || range.most() <= row.lower) {
        force(model, i, range.least() >= row.upper);
        continue;
      }
      if (low_met) (void)model.set_limits(i, -kInf, row.upper);
      if (high_met) (void)model.set_limits(i, row.lower, kInf);
    }
    tighten_bounds(model, i, range);
  }
}

}  // namespace kiteknot::mip
