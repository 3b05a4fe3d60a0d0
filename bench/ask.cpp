// Questions around a model against independent cold solves in the same run: a swept number, every
// rule left out, and a planted clash. A page of Markdown.

#include <chrono>
#include <iostream>

#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

double seconds_of(const std::function<void()>& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

// Shows with crew hours, a cost and a crowd, under two limits and the logic of a programme.
Model programme(int shows, std::uint64_t seed) {
  Random random(seed);
  const auto draw = [&](int a, int b) { return static_cast<int>(random.between(a, b)); };
  std::string rows = "show,kind,crew,cost,crowd\n";
  for (int s = 0; s < shows; ++s)
    rows += fmt::format("s{},{},{},{},{}\n", s, s % 3 == 0 ? "family" : "other", draw(2, 14),
                        10 * draw(4, 40), draw(20, 160));
  const Table t = Table::parse("shows", rows, {.key = {"show"}});
  const auto crew = t.numbers("crew"), cost = t.numbers("cost"), crowd = t.numbers("crowd");
  Model m{"Programme"};
  const Number hours = m.number("crew_hours", 3 * shows), grant = m.number("grant", 80 * shows);
  const Decisions run = m.binary("run", t);
  m.maximize("crowd", total(t, [&](Row s) { return crowd[s] * run[s]; }));
  m.rule("crew", total(t, [&](Row s) { return crew[s] * run[s]; }) <= hours);
  m.rule("grant_limit", total(t, [&](Row s) { return cost[s] * run[s]; }) <= grant);
  m.rule("family", at_least(4, each(t.where("kind", "family"), [&](Row s) { return run[s]; })));
  for (int k = 0; k < 5; ++k) {
    const int a = draw(0, shows - 1), b = (a + draw(1, shows - 1)) % shows;
    m.rule(fmt::format("needs{}", k), implies(run.member(a), run.member(b)));
    const int c = draw(0, shows - 1), d = (c + draw(1, shows - 1)) % shows;
    m.rule(fmt::format("excludes{}", k), negated(all_of({run.member(c), run.member(d)})));
  }
  return m;
}

// 2,000 rows over 1,000 whole decisions that can all be met, but for a circle of six.
Model clashing(std::uint64_t seed, bool logical) {
  Random random(seed);
  const auto draw = [&](int a, int b) { return static_cast<int>(random.between(a, b)); };
  Model m{"Planted"};
  std::vector<Decision> x;
  for (int j = 0; j < 1000; ++j)
    x.push_back(logical ? m.binary(fmt::format("x{}", j)).only()
                        : m.integer(fmt::format("x{}", j), {}, between(0, 9)).only());
  const auto at = [&](int k) { return Expression(x[static_cast<std::size_t>(k)]); };
  const auto plant = [&](int k) {  // the six rules, spread over all
    const std::string name = fmt::format("p{}", k);
    if (logical)  // 0 holds, 0 implies 1 ... implies 4, 4 does not hold
      k == 0   ? m.rule(name, at(0) >= 1)
      : k == 5 ? m.rule(name, at(4) <= 0)
               : m.rule(name, implies(x[static_cast<std::size_t>(k - 1)],
                                      x[static_cast<std::size_t>(k)]));
    else  // each is more than the one before, and the last is not much more than the first
      k == 5 ? m.rule(name, at(5) <= at(0) + 6) : m.rule(name, at(k + 1) >= at(k) + 1 + k % 2);
  };
  for (int r = 0; r < 1994; ++r) {
    Expression e;
    for (int k = 0; k < 4; ++k)
      e += Expression(draw(1, 5)) * Expression(x[static_cast<std::size_t>(draw(10, 999))]);
    m.rule(fmt::format("r{}", r), std::move(e) <= draw(20, 120));
    if (r % 330 == 17 && r / 330 < 6) plant(r / 330);
  }
  return m;
}

void explain_planted(bool logical) {
  const Model m = clashing(7, logical);
  Model possible = m;
  possible.without("p5");
  double cold = 0.0;
  for (int k = 0; k < 5; ++k) cold += seconds_of([&] { (void)solve(possible); }) / 5;
  Clash clash;
  const double asked = seconds_of([&] { clash = find_clash(m); });
  std::cout << fmt::format(
      "\nA planted clash of six among 2,000 rows ({}): {} rows found, {} solves, "
      "{:.3f} s: as long as {:.1f} solves of the model without it ({:.4f} s); the aim "
      "is 60.\n",
      logical ? "logic" : "sums", clash.rows.size(), clash.solves, asked, asked / cold, cold);
}

}  // namespace

int main() {
  std::cout << "\n## Questions around a model (scripts/bench ask)\n\n"
               "Each against independent cold solves of the same questions in the same run: five "
               "programmes of 60 binaries with two limits and ten rules of logic; the sweep goes "
               "over 50 values from two thirds to four thirds of the grant. Where the share is "
               "near 1 the cold solves are as quick as the warm ones: their plans come from a look "
               "around the relaxation, and what is left is the proof, of which nothing is "
               "reused.\n\n"
               "| question | solves | cold, s | asked, s | share | aim |\n"
               "| --- | --- | --- | --- | --- | --- |\n";
  double cold_sweep = 0.0, warm_sweep = 0.0, cold_each = 0.0, warm_each = 0.0;
  constexpr int kModels = 5, kPoints = 50;
  int rules = 0;
  for (int seed = 1; seed <= kModels; ++seed) {
    const Model m = programme(60, static_cast<std::uint64_t>(seed));
    const Rational from = 3200, to = 6400;  // as 800 to 1,600 about 1,200 in the demo
    std::vector<Rational> values;
    cold_sweep += seconds_of([&] {
      for (int k = 0; k < kPoints; ++k) {
        Model one = m;
        one.set("grant", from + (to - from) * Rational::ratio(k, kPoints - 1));
        values.push_back(solve(one).goal());
      }
    });
    Variation v;
    warm_sweep += seconds_of([&] { v = sweep(m, "grant", from, to, kPoints); });
    for (std::size_t k = 0; k < values.size(); ++k)
      if (v.variants[k].goal != values[k]) std::cout << "WRONG VALUE\n";
    const Variation each_known = without_each(m);
    std::vector<Rational> without;
    cold_each += seconds_of([&] {
      (void)solve(m);
      for (const Variant& one : each_known.variants) {
        Model less = m;
        less.without(one.name);
        without.push_back(solve(less).goal());
      }
    });
    warm_each += seconds_of([&] { v = without_each(m); });
    for (std::size_t k = 0; k < without.size(); ++k)
      if (v.variants[k].goal != without[k]) std::cout << "WRONG VALUE\n";
    rules += static_cast<int>(without.size()) + 1;
  }
  std::cout << fmt::format("| sweep | {} | {:.3f} | {:.3f} | {:.2f} | 0.35 |\n", kModels * kPoints,
                           cold_sweep, warm_sweep, warm_sweep / cold_sweep);
  std::cout << fmt::format("| every rule left out | {} | {:.3f} | {:.3f} | {:.2f} | 0.5 |\n", rules,
                           cold_each, warm_each, warm_each / cold_each);
  for (const bool logical : {false, true}) explain_planted(logical);
}
