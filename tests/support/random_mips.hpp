#pragma once
// Tiny whole and mixed problems of every awkward kind, with what is true about them: by trying all
// whole points (in fractions, the one real column filled in), or by how they were made.

#include <array>
#include <optional>
#include <string_view>

#include "support/brute_force.hpp"
#include "support/vertex_oracle.hpp"

namespace kiteknot::test {

struct TinyMip {
  std::string_view kind;
  mip::Problem problem{};
  Outcome outcome = Outcome::infeasible;  ///< optimal, infeasible or unbounded
  Rational goal{};
};

/// The best value over whole points and, for each of them, the one real column (`real`, -1: none)
/// within what the linear rows leave of it. All of it in fractions.
inline std::optional<Rational> best_with_one_real(const mip::Problem& p, linalg::Index real) {
  std::optional<Rational> best;
  mip::Problem whole = p;
  if (real >= 0) whole.set_bounds(real, 0.0, 0.0);
  each_point(whole, [&](std::span<const Rational> at_zero) {
    std::vector<Rational> x(at_zero.begin(), at_zero.end());
    if (real >= 0) {
      const auto r = static_cast<std::size_t>(real);
      Rational low(p.lower(real)), high(p.upper(real));
      const auto narrow = [&](Rational a, Rational b) {
        low = std::max(low, a);
        high = std::min(high, b);
      };
      for (linalg::Index i = 0; i < p.num_rows(); ++i) {
        Rational sum = 0, factor = 0;
        for (std::size_t k = 0; k < p.row(i).index.size(); ++k) {
          const Rational a = Rational::exactly(p.row(i).value[k]);
          if (p.row(i).index[k] == real)
            factor += a;
          else
            sum += a * x[at(p.row(i).index[k])];
        }
        if (factor.is_zero()) continue;
        const auto end = [&](double limit) {
          if (std::isfinite(limit)) return (Rational::exactly(limit) - sum) / factor;
          return (limit > 0.0) == (factor.sign() > 0) ? Rational::infinity()
                                                      : Rational::minus_infinity();
        };
        const Rational a = end(p.row_lower(i)), b = end(p.row_upper(i));
        narrow(std::min(a, b), std::max(a, b));
      }
      if (low > high) return;
      x[r] = p.cost(real) < 0.0 ? high : low;
    }
    if (!satisfies(p, x)) return;
    const Rational goal = goal_of(p, x);
    if (!best || goal < *best) best = goal;
  });
  return best;
}

// Problems in which reductions find something: covers, choices, budgets, equations, equal columns.
inline mip::Problem draw_reducible(Random& random, bool real) {
  mip::Problem p;
  const auto n = static_cast<linalg::Index>(random.between(2, 6));
  const bool costly = random.chance(0.6);
  for (linalg::Index j = 0; j < n; ++j) {
    const auto low = random.chance(0.8) ? 0.0 : static_cast<double>(random.between(-2, 1));
    p.add_column(low, low + (random.chance(0.75) ? 1.0 : static_cast<double>(random.between(0, 3))),
                 true, static_cast<double>(random.between(costly ? 0 : -6, 6)));
  }
  if (real)
    p.add_column(random.chance(0.3) ? -2.0 : 0.0, static_cast<double>(random.between(1, 9)), false,
                 static_cast<double>(random.between(-3, 3)));
  const auto all = p.num_columns();
  for (std::int64_t i = random.between(1, 6); i > 0; --i) {
    mip::LinearRow row{{}, -kInf, kInf, true};
    const auto kind = random.between(0, 6);
    for (linalg::Index j = 0; j < all; ++j) {
      if (!random.chance(kind == 3 ? 0.35 : 0.55)) continue;
      const bool unit = kind <= 2;
      row.entries.push_back({j, unit ? 1.0 : static_cast<double>(random.between(-6, 8))});
    }
    std::erase_if(row.entries, [](const mip::Entry& e) { return e.value == 0.0; });
    const auto limit = static_cast<double>(random.between(-3, 9));
    if (kind == 0) row.lower = 1.0;
    if (kind == 1) row.upper = 1.0;
    if (kind == 2) row.lower = row.upper = 1.0;
    if (kind == 3) row.lower = row.upper = limit;
    if (kind >= 4) (random.chance(0.7) ? row.upper : row.lower) = limit;
    if (kind == 6 && std::isfinite(row.upper)) row.lower = row.upper - 4.0;
    p.add_row(row);
    if (random.chance(0.15)) {  // the same once more, turned and in other units
      for (mip::Entry& e : row.entries) e.value *= -2.0;
      p.add_row({row.entries, -2.0 * row.upper, -2.0 * row.lower, true});
    }
  }
  p.set_goal_facts(true, real ? 0.0 : 1.0);
  return p;
}

namespace tiny {

inline void settle(TinyMip& t, const std::optional<Rational>& best) {
  t.outcome = best ? Outcome::optimal : Outcome::infeasible;
  if (best) t.goal = *best;
}

// Rows, conditions and ordered sets over whole columns.
inline TinyMip general(Random& random) {
  TinyMip t{"rows, conditions, ordered sets", draw_problem(random, {.columns = 7, .rows = 6})};
  settle(t, best_by_trying(t.problem));
  return t;
}

// Two rows that no whole point meets, among others.
inline TinyMip contradictory(Random& random) {
  TinyMip t{"a planted contradiction",
            draw_problem(random, {.columns = 6, .rows = 3, .conditional = 0.1})};
  mip::LinearRow odd;
  for (linalg::Index j = 0; j < t.problem.num_columns(); ++j)
    odd.entries.push_back({j, 2.0 * static_cast<double>(random.between(1, 9))});
  odd.lower = odd.upper = 2.0 * static_cast<double>(random.between(0, 9)) + 1.0;
  if (random.chance(0.5)) {  // as a range: only the relaxation has points in it
    odd.lower -= 0.5;
    odd.upper += 0.5;
  }
  t.problem.add_row(odd);
  return t;
}

// Figures whose sums no double holds.
inline TinyMip big_figures(Random& random) {
  TinyMip t{"sums beyond 2^53", {}};
  const auto n = random.between(2, 7);
  for (std::int64_t j = 0; j < n; ++j)
    t.problem.add_column(0.0, random.chance(0.8) ? 1.0 : 2.0, true,
                         static_cast<double>(random.between(-9, 3)));
  t.problem.set_goal_facts(true, 1.0);
  const double base = std::ldexp(1.0, static_cast<int>(random.between(48, 53)));
  for (std::int64_t i = random.between(1, 3); i > 0; --i) {
    mip::LinearRow row;
    for (linalg::Index j = 0; j < n; ++j)
      if (random.chance(0.7))
        row.entries.push_back(
            {j, (random.chance(0.6) ? base : 0.0) + static_cast<double>(random.between(-6, 6))});
    const double limit = base * static_cast<double>(random.between(0, 3)) +
                         static_cast<double>(random.between(-8, 8));
    row.lower = random.chance(0.3) ? limit - static_cast<double>(random.between(0, 8)) : -kInf;
    row.upper = limit;
    t.problem.add_row(row);
  }
  settle(t, best_by_trying(t.problem));
  return t;
}

inline TinyMip equality_knapsack(Random& random) {
  TinyMip t{"an equation of knapsack form", {}};
  mip::LinearRow row;
  const auto n = random.between(2, 5);
  for (linalg::Index j = 0; j < n; ++j) {
    t.problem.add_column(0.0, static_cast<double>(random.between(1, 4)), true,
                         static_cast<double>(random.between(-9, 9)));
    row.entries.push_back({j, static_cast<double>(random.between(12, 60))});
  }
  row.lower = row.upper = static_cast<double>(random.between(12, 60 * n));
  t.problem.add_row(row);
  t.problem.set_goal_facts(true, 1.0);
  settle(t, best_by_trying(t.problem));
  return t;
}

// g x - g h y = r with x, y >= 0 whole: a plan exists where g divides r, and then a ray (h, 1).
inline TinyMip endless(Random& random) {
  TinyMip t{"a whole ray", {}};
  const auto g = random.between(2, 5), h = random.between(1, 4), r = random.between(0, 20);
  t.problem.add_column(0.0, kInf, true, -static_cast<double>(random.between(1, 3)));
  t.problem.add_column(0.0, kInf, true, 0.0);
  t.problem.add_row({{{0, static_cast<double>(g)}, {1, -static_cast<double>(g * h)}},
                     static_cast<double>(r),
                     static_cast<double>(r),
                     true});
  t.problem.set_goal_facts(true, 1.0);
  t.outcome = r % g == 0 ? Outcome::unbounded : Outcome::infeasible;
  return t;
}

// No rows, or no columns at all.
inline TinyMip empty(Random& random) {
  TinyMip t{"no rows", {}};
  for (std::int64_t j = random.between(0, 4); j > 0; --j) {
    const auto low = static_cast<double>(random.between(-3, 2));
    t.problem.add_column(low, low + static_cast<double>(random.between(0, 3)), true,
                         static_cast<double>(random.between(-5, 5)));
  }
  if (random.chance(0.3))  // a row without entries: 0 within its limits, or not
    t.problem.add_row({{},
                       static_cast<double>(random.between(-2, 1)),
                       static_cast<double>(random.between(1, 3)),
                       true});
  t.problem.set_goal_facts(true, 1.0);
  settle(t,
         t.problem.num_columns() > 0 || t.problem.num_rows() == 0 || t.problem.row_lower(0) <= 0.0
             ? best_by_trying(t.problem)
             : std::nullopt);
  return t;
}

inline TinyMip all_real(Random& random) {
  TinyMip t{"real columns only", {}};
  const lp::Program p = draw_program(random, {.columns = 4, .rows = 3, .infinite = 0.0});
  for (linalg::Index j = 0; j < p.num_columns(); ++j)
    t.problem.add_column(p.lower(j), p.upper(j), false, p.cost(j));
  for (linalg::Index i = 0; i < p.num_rows(); ++i) {
    mip::LinearRow row{{}, p.row_lower(i), p.row_upper(i), true};
    for (std::size_t k = 0; k < p.rows().index(i).size(); ++k)
      row.entries.push_back({p.rows().index(i)[k], p.rows().value(i)[k]});
    t.problem.add_row(row);
  }
  settle(t, VertexOracle(p, Rational::infinity()).best());
  return t;
}

// y <= much x pulls y up while x costs: the relaxation pays a ten-millionth of it.
inline TinyMip nearly_whole(Random& random) {
  TinyMip t{"whole to a millionth, and wrong", {}};
  const auto n = static_cast<linalg::Index>(random.between(1, 4));
  const linalg::Index y = n;
  mip::LinearRow link;
  for (linalg::Index j = 0; j < n; ++j) {
    t.problem.add_column(0.0, random.chance(0.7) ? 1.0 : 3.0, true,
                         static_cast<double>(random.between(0, 30)));
    link.entries.push_back({j, -std::ldexp(1.0, static_cast<int>(random.between(18, 34)))});
  }
  t.problem.add_column(0.0, static_cast<double>(random.between(1, 9)), false,
                       -static_cast<double>(random.between(1, 9)));
  link.entries.push_back({y, 1.0});
  link.lower = -kInf;
  link.upper = 0.0;
  t.problem.add_row(link);
  if (random.chance(0.6)) {
    mip::LinearRow row;
    for (linalg::Index j = 0; j <= y; ++j)
      row.entries.push_back({j, static_cast<double>(random.between(-4, 4))});
    row.lower = -kInf;
    row.upper = static_cast<double>(random.between(0, 8));
    t.problem.add_row(row);
  }
  settle(t, best_with_one_real(t.problem, y));
  return t;
}

// Problems that nothing ties together.
inline TinyMip apart(Random& random) {
  TinyMip t{"parts apart", {}};
  t.goal = 0;
  bool possible = true;
  for (std::int64_t k = random.between(2, 3); k > 0; --k) {
    const mip::Problem p = draw_problem(random, {.columns = 4, .rows = 3});
    const auto best = best_by_trying(p);
    possible = possible && best;
    if (best) t.goal += *best;
    add_beside(t.problem, p);
  }
  t.problem.set_goal_facts(true, 1.0);
  t.outcome = possible ? Outcome::optimal : Outcome::infeasible;
  return t;
}

// The same block several times, under rows that treat all of them alike.
inline TinyMip interchangeable(Random& random) {
  TinyMip t{"interchangeable blocks", {}};
  const auto size = random.between(1, 3), copies = random.between(2, size == 1 ? 6 : 3);
  std::vector<double> cost;
  for (std::int64_t j = 0; j < size; ++j)
    cost.push_back(static_cast<double>(random.between(-5, 5)));
  const mip::LinearRow own = draw_row(random, static_cast<int>(size));
  for (std::int64_t c = 0; c < copies; ++c) {
    for (const double one : cost) t.problem.add_column(0.0, 1.0, true, one);
    if (size == 1) continue;
    mip::LinearRow row = own;
    for (mip::Entry& e : row.entries) e.index += static_cast<linalg::Index>(c * size);
    t.problem.add_row(row);
  }
  for (std::int64_t i = random.between(1, 3); i > 0; --i) {
    const mip::LinearRow one = draw_row(random, static_cast<int>(size));
    if (random.chance(0.5)) {  // over all blocks
      mip::LinearRow all{{}, one.lower, one.upper, true};
      for (std::int64_t c = 0; c < copies; ++c)
        for (const mip::Entry& e : one.entries)
          all.entries.push_back({e.index + static_cast<linalg::Index>(c * size), e.value});
      t.problem.add_row(all);
      continue;
    }
    for (std::int64_t a = 0; a < copies; ++a)  // over any two of them
      for (std::int64_t b = a + 1; b < copies; ++b) {
        mip::LinearRow pair{{}, one.lower, one.upper, true};
        for (const std::int64_t c : {a, b})
          for (const mip::Entry& e : one.entries)
            pair.entries.push_back({e.index + static_cast<linalg::Index>(c * size), e.value});
        t.problem.add_row(pair);
      }
  }
  t.problem.set_goal_facts(true, 1.0);
  settle(t, best_by_trying(t.problem));
  return t;
}

// Whole columns and a real one, for whatever can be told beforehand.
inline TinyMip reducible(Random& random) {
  TinyMip t{"one real among whole ones", draw_reducible(random, true)};
  settle(t, best_with_one_real(t.problem, t.problem.num_columns() - 1));
  return t;
}

}  // namespace tiny

/// The k-th kind, in turn.
inline TinyMip draw_tiny(Random& random, std::int64_t k) {
  using Draw = TinyMip (*)(Random&);
  constexpr std::array<Draw, 11> kinds = {
      tiny::general, tiny::contradictory,   tiny::big_figures, tiny::equality_knapsack,
      tiny::endless, tiny::empty,           tiny::all_real,    tiny::nearly_whole,
      tiny::apart,   tiny::interchangeable, tiny::reducible};
  return kinds[static_cast<std::size_t>(k) % kinds.size()](random);
}

/// Every pair of parts in all four states of on and off: the first trial has all of them on; of the
/// other seven each part is off in another four (Kleitman and Spencer 1973, "Families of
/// k-independent sets").
struct Trials {
  static constexpr std::size_t kParts = 23, kCount = 8;
  static bool on(std::size_t part, std::size_t trial) {
    constexpr std::array<unsigned, kParts> kOff = {
        0b0001111, 0b0010111, 0b0100111, 0b1000111, 0b0011011, 0b0101011, 0b1001011, 0b0110011,
        0b1010011, 0b1100011, 0b0011101, 0b0101101, 0b1001101, 0b0110101, 0b1010101, 0b0111001,
        0b1001110, 0b1011010, 0b1110100, 0b1101100, 0b1011100, 0b1111000, 0b0011110};
    return trial == 0 || (kOff[part] >> (trial - 1) & 1U) == 0;
  }
  static mip::SearchOptions options(std::size_t trial, std::uint64_t seed) {
    mip::SearchOptions o;
    bool* const parts[] = {&o.finding.core,
                           &o.node.enumeration,
                           &o.presolving.probing,
                           &o.node.strong,
                           &o.finding.rounding,
                           &o.node.price_fixing,
                           &o.structures,
                           &o.cuts.tableau,
                           &o.cuts.paths,
                           &o.finding.dives,
                           &o.finding.near_plan,
                           &o.cuts.cliques,
                           &o.cuts.covers,
                           &o.cuts.implied,
                           &o.cuts.halves,
                           &o.presolving.on,
                           &o.presolving.brief_look,
                           &o.presolving.components,
                           &o.presolving.orbits,
                           &o.presolving.reductions,
                           &o.node.learning,
                           &o.finding.pump,
                           &o.cuts.below};
    static_assert(std::size(parts) == kParts);
    for (std::size_t k = 0; k < kParts; ++k) *parts[k] = on(k, trial);
    o.budget.seed = seed;
    return o;
  }
};

/// What a search said of a tiny problem.
struct Said {
  std::string wrong;  ///< that is not so; empty: nothing
  bool open = false;  ///< the arithmetic did not suffice, as it says itself
  std::int64_t nodes = 0;
  int workers = 1;
};

inline Said asked_about(const TinyMip& t, const mip::SearchOptions& options) {
  const mip::SearchResult r = mip::Search(t.problem, judge_of(t.problem), options).run();
  Said said{{}, false, r.counts.nodes, r.crew.workers};
  if (r.plan && !satisfies(t.problem, *r.plan)) {
    said.wrong = "a plan that breaks a rule";
  } else if (r.plan && t.outcome == Outcome::infeasible) {
    said.wrong = "a plan where there is none";
  } else if (r.outcome == Outcome::unproven || r.outcome == Outcome::undecided) {
    said.open = !r.reason.empty();
    if (!said.open) said.wrong = "no answer, and no reason";
  } else if (r.outcome != t.outcome) {
    said.wrong = std::string(word(r.outcome)) + " and not " + std::string(word(t.outcome));
  } else if (t.outcome == Outcome::optimal && r.goal != t.goal) {
    const double off = std::abs(r.goal.to_double() - t.goal.to_double());
    if (r.proven_exactly || r.goal < t.goal || off > kProofGap * std::abs(t.goal.to_double()))
      said.wrong = "a goal of " + r.goal.text() + " and not " + t.goal.text();
  }
  return said;
}

}  // namespace kiteknot::test
