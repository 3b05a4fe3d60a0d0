// Scenarios, rules left out and sweeps against models that say the same by themselves.
#include <catch2/catch.hpp>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "support/folder.hpp"

using namespace kiteknot;

namespace {

const std::string kModel =
    "table shows key show rows\n  show,size,crowd\n  glow,3,30\n  race,5,40\n  tea,1,8\n"
    "number room = 6\n"
    "decide run[s in shows] binary\nmaximize crowd: total(s.crowd * run[s] over s in shows)\n"
    "rule fits: total(s.size * run[s] over s in shows) <= room\n"
    "rule calm off: run[\"race\"] = 0\n"
    "scenario \"more room\": set room = 8\n"
    "scenario \"calm\": with calm\n"
    "scenario \"calm and more\" like \"more room\": with calm\n"
    "scenario \"big tea\": set shows[\"tea\"].crowd = 50\n"
    "scenario \"small shows\": scale shows.size by 0.5\n"
    "scenario \"tea first\": hold run[\"tea\"] = 1, without fits\n"
    "scenario \"nothing fits\": set room = -1\n";

Model read(const std::string& scenario) {
  const auto r = parse_knot(kModel, "m.knot", "", scenario);
  INFO(r.notes().text());
  REQUIRE(r.ok());
  return r.value();
}

std::string complaint(const std::string& more, const std::string& scenario = "") {
  const auto r = parse_knot(kModel + more + "\n", "m.knot", "", scenario);
  return r.ok() ? "no error" : r.notes().text();
}

}  // namespace

TEST_CASE("a scenario makes its changes and those of the one it is like", "[study][vary]") {
  const std::pair<std::string, int> expected[] = {
      {"", 48},        {"more room", 70},   {"calm", 38},     {"calm and more", 38},
      {"big tea", 90}, {"small shows", 78}, {"tea first", 78}};
  for (const auto& [scenario, crowd] : expected) {
    CAPTURE(scenario);
    CHECK(solve(read(scenario)).goal() == Rational(crowd));
  }
  CHECK(solve(read("nothing fits")).outcome == Outcome::infeasible);
  CHECK(read("").scenarios().size() == 7);
}

TEST_CASE("scenarios side by side tell what changes, and what cannot be", "[study][vary]") {
  const Model base = read("");
  std::vector<std::pair<std::string, Model>> all;
  for (const std::string& name : base.scenarios()) all.emplace_back(name, read(name));
  const Variation v = compare_scenarios(base, all);
  REQUIRE(v.variants.size() == 7);
  CHECK(*v.base.goal == Rational(48));
  CHECK(*v.variants[0].goal == Rational(70));
  REQUIRE(v.variants[0].changed.size() == 2);
  CHECK(v.variants[6].outcome == Outcome::infeasible);
  const std::string page = variation_page(base, v);
  CHECK(page.find("more room") != std::string::npos);
  CHECK(page.find("+22") != std::string::npos);
  CHECK(page.find("takes run[glow]; leaves out run[tea]") != std::string::npos);
  CHECK(page.find("no plan meets all rules") != std::string::npos);
  CHECK(variation_csv(v).find("more room,optimal,70,22,") != std::string::npos);
  const auto json = nlohmann::json::parse(variation_document(base, v));
  CHECK(json["variants"][0]["change"] == 22);
  CHECK(json["variants"][6]["goal"].is_null());
}

TEST_CASE("each rule left out, and a number swept, agree with models of their own",
          "[study][vary]") {
  const Model base = read("calm");
  const Variation rules = without_each(base);
  REQUIRE(rules.variants.size() == 2);
  CHECK(*rules.variants[0].goal == Rational(38));
  CHECK(*rules.variants[1].goal == Rational(48));
  const Variation s = sweep(read(""), {"room", 0, 9, 10});
  REQUIRE(s.variants.size() == 10);
  for (int room = 0; room <= 9; ++room) {
    Model m = read("");
    m.set("room", room);
    CHECK(s.variants[static_cast<std::size_t>(room)].goal == solve(m).goal());
  }
  CHECK(s.variants[0].nothing);
  CHECK_THROWS_WITH(sweep(base, {"rom", 0, 9, 3}), Catch::Contains("nearest is 'room'"));
  CHECK_THROWS_WITH(sweep(base, {"room", 0, 9, 0}), Catch::Contains("at least one point"));
}

TEST_CASE("the steps of a sweep are those of enumeration", "[study][vary]") {
  Random random(77);
  int steps = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    Model m{"Steps"};
    const Number limit = m.number("limit", 5);
    Expression weight, worth, count;
    std::vector<std::pair<int, int>> items;
    for (int k = 0; k < 5; ++k) {
      const auto x = m.binary(fmt::format("x{}", k)).only();
      items.emplace_back(static_cast<int>(random.between(1, 6)),
                         static_cast<int>(random.between(1, 9)));
      weight += items.back().first * Expression(x);
      worth += items.back().second * Expression(x);
      count += x;
    }
    // A few must be packed, so that small limits leave nothing.
    m.rule("some", count >= 2);
    m.rule("fits", weight <= limit);
    m.maximize("worth", worth);
    const auto best = [&](int room) {
      int most = -1;
      for (int code = 0; code < 32; ++code) {
        int w = 0, v = 0, packed = 0;
        for (std::size_t k = 0; k < 5; ++k)
          if (code >> k & 1) w += items[k].first, v += items[k].second, ++packed;
        if (w <= room && packed >= 2) most = std::max(most, v);
      }
      return most;
    };
    const bool falling = random.chance(0.3);
    const Variation v =
        falling ? sweep(m, {"limit", 20, 0, 3, true}) : sweep(m, {"limit", 0, 20, 3, true});
    CHECK(v.all_steps);
    std::vector<Rational> found, wanted;
    for (const Step& s : v.steps) {
      if (s.goal_before == s.goal_after) continue;  // another plan that is as good
      found.push_back(falling ? s.before : s.after);
      CHECK((falling ? s.last_old : s.first_new));
    }
    for (int room = 1; room <= 20; ++room)
      if (best(room) != best(room - 1)) wanted.emplace_back(room);
    CHECK(found == wanted);
    steps += static_cast<int>(found.size());
  }
  CHECK(steps > 600);
}

TEST_CASE("a number in the goal: the change is where two plans are equal, asked there or not",
          "[study][vary]") {
  Random random(78);
  int inside = 0;
  for (int round = 0; round < 120; ++round) {
    CAPTURE(round);
    Model m{"Prices"};
    const Number price = m.number("price", 3);
    Expression weight, worth;
    std::vector<std::pair<int, int>> items;
    for (int k = 0; k < 5; ++k) {
      const auto x = m.binary(fmt::format("x{}", k)).only();
      items.emplace_back(static_cast<int>(random.between(1, 6)),
                         k == 0 ? 0 : static_cast<int>(random.between(1, 9)));
      weight += items.back().first * Expression(x);
      worth += k == 0 ? price * Expression(x) : items.back().second * Expression(x);
    }
    m.rule("fits", weight <= 9);
    m.maximize("worth", worth);
    int with = 0, without = 0;  // the best with the first one at a price of 0, and without it
    for (int code = 0; code < 32; ++code) {
      int w = 0, v = 0;
      for (std::size_t k = 0; k < 5; ++k)
        if (code >> k & 1) w += items[k].first, v += items[k].second;
      if (w <= 9) (code & 1 ? with : without) = std::max(code & 1 ? with : without, v);
    }
    const Rational tie = without - with;
    const Variation v = random.chance(0.5) ? sweep(m, {"price", 0, 10, 6, true})
                                           : sweep(m, {"price", 10, 0, 11, true});
    CHECK(v.all_steps);
    if (tie.sign() <= 0 || tie >= Rational(10)) continue;
    ++inside;
    REQUIRE(v.steps.size() == 1);
    CHECK(v.steps[0].before == tie);
    CHECK(v.steps[0].tie);
    REQUIRE(v.lines.size() == 1);  // the price of what is taken
    CHECK(v.lines[0].least == Rational(1));
    CHECK(std::min(v.lines[0].from, v.lines[0].to) == tie);
  }
  CHECK(inside > 60);
}

TEST_CASE("where only reals move with a number there is a line, no steps", "[study][vary]") {
  const std::string text =
      "number need = 20\ndecide x real 0 .. 100\ndecide open binary\n"
      "minimize cost: 2 * x + 30 * open\nrule a: x <= 40 + 60 * open\nrule b: x >= need\n";
  const Model m = parse_knot(text, "line.knot", "").value();
  for (const bool falling : {false, true}) {
    const Variation v =
        falling ? sweep(m, {"need", 60, 10, 3, true}) : sweep(m, {"need", 10, 60, 6, true});
    CHECK(v.all_steps);
    REQUIRE(v.steps.size() == 1);
    CHECK((falling ? v.steps[0].after : v.steps[0].before) == Rational(40));
    REQUIRE(v.lines.size() == 2);
    for (const Line& l : v.lines)
      CHECK(std::pair(l.least, l.most) == std::pair<Rational, Rational>(2, 2));
    CHECK(v.lines[0].to == Rational(40));
    CHECK(v.lines[1].goal_from == Rational(110));
    const std::string page = variation_page(m, v);
    CHECK(page.find("2 more for each 1") != std::string::npos);
    CHECK(page.find(falling ? "from 40 on" : "beyond 40") != std::string::npos);
  }
}

TEST_CASE("without each row: the same as a model that never had it", "[study][vary]") {
  const Model base = read("");
  const Variation rows = without_each(base, true);
  for (const Variant& one : rows.variants) CHECK(one.outcome == Outcome::optimal);
  Model m{"Rows"};
  const auto t = Table::parse("t", "row\na\nb\nc\n", {.key = {"row"}});
  const auto x = m.integer("x", t, between(0, 9));
  m.rule("most", t, [&](Row r) { return Expression(x[r]) <= 2 + r.index(); });
  m.maximize("sum", total(x));
  const Variation v = without_each(m, true);
  REQUIRE(v.variants.size() == 3);
  CHECK(v.variants[0].name == "most[a]");
  for (int k = 0; k < 3; ++k)
    CHECK(*v.variants[static_cast<std::size_t>(k)].goal == Rational(9 + 9 - 2 - k));
}

TEST_CASE("wrong scenarios are told with their place", "[study][vary][errors]") {
  CHECK(complaint("", "more roon").find("no scenario \"more roon\"; nearest is 'more room'") !=
        std::string::npos);
  CHECK(complaint("scenario \"x\": set rom = 3").find(":15: there is no number 'rom'") !=
        std::string::npos);
  CHECK(
      complaint("scenario \"x\": without fit").find("there is no rule 'fit'; nearest is 'fits'") !=
      std::string::npos);
  CHECK(complaint("scenario \"x\": set room = 3, set room = 4").find("changes number room twice") !=
        std::string::npos);
  CHECK(complaint("scenario \"x\": with calm, without calm").find("changes rule calm twice") !=
        std::string::npos);
  CHECK(complaint("scenario \"x\": scale shows.size by 2, set shows[\"tea\"].size = 4")
            .find("changes shows.size twice") != std::string::npos);
  CHECK(complaint("scenario \"x\" like \"y\": with calm").find("no scenario \"y\"") !=
        std::string::npos);
  CHECK(complaint("scenario \"x\" like \"x\": with calm").find("a circle of scenarios") !=
        std::string::npos);
  CHECK(complaint("scenario \"calm\": with calm").find("a scenario \"calm\" already, on line ") !=
        std::string::npos);
  CHECK(complaint("scenario \"x\": set shows[\"pie\"].size = 4", "x").find("no such row") !=
        std::string::npos);
  CHECK(complaint("scenario \"x\": scale shows.show by 4", "x").find("only figures are changed") !=
        std::string::npos);
  CHECK(complaint("scenario \"x\": hold room = 4", "x").find("a decision is held at a value") !=
        std::string::npos);
  CHECK(complaint("scenario \"x\": drop fits").find("'set', 'scale', 'with', 'without', 'hold'") !=
        std::string::npos);
}

TEST_CASE("solves of a question go side by side where they take long, and answer alike",
          "[study][vary][threads]") {
  const MadeCase made = make_case({.kind = "limits", .sizes = {70, 5}, .seed = 4}, "bag");
  const test::Folder folder("lanes");
  for (const auto& [file, text] : made.files) folder.file(file, text);
  Model m = read_model(folder.at(made.files.front().first)).value();
  const Result base = solve(m, {.threads = 1});
  REQUIRE(base.outcome == Outcome::optimal);
  REQUIRE(base.search.work > 5'000'000);
  const auto alike = [](const Variation& a, const Variation& b, bool plans) {
    REQUIRE(a.variants.size() == b.variants.size());
    for (std::size_t k = 0; k < a.variants.size(); ++k) {
      CHECK(a.variants[k].name == b.variants[k].name);
      CHECK(a.variants[k].outcome == b.variants[k].outcome);
      CHECK(a.variants[k].goal == b.variants[k].goal);
      if (plans) CHECK(a.variants[k].changed == b.variants[k].changed);
    }
  };
  const Variation one = without_each(m, true, {.threads = 1});
  const Variation two = without_each(m, true, {.threads = 2});
  alike(one, two, false);
  alike(two, without_each(m, true, {.threads = 2}), true);
  std::vector<std::pair<std::string, Model>> scenarios;
  for (int k = 0; k < 3; ++k) {
    Model less = m;
    less.keep_rows([&](std::int32_t, std::int32_t member) { return member != k; });
    scenarios.emplace_back(fmt::format("without {}", k), less);
  }
  alike(compare_scenarios(base, scenarios, {.threads = 1}),
        compare_scenarios(base, scenarios, {.threads = 3}), false);
}
