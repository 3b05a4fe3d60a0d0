// Products, quotients, powers, exp and log of decisions in models: read, read back, lowered, solved
// against trying all points, refused where they have no value.

#include <cmath>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "model/lowering.hpp"
#include "support/knot.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

constexpr const char* kHead = "model \"sizes\"\n";

bool exactly_lowered(const std::string& text) {
  const Model m = model_of(kHead + text);
  return lower(m.data()).problem.exact();
}

double best_of(const std::string& text) {
  const Result r = solve(model_of(kHead + text));
  INFO(text << word(r.outcome) << " " << r.reason);
  REQUIRE(r.outcome == Outcome::optimal);
  REQUIRE(r.goals[0].bound);
  CHECK(std::abs(*r.goals[0].bound - r.goal().to_double()) <=
        2e-6 * std::max(1.0, std::abs(r.goal().to_double())));
  return r.goal().to_double();
}

std::string refused_when_solved(const std::string& text) {
  try {
    (void)solve(model_of(kHead + text));
  } catch (const UsageError& e) {
    return e.what();
  }
  return "nothing was refused";
}

}  // namespace

TEST_CASE("what rows can say of powers and products is said by rows", "[nonlinear]") {
  CHECK(exactly_lowered("decide b binary\nrule r: b ^ 7 + b ^ 2 <= 1\n"));
  CHECK(exactly_lowered("decide b binary\ndecide c binary\nrule r: b * c * b <= 0\n"));
  CHECK(exactly_lowered("decide n integer -3 .. 9\nrule r: n ^ 2 = 4\n"));
  CHECK(exactly_lowered("decide n integer 1 .. 12\nrule r: 12 / n >= 3\n"));
  CHECK(exactly_lowered(
      "decide s one of 2, 2.5, 4\ndecide x real 0 .. 9\nrule r: s ^ 3 * x <= 40\n"));
  CHECK(exactly_lowered("decide b binary\ndecide x real 0 .. 9\nrule r: b * x >= 4\n"));
  CHECK_FALSE(exactly_lowered("decide x real 0 .. 9\nrule r: x ^ 2 <= 40\n"));
  CHECK_FALSE(exactly_lowered("decide n integer 0 .. 9\nrule r: sqrt(n) <= 2\n"));
  CHECK_FALSE(exactly_lowered("decide x real 0 .. 9\ndecide y real 1 .. 9\nrule r: x / y <= 2\n"));
}

TEST_CASE("terms of one structure are one column", "[nonlinear]") {
  const auto columns = [](const std::string& rules) {
    return lower(model_of(
                     kHead +
                     ("decide x real 1 .. 9\ndecide y real 1 .. 9\ndecide z real 1 .. 9\n" + rules))
                     .data())
        .problem.num_columns();
  };
  CHECK(columns("rule r: x * y <= 9\n") == 4);
  CHECK(columns("rule r: x * y <= 9\nrule s: y * x >= 2\nrule t: z + x * y <= 12\n") == 4);
  CHECK(columns("rule r: x * y * x <= 9\nrule s: x ^ 2 * y >= 2\n") == 5);
  CHECK(columns("rule r: x * y / x <= 9\n") == 4);  // y, held at its own column
  CHECK(columns("rule r: (x ^ 2) ^ 0.5 <= 9\n") == 4);
}

TEST_CASE("nonlinear expressions read back as they can be read", "[nonlinear][text]") {
  const std::string stated =
      "decide x real 1 .. 9\ndecide y real 1 .. 9\n"
      "rule r: 2 * x ^ 2 * y - (x + y) ^ 0.5 / y + exp(-x) * log(x + 1) + sqrt(x) <= 30\n";
  const std::string shown = show_page(model_of(kHead + stated));
  INFO(shown);
  CHECK(shown.find("2 x ^ 2 * y - (x + y) ^ 0.5 / y + exp(-x) * log(x + 1) + sqrt(x) <= 30") !=
        std::string::npos);
  CHECK(shown.find("split where it is off") != std::string::npos);
  // Of the same values the text that was read back says the same.
  const Model one = model_of(kHead + stated);
  const Model two = model_of(kHead + std::string("decide x real 1 .. 9\ndecide y real 1 .. 9\n"
                                                 "rule r: 2 * x ^ 2 * y - (x + y) ^ 0.5 / y + "
                                                 "exp(-x) * log(x + 1) + sqrt(x) <= 30\n"));
  for (int k = 1; k < 9; ++k) {
    const std::vector<Rational> at = {Rational(k), Rational(10 - k)};
    CHECK(check(one, Plan(one, at)).rules[0].value == check(two, Plan(two, at)).rules[0].value);
  }
}

TEST_CASE("functions of data are figures", "[nonlinear]") {
  const Model m = model_of(kHead + std::string("number k = 2\ndecide x real 0 .. 100\n"
                                               "maximize top: x\n"
                                               "rule a: x <= 3 ^ 2 + sqrt(16) + 8 ^ (1 / 3)\n"
                                               "rule b: x <= k ^ 5 / 2 - exp(0) + log(1)\n"));
  CHECK(solve(m).goal() == Rational(15));
  CHECK(proven(kHead + std::string("decide n integer 0 .. 90\nmaximize top: n\n"
                                   "rule a: n <= -2 ^ 2 + 2 ^ 3 ^ 2 / 8 + (-3) ^ 2\n")) ==
        Rational(69));
}

TEST_CASE("integer models with products and powers end as trying all plans does",
          "[nonlinear][trust]") {
  Random random(81);
  int with_plan = 0, without = 0;
  for (int k = 0; k < 250; ++k) {
    std::string text;
    const int n = static_cast<int>(random.between(2, 3));
    const char* names[] = {"a", "b", "c"};
    std::vector<std::vector<Rational>> values;
    for (int j = 0; j < n; ++j) {
      if (random.chance(0.25)) {
        text += std::string("decide ") + names[j] + " one of 0.5, 1, 2.5, 4\n";
        values.push_back({Rational(0.5), 1, Rational(2.5), 4});
      } else {
        const int low = static_cast<int>(random.between(random.chance(0.5) ? 1 : -3, 2));
        const int high = low + static_cast<int>(random.between(1, 5));
        text += "decide " + std::string(names[j]) + " integer " + std::to_string(low) + " .. " +
                std::to_string(high) + "\n";
        values.emplace_back();
        for (int v = low; v <= high; ++v) values.back().emplace_back(v);
      }
    }
    const auto term = [&] {
      const std::string x = names[random.between(0, n - 1)], y = names[random.between(0, n - 1)],
                        z = names[random.between(0, n - 1)];
      switch (random.between(0, 6)) {
        case 0:
          return x + " ^ 2";
        case 1:
          return x + " * " + y + " * " + z;
        case 2:
          return "(" + x + " - " + y + ") ^ 3";
        case 3:
          return "exp(" + x + " / 3)";
        case 4:
          return "sqrt(" + x + " ^ 2 + " + y + " ^ 2)";
        case 5:
          return "log(" + x + " ^ 2 + 1) * " + y;
        default:
          return x + " * " + y;
      }
    };
    const auto sum = [&] {
      std::string s = term();
      for (auto more = random.between(0, 2); more > 0; --more)
        s += (random.chance(0.5) ? " + " : " - ") + std::to_string(random.between(1, 3)) + " * " +
             term();
      return s;
    };
    text += (random.chance(0.5) ? "minimize" : "maximize") + std::string(" g: ") + sum() + "\n";
    for (int r = static_cast<int>(random.between(0, 2)); r > 0; --r)
      text += "rule r" + std::to_string(r) + ": " + sum() +
              (random.chance(0.2)   ? " = "
               : random.chance(0.5) ? " <= "
                                    : " >= ") +
              std::to_string(random.between(-6, 12)) + "\n";
    if (random.chance(0.3))
      text += "rule when: " + std::string(names[0]) + " >= 2 implies " + term() +
              " <= " + std::to_string(random.between(1, 9)) + "\n";
    const Model m = model_of(kHead + text);
    INFO(text);
    std::optional<Rational> best;
    std::vector<Rational> at;
    const auto visit = [&](const auto& self) -> void {
      if (at.size() == values.size()) {
        const PlanReport report = check(m, Plan(m, at));
        if (!report.feasible) return;
        const bool better = !best || (m.goal_sense() == Sense::minimize ? *report.goal < *best
                                                                        : *report.goal > *best);
        if (better) best = *report.goal;
        return;
      }
      for (const Rational& v : values[at.size()]) {
        at.push_back(v);
        self(self);
        at.pop_back();
      }
    };
    visit(visit);
    const Result r = solve(m);
    INFO(word(r.outcome) << " " << r.reason);
    if (!best) {
      ++without;
      REQUIRE(r.outcome == Outcome::infeasible);
      continue;
    }
    ++with_plan;
    REQUIRE(r.outcome == Outcome::optimal);
    CHECK((r.goal() - *best).abs().to_double() <=
          2e-6 * std::max(1.0, std::abs(best->to_double())));
  }
  CHECK(with_plan > 120);
  CHECK(without > 15);
}

TEST_CASE("models over reals reach known optima", "[nonlinear]") {
  // Of all boxes of volume 8 the cube has the least surface.
  CHECK(best_of("decide a real 0.5 .. 8\ndecide b real 0.5 .. 8\ndecide c real 0.5 .. 8\n"
                "minimize skin: 2 * (a * b + b * c + a * c)\nrule volume: a * b * c >= 8\n") ==
        Approx(24.0).epsilon(2e-6));
  // The least distance from a point to a curve; local answers end elsewhere.
  double least = 1e9;
  for (double x = -3.0; x <= 3.0; x += 1e-5)
    least = std::min(least, std::hypot(x - 1.5, x * x * x - 3.0 * x - 1.0));
  CHECK(best_of("decide x real -3 .. 3\ndecide y real -20 .. 20\n"
                "minimize away: sqrt((x - 1.5) ^ 2 + (y - 1) ^ 2)\n"
                "rule on: y = x ^ 3 - 3 * x\n") == Approx(least).epsilon(1e-5));
  // A share that is divided, with a whole number of parts.
  CHECK(best_of("decide n integer 1 .. 40\ndecide x real 0.1 .. 9\n"
                "minimize cost: 3 * n + 50 / n + x / n + 2 / x\n") ==
        Approx([] {
          double best = 1e9;
          for (int n = 1; n <= 40; ++n)
            for (double x = 0.1; x <= 9.0; x += 1e-4)
              best = std::min(best, 3.0 * n + 50.0 / n + x / n + 2.0 / x);
          return best;
        }())
            .epsilon(1e-6));
}

TEST_CASE("costs that bend and are switched on: the best set of those tried one by one",
          "[nonlinear]") {
  Random random(75);
  for (int k = 0; k < 15; ++k) {
    constexpr int kStalls = 6, kFew = 3;
    std::string text, goal, few;
    std::vector<double> worth;
    for (int s = 0; s < kStalls; ++s) {
      const auto w = random.between(5, 60), bend = random.between(1, 8),
                 rent = random.between(5, 90);
      text += fmt::format("decide open{0} binary\ndecide size{0} real 0 .. 10\n", s);
      goal += fmt::format("{}{} * size{} - {} * size{} ^ 2 - {} * open{}", s == 0 ? "" : " + ", w,
                          s, bend, s, rent, s);
      few += fmt::format("{}open{}", s == 0 ? "" : " + ", s);
      text += fmt::format("rule link{0}: size{0} <= 10 * open{0}\n", s);
      const double x = std::min(10.0, 0.5 * static_cast<double>(w) / static_cast<double>(bend));
      worth.push_back(static_cast<double>(w) * x - static_cast<double>(bend) * x * x -
                      static_cast<double>(rent));
    }
    double best = 0.0;
    for (unsigned set = 0; set < 1u << kStalls; ++set) {
      double sum = 0.0;
      int count = 0;
      for (int s = 0; s < kStalls; ++s)
        if ((set >> s & 1u) != 0) sum += worth[static_cast<std::size_t>(s)], ++count;
      if (count <= kFew) best = std::max(best, sum);
    }
    CHECK(best_of(text + "maximize profit: " + goal + "\nrule few: " + few + " <= 3\n") ==
          Approx(best).epsilon(2e-6).margin(1e-6));
  }
}

TEST_CASE("scaled and shifted copies give the same answer", "[nonlinear][trust]") {
  const double plain = best_of(
      "decide x real 1 .. 6\ndecide y real 1 .. 6\nminimize c: x + 3 * y - sqrt(x * y)\n"
      "rule r: x * y + x ^ 2 >= 12\n");
  const double scaled = best_of(
      "decide x real 1000 .. 6000\ndecide y real 0.001 .. 0.006\n"
      "minimize c: x / 1000 + 3000 * y - sqrt(x * y)\n"
      "rule r: x * y + (x / 1000) ^ 2 >= 12\n");
  const double shifted = best_of(
      "decide u real -3 .. 2\ndecide v real 8 .. 13\n"
      "minimize c: u + 4 + 3 * (v - 7) - sqrt((u + 4) * (v - 7))\n"
      "rule r: (u + 4) * (v - 7) + (u + 4) ^ 2 >= 12\n");
  CHECK(scaled == Approx(plain).epsilon(3e-6));
  CHECK(shifted == Approx(plain).epsilon(3e-6));
}

TEST_CASE("where a term may have no value the decision that needs a bound is told", "[nonlinear]") {
  using Catch::Contains;
  CHECK_THAT(refused_when_solved("decide x real 0 .. inf\ndecide y real 1 .. 2\n"
                                 "rule r: x * y >= 4\n"),
             Contains("x has no greatest value") && Contains("x needs a bound"));
  CHECK_THAT(refused_when_solved("decide x real 0 .. 9\nrule r: log(x) >= -3\n"),
             Contains("rule r") && Contains("x") && Contains("above 0"));
  CHECK_THAT(refused_when_solved("decide x real -1 .. 9\nrule r: sqrt(x + 0) <= 2\n"),
             Contains("from 0") && Contains("x needs a bound"));
  CHECK_THAT(refused_when_solved("decide x real 0 .. 9\nrule r: 3 / x <= 2\n"),
             Contains("may be 0") && Contains("x needs a bound away from 0"));
  CHECK_THAT(refused_when_solved("decide x real -2 .. 9\nrule r: x ^ -2 <= 2\n"),
             Contains("may be 0"));
  // Rules count as much as limits do.
  CHECK(best_of("decide x real 0 .. 9\ndecide y real 0 .. inf\nmaximize g: log(x) - x * y / 9\n"
                "rule a: x >= 1\nrule b: y + x <= 12\n") == Approx(std::log(9.0)).epsilon(1e-6));
}

TEST_CASE("a plan by hand is told where a term has no value", "[nonlinear]") {
  const Model m = model_of(kHead + std::string("decide x real -9 .. 9\nrule r: 3 / x <= 2\n"));
  const PlanReport report = check(m, Plan(m, {Rational(0)}));
  CHECK_FALSE(report.feasible);
  CHECK(check(m, Plan(m, {Rational(2)})).feasible);
}

TEST_CASE("a plan is judged by what a term may be at worst, not by its nearest double",
          "[nonlinear][trust]") {
  // The nearest double of x is 1, whose log is 0.
  const Model m = model_of(
      kHead + std::string("decide x real 1 .. 2\nrule low: 100000000000000 * log(x) <= 0.005\n"));
  CHECK_FALSE(check(m, Plan(m, {*Rational::parse("1.0000000000000001")})).feasible);
  CHECK(check(m, Plan(m, {Rational(1)})).feasible);
  // Fractions stay fractions through roots and powers, and what is met is met exactly.
  const Model roots = model_of(
      kHead +
      std::string("decide x real 0 .. 9\ndecide y real 0 .. 9\nrule same: sqrt(x) * y ^ 3 = 16\n"));
  const auto report = check(roots, Plan(roots, {4, 2}));
  CHECK(report.feasible);
  CHECK(report.exact);
  CHECK_FALSE(check(roots, Plan(roots, {4, *Rational::parse("2.0000001")})).feasible);
  // A root that no fraction is: within what reals are allowed, but not told to be exact.
  const auto near = check(roots, Plan(roots, {2, *Rational::parse("2.2449240966187461")}));
  CHECK(near.feasible);
  CHECK_FALSE(near.exact);
}

TEST_CASE("questions hold for nonlinear models", "[nonlinear]") {
  const Model m = model_of(
      kHead + std::string("number need = 12\ndecide x integer 1 .. 9\ndecide y real 1 .. 9\n"
                          "minimize c: x + y\nrule area: x * y >= need\nrule slim: x <= y - 2\n"));
  CHECK(solve(m).goal().to_double() == Approx(2 + 6).epsilon(1e-6));
  Model wider = m;
  wider.set("need", Rational(20));
  CHECK(solve(wider).goal().to_double() == Approx(3 + 20.0 / 3.0).epsilon(1e-6));
  Model less = m;
  less.without("slim");
  CHECK(solve(less).goal().to_double() == Approx(7.0).epsilon(1e-6));
  Model none = m;
  none.set("need", Rational(100));
  CHECK(solve(none).outcome == Outcome::infeasible);
}

TEST_CASE("the best few plans of a nonlinear model, in order", "[nonlinear]") {
  const Model m = model_of(
      kHead + std::string("decide n integer 1 .. 6\ndecide m integer 1 .. 6\ndecide x real 1 .. 9\n"
                          "decide y real 1 .. 9\n"
                          "minimize c: n * x + m * y + 20 / (n * y) + 30 / (x * m)\n"
                          "rule area: x * y >= 6\nrule mix: n * m >= 8\n"));
  std::vector<double> all;  // of each pair of whole sizes the best, over a fine grid of x
  for (double n = 1; n <= 6; ++n)
    for (double k = 1; k <= 6; ++k) {
      if (n * k < 8) continue;
      double least = 1e9;
      for (double x = 1.0; x <= 9.0; x += 1e-4) {
        const double y = std::clamp(std::max(6.0 / x, std::sqrt(20.0 / (n * k))), 1.0, 9.0);
        if (x * y >= 6.0 - 1e-9)
          least = std::min(least, n * x + k * y + 20.0 / (n * y) + 30.0 / (x * k));
      }
      all.push_back(least);
    }
  std::ranges::sort(all);
  const Result best = solve(m);
  const Ranking few = next_best(best, {5, {}});
  REQUIRE(few.plans.size() == 6);
  CHECK(few.proven == 6);
  CHECK(few.gap == Approx(1e-6));
  CHECK(ranking_page(few).find("gap of 1e-06") != std::string::npos);
  for (std::size_t k = 0; k < 6; ++k)
    CHECK(few.plans[k].goals[0].to_double() == Approx(all[k]).epsilon(3e-6));
}

TEST_CASE("local search is one of the ways, and the proof is never beaten", "[nonlinear]") {
  const Model m =
      model_of(kHead + std::string("decide x real -2 .. 2\ndecide n integer 0 .. 3\n"
                                   "minimize v: x ^ 4 - 3 * x ^ 2 + x / 2 + (n - 1.4) ^ 2\n"));
  CHECK(method_names(m).size() == 6);
  const double best = solve(m).goal().to_double();
  const MethodAnswer one = method("local").run(m, {}, nullptr)[0];
  const MethodAnswer many = method("local from many starts").run(m, {}, nullptr)[0];
  for (const MethodAnswer* a : {&one, &many}) {
    REQUIRE(a->report);
    CHECK(a->report->feasible);
    CHECK(a->report->goal->to_double() >= best - 2e-6 * std::abs(best));
  }
  CHECK(many.report->goal->to_double() == Approx(best).epsilon(1e-5));
  CHECK(many.note.find("of 100 starts") != std::string::npos);
  // Both valleys are met.
  CHECK(many.note.find(" and ") != std::string::npos);
  const Model sums = model_of(kHead + std::string("decide x real 0 .. 2\nmaximize v: x\n"));
  CHECK(method_names(sums) == method_names());
  CHECK_FALSE(method("local").run(sums, {}, nullptr)[0].note.empty());
}
