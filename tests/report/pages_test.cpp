// Whole pages as a reader meets them. A change of wording is made here first, after reading it.
#include <catch2/catch.hpp>

#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

const std::string kDemo = KITEKNOT_DEMO_DIR;

Model demo(const std::string& name) {
  return read_model(kDemo + "/" + name).value();
}

// Without the line that tells times.
std::string untimed(const std::string& page) {
  std::string out;
  for (std::size_t at = 0; at < page.size();) {
    const std::size_t end = page.find('\n', at);
    const std::string line = page.substr(at, end - at);
    if (line.find(" pivot") == std::string::npos) out += line + "\n";
    at = end + 1;
  }
  return out;
}

}  // namespace

TEST_CASE("the crate read back", "[report]") {
  CHECK(show_page(demo("crate.knot")) == R"(Repair crate
6 decisions to take, all in whole numbers; 1 rule.

Data
  items   6 rows by item   mass: figures from 2.5 to 7.5, in rule mass
                           worth: figures from 17 to 62, in worth
                           stock: figures from 1 to 3, in the bounds of pack

Numbers that can be set
  mass_limit   20

Decisions
  pack   6, one for each of items   whole numbers from 0 to between 1 and 3

Goal
  maximize   worth   62 pack[spar set] + 30 pack[cord drum] + 47 pack[sail cloth]
                     + 37 pack[glue and clamps] + 17 pack[spare bridles] + 21 pack[ferrule box]

Rules
  mass   7.5 pack[spar set] + 4 pack[cord drum] + 6 pack[sail cloth] + 5 pack[glue and clamps]
         + 2.5 pack[spare bridles] + 3 pack[ferrule box] <= 20
)");
}

TEST_CASE("the crate's answer", "[report]") {
  CHECK(untimed(answer_page(solve(demo("crate.knot")))) == R"(Repair crate: proven optimal
worth is 161, and no plan reaches more.

Decided
  pack   2 of 6   spar set 2 and glue and clamps 1; none of cord drum, sail cloth, spare bridles and
                  ferrule box

Rules
  at the limit   mass   20 of 20

How it went
  Relaxed, the goal is 163.16667: whole decisions cost 2.1666667.
  Rounding that to the nearest breaks mass by 1.
  Checked as stated, in exact arithmetic.
)");
}

TEST_CASE("a plan by hand, judged", "[report]") {
  const Model m = demo("programme.knot");
  const Plan plan = read_plan(kDemo + "/by_hand.csv", m).value();
  CHECK(check_page(m, plan, check(m, plan), "by_hand.csv") ==
        R"(Festival programme: by_hand.csv breaks 2 rules
crowd is 469, if the plan were allowed.

Decided
  run   4 of 14   giant octopus, fighter cup, tail parade and rokka battle

Rules
  broken   crew          37 of at most 35: 2 too much
  broken   family        only 1 holds (run[tail parade]), at least 2 must
  met      grant_limit   1,000 of 1,200, 200 to spare
  met      needs         run[candle finale] implies run[lantern walk]
  met      excludes      not (run[stunt duel] and run[fighter cup])
)");
}

TEST_CASE("every ending has words of its own", "[report]") {
  const auto page = [](const std::string& text, const SolveOptions& options = {}) {
    const Model m = parse_knot("model \"M\"\n" + text, "m.knot").value();
    return untimed(answer_page(solve(m, options)));
  };
  CHECK(page("decide x integer 0 .. 3\nmaximize g: x\nrule r: 2 * x = 3\n")
            .find("M: no plan meets all rules\nThat is proven:") == 0);
  CHECK(page("decide x integer 0 .. inf\nmaximize g: x\n")
            .find("M: g has no end\nPlans can be bettered without limit: a bound or a rule seems "
                  "to be missing.") == 0);
  CHECK(page("decide x integer 0 .. inf\nminimize g: -x\n").find("cheapened without limit") !=
        std::string::npos);
  CHECK(
      page("decide x integer 0 .. 3\nrule r: x >= 2\n").find("M: a plan that meets all rules\n") ==
      0);
  const StopSwitch by_hand;
  SolveOptions stopped;
  stopped.stop = by_hand.token();
  by_hand.press();
  const std::string none = page(
      "decide x integer 0 .. 3\ndecide y integer 0 .. 3\nmaximize g: x + y\nrule r: 2 * x + 2 * y "
      "<= 3\n",
      stopped);
  CHECK(none.find("M: no plan found, and no proof that there is none") == 0);
  CHECK(none.find("Stopped by hand.") != std::string::npos);
  CHECK(page("decide x real 0 .. 9\nmaximize g: x\nrule r: 3 * x <= 10\n")
            .find("g is 3.3333333, and no plan reaches more.") != std::string::npos);
}

TEST_CASE("a relaxed answer tells what limits are worth and over which stretch", "[report]") {
  const std::string page = answer_page(solve_relaxed(demo("crate.knot")));
  CHECK(page.find("Repair crate, whole decisions relaxed: proven optimal") == 0);
  CHECK(page.find("What limits are worth, in the relaxation\n  mass   one more changes worth by "
                  "7.8333333, as long as the limit is from 15 to 27") != std::string::npos);
  CHECK(page.find("pack[sail cloth]") != std::string::npos);
  CHECK(page.find("What the plan hangs on, tightest first") != std::string::npos);
}

TEST_CASE("rules of every shape are told with their room", "[report]") {
  const Model m = parse_knot(R"(model "Shapes"
decide x integer 0 .. 50
decide open binary
rule cap: x <= 40 * open
rule span: 10 <= x <= 45
rule even: x = 38
rule both: x + 2 = 40 * open
rule least: x >= 12
)",
                             "m.knot")
                      .value();
  Plan plan(m);
  plan.set(m.decision("x"), 38);
  plan.set(m.decision("open"), 1);
  CHECK(check_page(m, plan, check(m, plan), "the plan") == R"(Shapes: the plan meets all rules

Decided
  x      38
  open   yes

Rules
  met                 cap     38 against at most 40, 2 to spare
  met                 span    38, between 10 and 45, 7 to spare
  met, at the limit   even    38 as it must be
  met, at the limit   both    40 against exactly 40
  met                 least   38, at least 12, 26 to spare
)");
  plan.set(m.decision("x"), 5);
  plan.set(m.decision("open"), 0);
  const std::string broken = check_page(m, plan, check(m, plan), "the plan");
  CHECK(broken.find("the plan breaks 5 rules") != std::string::npos);
  CHECK(broken.find("5 against at most 0: 5 too much") != std::string::npos);
  CHECK(broken.find("5 where exactly 38 must be: 33 too little") != std::string::npos);
  plan.set(m.decision("x"), 60);
  CHECK(check_page(m, plan, check(m, plan), "the plan").find("x is 60 and is above 50") !=
        std::string::npos);
}

TEST_CASE("named expressions are worked out in a check and shown with one row", "[report]") {
  const Model m = demo("stewards.knot");
  const Result r = solve(m);
  const std::string page = check_page(m, *r.plan, *r.report, "plan");
  CHECK(page.find("Worked out\n  on_duty[09:00]") != std::string::npos);
  const std::string shown = show_page(m);
  CHECK(shown.find("on_duty") != std::string::npos);
  CHECK(shown.find("watched[09:00]: hire[early]") != std::string::npos);
}

TEST_CASE("the progress line is one calm line", "[report]") {
  const Model m = demo("programme.knot");
  Progress p;
  p.seconds = 12.0;
  p.bound = 491.5;
  p.open = 1234;
  CHECK(progress_line(m, p) == " 12 s   no plan yet   nothing above 491.5 can exist   1,234 open");
  p.best = 482.0;
  p.gap = 0.0197;
  p.found_by = "rounding";
  CHECK(progress_line(m, p) ==
        " 12 s   best 482 (by rounding)   nothing above 491.5 can exist   gap 2.0 %   1,234 open");
}

TEST_CASE("two keys are a small grid, or rows, or a list; rules that nobody feels are idle",
          "[report]") {
  const Model m = parse_knot(R"(model "Stalls"
table crews key crew rows
  crew
  Ann
  Bo
  Cy
table days key day rows
  day
  Fri
  Sat
  Sun
decide on[c in crews, d in days] integer 0 .. 900
decide use[c in crews] binary
decide spare integer 0 .. 3
decide tent binary
maximize got: total(on[c, d] over c in crews, d in days) + tent
rule room[c in crews]: total(on[c, d] over d in days) <= 700 * use[c]
rule few: total(use[c] over c in crews) <= 2
)",
                             "m.knot")
                      .value();
  const auto plan = [&](std::vector<std::pair<const char*, int>> values) {
    Plan p(m);
    for (const auto& [name, value] : values) p.set(m.decision(name), value);
    return p;
  };
  const auto decided = [](const std::string& page) {
    return page.substr(page.find("Decided"), page.find("\nRules") - page.find("Decided"));
  };
  const Plan some =
      plan({{"on[Bo, Sat]", 120}, {"on[Cy, Sun]", 7}, {"use[Bo]", 1}, {"use[Cy]", 1}});
  CHECK(decided(check_page(m, some, check(m, some), "it")) ==
        "Decided\n"
        "  on      2 of 9   as below\n"
        "  use     2 of 3   Bo and Cy\n"
        "  spare            0\n"
        "  tent             no\n"
        "\n"
        "  on   Sat   Sun\n"
        "  Bo   120     ·\n"
        "  Cy     ·     7\n");
  // All on one day: there is nothing to see across.
  const Plan one =
      plan({{"on[Ann, Sat]", 120}, {"on[Cy, Sat]", 7}, {"use[Ann]", 1}, {"use[Cy]", 1}});
  CHECK(decided(check_page(m, one, check(m, one), "it"))
            .find("  on      2 of 9   Ann: Sat 120\n                   Cy: Sat 7\n") !=
        std::string::npos);
  const std::string narrow = check_page(m, some, check(m, some), "it", {.width = 12});
  CHECK(narrow.find("as below") == std::string::npos);
  CHECK(narrow.find("Bo: Sat") != std::string::npos);

  SolveOptions options;
  const Result best = solve(m, options);
  const std::string page = answer_page(best);
  CAPTURE(page);
  CHECK(page.find("room       1 of 3, 0 on both sides") != std::string::npos);
  CHECK(page.find("0 against at most 0") == std::string::npos);
  const std::string only = answer_page(best, {}, {.rows = 1, .family = "use"});
  CHECK(only.find("and 1 more") != std::string::npos);
  CHECK(only.find("spare") == std::string::npos);
  CHECK_THROWS_WITH(need_decisions(m, "uze"), Catch::Contains("nearest is 'use'"));
}

TEST_CASE("families of three keys are told by the first, and no key is torn apart", "[report]") {
  const Model m = parse_knot(R"(model "Roster"
table people key person rows
 person
 Mira
 Oren
table days key day rows
 day
 Saturday morning
 Sunday morning
table shifts key shift rows
 shift
 early
 late
decide work[p in people, d in days, s in shifts] binary
minimize wages: total(work[p, d, s] over p in people, d in days, s in shifts)
rule all: total(work[p, d, s] over p in people, d in days, s in shifts) >= 8
)",
                             "roster.knot")
                      .value();
  const std::string page = answer_page(solve(m), {.width = 70});
  INFO(page);
  CHECK(page.find("  work   8 of 8   Mira: (Saturday morning, early),") != std::string::npos);
  for (const char* key : {"(Saturday morning, early)", "(Saturday morning, late)",
                          "(Sunday morning, early)", "(Sunday morning, late)"}) {
    const std::size_t first = page.find(key);
    REQUIRE(first != std::string::npos);
    CHECK(page.find(key, first + 1) != std::string::npos);  // Mira's and Oren's, each on one line
  }
  CHECK(page.find("\n                  Oren: (") != std::string::npos);
}

TEST_CASE("long sums say how many of each family with which figures", "[report]") {
  std::string rows = "item,w\n";
  for (int k = 0; k < 190; ++k) rows += "item " + std::to_string(k) + ",2\n";
  const auto items = Table::parse("items", rows, {.key = {"item"}});
  const auto w = items.numbers("w");
  Model m{"Sums"};
  const auto take = m.binary("take", items);
  const auto open = m.binary("open");
  m.maximize("all", total(take));
  m.rule("plain", total(take) <= 40 * Expression(open));
  m.rule("weighed", total(items, [&](Row i) { return w[i] * take[i]; }) <= 70);
  const std::string page = show_page(m);
  INFO(page);
  CHECK(page.find("190 of take and 1 of open with -40") != std::string::npos);
  CHECK(page.find("190 of take with 2 each") != std::string::npos);
  CHECK(page.find("with always") == std::string::npos);
}

TEST_CASE("ways of a goal without an end are not measured from a best plan", "[report]") {
  Model m{"Endless"};
  const auto tickets = m.integer("tickets", {}, from(0)), staff = m.integer("staff", {}, from(0));
  m.maximize("gain", 5 * Expression(tickets) - 20 * Expression(staff));
  m.rule("served", Expression(tickets) <= 50 * Expression(staff));
  const std::string page = comparison_page(m, compare(m, {"exact", "relaxed", "greedy"}));
  INFO(page);
  CHECK(page.find("one plan of many: the goal has no end") != std::string::npos);
  CHECK(page.find("best known") == std::string::npos);
}

TEST_CASE("a page of many families has an end, and says how to get the rest", "[report]") {
  Model m("Many");
  std::vector<Decision> x;
  for (int k = 0; k < 900; ++k) {
    x.push_back(m.real("x" + std::to_string(k), {}, from(0)));
    m.let("y" + std::to_string(k), 2 * x.back());
    m.rule("r" + std::to_string(k), x.back() >= k);
  }
  m.minimize("cost", x[0] + x[1]);
  const auto lines = [](const std::string& page) {
    return std::count(page.begin(), page.end(), '\n');
  };
  const std::string page = show_page(m), worked = show_page(m, {}, {.rows = 2, .family = ""});
  CHECK(lines(page) < 150);
  CHECK(lines(worked) > lines(page));
  CHECK(lines(worked) < 1000);
  for (const std::string& p : {page, worked})
    CHECK(p.find("more; --family NAME shows one of them") != std::string::npos);
  CHECK(show_page(m, {}, {.rows = 2, .family = "r899"}).find("r899") != std::string::npos);
}
