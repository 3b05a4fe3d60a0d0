// Columns for terms that are not sums, held from the sides that count.
//   product  binary x times E in [L, U]: McCormick 1976, exact because x is 0 or 1
//   largest  from above by one row each; from below a binary says which one it is
//   curve    by its lines where its shape fits the use; else filled piece by piece (incremental:
//            Markowitz and Manne 1957; Padberg 2000), by a Gray code of the piece where there are
//            many (Vielma and Nemhauser 2011, "Modeling disjunctive constraints with a logarithmic
//            number of binary variables and constraints"), and by choice of one piece where it
//            jumps (Balakrishnan and Graves 1989)

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/lowering_builder.hpp"

namespace kiteknot {
namespace {

constexpr std::size_t kManyPieces = 8;  // from here on a code of pieces

const Rational kNoLeast = Rational::minus_infinity(), kNoMost = Rational::infinity();

Range hull(const Range& a, const Range& b) {
  return {std::min(a.low, b.low), std::max(a.high, b.high)};
}

// The pieces within the range, cut to it.
std::vector<CurvePiece> within(const std::vector<CurvePiece>& pieces, const Range& r) {
  std::vector<CurvePiece> kept;
  for (CurvePiece p : pieces) {
    if (p.to < r.low || p.from > r.high) continue;
    if (p.from < r.low) {
      p.value = p.at(r.low);
      p.from = r.low;
      p.owns_from = true;
    }
    if (p.to > r.high) {
      p.to = r.high;
      p.owns_to = true;
    }
    if (p.from == p.to && !(p.owns_from && p.owns_to)) continue;
    kept.push_back(p);
  }
  return kept;
}

bool continuous(const std::vector<CurvePiece>& pieces) {
  for (std::size_t k = 0; k + 1 < pieces.size(); ++k)
    if (pieces[k].at(pieces[k].to) != pieces[k + 1].value) return false;
  return true;
}

// Slopes that rise (fall) all along.
bool bends(const std::vector<CurvePiece>& pieces, bool up) {
  for (std::size_t k = 0; k + 1 < pieces.size(); ++k)
    if (up ? pieces[k + 1].slope < pieces[k].slope : pieces[k + 1].slope > pieces[k].slope)
      return false;
  return true;
}

// Joins neighbours on one line.
std::vector<CurvePiece> merged(const std::vector<CurvePiece>& pieces) {
  std::vector<CurvePiece> out;
  for (const CurvePiece& p : pieces) {
    if (!out.empty() && out.back().slope == p.slope && out.back().at(p.from) == p.value &&
        out.back().from != out.back().to && p.from != p.to) {
      out.back().to = p.to;
      out.back().owns_to = p.owns_to;
    } else {
      out.push_back(p);
    }
  }
  return out;
}

void tell(LoweringNote* note, const std::string& how) {
  if (note != nullptr && std::find(note->how.begin(), note->how.end(), how) == note->how.end())
    note->how.push_back(how);
}

}  // namespace

bool Builder::only_binaries(const LinearForm& f) const {
  return std::all_of(f.terms.begin(), f.terms.end(),
                     [&](const Expression::Term& t) { return binary(t.decision); });
}

Range Builder::range_of(const Derived& d) {
  switch (d.kind) {
    case Derived::Kind::product: {
      const LinearForm a = form(d.args[0]), b = form(d.args[1]);
      const Range r = range(a), s = range(b);
      Range out{Rational::infinity(), Rational::minus_infinity()};
      for (const Rational* x : {&r.low, &r.high})
        for (const Rational* y : {&s.low, &s.high}) {
          if (x->is_zero() || y->is_zero()) {
            out = hull(out, {0, 0});
            continue;
          }
          const bool endless = !x->is_finite() || !y->is_finite();
          const Rational product = !endless                 ? *x * *y
                                   : x->sign() == y->sign() ? Rational::infinity()
                                                            : Rational::minus_infinity();
          out = hull(out, {product, product});
        }
      return out;
    }
    case Derived::Kind::quotient:
    case Derived::Kind::power:
    case Derived::Kind::exponential:
    case Derived::Kind::logarithm:
      return range_of_smooth(d);
    case Derived::Kind::largest: {
      Range out = range(form(d.args[0]));
      for (const Expression& e : d.args) {
        const Range r = range(form(e));
        out = {std::max(out.low, r.low), std::max(out.high, r.high)};
      }
      return out;
    }
    case Derived::Kind::curve: {
      const Range r = range(form(d.args[0]));
      const std::vector<CurvePiece> pieces = within(pieces_of(*d.curve), r);
      if (pieces.empty()) return {0, 0};
      Range out{Rational::infinity(), Rational::minus_infinity()};
      for (const CurvePiece& p : pieces) {
        out = hull(out, {p.value, p.value});
        if (p.to.is_finite()) {
          out = hull(out, {p.at(p.to), p.at(p.to)});
        } else if (p.slope.sign() > 0) {
          out.high = Rational::infinity();
        } else if (p.slope.sign() < 0) {
          out.low = Rational::minus_infinity();
        }
      }
      return out;
    }
    case Derived::Kind::truth:
      return {0, 1};
  }
  return {0, 0};
}

void Builder::define(std::size_t k, bool above) {
  const Auxiliary a = auxiliaries_[k];  // defining may add others
  switch (a.what->kind) {
    case Derived::Kind::product:
      return define_product(a, above);
    case Derived::Kind::quotient:
    case Derived::Kind::power:
    case Derived::Kind::exponential:
    case Derived::Kind::logarithm:
      return define_smooth(a, above);
    case Derived::Kind::largest:
      return define_largest(a, above);
    case Derived::Kind::curve:
      return define_curve(a, above);
    case Derived::Kind::truth:
      // At 0 the condition must fail (above), at 1 it must hold.
      return require(normal(a.what->condition, !above), {ColumnLiteral{a.column, !above}});
  }
}

void Builder::define_product(const Auxiliary& a, bool above) {
  LinearForm x = form(a.what->args[0]), e = form(a.what->args[1]);
  if (!only_binaries(x) && !only_binaries(e)) {  // listed values are chosen by binaries
    if (relaxed_) return define_smooth(a, above);
    LinearForm chosen = by_choice(x);
    if (only_binaries(chosen)) {
      x = std::move(chosen);
    } else {
      chosen = by_choice(e);
      if (!only_binaries(chosen)) return define_smooth(a, above);
      e = std::move(chosen);
    }
  }
  if (!only_binaries(x) || (only_binaries(e) && e.terms.size() < x.terms.size())) std::swap(x, e);
  if (x.terms.size() == 1 && x.terms[0].coefficient == Rational(1) && x.constant.is_zero())
    return define_binary_times(a.column, x.terms[0].decision, std::move(e), above);
  // (c + sum a_i x_i) E = c E + sum a_i (x_i E): a column for each part.
  LinearForm sum;
  sum = plus(sum, e, x.constant);
  for (const Expression::Term& t : x.terms) {
    const bool up = (t.coefficient.sign() > 0) == above;
    const Range r = range(e);
    const Index part =
        add_column(std::min<Rational>(0, r.low), std::max<Rational>(0, r.high), false);
    if (note != nullptr) ++note->reals;
    define_binary_times(part, t.decision, e, up);
    sum = plus(sum, single(part), t.coefficient);
  }
  const LinearForm difference = plus(single(a.column), sum, -1);
  (void)add_row(difference, above ? Rational(0) : kNoLeast, above ? kNoMost : Rational(0), nullptr);
}

// column >= x E (above), or <=.
void Builder::define_binary_times(Index column, Index x, LinearForm e, bool above) {
  for (std::size_t k = 0; k < e.terms.size(); ++k)
    if (e.terms[k].decision == x) {  // x x = x
      e.constant += e.terms[k].coefficient;
      e.terms.erase(e.terms.begin() + static_cast<std::ptrdiff_t>(k));
      break;
    }
  const Range r = range(e);
  const LinearForm difference = plus(single(column), e, -1);  // column - E
  const Rational& near = above ? r.low : r.high;
  const Rational& far = above ? r.high : r.low;
  const Rational low = above ? Rational(0) : kNoLeast, high = above ? kNoMost : Rational(0);
  // column >= L x  and  column >= E - U (1 - x)
  if (near.is_finite())
    (void)add_row(plus(single(column), single(x), -near), low, high, nullptr);
  else
    guarded(single(column), low, high, {ColumnLiteral{x, false}});
  if (far.is_finite())
    (void)add_row(plus(difference, single(x), -far), above ? -far : kNoLeast,
                  above ? kNoMost : -far, nullptr);
  else
    guarded(difference, low, high, {ColumnLiteral{x, true}});
}

void Builder::define_largest(const Auxiliary& a, bool above) {
  std::vector<LinearForm> of;
  for (const Expression& e : a.what->args) of.push_back(form(e));
  const LinearForm t = single(a.column);
  if (above) {
    for (const LinearForm& e : of) (void)add_row(plus(t, e, -1), 0, kNoMost, nullptr);
    return;
  }
  // Those that are never above another one do not count.
  std::vector<LinearForm> left;
  for (std::size_t i = 0; i < of.size(); ++i) {
    bool beaten = false;
    for (std::size_t j = 0; j < of.size() && !beaten; ++j) {
      if (i == j) continue;
      const Range r = range(plus(of[i], of[j], -1));
      beaten = r.high.sign() < 0 || (r.high.sign() == 0 && (r.low.sign() < 0 || j < i));
    }
    if (!beaten) left.push_back(of[i]);
  }
  Literals which;
  if (left.size() == 2) {
    const ColumnLiteral first = add_binary();
    which = {first, !first};
  } else {
    LinearForm sum;
    for (std::size_t i = 0; i < left.size() && left.size() > 1; ++i) {
      which.push_back(add_binary());
      sum = plus(sum, single(which.back().column), 1);
    }
    if (left.size() > 1) (void)add_row(sum, 1, 1, nullptr);
  }
  for (std::size_t i = 0; i < left.size(); ++i) {
    const LinearForm over = plus(t, left[i], -1);
    if (left.size() == 1) {
      (void)add_row(over, kNoLeast, 0, nullptr);
      continue;
    }
    // column - e_i is at most the most by which another one can be above e_i.
    Rational bound = 0;
    for (const LinearForm& e : left) bound = std::max(bound, range(plus(e, left[i], -1)).high);
    if (!bound.is_finite()) {
      conditional(over, kNoLeast, 0, {which[i]});
      continue;
    }
    if (note != nullptr) note->largest_bound = std::max(note->largest_bound, bound);
    const ColumnLiteral& w = which[i];
    (void)add_row(plus(over, single(w.column), w.positive ? bound : -bound), kNoLeast,
                  w.positive ? bound : Rational(0), nullptr);
  }
}

void Builder::define_curve(const Auxiliary& a, bool above) {
  const LinearForm x = form(a.what->args[0]);
  const CurveData& curve = *a.what->curve;
  const std::string name = curve.name.empty() ? "a curve" : fmt::format("curve {}", curve.name);
  define_pieces(a, x, pieces_of(curve), above, name);
}

void Builder::define_pieces(const Auxiliary& a, const LinearForm& x, std::vector<CurvePiece> pieces,
                            bool above, const std::string& name) {
  pieces = merged(within(pieces, range(x)));
  if (pieces.empty()) return;  // no argument is within it, and a row says so
  const Rational by = step(x);
  if (by.is_zero()) {
    // Between reals both sides of a jump are there: the stated one must be the one that counts.
    for (std::size_t k = 0; k + 1 < pieces.size(); ++k) {
      const Rational left = pieces[k].at(pieces[k].to), right = pieces[k + 1].value;
      const Rational& stated = pieces[k].owns_to ? left : right;
      const Rational& other = pieces[k].owns_to ? right : left;
      if (above ? other < stated : other > stated)
        throw UsageError(fmt::format(
            "{} jumps at {} from {} to {}, and just beside it a plan would be better off; its "
            "argument must be whole there",
            name, figure(pieces[k].to), figure(left), figure(right)));
    }
  } else {
    // Whole arguments: a piece that does not own its end stops a step before it.
    const auto next = [&](const Rational& v, bool up) {
      const Rational k = (v - x.constant) / by;
      return x.constant + by * (up ? k.floor() + 1 : k.ceil() - 1);
    };
    std::vector<CurvePiece> apart;
    for (CurvePiece p : pieces) {
      if (!p.owns_from && p.from != p.to) {
        const Rational from = next(p.from, true);
        p.value = p.at(from);
        p.from = from;
      }
      if (!p.owns_to && p.to.is_finite()) p.to = next(p.to, false);
      if (p.from <= p.to) apart.push_back(p);
    }
    pieces = std::move(apart);
  }
  const bool whole_line =
      continuous(pieces) && std::none_of(pieces.begin(), pieces.end(),
                                         [](const CurvePiece& p) { return p.from == p.to; });
  const bool joined = [&] {
    for (std::size_t k = 0; k + 1 < pieces.size(); ++k)
      if (pieces[k].to != pieces[k + 1].from) return false;
    return true;
  }();
  if (pieces.size() == 1 || (whole_line && joined && bends(pieces, above))) {
    tell(note, fmt::format("{}: by its {} lines, no binaries", name, pieces.size()));
    return by_lines(a.column, x, pieces, above);
  }
  if (!pieces.back().to.is_finite() || !pieces.front().from.is_finite()) {
    std::vector<std::string> open;
    for (const Expression::Term& t : x.terms) {
      const Column& c = columns_[at(t.decision)];
      if (c.low.is_finite() && c.high.is_finite()) continue;
      open.push_back(t.decision < model_.num_decisions ? model_.decision_name(t.decision)
                                                       : "a term that is no sum");
    }
    throw UsageError(
        fmt::format("{} has no end here; {} needs a finite bound", name, listed(open, 4)));
  }
  if (!whole_line || !joined) {
    tell(note, fmt::format("{}: a binary for each of {} pieces", name, pieces.size()));
    return by_choice(a.column, x, pieces, above);
  }
  if (pieces.size() < kManyPieces) {
    tell(note, fmt::format("{}: {} pieces filled one after the other", name, pieces.size()));
    return by_increments(a.column, x, pieces, above);
  }
  tell(note, fmt::format("{}: {} pieces told apart by a code", name, pieces.size()));
  by_codes(a.column, x, pieces, above);
}

void Builder::by_lines(Index column, const LinearForm& x, const std::vector<CurvePiece>& pieces,
                       bool above) {
  for (const CurvePiece& p : pieces) {
    // column - value - slope (x - from) >= 0
    LinearForm row = plus(single(column), x, -p.slope);
    row.constant -= p.value - p.slope * p.from;
    (void)add_row(row, above ? Rational(0) : kNoLeast, above ? kNoMost : Rational(0), nullptr);
  }
}

// x = start + sum of d_k, 0 <= d_k <= width_k, and piece k + 1 only where piece k is full.
void Builder::by_increments(Index column, const LinearForm& x,
                            const std::vector<CurvePiece>& pieces, bool above) {
  LinearForm filled{pieces.front().from, {}}, value{pieces.front().value, {}};
  Index last = -1;
  Rational last_width = 0;
  for (const CurvePiece& p : pieces) {
    const Rational width = p.to - p.from;
    const Index d = add_column(0, width, false);
    if (note != nullptr) ++note->reals;
    if (last >= 0) {
      const ColumnLiteral full = add_binary();
      (void)add_row(plus(single(last), single(full.column), -last_width), 0, kNoMost, nullptr);
      (void)add_row(plus(single(d), single(full.column), -width), kNoLeast, 0, nullptr);
    }
    filled = plus(filled, single(d), 1);
    value = plus(value, single(d), p.slope);
    last = d;
    last_width = width;
  }
  (void)add_row(plus(x, filled, -1), 0, 0, nullptr);
  (void)add_row(plus(single(column), value, -1), above ? Rational(0) : kNoLeast,
                above ? kNoMost : Rational(0), nullptr);
}

// Weights of the corners, two neighbours at most not 0. Bit b of piece k's Gray code is y_b; a
// corner whose pieces all have the bit set needs it, and likewise for unset.
void Builder::by_codes(Index column, const LinearForm& x, const std::vector<CurvePiece>& pieces,
                       bool above) {
  std::vector<Index> weight;
  LinearForm sum, place, value;
  for (std::size_t k = 0; k <= pieces.size(); ++k) {
    const Index w = add_column(0, 1, false);
    if (note != nullptr) ++note->reals;
    weight.push_back(w);
    const bool end = k == pieces.size();
    sum = plus(sum, single(w), 1);
    place = plus(place, single(w), end ? pieces.back().to : pieces[k].from);
    value = plus(value, single(w), end ? pieces.back().at(pieces.back().to) : pieces[k].value);
  }
  (void)add_row(sum, 1, 1, nullptr);
  (void)add_row(plus(x, place, -1), 0, 0, nullptr);
  (void)add_row(plus(single(column), value, -1), above ? Rational(0) : kNoLeast,
                above ? kNoMost : Rational(0), nullptr);
  const auto code = [](std::size_t k) { return k ^ (k >> 1); };
  for (std::size_t bit = 1; bit < pieces.size(); bit *= 2) {
    const ColumnLiteral y = add_binary();
    for (const bool set : {true, false}) {
      LinearForm corners;
      for (std::size_t k = 0; k <= pieces.size(); ++k) {
        const bool left = k == 0 || ((code(k - 1) & bit) != 0) == set;
        const bool right = k == pieces.size() || ((code(k) & bit) != 0) == set;
        if (left && right) corners = plus(corners, single(weight[k]), 1);
      }
      if (corners.terms.empty()) continue;
      // corners <= y, or <= 1 - y
      (void)add_row(plus(corners, single(y.column), set ? -1 : 1), kNoLeast,
                    set ? Rational(0) : Rational(1), nullptr);
    }
  }
}

// One piece is chosen; x is its own share, between the piece's ends.
void Builder::by_choice(Index column, const LinearForm& x, const std::vector<CurvePiece>& pieces,
                        bool above) {
  LinearForm one, place, value;
  for (const CurvePiece& p : pieces) {
    const ColumnLiteral y = add_binary();
    one = plus(one, single(y.column), 1);
    place = plus(place, single(y.column), p.from);
    value = plus(value, single(y.column), p.value);
    if (p.from == p.to) continue;
    const Index d = add_column(0, p.to - p.from, false);  // above the piece's start
    if (note != nullptr) ++note->reals;
    (void)add_row(plus(single(d), single(y.column), p.from - p.to), kNoLeast, 0, nullptr);
    place = plus(place, single(d), 1);
    value = plus(value, single(d), p.slope);
  }
  (void)add_row(one, 1, 1, nullptr);
  (void)add_row(plus(x, place, -1), 0, 0, nullptr);
  (void)add_row(plus(single(column), value, -1), above ? Rational(0) : kNoLeast,
                above ? kNoMost : Rational(0), nullptr);
}

}  // namespace kiteknot
