// Steps in the names of all sorts of models, from any basis, by tables of any keys, and written for
// TeX.
#include <catch2/catch.hpp>

#include "report/forms/page.hpp"
#include "support/knot.hpp"
#include "support/random_hand.hpp"

using namespace kiteknot;

namespace {

Deed done(Workbench& bench, const std::string& words) {
  const Reading<Deed> deed = bench.step(words);
  INFO(words << ": " << deed.notes().text());
  REQUIRE(deed.ok());
  return deed.value();
}

}  // namespace

TEST_CASE("names with blanks, brackets, signs and each other in them are told apart",
          "[workbench]") {
  const Model model = test::model_of(R"(
model "Names"
table shows key show, part rows
  show, part
  a, one
  "a b", two
  "x <= 2 for y", three
  ab, "for"
decide run[s in shows] integer 0 .. 9
decide a integer 0 .. 9
decide ab integer 0 .. 9
decide next integer 0 .. 9
maximize worth: total(run[s] over s in shows) + a + 2 * ab + next
rule crew: total(run[s] over s in shows) + a + ab + next <= 7
rule crews: a + 2 * ab <= 9
rule bring: next <= 4
)");
  Workbench bench(model);
  for (const char* name :
       {"run[a, one]", "run[\"a b\", two]", "run[ab, \"for\"]", "a", "ab", "next"}) {
    CAPTURE(name);
    // Whatever way a name is written here, the tableau's own is taken.
    const auto known = bench.tableau().names();
    if (std::find(known.begin(), known.end(), name) == known.end()) continue;
    done(bench, std::string("ratios of ") + name);
  }
  for (const std::string& name : bench.tableau().names()) {
    CAPTURE(name);
    const auto column = bench.tableau().find(name);
    REQUIRE(column);
    const Reading<Deed> deed = bench.step("ratios of " + name);
    if (!bench.tableau().column(*column).basic) {
      REQUIRE(deed.ok());
      CHECK(std::get<deeds::AskedRatios>(deed.value().what).ratios->entering == *column);
    } else {
      CHECK(deed.notes().items()[0].message.find(name) != std::string::npos);
    }
  }
  done(bench, "bring in ab for crews");
  CHECK(bench.tableau().value(*bench.tableau().find("ab")) == Rational::ratio(9, 2));
  done(bench, "next");  // the step, not the decision
  done(bench, "bring in   next   for   bring   anyway");
  CHECK(bench.tableau().column(*bench.tableau().find("next")).basic);
  done(bench, "next <= 3");  // the decision, not the step
  CHECK(bench.state().copy().condition == "next <= 3");
  done(bench, "add ab + next>=1 as at least one of <both>");
  CHECK(std::get<deeds::Added>(bench.story().back().what).name == "at least one of <both>");
  done(bench, "add 3/2 a - ab - -2 next <= 5 - a + 1/2 ab");
  const auto& sum = std::get<deeds::Added>(bench.story().back().what).sum;
  REQUIRE(sum.terms.size() == 3);
  CHECK(sum.terms[0].second == Rational::ratio(5, 2));
  CHECK(sum.terms[1].second == Rational::ratio(-3, 2));
  CHECK(sum.terms[2].second == Rational(2));
  CHECK(sum.limit == Rational(5));
}

TEST_CASE("columns and rows of a file are names too", "[workbench]") {
  const Model model = parse_mps(
                          "NAME small\nROWS\n N cost\n L 2ROW\n G r.2\nCOLUMNS\n"
                          " M1 'MARKER' 'INTORG'\n X-1 cost 3 2ROW 2\n X-1 r.2 1\n X_10 cost 2 "
                          "2ROW 1\n X_10 r.2 1\n"
                          " M2 'MARKER' 'INTEND'\nRHS\n rhs 2ROW 11 r.2 3.5\nBOUNDS\n UP b X-1 9\n "
                          "UP b X_10 9\nENDATA\n",
                          "small.mps")
                          .value();
  Workbench bench(model);
  done(bench, "to the end");
  CHECK(bench.tableau().goal_value() == Rational(7));
  done(bench, "all the way");
  CHECK(bench.tableau().goal_value() == solve(model).goal());
  CHECK(bench.tableau().find("room of 2ROW"));
}

TEST_CASE("wherever one stands, the same end is reached", "[workbench][oracle]") {
  Random random(1661);
  int compared = 0, phases = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {});
    Tableau t(model, {random.chance(0.3), false});
    const Result known = solve_relaxed(model);
    for (auto k = random.between(1, 8); k > 0; --k) {  // anywhere
      if (t.basics().empty()) break;
      const auto row = static_cast<std::int32_t>(
          random.between(0, static_cast<std::int64_t>(t.basics().size()) - 1));
      const auto place = static_cast<std::int32_t>(
          random.between(0, static_cast<std::int64_t>(t.others().size()) - 1));
      if (!t.entry(row, place).is_zero()) t.pivot(row, place, random.chance(0.5));
    }
    TableauRun r = run(t, StepRule::first);
    if (r.end == TableauRun::End::neither) {
      ++phases;
      t.set_first_phase(true);
      r = run(t, StepRule::first);
      if (r.end == TableauRun::End::feasible) r = run(t, StepRule::first);
    }
    ++compared;
    if (r.end == TableauRun::End::optimal) {
      REQUIRE(known.outcome == Outcome::optimal);
      CHECK(t.goal_value() == known.goal());
    } else {
      CHECK(known.outcome ==
            (r.end == TableauRun::End::unbounded ? Outcome::unbounded : Outcome::infeasible));
    }
  }
  CHECK(compared == 150);
  CHECK(phases > 15);
}

TEST_CASE("each step's ratios say what the step then does", "[workbench][oracle]") {
  Random random(1662);
  int steps = 0;
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    Tableau t(test::hand_model(random, {.equations = false}));
    for (int k = 0; k < 6; ++k) {
      const std::int32_t place = next_place(t, StepRule::best);
      if (place < 0 || !t.is_feasible()) break;
      const Ratios r = ratios(t, place);
      CHECK(r.helps);
      const auto step = bring_in(t, place);
      if (!step) {
        CHECK_FALSE(r.least);
        break;
      }
      ++steps;
      CHECK(step->moved.abs() == *r.least);
      CHECK((step->moved.sign() >= 0) == (r.up || step->moved.is_zero()));
      CHECK(t.is_feasible());
      CHECK((t.maximize() ? step->goal_after >= step->goal_before
                          : step->goal_after <= step->goal_before));
      // Whoever left stands at the limit that the ratio was taken to.
      if (step->leaving >= 0) {
        const Ratio& chosen = r.rows[static_cast<std::size_t>(r.row)];
        CHECK(chosen.basic == step->leaving);
        CHECK(t.value(step->leaving) == *chosen.limit);
      }
    }
  }
  CHECK(steps > 150);
}

TEST_CASE("limits as rules tell the same plans as limits at columns", "[workbench][oracle]") {
  Random random(1663);
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {.reals = false, .closed = true});
    Tableau marks(model), rows(model, {true, false});
    CHECK(rows.basics().size() >= marks.basics().size());
    for (std::int32_t j = 0; j < rows.num_own(); ++j) {
      const TableauColumn& c = rows.column(j);
      CHECK(c.low.sign() <= 0);  // a least value above 0 is a rule
      CHECK_FALSE(c.high.is_finite());
    }
    std::int64_t differ = 0;
    test::each_whole_point(marks, [&](const Plan& plan) {
      bool met = true;
      for (const TableauRow& r : rows.stated()) {
        Rational sum;
        for (const auto& [j, a] : r.terms) sum += a * plan[j];
        const Rational room = Rational(r.sign) * (r.limit - sum);
        met = met && room.sign() >= 0 && room <= rows.column(r.room).high;
      }
      differ += met != check_exactly(model, plan).feasible;
    });
    CHECK(differ == 0);
  }
}

TEST_CASE("pages for TeX escape whatever the data hold", "[report]") {
  report::Page page({.form = PageForm::tex});
  page.title("50 % of A&B_c #1 {x} $5 ^ ~ \\ \"q\"");
  page.say("a <= b >= c < d | e");
  page.table({{"one", "-3/2"}, {"two_two", "-4"}, {"three", "3/2 of it"}});
  const std::string tex = page.take();
  CHECK(tex.find("50 \\% of A\\&B\\_c \\#1 \\{x\\} \\$5 \\textasciicircum{} \\textasciitilde{} "
                 "\\textbackslash{} \\textquotedbl{}q\\textquotedbl{}") != std::string::npos);
  CHECK(
      tex.find("a \\ensuremath{\\le} b \\ensuremath{\\ge} c \\ensuremath{<} d \\ensuremath{|} e") !=
      std::string::npos);
  CHECK(tex.find("$-\\frac{3}{2}$") != std::string::npos);
  CHECK(tex.find("two\\_two & $-4$") != std::string::npos);
  CHECK(tex.find("3/2 of it") != std::string::npos);
  CHECK(tex.find("\\begin{tabular}{lp{7cm}}") != std::string::npos);
}
