// The parts that figures are made of: geometry against sampling, outlines, words and shapes.
#include <functional>

#include <catch2/catch.hpp>

#include "report/answers/search_words.hpp"
#include "report/drawing/plan_shapes.hpp"
#include "report/drawing/plane.hpp"
#include "report/drawing/search_lines.hpp"
#include "report/drawing/search_rows.hpp"
#include "support/knot.hpp"
#include "support/random_hand.hpp"
#include "support/svg.hpp"

using namespace kiteknot;
using namespace kiteknot::report;

namespace {

double area_of(const std::vector<Spot>& corners) {
  double twice = 0.0;
  for (std::size_t k = 0; k < corners.size(); ++k) {
    const Spot &a = corners[k], &b = corners[(k + 1) % corners.size()];
    twice += a.x * b.y - b.x * a.y;
  }
  return std::abs(twice) / 2.0;
}

SearchNode branch(std::int64_t parent, std::int64_t look, double bound) {
  SearchNode n;
  n.parent = parent;
  n.look = look;
  n.bound = bound;
  n.decided = "x is " + std::to_string(look);
  return n;
}

Result answered(Sense sense) {
  Model m("Words");
  const Decision a = m.integer("a", {}, between(0, 9)).only();
  sense == Sense::maximize ? m.maximize("z", Expression(a)) : m.minimize("z", Expression(a));
  Result r(m);
  r.outcome = Outcome::optimal;
  r.goals.push_back({"z", sense, Rational(5), 5.0, 0.0});
  r.plan = Plan(m);
  return r;
}

std::string told(const Result& r, void (*tell)(Page&, const Result&)) {
  Page page({.width = 1000});
  tell(page, r);
  return page.take();
}

}  // namespace

TEST_CASE("clipped regions have the area that sampling finds", "[report][drawing]") {
  Random random(1651);
  int some = 0;
  for (int round = 0; round < 80; ++round) {
    CAPTURE(round);
    std::vector<PlaneRow> rows;
    for (auto i = random.between(1, 5); i > 0; --i) {
      PlaneRow row;
      row.a = static_cast<double>(random.between(-5, 5));
      row.b = static_cast<double>(random.between(-5, 5));
      row.low = random.chance(0.3) ? static_cast<double>(random.between(-20, 0)) : -HUGE_VAL;
      row.high = static_cast<double>(random.between(1, 25));
      if (row.a != 0.0 || row.b != 0.0) rows.push_back(row);
    }
    const PlaneWindow window{-4.0, 6.0, -3.0, 7.0};
    const std::vector<Spot> corners = region_of(rows, window);
    constexpr int kSide = 160;
    int inside = 0;
    for (int i = 0; i < kSide; ++i)
      for (int j = 0; j < kSide; ++j) {
        const double x = -4.0 + 10.0 * (i + 0.5) / kSide, y = -3.0 + 10.0 * (j + 0.5) / kSide;
        bool in = true;
        for (const PlaneRow& r : rows) {
          const double v = r.a * x + r.b * y;
          in = in && v >= r.low && v <= r.high;
        }
        inside += in;
      }
    const double sampled = 100.0 * inside / (kSide * kSide);
    CHECK(area_of(corners) == Approx(sampled).margin(1.5));
    some += inside > 0;
    for (const Spot& c : corners) {
      CHECK(c.x >= window.low_x - 1e-9);
      CHECK(c.x <= window.high_x + 1e-9);
      for (const PlaneRow& r : rows) {
        const double v = r.a * c.x + r.b * c.y;
        CHECK(v <= r.high + 1e-7);
        CHECK(v >= r.low - 1e-7);
      }
    }
  }
  CHECK(some > 40);
}

TEST_CASE("windows hold the region and the marks, and are of some size", "[report][drawing]") {
  PlaneScene scene;
  scene.rows = {{"r", 1.0, 2.0, -HUGE_VAL, 8.0, PlaneRow::Kind::rule},
                {"", 1.0, 0.0, 0.0, HUGE_VAL, PlaneRow::Kind::limit},
                {"", 0.0, 1.0, 0.0, HUGE_VAL, PlaneRow::Kind::limit}};
  scene.marks = {{9.0, 1.0, "far", PlaneMark::Kind::rounded}};
  const PlaneWindow w = window_of(scene);
  CHECK(w.low_x < 0.0);
  CHECK(w.high_x > 9.0);
  CHECK(w.low_y < 0.0);
  CHECK(w.high_y > 4.0);
  CHECK(w.high_y < 8.0);
  // One point, or nothing at all.
  PlaneScene point;
  point.rows = {{"x", 1.0, 0.0, 15.0, 15.0, PlaneRow::Kind::rule},
                {"y", 0.0, 1.0, 1.0, 1.0, PlaneRow::Kind::rule}};
  const PlaneWindow around = window_of(point);
  CHECK(around.high_x - around.low_x > 4.0);
  CHECK(around.high_y - around.low_y > 4.0);
  CHECK(window_of(PlaneScene{}).high_x > window_of(PlaneScene{}).low_x);
}

TEST_CASE("outlines show the way to the best plan and count the rest", "[report][drawing]") {
  Result r = answered(Sense::maximize);
  // A root, two parts, and below the second a long chain with the best plan at its end.
  std::vector<SearchNode>& tree = r.search.tree;
  tree.push_back(branch(-1, 1, 20.0));
  tree[0].divided = true;
  tree.push_back(branch(0, 2, 15.0));
  tree.push_back(branch(0, 3, 18.0));
  tree[1].divided = tree[2].divided = true;
  for (int k = 0; k < 10; ++k) tree.push_back(branch(1, 10 + k, 14.0 - k));
  std::int64_t last = 2;
  for (int k = 0; k < 12; ++k) {
    tree.push_back(branch(last, 40 + k, 17.0 - 0.5 * k));
    last = static_cast<std::int64_t>(tree.size()) - 1;
    tree.back().divided = k < 11;
  }
  tree.back().plan = 11.0;
  tree[4].plan = 9.0;
  tree[5].left_out = 30;
  tree[5].left_out_bound = 12.5;
  const std::vector<SearchRow> rows = search_rows(r, 16);
  CHECK(rows.size() >= 14);  // the way alone
  CHECK(rows.size() <= 16);
  CHECK(rows[0].node == 0);
  CHECK(rows[0].depth == 0);
  CHECK(rows[0].on_way);
  std::int64_t shown = static_cast<std::int64_t>(rows.size()), counted = 0;
  for (const SearchRow& row : rows) {
    counted += row.more;
    if (row.node != 0) CHECK(row.depth > 0);
    if (row.node == 1) {
      CHECK_FALSE(row.on_way);
      CHECK(row.more == 40);
      REQUIRE(row.none);
      CHECK(*row.none == 14.0);
    }
    if (row.node == 2) CHECK(row.on_way);
  }
  CHECK(shown + counted == static_cast<std::int64_t>(tree.size()) + 30);
  CHECK(rows.back().node == tree.size() - 1);
  // With room for all nothing is counted but what was never there.
  std::int64_t all = 0;
  for (const SearchRow& row : search_rows(r, 100)) all += row.more;
  CHECK(all == 30);
}

TEST_CASE("why a branch was closed, in words", "[report][drawing]") {
  SearchNode n;
  CHECK(how_it_ended(n) == "left open");
  n.divided = true;
  CHECK(how_it_ended(n).empty());
  n.plan = 476.0;
  CHECK(how_it_ended(n) == "a plan with 476 was found here");
  n.divided = false;
  CHECK(how_it_ended(n) == "a plan with 476; left open");
  n.closed = "point";
  CHECK(how_it_ended(n) == "whole: 476");
  n.closed = "bound";
  CHECK(how_it_ended(n) == "whole: 476");
  n.plan.reset();
  CHECK(how_it_ended(n) == "no better plan");
  n.best = 482.0;
  CHECK(how_it_ended(n) == "cannot beat 482");
  n.closed = "conflict";
  CHECK(how_it_ended(n) == "no plan better than 482");
  n.best.reset();
  CHECK(how_it_ended(n) == "no plan");
  n.closed = "remainder";
  CHECK(how_it_ended(n) == "settled by looking through");
  n.closed = "nearly";
  CHECK(how_it_ended(n) == "within the gap of the proof");
  n.closed = "unresolved";
  CHECK(how_it_ended(n) == "not settled");
}

TEST_CASE("what branching did, in sentences", "[report]") {
  Result r = answered(Sense::maximize);
  r.search.nodes = 3;
  r.search.closed = {{"bound", 2}};
  CHECK(told(r, tell_branching).empty());
  r.search.nodes = 40;
  r.search.root_bound = 9.25;
  r.search.closed = {{"bound", 12}, {"conflict", 5}, {"relaxation", 2}, {"remainder", 1}};
  CHECK(told(r, tell_branching) ==
        "  Branching brought what can exist from 9.25 to 5, where the plan is.\n"
        "  Of the branches that were closed 12 could not beat the best plan, 7 held no better one "
        "and 1 was "
        "looked through.\n");
  r.outcome = Outcome::unproven;
  r.goals[0].bound = 7.0;
  CHECK(told(r, tell_branching).find("from 9.25 to 7 so far.") != std::string::npos);
  r.goals[0].bound = 9.25;  // nothing moved
  CHECK(told(r, tell_branching).find("Branching brought") == std::string::npos);
  r.relaxed_only = true;
  CHECK(told(r, tell_branching).empty());
}

TEST_CASE("where the work went, in shares that make up the whole", "[report]") {
  Result r = answered(Sense::minimize);
  r.search.work = 1'000'000;
  r.search.parts = {{"branching", "b", 1, 500'000, 0, 0}};
  CHECK(told(r, tell_work).empty());  // too little to tell
  r.search.work = 10'000'000;
  r.search.parts = {{"branching", "b", 1, 3'000'000, 0, 0}, {"heuristic", "h", 1, 1'000'000, 0, 0},
                    {"heuristic", "i", 1, 500'000, 0, 0},   {"cuts", "c", 1, 700'000, 0, 0},
                    {"presolve", "p", 1, 100'000, 0, 0},    {"tree", "t", 1, 0, 0, 0}};
  CHECK(told(r, tell_work) ==
        "  Of the work went 47 % into the relaxations, 30 % into trying out where to branch, 15 % "
        "into looking for "
        "plans and 7 % into cuts.\n");
}

TEST_CASE("lines over time stay where they are until they move", "[report][drawing]") {
  std::vector<Progress> progress(4);
  progress[0].seconds = 0.5;
  progress[0].bound = 20.0;
  progress[1] = progress[0];
  progress[1].seconds = 1.0;
  progress[1].best = 10.0;
  progress[1].found_by = "rounding";
  progress[2] = progress[1];
  progress[2].seconds = 2.0;
  progress[2].bound = 15.0;
  progress[3] = progress[2];
  progress[3].seconds = 3.0;
  progress[3].best = 15.0;
  const SearchLines lines = search_lines(progress, 4.0);
  REQUIRE(lines.plans.size() == 2);
  REQUIRE(lines.bounds.size() == 2);
  CHECK(lines.plans[0].found_by == "rounding");
  CHECK(lines.low == 10.0);
  CHECK(lines.high == 20.0);
  CHECK(lines.first == 0.5);
  CHECK(lines.some());
  const Scale same = [](double v) { return v; };
  CHECK(step_path(lines.plans, 4.0, same, same) == "M1.0 10.0H3.0V15.0H4.0");
  // From where both are known, forth along the plans and back along the bounds.
  CHECK(open_path(lines, same, same) == "M1.0 10.0H3.0V15.0H4.0V15.0H2.0V20.0H1.0Z");
  CHECK_FALSE(search_lines({}, 1.0).some());
}

TEST_CASE("shapes come from tables", "[report][drawing]") {
  const Model m = test::model_of(R"(
model "Shapes"
table quays key quay rows
  quay, x, y, load
  A, 0, 0, 3
  B, 1, 2, 4
  C, 4, 1, 5
table capes key cape rows
  cape, lat, lon
  N, 54.5, 8.25
  S, 54.25, 8.5
table days key day ordered rows
  day
  Mon
  Tue
table crews key crew rows
  crew, hours
  red, 8
  blue, 6
table legs pairs of quays
decide leg[l in legs] binary
decide take[q in quays] binary
decide much[q in quays] integer 0 .. 5
decide sail[q in quays, c in capes] real 0 .. 9
decide duty[c in crews, d in days] binary
decide stock[d in days] real 0 .. 9
decide one integer 0 .. 9
maximize z: total(take[q] over q in quays) + one
rule r: one <= 4
)");
  const auto shapes = [&](const std::string& name) {
    for (const auto& f : m.data().families)
      if (f->name == name) {
        std::string text;
        for (const PlanShape s : shapes_of(*f)) text += std::string(word(s)) + " ";
        return text;
      }
    return std::string();
  };
  CHECK(shapes("leg") == "map grid bars ");
  CHECK(shapes("take") == "map bars ");
  CHECK(shapes("much") == "bars ");
  CHECK(shapes("sail") == "map grid bars ");
  CHECK(shapes("duty") == "grid bars ");
  CHECK(shapes("stock") == "steps bars ");
  CHECK(shapes("one") == "bars ");
  for (const auto& f : m.data().families) {
    if (f->name != "leg") continue;
    const auto ends = ends_of(*f);
    REQUIRE(ends);
    CHECK(ends->rows == std::vector<std::pair<Index, Index>>{{0, 1}, {0, 2}, {1, 2}});
  }
  const auto capes = places_of(m.data().families[3]->index.tables[1].data());
  REQUIRE(capes);
  CHECK(capes->stretch == Approx(0.582).margin(0.01));  // degrees of longitude in the north
  CHECK_FALSE(places_of(m.data().families[4]->index.tables[0].data()));
  // Every family in every shape that it admits.
  const Plan plan = *solve(m).plan;
  for (const auto& f : m.data().families)
    for (const PlanShape s : shapes_of(*f)) test::need_readable(plan_figure(m, plan, f->name, s));
}

TEST_CASE("words are fitted to their room", "[report][drawing]") {
  CHECK(fitted("short", 14.0, 100.0) == "short");
  const std::string long_name = "a name that is far too long for its place";
  const std::string cut = fitted(long_name, 14.0, 120.0);
  CHECK(cut.ends_with("..."));
  CHECK(width_of_words(cut, 14.0) <= 120.0);
  CHECK(long_name.starts_with(cut.substr(0, cut.size() - 3)));
  CHECK(fitted("Schäferfähre über Ärmelkanal", 14.0, 90.0).find("\xC3...") == std::string::npos);
  CHECK(brief_figure(2388.7738904) == "2,388.77");
  CHECK(brief_figure(-0.000123456) == "-0.000123");
  CHECK(brief_figure(0.0) == "0");
  CHECK(brief_figure(1234567.0) == "1,234,567");
}

TEST_CASE("both grounds keep their colours apart in grey", "[report][drawing]") {
  const auto light = [](const char* colour) {
    const auto part = [&](int k) {
      return std::stoi(std::string(colour).substr(1 + 2 * k, 2), nullptr, 16) / 255.0;
    };
    const auto linear = [](double v) {
      return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
    };
    return 0.2126 * linear(part(0)) + 0.7152 * linear(part(1)) + 0.0722 * linear(part(2));
  };
  // Contrast of WCAG 2.1.
  const auto contrast = [&](const char* a, const char* b) {
    const double x = light(a), y = light(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
  };
  for (const bool dark : {false, true}) {
    CAPTURE(dark);
    const Ground& g = ground(dark);
    CHECK(contrast(g.ink, g.paper) > 10.0);
    CHECK(contrast(g.soft, g.paper) > 4.5);
    CHECK(contrast(g.first, g.second) > 1.9);
    CHECK(contrast(g.first, g.paper) > 3.0);
    CHECK(contrast(g.good, g.paper) > 4.0);
  }
}
