// Models with tables, references, scenarios and `set`, and the questions around them (several
// circumstances, rules left out, a sweep, a plan by hand, why nothing fits, why not, how firm),
// each answer against trying all plans with an evaluation of our own.
#include <algorithm>

#include "model/model_data.hpp"
#include "support/knot.hpp"
#include "support/random_shop.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using Point = Shop::Point;

namespace {

constexpr int kRounds = 120;

struct Scene {
  Shop shop;
  std::vector<std::pair<std::string, Change>> scenarios;
  std::string text;
};

Scene draw(std::uint64_t round) {
  DrawShop draw(round);
  Scene scene{draw.shop(), {}, {}};
  for (const char* name : {"first", "second"}) {
    Change change = draw.change(scene.shop);
    if (!change.text.empty()) scene.scenarios.emplace_back(name, std::move(change));
  }
  scene.text = DrawShop::text(scene.shop, scene.scenarios);
  return scene;
}

void check_answer(const Result& r, const std::optional<Rational>& best) {
  REQUIRE(r.outcome == (best ? Outcome::optimal : Outcome::infeasible));
  if (best) CHECK(r.goal() == *best);
}

void check_variant(const Variant& v, const std::optional<Rational>& best) {
  CAPTURE(v.name);
  REQUIRE(v.outcome == (best ? Outcome::optimal : Outcome::infeasible));
  if (best) CHECK(*v.goal == *best);
}

std::string family(const Model& m, std::int32_t number) {
  const std::string name = m.data().rule_name(number, 0);
  return name.substr(0, name.find('['));
}

}  // namespace

TEST_CASE("scenarios and `set` end as trying all plans of the changed data does", "[trust][knot]") {
  int infeasible = 0, differ = 0;
  for (std::uint64_t round = 1; round <= kRounds; ++round) {
    CAPTURE(round);
    const Scene scene = draw(round);
    INFO(scene.text);
    Model base = model_of(scene.text);
    const auto best = scene.shop.best();
    check_answer(solve(base), best);
    std::vector<std::pair<std::string, Model>> others;
    for (const auto& [name, change] : scene.scenarios) {
      CAPTURE(name);
      Model changed = model_of(scene.text, name);
      const auto there = change.shop.best();
      check_answer(solve(changed), there);
      infeasible += there ? 0 : 1;
      differ += there != best ? 1 : 0;
      others.emplace_back(name, std::move(changed));
    }
    const Variation v = compare_scenarios(base, others);
    check_variant(v.base, best);
    for (std::size_t k = 0; k < others.size(); ++k)
      check_variant(v.variants[k], scene.scenarios[k].second.shop.best());
    Shop set = scene.shop;
    set.cap += Rational::ratio(3, 2);
    set.price = Rational::ratio(1, 3);
    base.set("cap", set.cap);
    base.set("price", set.price);
    check_answer(solve(base), set.best());
  }
  CHECK(infeasible > 10);
  CHECK(differ > 60);
}

TEST_CASE("rules left out and sweeps end as trying all plans does", "[trust][knot]") {
  int left_out = 0;
  for (std::uint64_t round = 1; round <= kRounds; ++round) {
    CAPTURE(round);
    const Scene scene = draw(1000 + round);
    INFO(scene.text);
    const Model m = model_of(scene.text);
    const Variation without = without_each(m);
    for (const Variant& v : without.variants) {
      Shop less = scene.shop;
      less.with_cap = less.with_cap && v.name.find("load") == std::string::npos;
      less.with_open = less.with_open && v.name.find("opened") == std::string::npos;
      less.with_few = less.with_few && v.name.find("few") == std::string::npos;
      less.with_extra = less.with_extra && v.name.find("extra") == std::string::npos;
      check_variant(v, less.best());
      ++left_out;
    }
    const Variation swept = sweep(m, {"cap", 1, 13, 9, round % 3 == 0});
    REQUIRE(swept.variants.size() == 9);
    for (const Variant& v : swept.variants) {
      Shop there = scene.shop;
      there.cap = v.at;
      check_variant(v, there.best());
    }
    for (const Step& step : swept.steps) {
      Shop before = scene.shop, after = scene.shop;
      before.cap = step.before;
      after.cap = step.after;
      CHECK(before.best() == (step.plan_before ? step.goal_before : std::nullopt));
      CHECK(after.best() == (step.plan_after ? step.goal_after : std::nullopt));
    }
  }
  CHECK(left_out > 3 * kRounds);
}

TEST_CASE("plans by hand are judged as our own evaluation judges them", "[trust][knot]") {
  int fitting = 0;
  for (std::uint64_t round = 1; round <= 40; ++round) {
    CAPTURE(round);
    const Scene scene = draw(2000 + round);
    INFO(scene.text);
    const Shop& s = scene.shop;
    const Model m = model_of(scene.text);
    Random random(round);
    s.visit([&](const Point& p) {
      if (!random.chance(0.3)) return;
      const PlanReport report = check(m, s.plan(m, p));
      CHECK(report.feasible == s.fits(p));
      CHECK(*report.goal == s.worth(p));
      fitting += s.fits(p) ? 1 : 0;
      for (const RuleValue& rule : report.rules) {
        const std::string name = family(m, rule.family);
        if (name == "load") {
          CHECK(rule.met == s.cap_holds(p));
          CHECK(rule.value == s.load(p));
        }
        if (name == "few") CHECK(rule.met == (s.opens(p) <= s.few));
        if (name == "opened") CHECK(rule.met == s.opened(p, static_cast<std::size_t>(rule.member)));
        if (name == "extra") CHECK(rule.met == s.extra_holds(p));
      }
      // A hair outside a limit is outside, though a real decision is in the model.
      Plan hair = s.plan(m, p);
      const Decision first = m.decision("take[\"i0\"]");
      hair.set(first, hair[first] + Rational::ratio(1, 1'000'000'000'000));
      CHECK_FALSE(check(m, hair).feasible);
    });
  }
  CHECK(fitting > 150);
}

TEST_CASE("clashes and the cheapest way out are what trying all plans tells", "[trust][knot]") {
  int explained = 0;
  for (std::uint64_t round = 1; explained < 60 && round <= 2000; ++round) {
    CAPTURE(round);
    Scene scene = draw(5000 + round);
    scene.shop.few = Rational(round % 2 == 0 ? 0 : 1);
    if (scene.shop.best()) continue;
    scene.text = DrawShop::text(scene.shop, {});
    INFO(scene.text);
    ++explained;
    const Shop& s = scene.shop;
    const Model m = model_of(scene.text);
    const Explanation e = explain(m);
    REQUIRE(e.outcome == Outcome::infeasible);
    REQUIRE_FALSE(e.clashes.found.empty());
    const auto holds = [&](const RuleRow& row, const Point& p) {
      const std::string name = family(m, row.family);
      if (name == "load") return s.cap_holds(p);
      if (name == "few") return s.opens(p) <= s.few;
      if (name == "opened") return s.opened(p, static_cast<std::size_t>(row.member));
      if (name == "extra") return s.extra_holds(p);
      return true;
    };
    for (const Clash& clash : e.clashes.found) {
      REQUIRE(clash.kind == Clash::Kind::found);
      bool any = false;
      s.visit([&](const Point& p) {
        any = any || std::all_of(clash.rows.begin(), clash.rows.end(),
                                 [&](const RuleRow& row) { return holds(row, p); });
      });
      CHECK_FALSE(any);
    }
    // The least total over all plans within the decisions' own limits.
    std::optional<Rational> least;
    s.visit([&](const Point& p) {
      Rational total = 0;
      if (!s.cap_holds(p)) total += (s.load(p) - s.cap).abs();
      for (std::size_t i = 0; i < s.items.size(); ++i)
        if (!s.opened(p, i)) total += Rational(1);
      if (s.opens(p) > s.few) total += s.opens(p) - s.few;
      if (s.with_extra && !s.extra_holds(p)) total += Rational(1);
      if (!least || total < *least) least = total;
    });
    REQUIRE(e.loosening);
    REQUIRE(e.loosening->kind == Loosening::Kind::found);
    CHECK(e.loosening->least);
    CHECK(e.loosening->total == *least);
  }
  CHECK(explained == 60);
}

TEST_CASE("why not: the best plan with the condition, its cost and the break-even",
          "[trust][knot]") {
  int asked = 0, evens = 0;
  for (std::uint64_t round = 1; round <= kRounds; ++round) {
    CAPTURE(round);
    const Scene scene = draw(3000 + round);
    const Shop& s = scene.shop;
    const auto best = s.best();
    if (!best) continue;
    INFO(scene.text);
    const Model m = model_of(scene.text);
    Random random(round);
    const auto i =
        static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(s.items.size()) - 1));
    const bool wanted = random.chance(0.6);
    const Decision take = m.decision("take[\"i" + std::to_string(i) + "\"]");
    const Why w = why(m, wanted ? Expression(take) >= 1 : Expression(take) <= 0);
    ++asked;
    REQUIRE(w.best.outcome == Outcome::optimal);
    CHECK(w.best.goal() == *best);
    const auto meets = [&](const Point& p) { return (s.take(p, i) >= 1) == wanted; };
    const auto other = s.best([&](const Point& p) { return meets(p) != w.holds; });
    if (!other) {
      CHECK(w.other.outcome == Outcome::infeasible);
      continue;
    }
    REQUIRE(w.other.outcome == Outcome::optimal);
    CHECK(w.other.goal() == *other);
    CHECK(*w.cost == (*best - *other).abs());
    if (!w.break_even || !w.break_even->confirmed) continue;
    // At the break-even the best plans of both sides are equally good.
    ++evens;
    Shop even = s;
    even.items[i].worth = w.break_even->needed / even.rate[even.items[i].kind];
    CHECK(even.best(meets) == even.best([&](const Point& p) { return !meets(p); }));
  }
  CHECK(asked > 70);
  CHECK(evens > 15);
}

TEST_CASE("how firm: a plan stays best within the ends, and not beyond them", "[trust][knot]") {
  int coefficients = 0, limits = 0;
  const Rational hair = Rational::ratio(1, 1000), far = 1'000'000;
  for (std::uint64_t round = 1; round <= kRounds; ++round) {
    CAPTURE(round);
    const Scene scene = draw(4000 + round);
    const Shop& s = scene.shop;
    if (!s.best()) continue;
    INFO(scene.text);
    const Model m = model_of(scene.text);
    const Firmness f = firmness(m);
    REQUIRE(f.best.outcome == Outcome::optimal);
    Point plan;
    s.visit([&](const Point& p) {
      if (s.plan(m, p).values() == f.best.plan->values()) plan = p;
      // The real decision is in no goal and may stand anywhere.
      bool same = true;
      for (std::size_t j = 0; j < p.size(); ++j)
        same = same && f.best.plan->values()[j] == Rational(p[j]);
      if (same) plan = p;
    });
    REQUIRE_FALSE(plan.empty());
    for (const FirmFigure& figure : f.figures) {
      std::function<bool(const Rational&)> stays;
      if (figure.kind == FirmFigure::Kind::coefficient) {
        const auto j = static_cast<std::size_t>(figure.decision);
        if (j >= plan.size()) continue;
        stays = [&, j](const Rational& value) {
          const auto worth = [&](const Point& p) {
            return s.worth(p) + (value - figure.now) * Rational(p[j]);
          };
          bool best = true;
          s.visit([&](const Point& p) {
            best = best && !(s.fits(p) && s.better(worth(p), worth(plan)));
          });
          return best;
        };
        ++coefficients;
      } else if (family(m, figure.row.family) == "load") {
        stays = [&](const Rational& value) {
          Shop there = s;
          there.cap = value;
          return there.fits(plan) && there.best() == std::optional(s.worth(plan));
        };
        ++limits;
      } else {
        continue;
      }
      const auto text = [](const std::optional<Rational>& v) { return v ? v->text() : "none"; };
      CAPTURE(figure.now.text(), figure.decision, text(figure.low), text(figure.high), plan);
      CHECK(stays(figure.now));
      if (figure.low_reached) {
        if (figure.low) {
          CHECK(stays(*figure.low) == !figure.low_excluded);
          CHECK_FALSE(stays(*figure.low - hair));
          CHECK(stays(*figure.low + std::min(hair, figure.now - *figure.low)));
        } else {
          CHECK(stays(-far));
        }
      }
      if (figure.high_reached) {
        if (figure.high) {
          CHECK(stays(*figure.high) == !figure.high_excluded);
          CHECK_FALSE(stays(*figure.high + hair));
          CHECK(stays(*figure.high - std::min(hair, *figure.high - figure.now)));
        } else {
          CHECK(stays(far));
        }
      }
    }
  }
  CHECK(coefficients > 150);
  CHECK(limits > 40);
}
