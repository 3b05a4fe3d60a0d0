#include <catch2/catch.hpp>

#include "base/random.hpp"
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

TEST_CASE("what one rule settles by itself is worth a look", "[study]") {
  const auto told = [](const std::string& text) {
    std::string all;
    for (const Remark& r : worth_a_look(parse_knot("model \"Settled\"\n" + text, "s.knot").value()))
      all += r.text + "\n";
    return all;
  };
  const std::string items = R"(table items key item rows
  item,size,worth
  mast,9,5
  drum,40,8
  lamp,3,2
decide take[i in items] binary
maximize worth: total(i.worth * take[i] over i in items)
)";
  CHECK(told(items + "rule room: total(i.size * take[i] over i in items) <= 35\n")
            .find("take[drum] (room) can never be taken") != std::string::npos);
  CHECK(told(items + "rule many: total(i.size * take[i] over i in items) >= 43\n")
            .find("take[drum] (many) always has to be taken") != std::string::npos);
  CHECK(told(items + "rule less: 3 - take[\"mast\"] <= 2\nrule again: take[\"mast\"] >= 1\n")
            .find("take[mast] (less) always has to be taken") != std::string::npos);
  CHECK(told(items + "rule low: 0 - take[\"mast\"] >= 0\n")
            .find("take[mast] (low) can never be taken") != std::string::npos);
  CHECK(told(items + "rule room: total(i.size * take[i] over i in items) <= 35 or pay 1 each\n")
            .find("never be taken") == std::string::npos);
  CHECK(told(items + "rule none[i in items where i.size >= 99]: take[i] <= 0\n"
                     "rule room: total(i.size * take[i] over i in items) <= 50\n")
            .find("no row is left for none") != std::string::npos);
}

TEST_CASE("what is said to be settled is so in every plan", "[study][oracle]") {
  Random random(404);
  int out = 0, in = 0;
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    Model m("Random");
    const int n = static_cast<int>(random.between(2, 5));
    std::vector<Decision> x;
    Expression goal;
    for (int j = 0; j < n; ++j) {
      x.push_back(m.binary("x" + std::to_string(j), {}).only());
      goal += Expression(x.back());
    }
    m.maximize("sum", goal);
    for (int i = 0; i < 2; ++i) {
      Expression sum;
      for (const Decision& d : x) sum += Rational(random.between(-9, 9)) * Expression(d);
      const Rational limit = random.between(-12, 12);
      m.rule("rule" + std::to_string(i), random.chance(0.5) ? sum <= limit : sum >= limit);
    }
    std::string remarks;
    for (const Remark& r : worth_a_look(m)) remarks += r.text + "\n";
    const auto line_of = [&](const char* end) {
      const std::size_t at = remarks.find(end);
      if (at == std::string::npos) return std::string();
      const std::size_t before = remarks.rfind('\n', at);
      const std::size_t begin = before == std::string::npos ? 0 : before + 1;
      return remarks.substr(begin, at - begin);
    };
    const std::string never = line_of("can never be taken"), always = line_of("always has to be");
    for (int bits = 0; bits < 1 << n; ++bits) {
      Plan plan(m);
      for (int j = 0; j < n; ++j) plan.set(x[static_cast<std::size_t>(j)], bits >> j & 1);
      if (!check(m, plan).feasible) continue;
      for (int j = 0; j < n; ++j) {
        const std::string name = "x" + std::to_string(j) + " (";
        REQUIRE(((bits >> j & 1) == 0 || never.find(name) == std::string::npos));
        REQUIRE(((bits >> j & 1) == 1 || always.find(name) == std::string::npos));
      }
    }
    out += never.empty() ? 0 : 1;
    in += always.empty() ? 0 : 1;
  }
  CHECK(out > 30);
  CHECK(in > 30);
}
