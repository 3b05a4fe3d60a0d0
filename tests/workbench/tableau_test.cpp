// Tableaus against what a basis says by elimination from the rows as stated, and their ends against
// the solver's.
#include <functional>

#include <catch2/catch.hpp>

#include "support/knot.hpp"
#include "support/random_hand.hpp"

using namespace kiteknot;

namespace {

using Matrix = std::vector<std::vector<Rational>>;

// The tableau that a choice of basic columns has, from [A room] x = limits alone: Gauss and Jordan.
struct Recomputed {
  Matrix rows;  // by basics: every column, then the right side
  std::vector<Rational> goal;
};

Recomputed recompute(const Tableau& t) {
  const std::size_t m = t.basics().size(), n = t.columns().size();
  Matrix a;
  for (const TableauRow& row : t.stated()) {
    if (t.column(row.room).gone) continue;
    std::vector<Rational> line(n + 1);
    for (const auto& [j, c] : row.terms) line[static_cast<std::size_t>(j)] = c;
    line[static_cast<std::size_t>(row.room)] = row.sign;
    line[n] = row.limit;
    a.push_back(std::move(line));
  }
  REQUIRE(a.size() == m);
  for (std::size_t i = 0; i < m; ++i) {
    const auto b = static_cast<std::size_t>(t.basics()[i]);
    std::size_t pivot = i;
    while (pivot < m && a[pivot][b].is_zero()) ++pivot;
    REQUIRE(pivot < m);
    std::swap(a[i], a[pivot]);
    const Rational by = a[i][b];
    for (Rational& e : a[i]) e /= by;
    for (std::size_t k = 0; k < m; ++k) {
      if (k == i || a[k][b].is_zero()) continue;
      const Rational factor = a[k][b];
      for (std::size_t j = 0; j <= n; ++j) a[k][j] -= factor * a[i][j];
    }
  }
  Recomputed out{a, std::vector<Rational>(n + 1)};
  for (std::size_t j = 0; j < t.goal_coefficients().size(); ++j)
    out.goal[j] = t.goal_coefficients()[j];
  out.goal[n] = t.goal_constant();
  for (std::size_t i = 0; i < m; ++i) {
    const auto b = static_cast<std::size_t>(t.basics()[i]);
    const Rational c = b < t.goal_coefficients().size() ? t.goal_coefficients()[b] : Rational();
    for (std::size_t j = 0; j < n; ++j) out.goal[j] -= c * a[i][j];
    out.goal[n] += c * a[i][n];
  }
  return out;
}

void need_same(const Tableau& t) {
  const Recomputed r = recompute(t);
  for (std::size_t i = 0; i < t.basics().size(); ++i) {
    const auto row = static_cast<std::int32_t>(i);
    CHECK(t.right_side(row) == r.rows[i].back());
    for (std::size_t k = 0; k < t.others().size(); ++k)
      CHECK(t.entry(row, static_cast<std::int32_t>(k)) ==
            r.rows[i][static_cast<std::size_t>(t.others()[k])]);
  }
  for (std::size_t k = 0; k < t.others().size(); ++k)
    CHECK(t.gain(static_cast<std::int32_t>(k)) == r.goal[static_cast<std::size_t>(t.others()[k])]);
  CHECK(t.goal_right_side() == r.goal.back());
  // The values meet every row as stated, and the goal is that of the values.
  for (const TableauRow& row : t.stated()) {
    Rational sum = Rational(row.sign) * t.value(row.room);
    for (const auto& [j, c] : row.terms) sum += c * t.value(j);
    CHECK(sum == row.limit);
  }
  Rational goal = t.goal_constant();
  for (std::int32_t j = 0; j < t.num_own(); ++j)
    goal += t.goal_coefficients()[static_cast<std::size_t>(j)] * t.value(j);
  CHECK(goal == t.goal_value());
}

// To the end, through a first phase where that is called for.
TableauRun::End finish(Tableau& t, StepRule rule) {
  TableauRun r = run(t, rule);
  if (r.end == TableauRun::End::neither) {
    t.set_first_phase(true);
    r = run(t, rule);
    if (r.end == TableauRun::End::feasible) r = run(t, rule);
  }
  return r.end;
}

}  // namespace

TEST_CASE("any sequence of pivots is what its basis says", "[workbench][oracle]") {
  Random random(1601);
  for (int round = 0; round < 80; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {});
    Tableau t(model, {random.chance(0.3), false});
    for (int step = 0; step < 12; ++step) {
      const auto row = random.between(0, static_cast<std::int64_t>(t.basics().size()) - 1);
      const auto place = random.between(0, static_cast<std::int64_t>(t.others().size()) - 1);
      if (t.basics().empty() ||
          t.entry(static_cast<std::int32_t>(row), static_cast<std::int32_t>(place)).is_zero())
        continue;
      t.pivot(static_cast<std::int32_t>(row), static_cast<std::int32_t>(place), random.chance(0.5));
      need_same(t);
    }
  }
}

TEST_CASE("steps to the end come to the solver's relaxed answer, by any rule",
          "[workbench][oracle]") {
  Random random(1602);
  int optimal = 0, infeasible = 0, unbounded = 0;
  for (int round = 0; round < 250; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {});
    const Result known = solve_relaxed(model);
    const bool as_rows = random.chance(0.3);
    for (const StepRule rule :
         {StepRule::largest, StepRule::first, StepRule::steepest, StepRule::best}) {
      CAPTURE(word(rule), as_rows);
      Tableau t(model, {as_rows, false});
      switch (finish(t, rule)) {
        case TableauRun::End::optimal:
          ++optimal;
          REQUIRE(known.outcome == Outcome::optimal);
          CHECK(t.goal_value() == known.goal());
          CHECK(check_exactly(model, t.plan(), true).feasible);
          need_same(t);
          break;
        case TableauRun::End::infeasible:
          ++infeasible;
          CHECK(known.outcome == Outcome::infeasible);
          break;
        case TableauRun::End::unbounded:
          ++unbounded;
          CHECK(known.outcome == Outcome::unbounded);
          break;
        default:
          FAIL("neither an end nor a proof");
      }
    }
  }
  CHECK(optimal > 400);
  CHECK(infeasible > 20);
  CHECK(unbounded > 20);
}

TEST_CASE("ratios tell who is in the way, ties and ends", "[workbench]") {
  const Model model = test::model_of(
      "model \"m\"\ndecide a real 0 .. 3\ndecide b real 0 .. inf\nmaximize z: a + b\n"
      "rule one: a + b <= 4\nrule two: 2 * a + b >= -5\nrule three: 2 * a + 2 * b <= 8\nrule four: "
      "b <= 9\n");
  Tableau t(model);
  const Ratios r = ratios(t, 1);
  CHECK(r.up);
  CHECK(r.helps);
  CHECK_FALSE(r.own);
  REQUIRE(r.least);
  CHECK(*r.least == Rational(4));
  CHECK(r.ties == 2);
  CHECK(t.column(r.rows[static_cast<std::size_t>(r.row)].basic).name == "room of one");
  CHECK_FALSE(r.rows[1].ratio);
  // a reaches its own greatest value before any row is in its way.
  const auto flip = bring_in(t, 0);
  REQUIRE(flip);
  CHECK(flip->leaving == -1);
  CHECK(t.column(0).at_high);
  CHECK(t.value(0) == Rational(3));
  CHECK(t.goal_value() == Rational(3));
  CHECK_THROWS_AS(t.pivot(3, 0, false), UsageError);
}

TEST_CASE("what no tableau takes is refused with a way out", "[workbench]") {
  const auto refused = [](const std::string& text, bool as_sums = false) -> std::string {
    try {
      (void)Tableau(test::model_of(text), {false, as_sums});
    } catch (const UsageError& e) {
      return e.what();
    }
    return "";
  };
  const std::string head = "model \"m\"\ndecide a binary\ndecide b binary\nmaximize z: a + b\n";
  CHECK(refused(head + "rule r: a implies b\n") ==
        "a tableau holds sums only, and rule r is a condition; asked for as "
        "sums (--as-sums), it is taken in the form that the solver makes of it");
  CHECK(refused(head + "rule r: a implies b\n", true).empty());
  CHECK(refused(head + "rule r: a * b <= 0\n").find("has a term that is no sum") !=
        std::string::npos);
  CHECK(refused(head + "rule r: a + b <= 1 or pay 3 each\n").find("may be missed") !=
        std::string::npos);
  std::string wide = "model \"m\"\ntable t key k rows\n  k\n";
  for (int k = 0; k < 61; ++k) wide += "  i" + std::to_string(k) + "\n";
  wide += "decide x[r in t] binary\nmaximize z: total(x[r] over r in t)\n";
  CHECK(refused(wide).starts_with(
      "a tableau takes at most 60 decisions and 60 rules, and this model has 61"));
}

TEST_CASE("conditions as sums keep the model's plans", "[workbench][oracle]") {
  const Model model = test::model_of(
      "model \"m\"\ndecide a binary\ndecide b binary\ndecide c integer 0 .. 4\nmaximize z: 3 * a + "
      "2 * b + c\n"
      "rule one: a implies not b\nrule two: c >= 2 implies b\nrule three: 2 * a + 3 * b + 2 * c <= "
      "9\n");
  Tableau t(model, {false, true});
  REQUIRE(finish(t, StepRule::largest) == TableauRun::End::optimal);
  const CutRun cuts = cut_all_the_way(t, StepRule::largest, false);
  CHECK(cuts.end == CutRun::End::whole);
  CHECK(t.goal_value() == solve(model).goal());
  CHECK(check_exactly(model, t.plan()).feasible);
}

TEST_CASE("prices read off the last tableau are those of the relaxed answer",
          "[workbench][oracle]") {
  Random random(1603);
  int compared = 0;
  for (int round = 0; round < 600; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {});
    const Result known = solve_relaxed(model);
    Tableau t(model);
    if (finish(t, StepRule::largest) != TableauRun::End::optimal) continue;
    const Result own = relaxed_answer(t);
    if (own.relaxed.degenerate || known.relaxed.shadow_prices.empty()) continue;
    bool only_one = true;  // optimum: else the two may stand at different ones
    for (std::size_t k = 0; k < t.others().size(); ++k)
      only_one = only_one && (t.column(t.others()[k]).fixed() ||
                              !t.gain(static_cast<std::int32_t>(k)).is_zero());
    if (!only_one) continue;
    ++compared;
    REQUIRE(own.relaxed.shadow_prices.size() == known.relaxed.shadow_prices.size());
    for (std::size_t k = 0; k < own.relaxed.shadow_prices.size(); ++k) {
      CHECK(own.relaxed.shadow_prices[k] == Approx(known.relaxed.shadow_prices[k]).margin(1e-9));
      if (!own.report->rules[k].binding || own.relaxed.shadow_prices[k] == 0.0) continue;
      const Stretch a = own.relaxed.limit_stretches[k], b = known.relaxed.limit_stretches[k];
      CHECK((a.from == b.from || a.from == Approx(b.from).margin(1e-7)));
      CHECK((a.to == b.to || a.to == Approx(b.to).margin(1e-7)));
    }
    for (std::size_t k = 0; k < own.relaxed.coefficient_stretches.size(); ++k) {
      CHECK(own.relaxed.reduced_costs[k] == Approx(known.relaxed.reduced_costs[k]).margin(1e-9));
      const Stretch a = own.relaxed.coefficient_stretches[k],
                    b = known.relaxed.coefficient_stretches[k];
      CHECK((a.from == b.from || a.from == Approx(b.from).margin(1e-7)));
      CHECK((a.to == b.to || a.to == Approx(b.to).margin(1e-7)));
    }
  }
  CHECK(compared > 20);
  CHECK_THROWS_AS(relaxed_answer(Tableau(test::model_of(
                      "model \"m\"\ndecide a integer 0 .. 3\nmaximize z: a\nrule r: a <= 2\n"))),
                  UsageError);
}
