#include "mip/propagators/whole_equations.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace kiteknot::mip {
namespace {

// sum of value x column = right
struct Equation {
  std::map<Index, Rational> terms;
  Rational right;
};

constexpr std::size_t kMostEquations = 400, kMostTerms = 400;

// Rows with whole figures over integer columns; columns with one value count as that.
void take_equation(const Problem& p, const RowView& row, std::vector<Equation>& all) {
  bool fits = row.lower == row.upper && row.exact && row.index.size() <= kMostTerms &&
              all.size() < kMostEquations;
  for (std::size_t k = 0; k < row.index.size() && fits; ++k)
    fits = p.integer(row.index[k]) && row.value[k] == std::trunc(row.value[k]);
  if (!fits) return;
  Equation e{{}, Rational::exactly(row.lower)};
  for (std::size_t k = 0; k < row.index.size(); ++k) {
    const Index j = row.index[k];
    const Rational a = Rational::exactly(row.value[k]);
    if (p.lower(j) == p.upper(j))
      e.right -= a * Rational::exactly(p.lower(j));
    else if (!a.is_zero())
      e.terms[j] += a;
  }
  all.push_back(std::move(e));
}

std::vector<Equation> equations_of(const Problem& p) {
  std::vector<Equation> all;
  for (const auto& kind : p.kinds().all())
    kind->visit_rows(p, [&](const RowView& row, const lp::Exact* known) {
      if (known == nullptr) take_equation(p, row, all);
    });
  return all;
}

}  // namespace

// While an equation has several terms, the column x with the least coefficient a takes up the
// others: x' = x + sum of q_j x_j with q_j the rounded quotient of a_j by a is as good a whole
// variable as x, and leaves remainders. In the other equations x becomes x' - sum of q_j x_j.
bool equations_unsolvable(const Problem& p, WorkCounter& work) {
  constexpr std::int64_t kMostWork = 300'000;
  const Rational most_figure(1'000'000'000'000'000LL);
  std::vector<Equation> equations = equations_of(p);
  const std::int64_t before = work.units();
  for (std::size_t k = 0; k < equations.size(); ++k) {
    Equation& e = equations[k];
    while (true) {
      std::erase_if(e.terms, [](const auto& t) { return t.second.is_zero(); });
      if (e.terms.empty()) {
        if (!e.right.is_zero()) return true;
        break;
      }
      Rational divisor = 0;
      for (const auto& [column, a] : e.terms) divisor = Rational::gcd(divisor, a);
      if (!(e.right / divisor).is_integer()) return true;
      for (auto& [column, a] : e.terms) a /= divisor;
      e.right /= divisor;
      const auto least = std::min_element(
          e.terms.begin(), e.terms.end(),
          [](const auto& a, const auto& b) { return a.second.abs() < b.second.abs(); });
      const Index x = least->first;
      const Rational a = least->second;
      std::map<Index, Rational> quotients;
      for (const auto& [column, value] : e.terms)
        if (column != x) {
          Rational q = (value / a).round();
          if (!q.is_zero()) quotients.emplace(column, std::move(q));
        }
      const bool last = a.abs() == Rational(1);
      for (std::size_t other = k; other < equations.size(); ++other) {
        Equation& o = equations[other];
        const auto at_x = o.terms.find(x);
        if (at_x == o.terms.end()) continue;
        const Rational by = at_x->second;
        work.add(static_cast<std::int64_t>(quotients.size()) + 1);
        for (const auto& [column, q] : quotients) {
          Rational& to = o.terms[column];
          to -= by * q;
          if (to.abs() > most_figure) return false;
        }
        // An equation a x' = right says what x' is; the others take that over.
        if (last && other > k) {
          o.right -= by * (e.right / a);
          o.terms.erase(x);
          if (o.right.abs() > most_figure) return false;
        }
      }
      if (work.units() - before > kMostWork || work.interrupted()) return false;
      if (last) break;
    }
  }
  return false;
}

}  // namespace kiteknot::mip
