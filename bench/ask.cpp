// Questions around a model against independent cold solves in the same run: a swept number, every
// rule left out, and a planted clash. A page of Markdown.

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <functional>
#include <iostream>

#include <fmt/format.h>
#include <unistd.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;
namespace fs = std::filesystem;

namespace {

double seconds_of(const std::function<void()>& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

// Shows with crew hours, a cost and a crowd, under two limits and the logic of a programme, with a
// scenario for each rule that is left out.
std::string programme(int shows, std::uint64_t seed) {
  Random random(seed);
  const auto draw = [&](int a, int b) { return static_cast<int>(random.between(a, b)); };
  std::string text =
      "model \"Programme\"\ntable shows key show rows\n  show,kind,crew,cost,crowd\n";
  for (int s = 0; s < shows; ++s)
    text += fmt::format("  s{},{},{},{},{}\n", s, s % 3 == 0 ? "family" : "other", draw(2, 14),
                        10 * draw(4, 40), draw(20, 160));
  text += fmt::format("number crew_hours = {}\nnumber grant = {}\n", 3 * shows, 80 * shows);
  text +=
      "decide run[s in shows] binary\n"
      "maximize crowd: total(s.crowd * run[s] over s in shows)\n"
      "rule crew: total(s.crew * run[s] over s in shows) <= crew_hours\n"
      "rule grant_limit: total(s.cost * run[s] over s in shows) <= grant\n"
      "rule family: at least 4 of (run[s] over s in shows where s.kind = \"family\")\n";
  std::vector<std::string> rules = {"crew", "grant_limit", "family"};
  for (int k = 0; k < 5; ++k) {
    const int a = draw(0, shows - 1), b = (a + draw(1, shows - 1)) % shows;
    text += fmt::format("rule needs{}: run[\"s{}\"] implies run[\"s{}\"]\n", k, a, b);
    const int c = draw(0, shows - 1), d = (c + draw(1, shows - 1)) % shows;
    text += fmt::format("rule excludes{}: not (run[\"s{}\"] and run[\"s{}\"])\n", k, c, d);
    rules.push_back(fmt::format("needs{}", k));
    rules.push_back(fmt::format("excludes{}", k));
  }
  for (const std::string& rule : rules)
    text += fmt::format("scenario \"{0}\": without {0}\n", rule);
  return text;
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

// Seconds of both ways, summed over models; of each model the least of several times.
struct Shares {
  double cold = 0.0, asked = 0.0, least = HUGE_VAL, most = 0.0;
  int solves = 0;
  void add(double one_by_one, double as_question, int count) {
    cold += one_by_one;
    asked += as_question;
    least = std::min(least, as_question / one_by_one);
    most = std::max(most, as_question / one_by_one);
    solves += count;
  }
  void tell(const std::string& what, const std::string& aim) const {
    std::cout << fmt::format("| {} | {} | {:.3f} | {:.3f} | {:.2f} | {:.2f} to {:.2f} | {} |\n",
                             what, solves, cold, asked, asked / cold, least, most, aim);
  }
};

constexpr int kPoints = 50;
const Rational kFrom = 3200, kTo = 6400;  // as 800 to 1,600 about 1,200 in the demo
Rational grant_at(int k) {
  return kFrom + (kTo - kFrom) * Rational::ratio(k, kPoints - 1);
}

// Both ways take turns, so that a busy machine disturbs both.
constexpr int kTimes = 7;

void sweep_in_one_program(const Model& m, Shares& shares) {
  double cold = HUGE_VAL, asked = HUGE_VAL;
  for (int time = 0; time < kTimes; ++time) {
    std::vector<Rational> values;
    cold = std::min(cold, seconds_of([&] {
                      for (int k = 0; k < kPoints; ++k) {
                        Model one = m;
                        one.set("grant", grant_at(k));
                        values.push_back(solve(one).goal());
                      }
                    }));
    Variation v;
    asked = std::min(asked, seconds_of([&] { v = sweep(m, {"grant", kFrom, kTo, kPoints}); }));
    for (std::size_t k = 0; k < values.size(); ++k)
      if (v.variants[k].goal != values[k]) std::cout << "WRONG VALUE\n";
  }
  shares.add(cold, asked, kPoints);
}

void leave_out_in_one_program(const Model& m, Shares& shares) {
  const std::vector<std::string> rules = m.scenarios();  // one for each rule
  double cold = HUGE_VAL, asked = HUGE_VAL;
  for (int time = 0; time < kTimes; ++time) {
    std::vector<Rational> values;
    cold = std::min(cold, seconds_of([&] {
                      (void)solve(m);
                      for (const std::string& rule : rules) {
                        Model less = m;
                        less.without(rule);
                        values.push_back(solve(less).goal());
                      }
                    }));
    Variation v;
    asked = std::min(asked, seconds_of([&] { v = without_each(m); }));
    for (const Variant& one : v.variants)
      for (std::size_t k = 0; k < rules.size(); ++k)
        if (rules[k] == one.name && one.goal != values[k]) std::cout << "WRONG VALUE\n";
  }
  shares.add(cold, asked, static_cast<int>(rules.size()) + 1);
}

// What somebody does at the keyboard without the questions: solve again and again.
void as_commands(const std::string& file, const Model& m, Shares& swept, Shares& each) {
  const auto run = [&](const std::string& rest) {
    const std::string command = std::string("'") + KITEKNOT_TOOL + "' " + rest + " >/dev/null";
    if (std::system(command.c_str()) != 0) std::cout << "FAILED: " << command << "\n";
  };
  const double points = seconds_of([&] {
    for (int k = 0; k < kPoints; ++k)
      run(fmt::format("solve '{}' --set grant={}", file, grant_at(k).to_double()));
  });
  const double one_sweep =
      seconds_of([&] { run(fmt::format("vary '{}' --sweep grant=3200..6400/50", file)); });
  swept.add(points, one_sweep, kPoints);
  const double rules = seconds_of([&] {
    run(fmt::format("solve '{}'", file));
    for (const std::string& rule : m.scenarios())
      run(fmt::format("solve '{}' --scenario {}", file, rule));
  });
  each.add(rules, seconds_of([&] { run(fmt::format("vary '{}' --without-each", file)); }),
           static_cast<int>(m.scenarios().size()) + 1);
}

}  // namespace

int main() {
  std::cout
      << "\n## Questions around a model (scripts/bench ask)\n\n"
         "Each against independent cold solves of the same questions in the same run: five "
         "programmes of 60 binaries with two limits and eleven rules of logic; the sweep goes "
         "over 50 values from two thirds to four thirds of the grant. Variants that differ in "
         "limits only share one root (docs/engine.md). The shares are of the seconds summed over "
         "the programmes; least and most: of a single programme.\n\n"
         "| question | solves | cold, s | asked, s | share | least to most | aim |\n"
         "| --- | --- | --- | --- | --- | --- | --- |\n";
  Shares swept, each, swept_by_hand, each_by_hand;
  const fs::path file = fs::temp_directory_path() / fmt::format("kiteknot-ask-{}.knot", ::getpid());
  for (std::uint64_t seed = 1; seed <= 5; ++seed) {
    const std::string text = programme(60, seed);
    const Model m = parse_knot(text, "programme.knot").value();
    sweep_in_one_program(m, swept);
    leave_out_in_one_program(m, each);
    std::ofstream(file) << text;
    as_commands(file.string(), m, swept_by_hand, each_by_hand);
  }
  fs::remove(file);
  swept_by_hand.tell("sweep, as one command against 50 commands", "0.35");
  each_by_hand.tell("every rule left out, as one command against one a rule", "0.5");
  swept.tell("sweep, inside one program", "0.35");
  each.tell("every rule left out, inside one program", "0.5");
  for (const bool logical : {false, true}) explain_planted(logical);
}
