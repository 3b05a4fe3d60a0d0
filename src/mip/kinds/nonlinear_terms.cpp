#include "mip/kinds/nonlinear_terms.hpp"

#include <array>
#include <cmath>

#include "base/check.hpp"
#include "mip/branching/disjunction.hpp"
#include "mip/kinds/nonlinear_parts.hpp"
#include "mip/problem/problem_mark.hpp"
#include "mip/propagators/propagator.hpp"
#include "mip/relaxation/relaxed_kind.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

double NonlinearTerm::missed(std::span<const double> point) const {
  const double term = at_point(point), y = point[at(value)];
  const double by = std::max(above ? term - y : 0.0, below ? y - term : 0.0);
  if (std::isnan(by)) return kInf;
  return by <= 0.0 ? 0.0 : by / (1.0 + std::abs(term));
}

void NonlinearTerms::add(const NonlinearTerm& term) {
  const auto [known, fresh] = place_.emplace(term.value, terms_.size());
  if (!fresh) {  // its other side
    NonlinearTerm& t = terms_[known->second];
    KITEKNOT_CHECK(t.x == term.x && t.z == term.z && t.f == term.f, "a column has one term");
    t.above = t.above || term.above;
    t.below = t.below || term.below;
    return;
  }
  terms_.push_back(term);
  columns_of_.push_back({term.value, term.x, term.z});
}

std::unique_ptr<ConstraintKind> NonlinearTerms::clone() const {
  return std::make_unique<NonlinearTerms>(*this);
}

std::int64_t NonlinearTerms::num_entries(const Problem& p) const {
  (void)p;
  return 3 * static_cast<std::int64_t>(terms_.size());
}

void NonlinearTerms::visit(const Problem& p, const Visitor& visitor) const {
  (void)p;
  for (Index k = 0; k < size(); ++k) visitor(columns(k), {});
}

void NonlinearTerms::lock(const Problem& p, Locks& locks) const {
  (void)p;
  for (const NonlinearTerm& t : terms_) {
    if (t.above) ++locks.down[at(t.value)];
    if (t.below) ++locks.up[at(t.value)];
    locks.both(t.x);
    if (t.product()) locks.both(t.z);
  }
}

// Of products both, of functions those that a chord is drawn over.
void NonlinearTerms::add_ranged(const Problem& p, std::vector<Index>& columns) const {
  std::vector<char> seen(at(p.num_columns()), 0);
  const auto add = [&](Index j) {
    if (!seen[at(j)]) columns.push_back(j);
    seen[at(j)] = 1;
  };
  for (const NonlinearTerm& t : terms_) {
    if (t.product()) {
      add(t.x);
      add(t.z);
      continue;
    }
    const auto bend = t.f->bend(intersection({p.lower(t.x), p.upper(t.x)}, t.f->domain()));
    if (bend == UnaryFunction::Bend::both ||
        (bend == UnaryFunction::Bend::convex ? t.below : t.above))
      add(t.x);
  }
}

// Of a product the factor that more products have, and the other one; of a function its argument,
// unless tangents say all of it.
void NonlinearTerms::add_sides(const Problem& p, std::vector<Index>& one,
                               std::vector<Index>& other) const {
  std::vector<int> products(at(p.num_columns()), 0);
  for (const NonlinearTerm& t : terms_)
    if (t.product()) ++products[at(t.x)], ++products[at(t.z)];
  std::vector<char> in_one(products.size(), 0), in_other(products.size(), 0);
  const auto hold = [](Index j, std::vector<char>& in, std::vector<Index>& side) {
    if (!in[at(j)]) side.push_back(j);
    in[at(j)] = 1;
  };
  for (const NonlinearTerm& t : terms_) {
    if (t.product() && t.x != t.z) {
      const bool first = products[at(t.x)] >= products[at(t.z)];
      if (!in_one[at(t.x)] && !in_one[at(t.z)]) hold(first ? t.x : t.z, in_one, one);
      hold(in_one[at(t.x)] ? t.z : t.x, in_other, other);
      continue;
    }
    const UnaryFunction f = t.f ? *t.f : UnaryFunction::whole_power(2);
    const auto bend = f.bend(intersection({p.lower(t.x), p.upper(t.x)}, f.domain()));
    if (bend == (t.below ? UnaryFunction::Bend::concave : UnaryFunction::Bend::convex) &&
        t.above != t.below)
      continue;
    hold(t.x, in_one, one);
    hold(t.x, in_other, other);
  }
}

// Powers and products in fractions; what no fraction is, within the tolerance of plans.
bool NonlinearTerms::satisfied(const Problem& p, ExactPoint& point) const {
  (void)p;
  for (const NonlinearTerm& t : terms_) {
    const Rational &y = point.columns[at(t.value)], &x = point.columns[at(t.x)];
    Rational term;
    bool exact = true;
    if (t.product()) {
      term = x * point.columns[at(t.z)];
    } else if (t.f->algebraic() && !(x.is_zero() && t.f->degree() < 0)) {
      term = 1;
      for (int n = std::abs(t.f->degree()); n > 0; --n) term = term * x;
      if (t.f->degree() < 0) term = Rational(1) / term;
    } else {
      const double v = t.f->value(x.to_double());
      if (!std::isfinite(v)) return false;
      term = Rational::exactly(v);
      exact = false;
    }
    exact = exact && x.is_integer() && (!t.product() || point.columns[at(t.z)].is_integer());
    const Rational slack =
        exact ? Rational(0) : Rational::exactly(kTermTolerance) * (Rational(1) + term.abs());
    if ((t.above && y + slack < term) || (t.below && y - slack > term)) return false;
  }
  return true;
}

std::unique_ptr<Propagator> NonlinearTerms::propagator(std::uint8_t kind, Domain& domain) const {
  return nonlinear_propagator(terms_, kind, domain);
}
std::unique_ptr<RelaxedKind> NonlinearTerms::relax(const Problem& p, Relaxation& relaxation) const {
  return nonlinear_relaxation(terms_, p, relaxation);
}
std::unique_ptr<Disjunction> NonlinearTerms::disjunction() const {
  return nonlinear_branching(terms_);
}
std::unique_ptr<Separator> NonlinearTerms::separator() const {
  return nonlinear_tangents(terms_);
}

void NonlinearTerms::carry(const Problem& from, const Image& image, Problem& to) const {
  (void)from;
  std::size_t next = 0;
  for (Index k = 0; k < size(); ++k) {
    for (; next < steps_.size() && steps_[next].first <= k; ++next) {
      LinearStep s = steps_[next].second;
      const auto gone = [&](Index j) { return image.column[at(j)] < 0; };
      if (gone(s.value) || std::ranges::any_of(s.entries, gone, &Entry::index)) continue;
      s.value = image.column[at(s.value)];
      for (Entry& e : s.entries) e.index = image.column[at(e.index)];
      add_linear_step(to, std::move(s));
    }
    NonlinearTerm t = terms_[at(k)];
    if (image.column[at(t.value)] < 0) continue;
    t.value = image.column[at(t.value)];
    t.x = image.column[at(t.x)];
    if (t.product()) t.z = image.column[at(t.z)];
    add_nonlinear_term(to, t);
  }
}

// Local search: value - term, within what its sides ask.

std::span<const Index> NonlinearTerms::columns(Index k) const {
  const bool two = terms_[at(k)].product() && terms_[at(k)].z != terms_[at(k)].x;
  return std::span<const Index>(columns_of_[at(k)]).first(two ? 3 : 2);
}

Interval NonlinearTerms::limits(Index k) const {
  return {terms_[at(k)].above ? 0.0 : -kInf, terms_[at(k)].below ? 0.0 : kInf};
}

double NonlinearTerms::value(Index k, std::span<const double> point,
                             std::span<double> gradient) const {
  const NonlinearTerm& t = terms_[at(k)];
  const double x = point[at(t.x)];
  gradient[0] = 1.0;
  if (t.f) {
    gradient[1] = -t.f->slope(x);
  } else if (t.x == t.z) {
    gradient[1] = -2.0 * x;
  } else {
    gradient[1] = -point[at(t.z)];
    gradient[2] = -x;
  }
  return point[at(t.value)] - t.at_point(point);
}

void NonlinearTerms::curvature(Index k, std::span<const double> point, double scale,
                               std::span<double> square) const {
  const NonlinearTerm& t = terms_[at(k)];
  const std::size_t n = columns(k).size();
  if (t.f)
    square[n + 1] -= scale * t.f->curvature(point[at(t.x)]);
  else if (t.x == t.z)
    square[n + 1] -= 2.0 * scale;
  else
    square[n + 2] = square[2 * n + 1] -= scale;
}

Interval NonlinearTerms::leaves(Index k, std::span<const double> lower,
                                std::span<const double> upper) const {
  const NonlinearTerm& t = terms_[at(k)];
  const auto range = [&](Index j) { return Interval{lower[at(j)], upper[at(j)]}; };
  const Interval term = t.over(range(t.x), t.product() ? range(t.z) : Interval{});
  return {t.above ? term.low : -kInf, t.below ? term.high : kInf};
}

void NonlinearTerms::fill_in(std::span<double> point) const {
  std::size_t next = 0;
  for (Index k = 0; k < size(); ++k) {
    for (; next < steps_.size() && steps_[next].first <= k; ++next) {
      const LinearStep& s = steps_[next].second;
      double sum = s.constant;
      for (const Entry& e : s.entries) sum += e.value * point[at(e.index)];
      point[at(s.value)] = sum;
    }
    point[at(terms_[at(k)].value)] = terms_[at(k)].at_point(point);
  }
}

void add_nonlinear_term(Problem& problem, const NonlinearTerm& term) {
  KITEKNOT_CHECK(term.value >= 0 && term.x >= 0 && (term.f || term.z >= 0),
                 "a nonlinear term names its columns");
  problem.own<NonlinearTerms>().add(term);
}

void add_linear_step(Problem& problem, LinearStep step) {
  problem.own<NonlinearTerms>().add(std::move(step));
}

std::span<const NonlinearTerm> nonlinear_terms(const Problem& problem) {
  const auto* kind = problem.kinds().find<NonlinearTerms>();
  if (kind == nullptr) return {};
  return kind->terms();
}

bool NonlinearTerms::mark(const Problem&, Mark& mark) const {
  for (const NonlinearTerm& t : terms_) {
    for (const Index j : {t.value, t.x, t.z}) mark.add(j);
    mark.add(t.above);
    mark.add(t.below);
    if (t.f) t.f->mark(mark);
  }
  for (const auto& [before, step] : steps_) {
    mark.add(before);
    mark.add(step.value);
    mark.add(step.constant);
    for (const Entry& e : step.entries) {
      mark.add(e.index);
      mark.add(e.value);
    }
  }
  return true;
}

}  // namespace kiteknot::mip
