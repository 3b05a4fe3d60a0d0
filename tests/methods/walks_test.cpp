// Ways that walk from plan to plan: no plan of theirs is better than the proven best or unchecked,
// the same seed gives the same plan, limits are kept, and scores by changes are those from scratch.
#include <algorithm>
#include <cmath>
#include <set>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "base/work.hpp"
#include "methods/walks/standing.hpp"
#include "methods/walks/walk.hpp"
#include "support/knot.hpp"
#include "support/random_knot.hpp"

using namespace kiteknot;
using methods::CompiledModel;
using methods::Move;
using methods::Standing;

namespace {

// Kinds of models that people plan by hand, small enough to be proven at once.
std::string knapsacks(Random& random) {
  const auto n = random.between(4, 12), rules = random.between(1, 3);
  std::string text = "model \"Bags\"\ntable items key item rows\n item, worth";
  for (std::int64_t r = 0; r < rules; ++r) text += fmt::format(", use{}", r);
  for (std::int64_t i = 0; i < n; ++i) {
    text += fmt::format("\n i{}, {}", i, random.between(3, 40));
    for (std::int64_t r = 0; r < rules; ++r) text += fmt::format(", {}", random.between(0, 15));
  }
  text += random.chance(0.5) ? "\n\ndecide take[i in items] binary\n"
                             : "\n\ndecide take[i in items] integer 0 .. 3\n";
  text += "maximize worth: total(i.worth * take[i] over i in items)\n";
  for (std::int64_t r = 0; r < rules; ++r)
    text += fmt::format("rule room{}: total(i.use{} * take[i] over i in items) <= {}\n", r, r,
                        random.between(10, 40));
  return text;
}

std::string assignments(Random& random) {
  const auto people = random.between(2, 4), jobs = random.between(3, 6);
  std::string text = "model \"Jobs\"\ntable people key person rows\n person, room\n";
  for (std::int64_t p = 0; p < people; ++p)
    text += fmt::format(" p{}, {}\n", p, random.between(12, 25));
  text += "table jobs key job rows\n job\n";
  for (std::int64_t j = 0; j < jobs; ++j) text += fmt::format(" j{}\n", j);
  text += "table pairs key person in people, job in jobs rows\n person, job, cost, use\n";
  for (std::int64_t p = 0; p < people; ++p)
    for (std::int64_t j = 0; j < jobs; ++j)
      text += fmt::format(" p{}, j{}, {}, {}\n", p, j, random.between(5, 25), random.between(3, 9));
  return text + R"(
decide does[b in pairs] binary
minimize cost: total(b.cost * does[b] over b in pairs)
rule once[j in jobs]: total(does[b] over b in pairs where b.job = j) = 1
rule room[p in people]: total(b.use * does[b] over b in pairs where b.person = p) <= p.room
)";
}

std::string logic(Random& random) {
  const auto n = random.between(4, 8);
  std::string text = "model \"Stalls\"\ntable stalls key stall rows\n stall, gain, cost\n";
  for (std::int64_t i = 0; i < n; ++i)
    text += fmt::format(" s{}, {}, {}.5\n", i, random.between(1, 20), random.between(1, 9));
  text += fmt::format(R"(
decide open[s in stalls] binary
decide lamps integer 0 .. 6
let spent = total(s.cost * open[s] over s in stalls)
maximize gain: total(s.gain * open[s] over s in stalls) - 2 * lamps - max(spent - 12, 0)
rule few: at most {} of (open[s] over s in stalls)
rule some: at least 1 of (open[s] over s in stalls)
rule light: lamps >= total(open[s] over s in stalls) - 2
)",
                      random.between(2, n));
  text += "rule tie: open[\"s0\"] implies open[\"s1\"] or not open[\"s2\"]\n";
  if (random.chance(0.5)) text += "rule apart: open[\"s1\"] xor open[\"s3\"]\n";
  if (random.chance(0.5)) text += "rule both: open[\"s2\"] * open[\"s3\"] <= lamps or pay 3 each\n";
  return text;
}

std::string facilities(Random& random) {
  const auto depots = random.between(2, 5), fields = random.between(3, 6);
  std::string text = "model \"Depots\"\ntable depots key depot rows\n depot, rent, room\n";
  for (std::int64_t d = 0; d < depots; ++d)
    text += fmt::format(" d{}, {}, {}\n", d, random.between(20, 60), random.between(15, 40));
  text += "table fields key field rows\n field, need\n";
  for (std::int64_t f = 0; f < fields; ++f)
    text += fmt::format(" f{}, {}\n", f, random.between(2, 6));
  text += "table lanes key depot in depots, field in fields rows\n depot, field, rate\n";
  for (std::int64_t d = 0; d < depots; ++d)
    for (std::int64_t f = 0; f < fields; ++f)
      text += fmt::format(" d{}, f{}, {}\n", d, f, random.between(1, 9));
  return text + R"(
decide open[d in depots] binary
decide ship[l in lanes] real 0 .. l.field.need
minimize cost: total(d.rent * open[d] over d in depots) + total(l.rate * ship[l] over l in lanes)
rule need[f in fields]: total(ship[l] over l in lanes where l.field = f) = f.need
rule room[d in depots]: total(ship[l] over l in lanes where l.depot = d) <= d.room * open[d]
)";
}

std::string any_kind(Random& random, std::int64_t kind) {
  switch (kind % 4) {
    case 0:
      return knapsacks(random);
    case 1:
      return assignments(random);
    case 2:
      return logic(random);
    default:
      return facilities(random);
  }
}

std::vector<std::string> walks() {
  std::vector<std::string> names;
  for (const auto& way : methods::walk_ways()) names.push_back(way.name);
  return names;
}

// Content with the proven best: else every walk goes to the end of its steps.
class Content final : public Observer {
 public:
  explicit Content(std::optional<Rational> best) : best_(std::move(best)) {}
  bool enough(const Progress& p) override {
    return best_ && p.best && std::abs(*p.best - best_->to_double()) < 1e-9;
  }

 private:
  std::optional<Rational> best_;
};

// Runs a way, or nothing where it does not take the model.
std::optional<MethodAnswer> run(const std::string& way, const Model& m, SolveOptions options = {},
                                const std::optional<Rational>& best = {}) {
  Content content(best);
  try {
    return method(way).run(m, options, &content)[0];
  } catch (const UsageError&) {
    return {};
  }
}

bool no_better(const Model& m, const Rational& value, const Rational& best) {
  return m.goal_sense() == Sense::maximize ? value <= best : value >= best;
}

}  // namespace

TEST_CASE("no walk finds a plan that is better than the proven best, and all hold as stated",
          "[methods]") {
  Random random(11);
  std::size_t plans = 0, best_found = 0;
  for (std::int64_t k = 0; k < 40; ++k) {
    const Model m = test::model_of(any_kind(random, k));
    const Result best = solve(m);
    for (const std::string& way : walks()) {
      const std::optional<MethodAnswer> a =
          run(way, m, {}, best.has_plan() ? best.report->goal : std::nullopt);
      if (!a || !a->report) continue;
      INFO(way << " on " << m.title() << " " << k);
      CHECK(a->report->feasible == check(m, *a->plan).feasible);
      if (a->bound && best.has_plan()) CHECK(no_better(m, *best.report->goal, Rational(*a->bound)));
      if (!a->report->feasible) continue;
      REQUIRE(best.outcome == Outcome::optimal);
      ++plans;
      CHECK(no_better(m, *a->report->goal, *best.report->goal));
      best_found += *a->report->goal == *best.report->goal ? 1 : 0;
      // What was told on the way ends at the plan, each better than the one before.
      REQUIRE(!a->progress.empty());
      CHECK(*a->progress.back().best == Approx(a->report->goal->to_double()));
      for (std::size_t p = 1; p < a->progress.size(); ++p) {
        CHECK(no_better(m, Rational(*a->progress[p - 1].best), Rational(*a->progress[p].best)));
        CHECK(a->progress[p].seconds >= a->progress[p - 1].seconds);
      }
    }
  }
  CHECK(plans > 250);
  CHECK(3 * best_found > 2 * plans);  // small models: most walks come to the best
}

TEST_CASE("the same seed gives the same plan, and another seed another walk", "[methods]") {
  Random random(5);
  for (std::int64_t k = 0; k < 4; ++k) {
    const Model m = test::model_of(any_kind(random, k));
    const Result best = solve(m);
    const std::optional<Rational> goal = best.has_plan() ? best.report->goal : std::nullopt;
    for (const std::string& way : walks()) {
      const auto once = run(way, m, {.seed = 3}, goal), again = run(way, m, {.seed = 3}, goal);
      if (!once || !once->plan) continue;
      INFO(way);
      CHECK(once->plan->values() == again->plan->values());
      CHECK(once->progress.size() == again->progress.size());
    }
  }
}

TEST_CASE("a walk ends at its limit, and at once when it is stopped by hand", "[methods]") {
  Random random(17);
  std::string text = knapsacks(random);
  const Model m = test::model_of(text);
  StopSwitch pressed;
  pressed.press();
  for (const std::string& way : walks()) {
    INFO(way);
    const Stopwatch clock;
    (void)run(way, m, {.seconds = 0.05});
    CHECK(clock.seconds() < 20.0);  // that it ends; by how much it is late is measured in bench/
    const Stopwatch stopped;
    (void)run(way, m, {.stop = pressed.token()});
    CHECK(stopped.seconds() < 20.0);
  }
}

TEST_CASE("an observer that has enough ends a walk at its plan", "[methods]") {
  struct Enough final : Observer {
    int heard = 0;
    bool enough(const Progress&) override { return ++heard > 0; }
  };
  Random random(23);
  const Model m = test::model_of(knapsacks(random));
  for (const std::string& way : walks()) {
    if (!method(way).takes(m)) continue;
    Enough observer;
    try {
      (void)method(way).run(m, {}, &observer);
    } catch (const UsageError&) {
      continue;
    }
    CHECK(observer.heard >= 1);
  }
}

TEST_CASE("scores by changes are those from scratch, over many random moves", "[methods]") {
  Random random(29);
  for (std::int64_t k = 0; k < 24; ++k) {
    const Model m = test::model_of(any_kind(random, k % 3));  // without reals
    const CompiledModel compiled(m.data());
    Standing standing(compiled);
    const auto n = compiled.num_decisions();
    const auto drawn = [&](Index d) {
      const methods::DecisionRange& r = compiled.ranges[at(d)];
      return static_cast<double>(
          random.between(static_cast<std::int64_t>(r.lower), static_cast<std::int64_t>(r.upper)));
    };
    for (int step = 0; step < 2'000; ++step) {
      std::vector<Move> moves;
      for (std::int64_t j = random.between(1, 3); j > 0; --j) {
        const auto d = static_cast<Index>(random.between(0, n - 1));
        if (std::ranges::none_of(moves, [d](const Move& x) { return x.decision == d; }))
          moves.push_back({d, drawn(d)});
      }
      const methods::Score before = standing.score(), tried = standing.tried(moves);
      CHECK(standing.score() == before);
      const std::size_t mark = standing.mark();
      standing.take(moves);
      CHECK(standing.score().goal == Approx(tried.goal).margin(1e-9));
      CHECK(standing.score().broken == Approx(tried.broken).margin(1e-9));
      if (random.chance(0.3)) {
        standing.undo_to(mark);
        CHECK(standing.score().goal == Approx(before.goal).margin(1e-9));
        CHECK(standing.score().broken == Approx(before.broken).margin(1e-9));
      } else if (random.chance(0.2)) {
        standing.keep();
      }
      if (step % 100 != 0) continue;
      // From scratch, and as the check as stated has it.
      Standing fresh(compiled);
      fresh.take_all(standing.values());
      fresh.refresh();
      CHECK(fresh.goal() == Approx(standing.goal()).margin(1e-9));
      CHECK(fresh.score().broken == Approx(standing.score().broken).margin(1e-9));
      std::set<Index> a(fresh.broken_rules().begin(), fresh.broken_rules().end());
      std::set<Index> b(standing.broken_rules().begin(), standing.broken_rules().end());
      CHECK(a == b);
      std::vector<Rational> values;
      for (Index d = 0; d < n; ++d) values.emplace_back(standing.value(d));
      const PlanReport report = check(m, Plan(m, values));
      CHECK(report.feasible == standing.broken_rules().empty());
      CHECK(report.goal->to_double() == Approx(compiled.told_goal(standing.goal())).margin(1e-9));
    }
  }
}

TEST_CASE("what a way cannot take it refuses by name, saying what", "[methods]") {
  using Catch::Matchers::Contains;
  const Model amounts = test::model_of(
      "model \"Blend\"\ndecide x real 0 .. 4\nmaximize gain: x\nrule room: 2 * x <= 5\n");
  CHECK_THROWS_WITH(method("tabu").run(amounts, {}, nullptr),
                    Contains("'tabu' does not take this model") && Contains("amounts"));
  CHECK(!method("tabu").takes(amounts));
  Random random(2);
  const Model depots = test::model_of(facilities(random));
  CHECK_THROWS_WITH(method("violations").run(depots, {}, nullptr), Contains("'violations'"));
  CHECK_THROWS_WITH(method("multipliers").run(depots, {}, nullptr), Contains("'multipliers'"));
  CHECK_THROWS_WITH(method("greedy by regret").run(depots, {}, nullptr), Contains("second best"));
}

TEST_CASE("multipliers prove a bound: where choices are equations it is the relaxation's or better",
          "[methods]") {
  Random random(41);
  int bounds = 0;
  for (int k = 0; k < 20; ++k) {
    const Model m = test::model_of(assignments(random));
    const Result best = solve(m), relaxed = solve_relaxed(m);
    if (!best.has_plan()) continue;
    const auto a = run("multipliers", m, {.seconds = 0.2});
    REQUIRE(a);
    REQUIRE(a->bound);
    ++bounds;
    CHECK(Rational(*a->bound) <= *best.report->goal);
    // Choices alone have whole vertices: no further than the relaxation, but for steps that ended.
    CHECK(*a->bound >= 0.9 * relaxed.goals[0].value->to_double());
  }
  CHECK(bounds > 5);
}

TEST_CASE(
    "random models of logic, curves and listed values: a compiled point breaks what the "
    "check says it breaks",
    "[methods]") {
  Random random(97);
  int looked = 0, held = 0;
  for (int k = 0; k < 400; ++k) {
    const test::Drawn d = test::Draw(static_cast<std::uint64_t>(k)).model();
    const Reading<Model> read = parse_knot(d.text, "drawn.knot");
    if (!read.ok()) continue;
    const Model& m = read.value();
    std::optional<CompiledModel> compiled;
    try {
      compiled.emplace(m.data());
    } catch (const UsageError&) {
      continue;  // figures that make no curve
    }
    Standing standing(*compiled);
    for (int point = 0; point < 20; ++point) {
      Plan plan(m);
      std::vector<Move> moves;
      for (std::size_t j = 0; j < d.names.size(); ++j) {
        const Decision decision = m.decision(d.names[j]);
        const Rational value = d.values[j][static_cast<std::size_t>(
            random.between(0, static_cast<std::int64_t>(d.values[j].size()) - 1))];
        plan.set(decision, value);
        moves.push_back({decision.id, value.to_double()});
      }
      standing.take(moves);
      standing.keep();
      PlanReport report;
      try {
        report = check(m, plan);
      } catch (const UsageError&) {
        break;  // a curve of figures alone, outside its range
      }
      INFO(d.text);
      ++looked;
      held += report.feasible ? 1 : 0;
      CHECK(standing.broken_rules().empty() == report.feasible);
      if (report.feasible && report.goal)
        CHECK(compiled->told_goal(standing.goal()) ==
              Approx(report.goal->to_double()).margin(1e-9));
    }
  }
  CHECK(looked > 2'000);
  CHECK(held > 200);
}
