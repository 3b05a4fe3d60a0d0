// Ways over cases: distances, times and what the spread allows to conclude; own ways that fail cost
// no other; what was kept is not tried again; made cases are what their recipes promise.
#include <algorithm>
#include <cmath>
#include <map>

#include <catch2/catch.hpp>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "base/random.hpp"
#include "support/folder.hpp"
#include "support/knot.hpp"

using namespace kiteknot;

namespace {

Model bag(std::uint64_t seed) {
  const MadeCase made = make_case({.kind = "limits", .sizes = {15, 2}, .seed = seed}, "bag");
  const test::Folder folder(fmt::format("bag-{}", seed));  // cases may be read at once
  for (const auto& [file, text] : made.files) folder.file(file, text);
  return read_model(folder.at(made.files.front().first)).value();
}

std::vector<TrialCase> bags(std::uint64_t count) {
  std::vector<TrialCase> cases;
  for (std::uint64_t k = 1; k <= count; ++k)
    cases.push_back({fmt::format("bag {}", k), [k] { return bag(k); },
                     [](const Model& m) { return m.title(); }});
  return cases;
}

// Says what it is told to.
class Saying final : public Method {
 public:
  enum class What { nothing, zeros, beyond, throws };
  Saying(std::string name, What what) : name_(std::move(name)), what_(what) {}
  std::string name() const override { return name_; }
  std::string about() const override { return "for tests"; }
  std::vector<MethodAnswer> run(const Model& model, const SolveOptions&, Observer*) const override {
    if (what_ == What::throws) throw std::runtime_error("out of luck");
    MethodAnswer a;
    a.method = a.label = name_;
    if (what_ == What::nothing) return {a};
    Plan plan(model);
    if (what_ == What::beyond)
      for (std::int32_t d = 0; d < model.num_decisions(); ++d) plan.set(model.decision(d), 1);
    a.plan = plan;
    a.report = PlanReport();  // it claims that all is met, whatever the goal
    a.report->goal = 1'000'000;
    a.outcome = Outcome::optimal;
    return {a};
  }

 private:
  std::string name_;
  What what_;
};

// Counts sign patterns one by one.
double counted_chance(const std::vector<double>& differences) {
  std::vector<double> d;
  for (const double x : differences)
    if (x != 0.0) d.push_back(x);
  const auto rank_of = [&](double size) {
    double below = 0.0, same = 0.0;
    for (const double x : d) {
      below += std::abs(x) < size ? 1.0 : 0.0;
      same += std::abs(x) == size ? 1.0 : 0.0;
    }
    return below + (same + 1.0) / 2.0;
  };
  double total = 0.0, positive = 0.0;
  for (const double x : d) {
    total += rank_of(std::abs(x));
    positive += x > 0.0 ? rank_of(x) : 0.0;
  }
  const double low = std::min(positive, total - positive);
  double as_uneven = 0.0;
  for (unsigned signs = 0; signs < 1U << d.size(); ++signs) {
    double sum = 0.0;
    for (std::size_t k = 0; k < d.size(); ++k)
      if ((signs >> k & 1U) != 0) sum += rank_of(std::abs(d[k]));
    as_uneven += std::min(sum, total - sum) <= low ? 1.0 : 0.0;
  }
  return d.empty() ? 1.0 : as_uneven / static_cast<double>(1U << d.size());
}

}  // namespace

TEST_CASE("chances of signed ranks are those counted pattern by pattern", "[study][trials]") {
  Random random(3);
  for (int k = 0; k < 300; ++k) {
    std::vector<double> d;
    for (std::int64_t n = random.between(0, 10); n > 0; --n)
      d.push_back(static_cast<double>(random.between(-6, 6)));  // with ties and zeros
    CHECK(signed_rank_chance(d) == Approx(counted_chance(d)));
  }
  // Worked by hand: ten differences, all of one sign: 2 of 1,024 patterns are as uneven.
  CHECK(signed_rank_chance({1, 2, 3, 4, 5, 6, 7, 8, 9, 10}) == Approx(2.0 / 1024.0));
  CHECK(sign_chance(9, 1) == Approx(22.0 / 1024.0));
  CHECK(sign_chance(5, 5) == 1.0);
  CHECK(sign_chance(0, 0) == 1.0);
}

TEST_CASE("ways over cases: nobody beats a proof, everybody is judged as stated",
          "[study][trials]") {
  TrialOptions options;
  options.seconds = 2.0;
  options.ways = {"exact", "greedy", "climb", "zeros", "tabu", "boasts", "silent", "breaks"};
  using What = Saying::What;
  options.own = {std::make_shared<Saying>("zeros", What::zeros),
                 std::make_shared<Saying>("boasts", What::beyond),
                 std::make_shared<Saying>("silent", What::nothing),
                 std::make_shared<Saying>("breaks", What::throws)};
  const Trials t = run_trials(bags(6), options);
  REQUIRE(t.cases.size() == 6);
  CHECK(t.attempts.size() == 48);
  for (const TrialCaseAnswer& c : t.cases) {
    CHECK(c.proven);
    CHECK(*c.best <= Rational(*c.bound));
  }
  for (const Attempt& a : t.attempts) {
    INFO(a.way << " on " << a.of);
    REQUIRE(distance(t, a));
    if (a.way == "exact") CHECK(*distance(t, a) == 0.0);
    if (a.way == "zeros") CHECK(*distance(t, a) == Approx(1.0));
    if (a.way == "boasts" || a.way == "silent" || a.way == "breaks") {
      CHECK_FALSE(a.found);
      CHECK(std::isinf(*distance(t, a)));
    }
    if (a.way == "boasts") CHECK(a.note == "its plan breaks 2 rules");
    if (a.way == "breaks") CHECK(a.note == "out of luck");
  }
  const std::vector<WayStanding> all = standings(t);
  REQUIRE(all.size() == 8);
  CHECK(all[0].way == "exact");
  CHECK(all[0].at_best == 6);
  CHECK(all[4].way == "tabu");
  CHECK(all[4].without == 0);
  CHECK(all[5].without == 6);
  CHECK(all[3].mean == Approx(1.0));
  // The nearest is never farther than zeros; ways without any plan are held against nobody.
  for (const PairedFinding& f : findings(t)) {
    CHECK(f.farther != "silent");
    CHECK(f.wins >= f.losses);
    if (f.farther == "zeros") {
      CHECK(f.wins == 6);
      CHECK(f.chance >= 2.0 / 64.0);
    }
  }
  const std::string page = trials_page(t);
  CHECK(page.find("6 cases: 8 ways side by side") != std::string::npos);
  CHECK(page.find("breaks: no plan in 6 attempts, first on bag 1, where out of luck") !=
        std::string::npos);
  CHECK(page.find("0 of 6") != std::string::npos);
  // For other programs.
  const auto document = nlohmann::json::parse(trials_document(t));
  CHECK(document["attempts"].size() == 48);
  CHECK(document["ways"][5]["median"].is_null());
  const std::string csv = trials_csv(t);
  CHECK(std::count(csv.begin(), csv.end(), '\n') == 49);
  // Figures are whole SVG; the dark is another one.
  for (const std::string& svg :
       {trials_time_figure(t), trials_distance_figure(t), trials_share_figure(t)}) {
    CHECK(svg.find("</svg>") != std::string::npos);
    CHECK(svg.find("tabu") != std::string::npos);
  }
  CHECK(trials_distance_figure(t, {.dark = true}) != trials_distance_figure(t));
  CHECK(trials_report(t).find("</html>") != std::string::npos);
}

TEST_CASE("what was kept is taken in place of trying again, what changed is not",
          "[study][trials]") {
  TrialOptions options;
  options.seconds = 1.0;
  options.ways = {"exact", "tabu", "annealing"};
  options.runs = 2;
  std::string kept;
  std::size_t tried = 0;
  options.done = [&](const Attempt& a) {
    kept += attempt_line(a);
    ++tried;
  };
  const Trials first = run_trials(bags(3), options);
  CHECK(tried == 3 * (1 + 2 + 2));
  options.known = read_attempts(kept + "{\"case\": \"cut off");  // as a killed run leaves it
  CHECK(options.known.size() == tried);
  tried = 0;
  const Trials again = run_trials(bags(3), options);
  CHECK(tried == 0);
  CHECK(trials_csv(again) == trials_csv(first));
  // Another limit, another state: tried again.
  options.seconds = 0.9;
  (void)run_trials(bags(1), options);
  CHECK(tried == 5);
  tried = 0;
  options.seconds = 1.0;
  std::vector<TrialCase> changed = bags(1);
  changed[0].state = [](const Model&) { return "new data"; };
  (void)run_trials(changed, options);
  CHECK(tried == 5);
  CHECK_THROWS_AS(read_attempts("no line of ours\n"), UsageError);
}

TEST_CASE("cases without a plan, without a model, and wrong wishes are told", "[study][trials]") {
  using Catch::Matchers::Contains;
  std::vector<TrialCase> cases = bags(1);
  cases.push_back({"nothing fits", [] {
                     return test::model_of(
                         "model \"None\"\ndecide x binary\nmaximize g: x\nrule r: 2 * x = 1\n");
                   }});
  cases.push_back({"torn", []() -> Model { throw std::runtime_error("half a file"); }});
  TrialOptions options;
  options.ways = {"exact", "climb"};
  const Trials t = run_trials(cases, options);
  CHECK(t.cases[1].infeasible);
  CHECK(t.cases[2].failed == "half a file");
  CHECK(standings(t)[1].cases == 1);  // the others are nobody's fault
  const std::string page = trials_page(t);
  CHECK(page.find("1 case is proven to have no plan") != std::string::npos);
  CHECK(page.find("torn could not be read: half a file") != std::string::npos);
  options.ways = {"climp"};
  CHECK_THROWS_WITH(run_trials(cases, options), Contains("nearest is 'climb'"));
  options.ways = {"relaxed"};
  CHECK_THROWS_WITH(run_trials(cases, options), Contains("gives no plans"));
  options.ways = {"climb", "climb"};
  CHECK_THROWS_WITH(run_trials(cases, options), Contains("named twice"));
  options.ways = {};
  options.own = {std::make_shared<Saying>("greedy", Saying::What::zeros)};
  CHECK_THROWS_WITH(run_trials(cases, options), Contains("already"));
  options.own = {};
  CHECK_THROWS_AS(run_trials({}, options), UsageError);
  cases.push_back(cases.front());
  CHECK_THROWS_WITH(run_trials(cases, options), Contains("two cases of the name 'bag 1'"));
  options.runs = 0;
  CHECK_THROWS_AS(run_trials(bags(1), options), UsageError);
}

TEST_CASE("a comparison that is stopped by hand tells what it had by then", "[study][trials]") {
  StopSwitch hand;
  TrialOptions options;
  options.ways = {"exact", "climb"};
  options.stop = hand.token();
  std::size_t tried = 0;
  options.asked = [&](const std::string&, const std::string&, int) {
    if (++tried == 3) hand.press();
  };
  const Trials t = run_trials(bags(4), options);
  CHECK(t.stopped);
  CHECK(t.attempts.size() < 8);
  CHECK(trials_page(t).find("stopped by hand") != std::string::npos);
}

TEST_CASE("made cases are read, the same seed makes the same, and planted plans are best",
          "[study][made]") {
  const test::Folder folder("made");
  const std::map<std::string, std::vector<std::int32_t>> small = {
      {"knapsack", {20}},     {"limits", {12, 2}},   {"cover", {12, 20}}, {"assignment", {3, 8}},
      {"facilities", {4, 6}}, {"staffing", {8, 12}}, {"lots", {2, 4}},    {"bins", {9}},
      {"roster", {4, 7}},     {"shop", {3, 3}},      {"tour", {8}},       {"routes", {8}}};
  for (const MadeKind& kind : made_kinds()) {
    std::vector<std::string> classes = kind.classes;
    if (classes.empty()) classes.emplace_back();
    for (const std::string& c : classes) {
      INFO(kind.name << " " << c);
      const MadeAsked asked{kind.name, small.at(kind.name), c, 5, false};
      const MadeCase made = make_case(asked, "one"), again = make_case(asked, "one");
      CHECK(made.files == again.files);
      MadeAsked other = asked;
      other.seed = 6;
      CHECK(make_case(other, "one").files != made.files);
      for (const auto& [file, text] : made.files) folder.file(file, text);
      const std::string first = folder.at(made.files.front().first);
      if (first.ends_with(".csv")) {
        CHECK(Stops::read(first).ok());
        continue;
      }
      const Reading<Model> read = read_model(first);
      INFO(read.notes().text());
      REQUIRE(read.ok());
      CHECK(read.notes().items().empty());
      const Result r = solve(read.value(), {.seconds = 20.0});
      CHECK(r.has_plan());
    }
    if (!kind.planted) {
      CHECK_THROWS_AS(make_case({kind.name, {}, "", 1, true}, "x"), UsageError);
      continue;
    }
    for (std::uint64_t seed = 1; seed <= 5; ++seed) {
      const MadeCase made = make_case({kind.name, small.at(kind.name), "", seed, true}, "two");
      for (const auto& [file, text] : made.files) folder.file(file, text);
      const Result r = solve(read_model(folder.at(made.files.front().first)).value());
      REQUIRE(r.outcome == Outcome::optimal);
      CHECK(r.goal() == *made.optimum);
    }
  }
  using Catch::Matchers::Contains;
  CHECK_THROWS_WITH(make_case({.kind = "knapsak"}, "x"), Contains("nearest is 'knapsack'"));
  CHECK_THROWS_WITH(make_case({.kind = "cover", .sizes = {5}}, "x"), Contains("needs and sets"));
  CHECK_THROWS_WITH(make_case({.kind = "cover", .sizes = {0, 5}}, "x"), Contains("1 at least"));
  CHECK_THROWS_WITH(make_case({.kind = "assignment", .variant = "F"}, "x"),
                    Contains("A, B, D and E") || Contains("classes are"));
}

TEST_CASE("cases side by side are the same cases, told in their order",
          "[study][trials][threads]") {
  TrialOptions options;
  options.ways = {"exact", "greedy", "climb"};
  options.seconds = 20;
  std::vector<std::string> heard;
  options.done = [&](const Attempt& a) { heard.push_back(a.of + " " + a.way); };
  const Trials one = run_trials(bags(6), options);
  CHECK(one.at_once == 1);
  std::vector<std::string> in_order = heard;
  for (const int threads : {3, 8}) {
    heard.clear();
    options.threads = threads;
    const Trials many = run_trials(bags(6), options);
    CHECK(many.at_once == std::min(threads, 6));
    CHECK(many.ways == one.ways);
    REQUIRE(many.attempts.size() == one.attempts.size());
    for (std::size_t k = 0; k < one.attempts.size(); ++k) {
      CHECK(many.attempts[k].of == one.attempts[k].of);
      CHECK(many.attempts[k].way == one.attempts[k].way);
      CHECK(many.attempts[k].value == one.attempts[k].value);
      CHECK(many.attempts[k].outcome == one.attempts[k].outcome);
    }
    std::ranges::sort(heard);
    std::ranges::sort(in_order);
    CHECK(heard == in_order);
  }
  // One case cannot be read: the others are tried.
  std::vector<TrialCase> cases = bags(3);
  cases[1].model = []() -> Model { throw std::runtime_error("no such week"); };
  const Trials most = run_trials(cases, options);
  REQUIRE(most.cases.size() == 3);
  CHECK(most.cases[1].failed == "no such week");
  CHECK(most.attempts.size() == 6);
}
