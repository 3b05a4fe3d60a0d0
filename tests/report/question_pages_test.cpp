// The pages and figures of questions, also where there is nothing good to tell.
#include <algorithm>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

// Two kites and a limit that can be set.
struct Kites {
  Model model{"Kites"};
  Number cord;
  Decisions red, blue;

  explicit Kites(int length)
      : cord(model.number("cord", length)),
        red(model.integer("red", {}, between(0, 5))),
        blue(model.integer("blue", {}, between(0, 5))) {
    model.maximize("joy", 3 * Expression(red) + 2 * Expression(blue));
    model.rule("length", 4 * Expression(red) + 3 * Expression(blue) <= Expression(cord));
    model.rule("both", Expression(red) + Expression(blue) >= 1);
  }
};

bool has(const std::string& text, const std::string& part) {
  return text.find(part) != std::string::npos;
}

std::size_t widest(const std::string& text) {
  std::size_t most = 0, line = 0;
  for (const char c : text) {
    line = c == '\n' ? 0 : line + 1;
    most = std::max(most, line);
  }
  return most;
}

}  // namespace

TEST_CASE("pages keep to their width", "[report][questions]") {
  Kites k(14);
  const PageOptions narrow{false, 60};
  const Variation s = sweep(k.model, {"cord", 4, 20, 5, true});
  for (const std::string& page :
       {variation_page(k.model, s, narrow), firmness_page(firmness(k.model), narrow),
        variation_page(k.model, without_each(k.model, true), narrow),
        why_page(why(k.model, Expression(k.blue) >= 3), "blue >= 3", narrow)})
    CHECK(widest(page) <= 60);
}

TEST_CASE("a model without a plan, or without a goal, is told as such", "[report][questions]") {
  Kites none(2);
  CHECK(has(firmness_page(firmness(none.model)), "The model is infeasible"));
  const Why asked = why(none.model, Expression(none.red) >= 1);
  CHECK(has(why_page(asked, "red >= 1"), "No plan meets the rules in any case"));
  const TradeOff t = trade_off(none.model, trade_goal(none.model, "joy"),
                               {"red", Sense::minimize, Expression(none.red)});
  CHECK(t.outcome == Outcome::infeasible);
  CHECK(has(trade_page(none.model, t), "'explain' tells why"));
  CHECK_THROWS_AS(trade_figure(none.model, t, "f.svg"), UsageError);

  Kites goalless(14);
  goalless.model.forget_goals();
  CHECK(has(firmness_page(firmness(goalless.model)), "There is no goal"));
  CHECK(has(why_page(why(goalless.model, Expression(goalless.red) >= 1), "red >= 1"),
            "There is no goal"));
  const Variation s = sweep(goalless.model, {"cord", 0, 14, 3, true});
  const std::string swept = variation_page(goalless.model, s);
  CHECK(has(swept, "a plan meets all rules"));
  CHECK(has(swept, "no plan before, a plan there"));
  const Explanation fine = explain(goalless.model);
  CHECK(fine.outcome == Outcome::optimal);
  CHECK(has(explanation_page(goalless.model, fine), "Nothing clashes"));
  CHECK_THROWS_AS(trade_goal(goalless.model, "joy"), UsageError);
}

TEST_CASE("a goal without an end is no figure", "[report][questions]") {
  Model m{"Endless"};
  const auto a = m.integer("a", {}, from(0)), b = m.integer("b", {}, between(0, 3));
  const Number top = m.number("top", 3);
  m.maximize("worth", Expression(a) + Expression(b));
  m.rule("held", Expression(b) <= Expression(top));
  const Variation v = without_each(m);
  CHECK_FALSE(v.base.goal.has_value());
  CHECK(has(variation_page(m, v), "the goal has no end"));
  CHECK_FALSE(has(variation_page(m, v), "costs something"));
  const Why w = why(m, Expression(b) >= 1);
  CHECK(has(why_page(w, "b >= 1"), "The model as it stands is unbounded"));
  CHECK(w.solves == 1);
  m.rule("ends", Expression(a) <= 10 * Expression(b));
  Model bounded = m;
  bounded.rule("whole", Expression(a) <= 5);
  CHECK(why(bounded, Expression(b) <= 0).cost == Rational(8));
}

TEST_CASE("a limit on the search is told by every question", "[report][questions]") {
  Model m{"Hard"};
  std::string rows = "item,weight\n";
  for (int k = 0; k < 60; ++k)
    rows += "i" + std::to_string(k) + "," + std::to_string(1000 + (k * 7919) % 997) + "\n";
  const auto t = Table::parse("items", rows, {.key = {"item"}});
  const auto weight = t.numbers("weight");
  const auto in = m.binary("in", t);
  m.maximize("worth", total(t, [&](Row r) { return (weight[r] + 100) * in[r]; }));
  for (const int room : {41234, 41777})
    m.rule("room" + std::to_string(room),
           total(t, [&](Row r) { return weight[r] * in[r]; }) <= room);
  SolveOptions one;
  one.nodes = 1;
  const Firmness f = firmness(m, one);
  const std::string page = firmness_page(f);
  if (f.best.outcome != Outcome::optimal) CHECK(has(page, "only a plan that is proven best"));
  const Why w = why(m, in.member(0), one);
  if (w.best.outcome != Outcome::optimal || w.other.outcome != Outcome::optimal) {
    CHECK_FALSE(w.cost.has_value());
    CHECK_FALSE(w.break_even.has_value());
    CHECK(has(why_page(w, "in[i0]"), "Not both are proven best"));
  }
}

TEST_CASE("of very many rows those are shown that cost most", "[report][questions]") {
  Model m{"Many"};
  std::string rows = "row\n";
  for (int k = 0; k < 90; ++k) rows += "r" + std::to_string(k) + "\n";
  const auto t = Table::parse("t", rows, {.key = {"row"}});
  const auto x = m.integer("x", t, between(0, 200));
  m.maximize("sum", total(x));
  m.rule("most", t, [&](Row r) { return Expression(x[r]) <= 100 + r.index(); });
  const Variation v = without_each(m, true);
  REQUIRE(v.variants.size() == 90);
  const std::string page = variation_page(m, v);
  CHECK(has(page, "most[r0] "));  // it costs 100
  CHECK_FALSE(has(page, "most[r50] "));
  CHECK(has(page, "and 50 others that cost no more"));
  CHECK(std::count(page.begin(), page.end(), '\n') < 90);
}

TEST_CASE("variations as CSV and JSON carry steps and exact figures", "[report][questions]") {
  Kites k(14);
  const Variation s = sweep(k.model, {"cord", 0, 20, 4, true});
  const auto json = nlohmann::json::parse(variation_document(k.model, s));
  CHECK(json["kind"] == "sweep");
  CHECK(json["number"] == "cord");
  REQUIRE(json["variants"].size() == 4);
  CHECK(json["variants"][0]["outcome"] == "infeasible");
  CHECK(json["variants"][0]["goal"].is_null());
  REQUIRE_FALSE(json["steps"].empty());
  CHECK(json["steps"][0]["goal_before"].is_null());  // from no plan at all
  CHECK(json["steps"][0]["after"] == 3);
  CHECK(json["steps"][0]["first_new"] == true);
  CHECK(json["steps"][0]["plan_before"] == false);
  CHECK(json["variants"][1]["name"] == "6.666666666666667");  // 20/3 as a decimal
  // Every line has as many cells as the first.
  const std::string csv = variation_csv(s);
  CHECK(std::count(csv.begin(), csv.end(), ',') == 5 * (1 + 1 + 4));
  CHECK(json["variants"][0]["bound"].is_null());
  CHECK(json["variants"][3]["bound"] == json["variants"][3]["goal"]);
  CHECK(json["variants"][3]["bound"].is_number_integer());
}

TEST_CASE("what is not proven is told with what can still exist", "[report][questions]") {
  Kites k(14);
  Variation v = without_each(k.model);
  CHECK(has(variation_page(k.model, v), "would gain nothing by going"));
  for (Variant& one : v.variants) {
    one.outcome = Outcome::unproven;
    one.bound = 1234.0;
  }
  const std::string page = variation_page(k.model, v);
  CHECK(has(page, "not proven best, nothing above 1,234 can exist"));
  CHECK_FALSE(has(page, "gain nothing"));
  CHECK_FALSE(has(page, "costs something"));
  v.base.outcome = Outcome::accepted;
  v.base.bound = 99.0;
  CHECK(has(variation_page(k.model, v), "within the gap you accept"));
}

TEST_CASE("questions about the first goal say so where others follow", "[report][questions]") {
  Kites k(14);
  const auto only = "as if redness were not there";
  CHECK_FALSE(has(firmness_page(firmness(k.model)), only));
  k.model.minimize("redness", Expression(k.red));
  CHECK(has(firmness_page(firmness(k.model)), only));
  CHECK(has(why_page(why(k.model, Expression(k.red) >= 1), "red >= 1"), only));
  CHECK(has(comparison_page(k.model, compare(k.model, {"exact"})), "redness, is not compared"));
  const auto json = nlohmann::json::parse(variation_document(k.model, without_each(k.model)));
  CHECK(json["base"]["later_goals"]["redness"].is_number());
}

TEST_CASE("a figure shows what is not proven and what is not known", "[report][questions]") {
  Kites k(14);
  Variation v = sweep(k.model, {"cord", 0, 20, 6, true});
  const std::string proven = sweep_figure(k.model, v, "out.svg");
  CHECK(has(proven, "$bars << EOD\nEOD"));
  CHECK(has(proven, "to 3, graph 1"));  // no plan up to the very first value with one
  v.variants[5].outcome = Outcome::unproven;
  v.variants[5].bound = 1000.0;
  v.variants[0].outcome = Outcome::undecided;
  const std::string open = sweep_figure(k.model, v, "out.svg");
  CHECK(has(open, " 1000\nEOD"));
  CHECK(has(open, "a bar to where better ones may be"));
  CHECK(has(open, "\"not known\""));
  CHECK_FALSE(has(open, "\"no plan\""));
}

TEST_CASE("figures are whole programs with the points in them", "[report][questions]") {
  Kites k(14);
  const Variation s = sweep(k.model, {"cord", 0, 20, 6, true});
  const std::string svg = sweep_figure(k.model, s, "out.svg"),
                    png = sweep_figure(k.model, s, "out.part1", "out.png");
  CHECK(svg.find("set terminal svg") == 0);
  CHECK(png.find("set terminal pngcairo size 1280,800") == 0);
  CHECK(has(png, "set output \"out.part1\""));
  CHECK(has(svg, "\"no plan\""));  // at 0 nothing fits
  CHECK(has(svg, "Kites: joy over cord"));
  CHECK(has(svg, "$rings"));
  CHECK_THROWS_AS(sweep_figure(k.model, without_each(k.model), "out.svg"), UsageError);
  const TradeOff t = trade_off(k.model, trade_goal(k.model, "joy"),
                               {"red \"ones\"", Sense::minimize, Expression(k.red)});
  const std::string trade = trade_figure(k.model, t, "out.svg");
  CHECK(has(trade, "red \\\"ones\\\""));  // quoted for the program
  CHECK(has(trade, "there are no other dots"));
}

TEST_CASE("the cheapest way out tells which way a rule is missed, and what it would come to",
          "[report][questions]") {
  Model m{"Tight"};
  const Decisions x = m.integer("x", {}, between(0, 9)), y = m.integer("y", {}, between(0, 9));
  m.rule("many", Expression(x) + y >= 12);
  m.rule("few", Expression(x) + y <= 10);
  m.rule("same", Expression(x) - y == 0);
  m.minimize("cost", Expression(x) + y);
  LooseningOptions keep;
  keep.keep = {"many", "same"};
  const std::string up = explanation_page(m, explain(m, keep));
  INFO(up);
  CHECK(has(up, "let few   be missed by 2: 12 of at most 10, 2 too much"));
  keep.keep = {"few", "same"};
  CHECK(has(explanation_page(m, explain(m, keep)),
            "let many   be missed by 2: 10, at least 12, 2 too little"));
}

TEST_CASE("in a clash a sum goes by its name, which is told once", "[report][explain]") {
  const Model m = parse_knot(
                      "decide d integer 0 .. 3\ndecide e integer 0 .. 9\n"
                      "maximize g: d + e\nlet spent = 100 * d + 80 * e\n"
                      "rule s: spent <= 700\nrule t: spent >= 720\n",
                      "spent.knot", "")
                      .value();
  const std::string page = explanation_page(m, explain(m));
  CHECK(page.find("spent <= 700") != std::string::npos);
  CHECK(page.find("spent >= 720") != std::string::npos);
  CHECK(page.find("where spent is 100 d + 80 e") != std::string::npos);
  CHECK(page.find("where spent is") == page.rfind("where spent is"));
}

TEST_CASE("why not: a decision's own limit is named", "[report][why]") {
  const Model m = parse_knot("decide d integer 0 .. 3\nmaximize g: d\n", "d.knot", "").value();
  const std::string page = why_page(why(m, Expression(m.decision("d")) == 7), "d = 7");
  CHECK(page.find("at most 3: d") != std::string::npos);
}

TEST_CASE("many rows of a rule that are all met are summed up", "[report][check]") {
  std::string csv = "k\n";
  for (int k = 0; k < 100; ++k) csv += "D" + std::to_string(k) + "\n";
  const Table t = Table::parse("days", csv, {.key = {"k"}});
  Model m{"Days"};
  const Decisions x = m.binary("x", t);
  m.rule("one", t, [&](Row r) { return Expression(x[r]) == 1; });
  Plan plan(m);
  for (int k = 0; k < 100; ++k) plan.set(x.member(k), 1);
  const std::string page = check_page(m, plan, check(m, plan), "a plan");
  CHECK(page.find("all 100 are 1, as they must be") != std::string::npos);
  CHECK(page.find("one[D17]") == std::string::npos);
  plan.set(x.member(17), 0);
  const std::string broken = check_page(m, plan, check(m, plan), "a plan");
  CHECK(broken.find("one[D17]") != std::string::npos);
}
