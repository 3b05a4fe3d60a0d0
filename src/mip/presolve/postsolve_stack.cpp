#include "mip/presolve/postsolve_stack.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "base/check.hpp"
#include "base/outward.hpp"

namespace kiteknot::mip {
namespace {

void number(double& to, const Rational& from) {
  to = from.to_double();
}
void number(Rational& to, const Rational& from) {
  to = from;
}

// The part of a sum that the first of two takes, so that the rest is within the other's bounds.
template <class Number>
Number first_part(const Number& sum, double lower, double upper, double rest_lower) {
  const auto of = [](double end) {
    if constexpr (std::is_same_v<Number, Rational>)
      return Rational::exactly(end);
    else
      return end;
  };
  Number part = of(std::isfinite(lower) ? lower : (std::isfinite(upper) ? upper : 0.0));
  if (std::isfinite(rest_lower)) {
    part = sum - of(rest_lower);
    if (std::isfinite(upper)) part = std::min(part, of(upper));
    if (std::isfinite(lower)) part = std::max(part, of(lower));
  }
  return part;
}

Rational fraction(double value) {
  if (std::isfinite(value)) return Rational::exactly(value);
  return value > 0.0 ? Rational::infinity() : Rational::minus_infinity();
}

}  // namespace

template <class Number>
std::vector<Number> PostsolveStack::restored(std::span<const Number> reduced) const {
  std::vector<Number> x(static_cast<std::size_t>(num_columns_));
  for (std::size_t k = 0; k < kept_.size(); ++k) x[at(kept_[k])] = reduced[k];
  for (auto step = steps_.rbegin(); step != steps_.rend(); ++step) {
    if (const auto* f = std::get_if<Fixed>(&*step)) {
      number(x[at(f->column)], f->value);
    } else if (const auto* s = std::get_if<Follows>(&*step)) {
      Number sum, factor;
      number(sum, s->constant);
      for (const Term& t : s->terms) {
        number(factor, t.factor);
        sum += factor * x[at(t.column)];
      }
      x[at(s->column)] = sum;
    } else if (const auto* j = std::get_if<Joined>(&*step)) {
      const Number sum = x[at(j->into)];
      x[at(j->into)] = first_part(sum, j->own.lower, j->own.upper, j->ends.lower);
      x[at(j->column)] = sum - x[at(j->into)];
    }
  }
  return x;
}

std::vector<Rational> PostsolveStack::restore(std::span<const Rational> reduced) const {
  return restored(reduced);
}

std::vector<double> PostsolveStack::restore(std::span<const double> reduced) const {
  return restored(reduced);
}

// What is fixed stays; of two joined columns the one moves that has no end on this side.
std::vector<Rational> PostsolveStack::restore_ray(std::span<const Rational> reduced) const {
  std::vector<Rational> d(at(num_columns_));
  for (std::size_t k = 0; k < kept_.size(); ++k) d[at(kept_[k])] = reduced[k];
  for (auto step = steps_.rbegin(); step != steps_.rend(); ++step) {
    if (const auto* s = std::get_if<Follows>(&*step)) {
      for (const Term& t : s->terms) d[at(s->column)] += t.factor * d[at(t.column)];
    } else if (const auto* j = std::get_if<Joined>(&*step)) {
      const bool up = d[at(j->into)].sign() > 0;
      if (std::isfinite(up ? j->own.upper : j->own.lower))
        std::swap(d[at(j->into)], d[at(j->column)]);
    }
  }
  return d;
}

std::optional<std::vector<Rational>> PostsolveStack::reduce(std::span<const Rational> point) const {
  std::vector<Rational> x(point.begin(), point.end());
  for (const auto& step : steps_) {
    if (const auto* f = std::get_if<Fixed>(&step)) {
      if (x[at(f->column)] != f->value) return std::nullopt;
    } else if (const auto* s = std::get_if<Follows>(&step)) {
      Rational sum = s->constant;
      for (const Term& t : s->terms) sum += t.factor * x[at(t.column)];
      if (sum != x[at(s->column)]) return std::nullopt;
    } else if (const auto* j = std::get_if<Joined>(&step)) {
      x[at(j->into)] += x[at(j->column)];
    }
  }
  std::vector<Rational> reduced;
  reduced.reserve(kept_.size());
  for (const Index j : kept_) reduced.push_back(x[at(j)]);
  return reduced;
}

LinearRow PostsolveStack::reduce(const LinearRow& row) const {
  const bool own = row.known && !row.known->values.empty();
  std::map<Index, Rational> sum;
  for (std::size_t k = 0; k < row.entries.size(); ++k)
    sum[row.entries[k].index] = row.known ? row.known->entry(k, row.entries[k].value)
                                          : Rational::exactly(row.entries[k].value);
  const auto own_limit = [&](double limit, double as, const Rational& exact) {
    return row.known && as == limit ? exact : fraction(limit);
  };
  Rational low = own_limit(row.lower, row.known ? row.known->low_as : 0.0,
                           row.known ? row.known->low : Rational());
  Rational high = own_limit(row.upper, row.known ? row.known->high_as : 0.0,
                            row.known ? row.known->high : Rational());
  const auto shift = [&](const Rational& by) {
    if (low.is_finite()) low -= by;
    if (high.is_finite()) high -= by;
  };
  for (const auto& step : steps_) {
    KITEKNOT_CHECK(!std::holds_alternative<Joined>(step), "rows come where columns keep apart");
    const auto* f = std::get_if<Fixed>(&step);
    const auto* s = std::get_if<Follows>(&step);
    const auto it = sum.find(f != nullptr ? f->column : s->column);
    if (it == sum.end()) continue;
    const Rational factor = std::move(it->second);
    sum.erase(it);
    shift(factor * (f != nullptr ? f->value : s->constant));
    if (s != nullptr)
      for (const Term& t : s->terms) sum[t.column] += factor * t.factor;
  }
  std::map<Index, Index> place;
  for (std::size_t k = 0; k < kept_.size(); ++k) place[kept_[k]] = static_cast<Index>(k);
  LinearRow reduced;
  reduced.local = row.local;
  reduced.exact = row.exact || own;
  lp::Exact exact;
  bool said = true;
  for (const auto& [j, value] : sum) {
    if (value.is_zero()) continue;
    const double near = value.to_double();
    reduced.entries.push_back({place.at(j), near});
    exact.values.push_back(value);
    said = said && Rational::exactly(near) == value;
  }
  exact.low_as = reduced.lower = outward(low, false);
  exact.high_as = reduced.upper = outward(high, true);
  if (!reduced.exact) return reduced;
  reduced.exact = said;
  if (said) exact.values.clear();
  if (said && fraction(exact.low_as) == low && fraction(exact.high_as) == high) return reduced;
  exact.low = std::move(low);
  exact.high = std::move(high);
  reduced.known = std::move(exact);
  return reduced;
}

}  // namespace kiteknot::mip
