#include <catch2/catch.hpp>

#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

Model demo(const std::string& name) {
  return read_model(std::string(KITEKNOT_DEMO_DIR) + "/" + name).value();
}

bool remarked(const Model& m, const std::string& text) {
  for (const Remark& r : worth_a_look(m))
    if (r.text.find(text) != std::string::npos) return true;
  return false;
}

}  // namespace

TEST_CASE("a study asked again answers like a fresh solve, through a chain of changes", "[study]") {
  Study study(demo("programme.knot"));
  CHECK(study.solve().goal() == Rational(492));
  for (int grant = 400; grant <= 1600; grant += 150) {
    for (const bool family : {true, false}) {
      CAPTURE(grant, family);
      study.set("grant", grant);
      family ? study.with("family") : study.without("family");
      Model fresh = demo("programme.knot");
      fresh.set("grant", grant);
      if (!family) fresh.without("family");
      const Result warm = study.solve(), cold = solve(fresh);
      REQUIRE(warm.outcome == cold.outcome);
      CHECK(warm.goal() == cold.goal());
      CHECK(warm.goals[0].gap == 0.0);
    }
  }
  CHECK(study.set("crew_hours", 1).with("family").solve().outcome == Outcome::infeasible);
  CHECK(study.set("crew_hours", 35).set("grant", 1200).solve().goal() == Rational(492));
  CHECK_THROWS_AS(study.set("grnt", 3), UsageError);
}

TEST_CASE("asking the same again is nearly free", "[study]") {
  Study study(demo("stewards.knot"));
  const Result first = study.solve(), second = study.solve();
  CHECK(first.goal() == second.goal());
  CHECK(second.search.lp_iterations <= first.search.lp_iterations);
}

TEST_CASE("a comparison measures distances from the proven best", "[study]") {
  const Model m = demo("crate.knot");
  const Comparison c = compare(m, {"greedy", "rounded"});
  CHECK(c.proven);
  CHECK(*c.best == Rational(161));
  REQUIRE(c.answers.size() == 5);
  CHECK(c.answers[0].label == "greedy");
  CHECK(c.answers[4].label == "rounded, repaired");
  CHECK(c.answers[4].report->feasible);
  const std::string page = comparison_page(m, c);
  CHECK(page.find("4.3 % worse") != std::string::npos);
  CHECK(page.find("breaks mass by 1") != std::string::npos);
  const std::string lesson =
      comparison_page(m, compare(m, {"exact", "relaxed", "rounded"}), {false, 200});
  CHECK(lesson.find("Whole decisions cost 2.1666667") != std::string::npos);
  CHECK(lesson.find("Rounding at its best costs another 37") != std::string::npos);
  CHECK_THROWS_AS(compare(m, {"exact", "magic"}), UsageError);
}

TEST_CASE("what a careful reader would look at twice is remarked", "[study]") {
  CHECK(worth_a_look(demo("programme.knot")).empty());
  Model m{"Odd"};
  const Decisions x = m.integer("x", {}, between(0, 5)), idle = m.binary("idle");
  CHECK(remarked(m, "no goal"));
  CHECK(remarked(m, "uses x and idle"));
  m.minimize("cost", Expression(x));
  CHECK(remarked(m, "with everything at 0, cost is 0"));
  m.rule("wide", Expression(x) <= 9);
  CHECK(remarked(m, "every choice meets wide"));
  m.rule("never", Expression(x) >= 6);
  CHECK(remarked(m, "no choice at all can meet never"));
  CHECK_FALSE(remarked(m, "with everything at 0"));
  CHECK(remarked(m, "uses idle"));
  m.without("never");
  CHECK_FALSE(remarked(m, "never"));
}

TEST_CASE("pages speak in names, wrap within their width and colour only on request",
          "[study][report]") {
  const Model m = demo("stewards.knot");
  const Result r = solve(m);
  PageOptions narrow;
  narrow.width = 60;
  for (const std::string& page : {show_page(m, narrow), answer_page(r, narrow),
                                  check_page(m, *r.plan, *r.report, "plan", narrow)}) {
    CHECK(page.find("\033[") == std::string::npos);
    std::size_t longest = 0, column = 0;
    for (const char c : page) {
      column = c == '\n' ? 0 : column + 1;
      longest = std::max(longest, column);
    }
    CHECK(longest <= 75);  // a name is not broken, so a line may run over by one
    CHECK(page.find("hire") != std::string::npos);
  }
  PageOptions colour;
  colour.colour = true;
  CHECK(answer_page(r, colour).find("\033[1;38;5;31m") != std::string::npos);
  CHECK(answer_page(r).find("pay is 1,174, and no plan reaches less") != std::string::npos);
}

TEST_CASE("a big model is shown by family with figures in words", "[study][report]") {
  std::string csv = "item,mass,worth\n";
  for (int i = 0; i < 500; ++i)
    csv += "i" + std::to_string(i) + "," + std::to_string(10 + i % 7) + "," +
           std::to_string(i % 50 + 1) + "\n";
  const Table items = Table::parse("items", csv, {{"item"}, {}});
  Model m{"Big"};
  const Decisions pick = m.binary("pick", items);
  const Numbers mass = items.numbers("mass"), worth = items.numbers("worth");
  m.maximize("worth", total(items, [&](Row r) { return worth[r] * pick[r]; }));
  m.rule("mass", total(items, [&](Row r) { return mass[r] * pick[r]; }) <= 900);
  m.rule("one", items, [&](Row r) { return pick[r] <= 1; });
  const std::string page = show_page(m);
  CHECK(page.find("500 decisions to take, all yes or no; 501 rules in 2 families") !=
        std::string::npos);
  CHECK(page.find("the sum of 500 of pick with figures from 10 to 16, is at most 900") !=
        std::string::npos);
  CHECK(page.find("one[i0]: pick[i0] <= 1") != std::string::npos);
  CHECK(page.size() < 4000);
}
