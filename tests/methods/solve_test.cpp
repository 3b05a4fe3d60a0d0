// Solving through the public interface: values, sense, gaps, limits and the observer.
#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "support/knot.hpp"

using namespace kiteknot;

namespace {

// A random selection model with fractional figures and both senses, and its best value by trying
// all.
struct Drawn {
  Model model{"Random"};
  Decisions pick;
  std::optional<Rational> best;
};

Drawn draw(Random& random) {
  std::string csv = "item,a,b,worth\n";
  const int n = static_cast<int>(random.between(1, 8));
  std::vector<Rational> a, b, worth;
  for (int i = 0; i < n; ++i) {
    a.push_back(Rational::ratio(random.between(-20, 80), 8));
    b.push_back(Rational::ratio(random.between(0, 80), 10));
    worth.push_back(Rational::ratio(random.between(-40, 90), 4));
    csv += "i" + std::to_string(i) + "," + a.back().text() + "," + b.back().text() + "," +
           worth.back().text() + "\n";
  }
  const Table items = Table::parse("items", csv, {{"item"}, {}});
  const Rational cap = Rational::ratio(random.between(0, 300), 10),
                 need = Rational::ratio(random.between(0, 100), 7);
  const bool maximize = random.chance(0.5);
  Model m{"Random"};
  const Decisions pick = m.binary("pick", items);
  const auto sum = [&](const char* column) {
    const Numbers figures = items.numbers(column);
    return total(items, [&](Row r) { return figures[r] * pick[r]; });
  };
  m.rule("cap", sum("a") <= cap);
  m.rule("need", sum("b") >= need);
  if (maximize)
    m.maximize("worth", sum("worth") + 3);
  else
    m.minimize("worth", sum("worth") + 3);
  std::optional<Rational> best;
  for (int mask = 0; mask < 1 << n; ++mask) {
    Rational use = 0, met = 0, value = 3;
    for (int i = 0; i < n; ++i)
      if (mask >> i & 1) {
        const auto k = static_cast<std::size_t>(i);
        use += a[k];
        met += b[k];
        value += worth[k];
      }
    if (use > cap || met < need) continue;
    if (!best || (maximize ? value > *best : value < *best)) best = value;
  }
  return {std::move(m), pick, best};
}

class Ear final : public Observer {
 public:
  void better_plan(const Progress& p, const Plan& plan) override {
    REQUIRE(p.best);
    values.push_back(*p.best);
    last = plan.values();
  }
  void progress(const Progress&) override { ++steps; }
  std::vector<double> values;
  std::vector<Rational> last;
  int steps = 0;
};

}  // namespace

TEST_CASE("random selection models agree with trying all, in the user's own sense and sign",
          "[methods][oracle]") {
  Random random(91);
  int infeasible = 0;
  for (int round = 0; round < 1000; ++round) {
    CAPTURE(round);
    const Drawn d = draw(random);
    const Result r = solve(d.model);
    REQUIRE(r.outcome == (d.best ? Outcome::optimal : Outcome::infeasible));
    infeasible += d.best ? 0 : 1;
    if (!d.best) continue;
    CHECK(r.goal() == *d.best);
    CHECK(r.goals[0].gap == 0.0);
    CHECK(r.report->exact);
    const Result relaxed = solve_relaxed(d.model);
    REQUIRE(relaxed.outcome == Outcome::optimal);
    const bool up = r.goals[0].sense == Sense::maximize;
    CHECK((up ? relaxed.goal() >= r.goal() : relaxed.goal() <= r.goal()));
    CHECK(*r.relaxed.value == Approx(relaxed.goal().to_double()).margin(1e-9));
    CHECK(r.relaxed.integral == check(d.model, *relaxed.plan).feasible);
  }
  CHECK(infeasible > 20);
}

TEST_CASE("the observer hears of every better plan, in order", "[methods]") {
  Random random(92);
  Model m{"Long"};
  std::vector<Decision> x;
  Expression weight, worth;
  for (int j = 0; j < 40; ++j) {
    x.push_back(m.binary("x" + std::to_string(j)));
    const auto w = random.between(100, 999);
    weight += Rational(w) * Expression(x.back());
    worth += Rational(w + 100) * Expression(x.back());
  }
  m.rule("room", weight <= 9876);
  m.rule("either", x[0] + Expression(x[1]) <= 1);  // or it would be a knapsack, and done at once
  m.maximize("worth", worth);
  Ear ear;
  const Result r = solve(m, {.nodes = 2000}, &ear);
  REQUIRE(r.has_plan());
  REQUIRE_FALSE(ear.values.empty());
  for (std::size_t k = 1; k < ear.values.size(); ++k) CHECK(ear.values[k] > ear.values[k - 1]);
  CHECK(ear.values.back() == r.goal().to_double());
  CHECK(ear.last == r.plan->values());
  CHECK(ear.steps > 0);
  CHECK(r.search.progress.back().best == r.goal().to_double());
}

TEST_CASE("a gap is relative to the goal as stated, its constant included", "[methods]") {
  // Worth about 10,000 less 9,900: a hundredth of what is left is far less than a hundredth of the
  // whole.
  Random random(94);
  Model m{"Constant"};
  Expression weight, worth = -9900;
  for (int j = 0; j < 40; ++j) {
    const Decisions x = m.binary("x" + std::to_string(j));
    const auto w = random.between(100, 999);
    weight += w * Expression(x);
    worth += (w + random.between(-20, 20)) * Expression(x);
  }
  m.rule("room", weight <= 9876);
  m.maximize("profit", worth);
  for (const double gap : {0.5, 0.05}) {
    const Result r = solve(m, {.gap = gap});
    REQUIRE((r.outcome == Outcome::accepted || r.outcome == Outcome::optimal));
    CHECK(*r.goals[0].gap <= gap);
    CHECK(std::abs(r.goal().to_double() - *r.goals[0].bound) <=
          gap * std::abs(r.goal().to_double()) + 1e-9);
  }
}

TEST_CASE("infeasible, unbounded and goalless models are values, not exceptions", "[methods]") {
  Model m{"Edge"};
  const Decisions x = m.integer("x", {}, from(0));
  CHECK(solve(m).outcome == Outcome::optimal);  // any plan will do
  m.maximize("gain", 2 * Expression(x));
  const Result endless = solve(m);
  CHECK(endless.outcome == Outcome::unbounded);
  CHECK(endless.has_plan());
  m.rule("even", 2 * Expression(x) == 7);
  const Result none = solve(m);
  CHECK(none.outcome == Outcome::infeasible);
  CHECK_THROWS_WITH(none.goal(), Catch::Contains("no plan"));
  CHECK_THROWS_WITH(none[x], Catch::Contains("infeasible"));
}

TEST_CASE(
    "real decisions without upper bounds are proven by exact arithmetic where rounding cannot",
    "[methods]") {
  // A blend with thirds: minimise 2a + 3b, a + b >= 1, a - 2b = 0, both unbounded above: a = 2/3, b
  // = 1/3.
  Model m{"Blend"};
  const Decisions a = m.real("a", {}, from(0)), b = m.real("b", {}, from(0));
  m.rule("amount", Expression(a) + Expression(b) >= 1);
  m.rule("mix", Expression(a) == 2 * Expression(b));
  m.minimize("cost", 2 * Expression(a) + 3 * Expression(b));
  const Result r = solve(m);
  REQUIRE(r.outcome == Outcome::optimal);
  CHECK(r.goal() == Rational::ratio(7, 3));
  CHECK(r[b] == Rational::ratio(1, 3));
  CHECK(r.report->exact);
  m.rule("little", Expression(a) + Expression(b) <= 0.5);
  CHECK(solve(m).outcome == Outcome::infeasible);
}

TEST_CASE("facility models with unbounded shipments agree with trying every set of open depots",
          "[methods][oracle]") {
  Random random(93);
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    const int depots = 4, fields = 3;
    std::vector<std::vector<int>> rate(depots, std::vector<int>(fields));
    std::vector<int> rent;
    for (int d = 0; d < depots; ++d) {
      rent.push_back(static_cast<int>(random.between(5, 40)));
      for (int f = 0; f < fields; ++f)
        rate[static_cast<std::size_t>(d)][static_cast<std::size_t>(f)] =
            static_cast<int>(random.between(1, 30));
    }
    Model m{"Depots"};
    Expression cost;
    std::vector<Expression> served(fields);
    for (int d = 0; d < depots; ++d) {
      const Decisions open = m.binary("open" + std::to_string(d));
      cost += rent[static_cast<std::size_t>(d)] * Expression(open);
      for (int f = 0; f < fields; ++f) {
        const Decisions ship =
            m.real("ship" + std::to_string(d) + "_" + std::to_string(f), {}, from(0));
        m.rule("link" + std::to_string(d) + "_" + std::to_string(f),
               Expression(ship) <= Expression(open));
        served[static_cast<std::size_t>(f)] += Expression(ship);
        cost += rate[static_cast<std::size_t>(d)][static_cast<std::size_t>(f)] * Expression(ship);
      }
    }
    for (int f = 0; f < fields; ++f)
      m.rule("need" + std::to_string(f), served[static_cast<std::size_t>(f)] == 1);
    m.minimize("cost", cost);
    int best = 1 << 20;
    for (int mask = 1; mask < 1 << depots; ++mask) {
      int sum = 0;
      for (int d = 0; d < depots; ++d) sum += (mask >> d & 1) * rent[static_cast<std::size_t>(d)];
      for (int f = 0; f < fields; ++f) {
        int least = 1 << 20;
        for (int d = 0; d < depots; ++d)
          if (mask >> d & 1)
            least = std::min(least, rate[static_cast<std::size_t>(d)][static_cast<std::size_t>(f)]);
        sum += least;
      }
      best = std::min(best, sum);
    }
    const Result r = solve(m);
    REQUIRE(r.outcome == Outcome::optimal);
    CHECK(r.goal() == Rational(best));
  }
}

TEST_CASE("a stop switch stands apart from options, and serves again once it is reset",
          "[methods]") {
  Random random(5);
  const Drawn d = draw(random);
  const StopSwitch by_hand;
  SolveOptions options;
  options.stop = by_hand.token();
  const SolveOptions copy = options;  // hears of the same switch
  by_hand.press();
  const Result stopped = solve(d.model, copy);
  CHECK(stopped.search.stopped_by == "hand");
  CHECK((stopped.outcome == Outcome::undecided || stopped.outcome == Outcome::unproven));
  CHECK(solve(d.model).search.stopped_by.empty());  // other options have no switch
  by_hand.reset();
  const Result again = solve(d.model, options);
  CHECK(again.search.stopped_by.empty());
  CHECK(again.outcome == (d.best ? Outcome::optimal : Outcome::infeasible));
}

TEST_CASE("what closed the branches of a search is told, and adds up", "[methods]") {
  Random random(8);
  std::int64_t nodes = 0, closed = 0;
  for (int round = 0; round < 20; ++round) {
    const Result r = solve(draw(random).model);
    for (const auto& [by, count] : r.search.closed) {
      CHECK(by != "unresolved");
      closed += count;
    }
    nodes += r.search.nodes;
    for (const SearchPart& p : r.search.parts) CHECK(p.calls > 0);
  }
  CHECK(nodes > 0);
  CHECK(closed > 0);
  SearchCounts a, b;
  a.closed = {{"bound", 2}};
  a.parts = {{"heuristic", "rounding", 1, 10, 1, 0}};
  b.closed = {{"bound", 3}, {"point", 1}};
  b.parts = {{"heuristic", "rounding", 2, 5, 0, 0}, {"propagator", "linear rows", 1, 1, 1, 1}};
  a.add(b);
  CHECK(a.closed == std::vector<std::pair<std::string, std::int64_t>>{{"bound", 5}, {"point", 1}});
  REQUIRE(a.parts.size() == 2);
  CHECK(a.parts[0].calls == 3);
  CHECK(a.parts[0].work == 15);
}

TEST_CASE("a model that is one knapsack says so, and one with another rule does not", "[methods]") {
  Random random(14);
  Model m{"Bag"};
  Expression weight, worth;
  std::vector<Decision> take;
  for (int j = 0; j < 60; ++j) {
    take.push_back(m.integer("take" + std::to_string(j), {}, between(0, 2)).only());
    const auto w = random.between(10, 99);
    weight += Rational::ratio(w, 4) * Expression(take.back());
    worth += Rational::ratio(w + 10, 2) * Expression(take.back());
  }
  m.rule("room", weight <= Rational::ratio(4321, 8));
  m.maximize("worth", worth);
  const Result bag = solve(m);
  REQUIRE(bag.outcome == Outcome::optimal);
  CHECK(bag.search.structure == "knapsack");
  CHECK(bag.search.nodes == 0);
  CHECK(*bag.goals[0].gap == 0.0);
  CHECK(answer_page(bag).find("All of it is one knapsack") != std::string::npos);
  CHECK(result_document(bag).find("\"structure\": \"knapsack\"") != std::string::npos);
  m.rule("never met", take[0] + Expression(take[1]) <= 4);  // no limit of its own
  m.rule("either", take[0] + Expression(take[1]) <= 2);
  const Result more = solve(m, {.nodes = 500});
  CHECK(more.search.structure.empty());
  if (more.outcome == Outcome::optimal) CHECK(more.goal() <= bag.goal());
  CHECK(answer_page(more).find("knapsack") == std::string::npos);
}

TEST_CASE("a start changes where the search begins, not where it ends", "[methods]") {
  Random random(23);
  int kept = 0, none = 0;
  for (int round = 0; round < 150; ++round) {
    CAPTURE(round);
    const Drawn d = draw(random);
    SolveOptions options;
    std::vector<std::pair<Decision, Rational>> start;
    for (std::int32_t i = 0; i < d.pick.size(); ++i)
      if (random.chance(0.6))
        start.emplace_back(d.pick["i" + std::to_string(i)],
                           random.chance(0.5) ? Rational(1) : Rational(0));
    options.start = start;
    const Result r = solve(d.model, options);
    REQUIRE(r.has_plan() == d.best.has_value());
    if (r.has_plan()) CHECK(r.goal() == *d.best);
    if (start.empty()) {
      CHECK(r.search.start.empty());
      continue;
    }
    ++(r.search.start == "plan" ? kept : none);
    CHECK(r.search.start == (r.search.start_value ? "plan" : "none"));
    if (!r.search.start_value || !d.best) continue;
    const bool maximize = d.model.goal_sense() == Sense::maximize;
    const double best = d.best->to_double(), first = *r.search.start_value;
    CHECK((maximize ? first <= best + 1e-9 : first >= best - 1e-9));
    if (r.search.root_bound)
      CHECK((maximize ? *r.search.root_bound >= best - 1e-9 : *r.search.root_bound <= best + 1e-9));
  }
  CHECK(kept > 20);
  CHECK(none > 20);
  const Drawn one = draw(random), other = draw(random);
  SolveOptions foreign;
  foreign.start.emplace_back(other.pick["i0"], Rational(1));
  CHECK_THROWS_AS(solve(one.model, foreign), UsageError);
}

TEST_CASE("a limit that no double says is proven, and equations under conditions end a search",
          "[methods][solve]") {
  const Result most =
      solve(test::model_of("decide x integer 0 .. 9007199254740993\nmaximize g: x\n"));
  CHECK(most.outcome == Outcome::optimal);
  CHECK(most.goal() == *Rational::parse("9007199254740993"));
  SolveOptions few;
  few.nodes = 1000;
  const Result endless = solve(
      test::model_of("decide u integer -inf .. 5\ndecide v integer 1 .. inf\ndecide b binary\n"
                     "minimize g: 2 * u - v\n"
                     "rule r: (not b and at most 1 of (b, 3 * u + 3 * v = 1, b)) implies b\n"),
      few);
  CHECK(endless.outcome == Outcome::unbounded);
  // The same where it takes two equations to see that there is no whole solution.
  const Result two =
      solve(test::model_of(
                "decide u integer -inf .. inf\ndecide v integer -inf .. inf\n"
                "decide b binary\nmaximize g: b + 0 * u\n"
                "rule one: b implies 2 * u + 3 * v = 7\nrule two: b implies 4 * u + 3 * v = 2\n"),
            few);
  CHECK(two.outcome == Outcome::optimal);
  CHECK(two.goal() == Rational(0));
}
