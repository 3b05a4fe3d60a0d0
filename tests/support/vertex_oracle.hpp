#pragma once
// What is true about a small linear program, by enumerating every basis of the system
//   L <= A x <= U, l <= x <= u
// in exact rationals: n of the limits hold with equality at a vertex. Free directions are handled
// by boxing every free end far away: a best value that rests on the box has no end.

#include <cmath>
#include <optional>
#include <vector>

#include "base/at.hpp"
#include "kiteknot/rational.hpp"
#include "lp/program.hpp"

namespace kiteknot::test {

struct Truth {
  enum class Kind { optimal, infeasible, unbounded } kind = Kind::infeasible;
  Rational value;
};

class VertexOracle {
 public:
  VertexOracle(const lp::Program& p, const Rational& far) : n_(p.num_columns()) {
    for (linalg::Index j = 0; j < n_; ++j) {
      std::vector<Rational> unit(at(n_));
      unit[at(j)] = 1;
      limit(unit, p.lower(j), p.upper(j), far);
      cost_.emplace_back(p.cost(j));
    }
    for (linalg::Index i = 0; i < p.num_rows(); ++i) {
      std::vector<Rational> row(at(n_));
      for (std::size_t k = 0; k < p.rows().index(i).size(); ++k)
        row[at(p.rows().index(i)[k])] += Rational(p.rows().value(i)[k]);
      limit(row, p.row_lower(i), p.row_upper(i), Rational::infinity());
    }
  }

  std::optional<Rational> best() {
    std::vector<std::size_t> chosen;
    choose(0, chosen);
    return best_;
  }

 private:
  struct Limit {
    std::vector<Rational> row;
    Rational value;
    bool upper;
  };

  void limit(const std::vector<Rational>& row, double low, double high, const Rational& far) {
    if (std::isfinite(low) || far.is_finite())
      limits_.push_back({row, std::isfinite(low) ? Rational(low) : -far, false});
    if (std::isfinite(high) || far.is_finite())
      limits_.push_back({row, std::isfinite(high) ? Rational(high) : far, true});
  }

  void choose(std::size_t from, std::vector<std::size_t>& chosen) {
    if (chosen.size() == at(n_)) return vertex(chosen);
    for (std::size_t k = from; k < limits_.size(); ++k) {
      chosen.push_back(k);
      choose(k + 1, chosen);
      chosen.pop_back();
    }
  }

  void vertex(const std::vector<std::size_t>& chosen) {
    const std::size_t n = at(n_);
    std::vector<std::vector<Rational>> a;
    for (std::size_t k : chosen) {
      a.push_back(limits_[k].row);
      a.back().push_back(limits_[k].value);
    }
    for (std::size_t c = 0; c < n; ++c) {
      std::size_t pivot = c;
      while (pivot < n && a[pivot][c].is_zero()) ++pivot;
      if (pivot == n) return;
      std::swap(a[pivot], a[c]);
      for (std::size_t r = 0; r < n; ++r) {
        if (r == c || a[r][c].is_zero()) continue;
        const Rational factor = a[r][c] / a[c][c];
        for (std::size_t k = c; k <= n; ++k) a[r][k] -= factor * a[c][k];
      }
    }
    std::vector<Rational> x(n);
    Rational value = 0;
    for (std::size_t c = 0; c < n; ++c) {
      x[c] = a[c][n] / a[c][c];
      value += cost_[c] * x[c];
    }
    for (const Limit& l : limits_) {
      Rational activity = 0;
      for (std::size_t c = 0; c < n; ++c) activity += l.row[c] * x[c];
      if (l.upper ? activity > l.value : activity < l.value) return;
    }
    if (!best_ || value < *best_) best_ = value;
  }

  linalg::Index n_;
  std::vector<Limit> limits_;
  std::vector<Rational> cost_;
  std::optional<Rational> best_;
};

inline Truth truth_of(const lp::Program& p) {
  const auto near = VertexOracle(p, 1000000).best(), far = VertexOracle(p, 2000000).best();
  if (!near) return {};
  return {*near == *far ? Truth::Kind::optimal : Truth::Kind::unbounded, *near};
}

}  // namespace kiteknot::test
