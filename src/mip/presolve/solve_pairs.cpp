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
bool replace(Draft& draft, Index i, Index x, const Line& line, Index y) {
  const Draft::Column& from = draft.column(x);
  const bool whole_y = draft.column(y).integer;
  const bool rising = line.factor > 0.0;
  const auto lower = bound_through(line, rising ? from.lower : from.upper, whole_y, true);
  const auto upper = bound_through(line, rising ? from.upper : from.lower, whole_y, false);
  if (!lower || !upper || draft.column(y).outward) return false;
  if (!draft.substitute(x, {{y, line.factor}}, line.constant)) return false;
  if (!draft.row(i).gone) draft.drop_row(i);  // 0 = 0
  (void)draft.raise_lower(y, *lower);
  if (draft.possible()) (void)draft.drop_upper(y, *upper);
  return true;
}

bool try_either(Draft& draft, Index i) {
  const Draft::Row row = draft.row(i);
  // Of two that could go, the one in fewer rows.
  const bool second = draft.column(row.entries[1].index).rows.size() <
                      draft.column(row.entries[0].index).rows.size();
  for (const std::size_t k : {second ? 1U : 0U, second ? 0U : 1U}) {
    const Entry x = row.entries[k], y = row.entries[1 - k];
    if (!draft.free_to_go(x.index)) continue;
    const auto line = line_of(x.value, y.value, row.lower);
    if (!line) continue;
    // A whole column is whole by itself only where the other one makes it so.
    if (draft.column(x.index).integer &&
        !(draft.column(y.index).integer && whole(line->constant) && whole(line->factor)))
      continue;
    if (replace(draft, i, x.index, *line, y.index)) return true;
  }
  return false;
}

}  // namespace

void solve_pairs(Draft& draft, const Means& means) {
  for (Index i = 0; i < draft.num_rows(); ++i) {
    if (!draft.possible() || means.spent()) return;
    const Draft::Row& row = draft.row(i);
    if (row.gone || row.firm || row.entries.size() != 2 || row.lower != row.upper) continue;
    means.work.add(8);
    (void)try_either(draft, i);
  }
}

}  // namespace kiteknot::mip
