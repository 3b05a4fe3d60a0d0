// Figures: well formed, every word on the sheet and none on another, whatever the model is called.
#include <functional>

#include <catch2/catch.hpp>

#include "support/knot.hpp"
#include "support/random_hand.hpp"
#include "support/svg.hpp"

using namespace kiteknot;

namespace {

const std::string kDemo = KITEKNOT_DEMO_DIR;

Model demo(const std::string& name) {
  return read_model(kDemo + "/" + name).value();
}

Result watched(const Model& model, bool plain) {
  SolveOptions options;
  options.plain = plain;
  options.record_branches = 5000;
  return solve(model, options);
}

bool has(const std::string& text, const std::string& part) {
  return text.find(part) != std::string::npos;
}

}  // namespace

TEST_CASE("planes of random models can be read", "[report][drawing]") {
  Random random(1631);
  int drawn = 0;
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {.closed = random.chance(0.5)});
    const Result result = solve(model);
    if (!result.has_plan()) continue;
    ++drawn;
    const PlaneAsked asked{model.decision("x0"), model.decision("x1")};
    test::need_readable(plane_figure(result, asked, {random.chance(0.5)}));
  }
  CHECK(drawn > 30);
}

TEST_CASE("the plane of the children's hour", "[report][drawing]") {
  const Model model = demo("hour.knot");
  const Result result = solve(model);
  const PlaneAsked asked{model.decision("delta"), model.decision("sled")};
  const std::string svg = plane_figure(result, asked);
  test::need_readable(svg);
  for (const char* words : {"best whole plan: joy 50", "relaxed: joy 52.25", "rounded: breaks cord",
                            "rounded down: joy 46", "rounded up: breaks spars", ">spars<", ">cord<",
                            "joy rises", "with box at 0"})
    CHECK(has(svg, words));
  // Held elsewhere it is another plane, with another best plan.
  const std::string held = plane_figure(result, {asked.x, asked.y, {{model.decision("box"), 1}}});
  CHECK(has(held, "with box at 1"));
  CHECK(has(held, "best whole plan: joy 39"));
  CHECK_THROWS_WITH(plane_figure(result, {asked.x, asked.x}),
                    Catch::Contains("delta was named twice"));
  CHECK_THROWS_WITH(plane_figure(result, {asked.x, asked.y, {{asked.x, 1}}}),
                    Catch::Contains("delta spans the plane"));
}

TEST_CASE("the region of conditions is what holds, exactly on the dots", "[report][drawing]") {
  const Model model = test::model_of(
      "model \"m\"\ndecide a integer 0 .. 4\ndecide b integer 0 .. 4\nmaximize z: a + b\n"
      "rule r: a >= 2 implies b <= 1\n");
  const std::string svg = plane_figure(solve(model), {model.decision("a"), model.decision("b")});
  test::need_readable(svg);
  CHECK(has(svg, "where all rules hold"));
  // 25 points, of which a >= 2 and b >= 2 are 9; the legend has two more.
  std::size_t hollow = 0;
  for (std::size_t at = svg.find("<circle"); at != std::string::npos;
       at = svg.find("<circle", at + 1)) {
    const std::string circle = svg.substr(at, svg.find("/>", at) - at);
    hollow += has(circle, "fill=\"#fbfaf5\"");
  }
  CHECK(hollow >= 9 + 1);
}

TEST_CASE("a story at a tableau is drawn round by round", "[report][drawing]") {
  const Model model = demo("hour.knot");
  const PlaneAsked asked{model.decision("delta"), model.decision("sled")};
  Workbench bench(model);
  for (const char* s : {"to the end", "all the way", "back to 1", "delta <= 2", "to the end",
                        "copy 1", "delta >= 3", "to the end", "sled >= 4", "to the end", "close"})
    REQUIRE(bench.step(s).ok());
  const std::string svg = plane_story_figure(bench, asked);
  test::need_readable(svg);
  CHECK(has(svg, "2. The relaxed best"));
  CHECK(has(svg, "Copy 2: delta &lt;= 2"));
  CHECK(has(svg, "no plan is left"));
  Workbench long_one(model);
  REQUIRE(long_one.step("to the end").ok());
  for (int k = 0; k < 20; ++k)
    for (const std::string& s : {"sled <= " + std::to_string(30 - k), std::string("to the end")})
      REQUIRE(long_one.step(s).ok());
  const std::string many = plane_story_figure(long_one, asked);
  test::need_readable(many);
  CHECK(has(many, "rounds in between are left out"));
}

TEST_CASE("trees of searches can be read, and hold every branch or its count",
          "[report][drawing]") {
  Random random(1632);
  int divided = 0;
  for (int round = 0; round < 120; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {.closed = true});
    const Result known = solve(model), result = watched(model, true);
    CHECK(result.outcome == known.outcome);
    if (known.has_plan()) CHECK(result.goal() == known.goal());
    if (result.search.tree.empty()) continue;
    divided += result.search.tree.size() > 1;
    test::need_readable(tree_figure(result));
    for (std::size_t k = 0; k < result.search.tree.size(); ++k) {
      const SearchNode& n = result.search.tree[k];
      CHECK(n.parent < static_cast<std::int64_t>(k));
      CHECK((k == 0) == (n.parent < 0));
      if (k > 0) CHECK_FALSE(n.decided.empty());
      // Whatever the search proved rests on a closed or divided branch.
      if (result.outcome == Outcome::optimal || result.outcome == Outcome::infeasible)
        CHECK((n.divided || !n.closed.empty()));
    }
  }
  CHECK(divided > 10);
}

TEST_CASE("what was recorded does not change the search, and is bounded", "[methods][drawing]") {
  const Model model = demo("wheel.knot");
  const Result plain = solve(model);
  SolveOptions options;
  options.record_branches = 30;
  const Result seen = solve(model, options);
  CHECK(seen.search.nodes == plain.search.nodes);
  CHECK(seen.search.lp_iterations == plain.search.lp_iterations);
  CHECK(seen.plan->values() == plain.plan->values());
  CHECK(plain.search.tree.empty());
  CHECK(seen.search.tree.size() >= 30);
  CHECK(seen.search.tree.size() <= 60);
  std::int64_t left_out = 0;
  double best = 1e9;
  bool has_best = false;
  for (const SearchNode& n : seen.search.tree) {
    left_out += n.left_out;
    if (n.plan) best = std::min(best, *n.plan);
    if (n.plan && *n.plan == seen.goal().to_double()) has_best = true;
  }
  CHECK(left_out > 20);
  CHECK(has_best);  // the way to the best plan is there however little is kept
  test::need_readable(tree_figure(seen));
  const std::string dot = tree_dot(seen);
  CHECK(dot.starts_with("digraph {\n"));
  CHECK(has(dot, "0 -> 1\n"));
  CHECK(has(dot, "more below"));
  CHECK_THROWS_WITH(tree_figure(plain), Catch::Contains("no branches were recorded"));
}

TEST_CASE("the outline of a search in plain words", "[report][drawing]") {
  const std::string svg = tree_figure(watched(demo("hour.knot"), true));
  test::need_readable(svg);
  for (const char* words : {"all plans", "delta at most 2", "delta at least 3", "whole: 50",
                            "joy of each branch at best", "best plan", "proven"})
    CHECK(has(svg, words));
}

TEST_CASE("branches on conditions speak of the rule or goal that has them", "[report][drawing]") {
  const std::string svg = tree_figure(watched(demo("lamps.knot"), true));
  test::need_readable(svg);
  CHECK(has(svg, "a condition of "));
  CHECK_FALSE(has(svg, ">a condition holds<"));
  const Tableau sums(
      test::model_of("model \"m\"\ndecide a integer 0 .. 4\ndecide b integer 0 .. 4\n"
                     "maximize z: a + b\nrule either: a >= 3 or b >= 3\n"),
      {false, true});
  CHECK(sums.find("helper 1 of either"));
}

TEST_CASE("runs over time, one or several", "[report][drawing]") {
  const ProgressRun wheel = progress_of(watched(demo("wheel.knot"), false), "the wheel");
  CHECK(wheel.progress.size() > 10);
  test::need_readable(progress_figure({wheel}));
  ProgressRun other = wheel;
  other.name =
      "another, with a very long name that goes on and on and does not want to come to an end "
      "ever, "
      "however far it is read";
  other.proven = false;
  for (Progress& p : other.progress) p.seconds *= 40.0;
  other.seconds *= 40.0;
  const std::string both = progress_figure({wheel, other, wheel});
  test::need_readable(both);
  CHECK(has(both, "cost 2,426, proven"));
  CHECK(has(both, "each step of the time axis is ten times the last"));
  CHECK_THROWS_WITH(progress_figure({}), "there is no run to draw");
  CHECK_THROWS_WITH(progress_figure({ProgressRun{}}), Catch::Contains("nothing to draw over time"));
  // A saved answer tells the same.
  const Result result = watched(demo("wheel.knot"), false);
  const SavedAnswer saved = parse_answer(saved_answer(result, {}), "saved").value();
  const ProgressRun again = progress_of(saved, "saved");
  CHECK(again.progress.size() == result.search.progress.size());
  CHECK(again.proven);
  test::need_readable(progress_figure({again}));
}

TEST_CASE("plans in the shape of their tables", "[report][drawing]") {
  const auto picture = [](const std::string& file, const std::string& family = "",
                          PlanShape shape = PlanShape::by_tables) {
    const Model model = demo(file);
    const std::string svg = plan_figure(model, *solve(model).plan, family, shape);
    test::need_readable(svg);
    return svg;
  };
  CHECK(has(picture("programme.knot"), "As bars of its data: full ones are taken"));
  CHECK(has(picture("judges.knot"), "As a grid, by two keys: 4 of 20 are taken"));
  CHECK(has(picture("depots.knot"), "As a grid, by two keys: 8 of 37 are not 0"));
  CHECK(has(picture("depots.knot", "open"), "As bars of its data"));
  CHECK(has(picture("wheel.knot"), "As steps over weeks, whose order counts"));
  CHECK(has(picture("wheel.knot", "line", PlanShape::bars), "As bars of its values"));
  CHECK(has(picture("day.knot"), "On a map, as it is between places"));
  CHECK(has(picture("day.knot", "bring"), "On a map, as its table has places"));
  const std::string hour = picture("hour.knot");
  CHECK(has(hour, "As bars of all single decisions"));
  for (const char* name : {">box<", ">delta<", ">sled<", ">4<", ">2<"}) CHECK(has(hour, name));
  CHECK_THROWS_WITH(picture("programme.knot", "run", PlanShape::grid),
                    "run cannot be drawn as grid; what fits its tables: bars");
  CHECK_THROWS_WITH(picture("programme.knot", "rum"), Catch::Contains("nearest is 'run'"));
}

TEST_CASE("large families and strange names stay readable", "[report][drawing]") {
  std::string text =
      "model \"A title with <signs> & more that is far too long to stand over any picture, "
      "whatever its size "
      "may be, and goes on for a while\"\ntable a key a rows\n  a,x,y,w\n";
  for (int k = 0; k < 45; ++k)
    text += "  place <" + std::to_string(k) + "> & somewhere far out in the marshes," +
            std::to_string(k % 7) + "," + std::to_string(k / 7) + "," + std::to_string(1 + k % 9) +
            "\n";
  text += "table b key b rows\n  b\n";
  for (int k = 0; k < 60; ++k) text += "  crew " + std::to_string(k) + "\n";
  text +=
      "decide take[r in a, s in b] binary\ndecide much[r in a] integer 0 .. 50\n"
      "maximize z: total(r.w * take[r, s] over r in a, s in b) + total(much[r] over r in a)\n"
      "rule one[s in b]: total(take[r, s] over r in a) <= 1\nrule all: total(much[r] over r in a) "
      "<= 90\n";
  const Model model = test::model_of(text);
  const Plan plan = *solve(model).plan;
  for (const char* family : {"take", "much"})
    for (const PlanShape shape : {PlanShape::by_tables, PlanShape::bars})
      test::need_readable(plan_figure(model, plan, family, shape, {true}));
}

TEST_CASE("a curve is drawn with its jumps, what counts there, and what the plan makes of it",
          "[drawing][curve]") {
  const Model m = parse_knot(
                      "curve hire tiers: 50 once, 120 each for first 4, 95 each after\n"
                      "curve yield through (0, 0), (4, 60), (4, 30), (10, 96)\n"
                      "decide lamps integer 0 .. 9\ndecide sold integer 0 .. 9\n"
                      "minimize cost: hire(lamps) - yield(sold)\nrule need: lamps >= 6\n",
                      "curves.knot", "")
                      .value();
  const Result r = solve(m);
  REQUIRE(r.has_plan());
  for (const bool dark : {false, true}) {
    const std::string svg = curve_figure(m, "hire", &*r.plan, {dark});
    test::need_readable(svg);
    CHECK(svg.find("curve hire") != std::string::npos);
    CHECK(svg.find("720 at 6") != std::string::npos);  // 50 + 4 x 120 + 2 x 95
  }
  CHECK(curve_figure(m, "yield").find("30") != std::string::npos);
  CHECK_THROWS_WITH(curve_figure(m, "hir"), Catch::Contains("nearest is 'hire'"));
}

TEST_CASE("early plans far from all others end the scale before them, and that is said",
          "[drawing]") {
  ProgressRun run;
  run.name = "Lots";
  run.goal = "cost";
  run.seconds = 100.0;
  const auto at = [&](double seconds, double best) {
    Progress p;
    p.seconds = seconds;
    p.best = best;
    p.bound = 90.0;
    p.found_by = "a dive";
    run.progress.push_back(p);
  };
  at(0.1, 18'400'000.0);
  for (const double best : {120.0, 110.0, 105.0, 101.0, 100.0}) at(200.0 - best, best);
  const std::string svg = progress_figure({run});
  CHECK(svg.find("the scale is cut: an early plan, 18,400,000, lies beyond") != std::string::npos);
  CHECK(svg.find("under 1 ms") == std::string::npos);
  CHECK(svg.find("by its powers") == std::string::npos);
}

TEST_CASE("the plane draws curved rules and contours of a goal that is no sum",
          "[draw][nonlinear]") {
  Reading<Model> read = parse_knot(
      "model \"two sizes\"\ndecide x real 0.5 .. 8\ndecide n integer 1 .. 8\n"
      "minimize cost: x ^ 2 / 4 + 3 * n - 2 * sqrt(x * n)\nrule area: x * n >= 9\n"
      "rule round: (x - 4) ^ 2 + (n - 4) ^ 2 <= 12\n",
      "two.knot", "");
  REQUIRE(read.ok());
  const Model m = std::move(read).value();
  const std::string svg = plane_figure(solve(m), {m.decision("x"), m.decision("n"), {}});
  for (const char* words : {"edge of a rule", "all with one cost", ">area<", ">round<", ">10<"})
    CHECK(svg.find(words) != std::string::npos);
}
