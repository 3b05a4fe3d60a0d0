// Random models under every method and under chains of changes: nothing beats the proof, nothing
// that is called feasible breaks a rule, and warm answers are cold answers.
#include <algorithm>
#include <cmath>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

struct Drawn {
  Model model{"Random"};
  std::vector<Number> limits;
  std::vector<std::string> rules;
};

// Packing or covering over whole and real decisions, with a limit that can be set for every rule.
Drawn draw(Random& random) {
  Drawn d;
  const bool packing = random.chance(0.5);
  std::vector<Decision> x;
  const int n = static_cast<int>(random.between(2, 9)),
            rules = static_cast<int>(random.between(1, 4));
  Expression goal;
  for (int j = 0; j < n; ++j) {
    const std::string name = "x" + std::to_string(j);
    const auto high = random.between(1, 4);
    x.push_back(random.chance(0.8) ? d.model.integer(name, {}, between(0, high)).only()
                                   : d.model.real(name, {}, between(0, high)).only());
    goal += Rational::ratio(random.between(1, 60), 4) * Expression(x.back());
  }
  for (int i = 0; i < rules; ++i) {
    Expression sum;
    for (const Decision& v : x) sum += Rational(random.between(0, 9)) * Expression(v);
    d.rules.push_back("rule" + std::to_string(i));
    d.limits.push_back(d.model.number("limit" + std::to_string(i), random.between(4, 30)));
    d.model.rule(d.rules.back(),
                 packing ? sum <= Expression(d.limits.back()) : sum >= Expression(d.limits.back()));
  }
  packing ? d.model.maximize("worth", goal) : d.model.minimize("cost", goal);
  return d;
}

}  // namespace

TEST_CASE("no method beats the proof, and what is called feasible is", "[study][oracle]") {
  Random random(501);
  int greedy_met = 0, greedy_best = 0, repaired = 0;
  for (int round = 0; round < 250; ++round) {
    CAPTURE(round);
    const Drawn d = draw(random);
    const Comparison c = compare(d.model, {"exact", "relaxed", "rounded", "greedy"});
    // Nothing to round where nothing is feasible, nothing to repair where the rounding is.
    const auto roundings = static_cast<std::size_t>(
        std::count_if(c.answers.begin(), c.answers.end(),
                      [](const MethodAnswer& a) { return a.method == "rounded"; }));
    REQUIRE(c.answers.size() == roundings + 3);
    REQUIRE((roundings == 3 || roundings == (c.best ? 4U : 1U)));
    if (roundings == 4) {
      ++repaired;
      const MethodAnswer& fixed = c.answers[5];
      REQUIRE(fixed.label == "rounded, repaired");
      CHECK(fixed.report->feasible);
    }
    const MethodAnswer& exact = c.answers[0];
    const bool up = solve(d.model).goals[0].sense == Sense::maximize;
    for (const MethodAnswer& a : c.answers) {
      if (!a.plan) continue;
      CAPTURE(a.label);
      const bool relaxed = a.method == "relaxed";
      CHECK(check(d.model, *a.plan, relaxed).feasible == a.report->feasible);
      if (!a.report->feasible || !c.best) continue;
      if (relaxed)
        CHECK((up ? *a.report->goal >= *c.best : *a.report->goal <= *c.best));
      else if (a.report->exact)
        CHECK((up ? *a.report->goal <= *c.best : *a.report->goal >= *c.best));
      if (a.method != "greedy") continue;
      ++greedy_met;
      greedy_best += *a.report->goal == *c.best ? 1 : 0;
      Rational sum = 0;
      for (const GreedyPick& p : a.picks) sum += p.worth;
      CHECK(sum == *a.report->goal);
    }
    // A feasible rounding or greedy plan contradicts a proof of infeasibility.
    if (exact.outcome == Outcome::infeasible)
      for (const MethodAnswer& a : c.answers) CHECK_FALSE((a.plan && a.report->feasible));
  }
  CHECK(repaired > 40);
  CHECK(greedy_met > 100);
  CHECK(greedy_best < greedy_met);  // it is a heuristic after all
}

TEST_CASE("warm answers through random chains of changes are cold answers", "[study][oracle]") {
  Random random(502);
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    const Drawn d = draw(random);
    Study study(d.model);
    Model fresh = d.model;
    for (int step = 0; step < 6; ++step) {
      CAPTURE(step);
      const auto k = static_cast<std::size_t>(
          random.between(0, static_cast<std::int64_t>(d.limits.size()) - 1));
      switch (random.between(0, 2)) {
        case 0: {
          const Rational value = Rational::ratio(random.between(0, 120), 4);
          study.set(d.limits[k], value);
          fresh.set(d.limits[k], value);
          break;
        }
        case 1:
          study.without(d.rules[k]);
          fresh.without(d.rules[k]);
          break;
        default:
          study.with(d.rules[k]);
          fresh.with(d.rules[k]);
      }
      const Result warm = study.solve(), cold = solve(fresh);
      REQUIRE(warm.outcome == cold.outcome);
      if (!cold.has_plan()) continue;
      CHECK(warm.goal() == cold.goal());
      CHECK(warm.report->feasible);
      CHECK(std::abs(*warm.relaxed.value - *cold.relaxed.value) <=
            1e-9 * (1.0 + std::abs(*cold.relaxed.value)));
    }
  }
}

TEST_CASE("pages can be made of anything that comes out", "[study][report]") {
  Random random(503);
  for (int round = 0; round < 80; ++round) {
    const Drawn d = draw(random);
    SolveOptions few;
    few.nodes = 1;
    for (const SolveOptions& options : {SolveOptions{}, few}) {
      const Result r = solve(d.model, options);
      CHECK(answer_page(r).find("Random") == 0);
      CHECK(result_document(r).find("\"kiteknot-result\"") != std::string::npos);
    }
    CHECK(comparison_page(d.model, compare(d.model, {"exact", "greedy", "rounded", "relaxed"}))
              .find("ways side by side") != std::string::npos);
    CHECK(show_page(d.model).find("Random\n") == 0);
  }
}
