#include <cmath>

#include "base/exact_double.hpp"
#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {
namespace {

// x = constant + factor y from  a x + b y = c.
struct Line {
  double constant = 0.0, factor = 0.0;
};

std::optional<Line> line_of(double a, double b, double c) {
  const auto constant = exact_quotient(c, a), factor = exact_quotient(-b, a);
  if (!constant || !factor) return std::nullopt;
  return Line{*constant, *factor};
}

// The bound of y at which x is at one of its own, as exactly as y can take it.
std::optional<double> bound_through(const Line& line, double end, bool whole_y, bool lower) {
  if (std::isinf(end)) return lower ? -kInf : kInf;
  const Rational exact =
      (Rational::exactly(end) - Rational::exactly(line.constant)) / Rational::exactly(line.factor);
  const Rational rounded = !whole_y ? exact : (lower ? exact.ceil() : exact.floor());
  const double near = rounded.to_double();
  if (!std::isfinite(near) || Rational::exactly(near) != rounded) return std::nullopt;
  return near;
}

// Puts x out of the equation and everything else.
bool replace(PresolveModel& model, Index i, Index x, const Line& line, Index y) {
  const PresolveModel::Column& from = model.column(x);
  const bool whole_y = model.column(y).integer;
  const bool rising = line.factor > 0.0;
  const auto lower = bound_through(line, rising ? from.lower : from.upper, whole_y, true);
  const auto upper = bound_through(line, rising ? from.upper : from.lower, whole_y, false);
  if (!lower || !upper || model.column(y).outward) return false;
  if (!model.substitute(x, {{y, line.factor}}, line.constant)) return false;
  if (!model.row(i).gone) model.drop_row(i);  // 0 = 0
  (void)model.raise_lower(y, *lower);
  if (model.possible()) (void)model.drop_upper(y, *upper);
  return true;
}

bool try_either(PresolveModel& model, Index i) {
  const PresolveModel::Row row = model.row(i);
  // Of two that could go, the one in fewer rows.
  const bool second = model.column(row.entries[1].index).rows.size() <
                      model.column(row.entries[0].index).rows.size();
  for (const std::size_t k : {second ? 1U : 0U, second ? 0U : 1U}) {
    const Entry x = row.entries[k], y = row.entries[1 - k];
    if (!model.free_to_go(x.index)) continue;
    const auto line = line_of(x.value, y.value, row.lower);
    if (!line) continue;
    // A whole column is whole by itself only where the other one makes it so.
    if (model.column(x.index).integer &&
        !(model.column(y.index).integer && whole(line->constant) && whole(line->factor)))
      continue;
    if (replace(model, i, x.index, *line, y.index)) return true;
  }
  return false;
}

}  // namespace

void solve_doubletons(PresolveModel& model, const PresolveBudget& budget) {
  for (Index i = 0; i < model.num_rows(); ++i) {
    if (!model.possible() || budget.spent()) return;
    const PresolveModel::Row& row = model.row(i);
    if (row.gone || row.firm || row.entries.size() != 2 || row.lower != row.upper) continue;
    budget.work.add(8);
    (void)try_either(model, i);
  }
}

}  // namespace kiteknot::mip
