// Random models written in the language, against trying all plans with an evaluation of our own.
#include "support/random_knot.hpp"

#include "support/knot.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

struct Worth {
  bool feasible = false;
  std::vector<Rational> goals;
};

Worth worth(const Drawn& d, const Point& p) {
  Worth w;
  p.outside = false;
  for (const Value& v : d.seen) (void)v(p);
  w.feasible = !p.outside;
  for (const Claim& c : d.rules) w.feasible = c.holds(p) && w.feasible;
  for (const auto& [least, value] : d.goals) w.goals.push_back(value(p));
  for (const auto& [claim, price] : d.paid)
    w.goals[0] += (d.goals[0].first ? 1 : -1) * price(p) * claim.missed(p);
  return w;
}

void compare(const Drawn& d, const Model& m, const std::vector<Rational>& numbers, Random& random) {
  Point p{std::vector<Rational>(d.values.size()), numbers};
  std::vector<std::size_t> k(d.values.size(), 0);
  std::optional<std::vector<Rational>> best;
  bool figures_outside = false;  // a curve of numbers alone
  while (true) {
    for (std::size_t j = 0; j < k.size(); ++j) p.decisions[j] = d.values[j][k[j]];
    const Worth w = worth(d, p);
    if (random.chance(0.2) && !figures_outside) {
      Plan plan(m);
      for (std::size_t j = 0; j < k.size(); ++j) plan.set(m.decision(d.names[j]), p.decisions[j]);
      const PlanReport report = check(m, plan);
      CHECK(report.feasible == w.feasible);
      if (w.feasible) CHECK(report.goals == w.goals);
    }
    bool better = w.feasible && !best;
    for (std::size_t g = 0; w.feasible && best && g < d.goals.size(); ++g) {
      if (w.goals[g] == (*best)[g]) continue;
      better = d.goals[g].first ? w.goals[g] < (*best)[g] : w.goals[g] > (*best)[g];
      break;
    }
    if (better) best = w.goals;
    std::size_t j = 0;
    while (j < k.size() && ++k[j] == d.values[j].size()) k[j++] = 0;
    if (j == k.size()) break;
  }
  const Result r = solve(m);
  INFO(word(r.outcome) << " " << r.reason << (r.goals[0].value ? r.goals[0].value->text() : ""));
  REQUIRE(r.outcome == (best ? Outcome::optimal : Outcome::infeasible));
  if (!best) return;
  for (std::size_t g = 0; g < best->size(); ++g) {
    REQUIRE(*r.goals[g].value == (*best)[g]);
    CHECK(*r.goals[g].gap == 0.0);
  }
}

}  // namespace

TEST_CASE("random models in the language end as trying all plans does", "[trust][knot]") {
  int solved = 0, refused = 0;
  for (std::uint64_t round = 1; round <= 1500; ++round) {
    CAPTURE(round);
    const Drawn d = Draw(round).model();
    INFO(d.text);
    Random random(round);
    try {
      const Reading<Model> read = parse_knot(d.text, "random.knot", "");
      if (!read.ok()) {  // a curve of a figure outside its range, a jump under a real decision
        ++refused;
        CHECK(read.notes().text().find("internal") == std::string::npos);
        continue;
      }
      Model m = read.value();
      compare(d, m, d.numbers, random);
      std::vector<Rational> numbers = d.numbers;
      numbers[0] = random.between(-4, 4);
      m.set("n", numbers[0]);
      compare(d, m, numbers, random);
      ++solved;
    } catch (const UsageError& e) {
      const std::string what = e.what();
      CHECK(what.find("is not stated") != std::string::npos);
      ++refused;
    }
  }
  CHECK(solved > 1000);
  CHECK(refused < 450);
}
