#pragma once
// Small random integer problems with every kind of constraint, and their best point by trying all.

#include <optional>

#include "base/random.hpp"
#include "mip/kinds/indicator_rows.hpp"
#include "mip/kinds/special_ordered_sets.hpp"
#include "mip/search/search.hpp"
#include "support/random_programs.hpp"

namespace kiteknot::test {

struct ProblemShape {
  int columns = 6, rows = 5;
  double conditional = 0.25, ordered = 0.2;
};

inline mip::LinearRow draw_row(Random& random, int n) {
  mip::LinearRow row;
  for (int j = 0; j < n; ++j)
    if (random.chance(0.6)) row.entries.push_back({j, static_cast<double>(random.between(-7, 7))});
  const auto a = static_cast<double>(random.between(-10, 5));
  const auto b = random.chance(0.3) ? a : a + static_cast<double>(random.between(0, 10));
  const auto side = random.between(0, 3);
  row.lower = side == 0 ? -kInf : a;
  row.upper = side == 1 ? kInf : b;
  return row;
}

inline mip::Problem draw_problem(Random& random, const ProblemShape& shape) {
  mip::Problem p;
  const int n = static_cast<int>(random.between(1, shape.columns)),
            m = static_cast<int>(random.between(0, shape.rows));
  bool zero_everywhere = true;
  for (int j = 0; j < n; ++j) {
    const auto low = static_cast<double>(random.between(-2, 1));
    const double high = low + static_cast<double>(random.between(0, 3));
    zero_everywhere = zero_everywhere && low <= 0.0 && high >= 0.0;
    p.add_column(low, high, true, static_cast<double>(random.between(-6, 6)));
  }
  p.set_goal_facts(true, 1.0);
  for (int i = 0; i < m; ++i) {
    const mip::LinearRow row = draw_row(random, n);
    if (!random.chance(shape.conditional)) {
      p.add_row(row);
      continue;
    }
    linalg::Index column = -1;
    for (int j = 0; j < n && column < 0 && random.chance(0.7); ++j)
      if (p.lower(j) >= 0.0 && p.upper(j) <= 1.0 && p.condition_of_column(j) < 0) column = j;
    const linalg::Index condition = p.add_condition(column);
    mip::add_indicator_row(p, {{condition, random.chance(0.5)}, row});
    if (random.chance(0.5))
      mip::add_indicator_row(p, {{condition, random.chance(0.5)}, draw_row(random, n)});
  }
  if (n > 2 && zero_everywhere && random.chance(shape.ordered)) {
    mip::SpecialOrderedSet set;
    for (int j = 0; j < n; ++j) set.columns.push_back(j);
    set.width = static_cast<linalg::Index>(random.between(1, 2));
    mip::add_special_ordered_set(p, set);
  }
  return p;
}

/// All of q over columns of its own.
inline void add_beside(mip::Problem& p, const mip::Problem& q) {
  mip::Image image;
  for (linalg::Index j = 0; j < q.num_columns(); ++j)
    image.column.push_back(p.add_column(q.lower(j), q.upper(j), q.integer(j), q.cost(j)));
  for (linalg::Index c = 0; c < q.num_conditions(); ++c) {
    const linalg::Index j = q.column_of_condition(c);
    image.condition.push_back(
        p.add_condition(j < 0 ? -1 : image.column[static_cast<std::size_t>(j)]));
  }
  for (const auto& kind : q.kinds().all()) kind->carry(q, image, p);
}

inline Rational goal_of(const mip::Problem& p, std::span<const Rational> x) {
  Rational goal = 0;
  for (linalg::Index j = 0; j < p.num_columns(); ++j)
    goal += Rational(p.cost(j)) * x[static_cast<std::size_t>(j)];
  return goal;
}

/// Whether the point meets the problem, worked out here alone: the oracle shares no code with what
/// it is to judge. Conditions without a column are tried in both states.
inline bool holds_by_trying(const mip::Problem& p, std::span<const Rational> x) {
  const auto at_column = [&](linalg::Index j) { return x[static_cast<std::size_t>(j)]; };
  const auto row_holds = [&](const mip::RowView& row) {
    Rational sum = 0;
    for (std::size_t k = 0; k < row.index.size(); ++k)
      sum += Rational::exactly(row.value[k]) * at_column(row.index[k]);
    return !(std::isfinite(row.lower) && sum < Rational::exactly(row.lower)) &&
           !(std::isfinite(row.upper) && sum > Rational::exactly(row.upper));
  };
  for (linalg::Index j = 0; j < p.num_columns(); ++j) {
    if (std::isfinite(p.lower(j)) && at_column(j) < Rational::exactly(p.lower(j))) return false;
    if (std::isfinite(p.upper(j)) && at_column(j) > Rational::exactly(p.upper(j))) return false;
    if (p.integer(j) && !at_column(j).is_integer()) return false;
  }
  for (linalg::Index i = 0; i < p.num_rows(); ++i)
    if (!row_holds(p.row(i))) return false;
  for (const mip::SpecialOrderedSet& set : mip::special_ordered_sets(p))
    for (std::size_t a = 0; a < set.columns.size(); ++a)
      for (std::size_t b = a + static_cast<std::size_t>(set.width); b < set.columns.size(); ++b)
        if (!at_column(set.columns[a]).is_zero() && !at_column(set.columns[b]).is_zero())
          return false;
  const mip::IndicatorRows* rows = mip::indicator_rows(p);
  if (rows == nullptr) return true;
  for (linalg::Index c = 0; c < p.num_conditions(); ++c) {
    bool possible = false;
    for (const bool state : {false, true}) {
      const linalg::Index column = p.column_of_condition(c);
      if (column >= 0 && (at_column(column) == Rational(1)) != state) continue;
      bool all = true;
      for (linalg::Index k = 0; k < rows->num_rows(); ++k)
        if (rows->when(k).condition == c && rows->when(k).holds == state)
          all = all && row_holds(rows->row(k));
      possible = possible || all;
    }
    if (!possible) return false;
  }
  return true;
}

inline mip::Judge judge_of(const mip::Problem& p) {
  return [&p](std::span<const Rational> x) { return mip::Verdict{satisfies(p, x), goal_of(p, x)}; };
}

/// Calls visit for every integer point within the bounds.
template <class Visit>
void each_point(const mip::Problem& p, const Visit& visit) {
  const auto n = static_cast<std::size_t>(p.num_columns());
  std::vector<double> k(n);
  for (std::size_t j = 0; j < n; ++j) k[j] = p.lower(static_cast<linalg::Index>(j));
  std::vector<Rational> x(n);
  while (true) {
    for (std::size_t j = 0; j < n; ++j) x[j] = Rational(k[j]);
    visit(std::span<const Rational>(x));
    std::size_t j = 0;
    for (; j < n && ++k[j] > p.upper(static_cast<linalg::Index>(j)); ++j)
      k[j] = p.lower(static_cast<linalg::Index>(j));
    if (j == n) return;
  }
}

inline std::optional<Rational> best_by_trying(const mip::Problem& p) {
  std::optional<Rational> best;
  each_point(p, [&](std::span<const Rational> x) {
    if (!holds_by_trying(p, x)) return;
    const Rational goal = goal_of(p, x);
    if (!best || goal < *best) best = goal;
  });
  return best;
}

}  // namespace kiteknot::test
