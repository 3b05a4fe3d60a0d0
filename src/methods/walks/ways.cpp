// The ways of walking, and what makes a Method of each.

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "kiteknot/solve.hpp"
#include "methods/budget.hpp"
#include "methods/walks/walk.hpp"
#include "methods/walks/walk_method.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {

const std::vector<WalkWay>& walk_ways() {
  constexpr std::int64_t kShort = 20'000'000, kLong = 1'000'000;
  static const std::vector<WalkWay> kWays = {
      {"greedy by worth", "step by step, the best for the goal first; then needless steps back",
       "Minoux 1978 (steps rated again when their turn comes)", walk_by_worth, kShort},
      {"greedy by prices",
       "step by step in the order that the relaxation's prices give; then needless steps back",
       "Minoux 1978; prices of the relaxation: Dantzig 1963", walk_by_prices, kShort},
      {"greedy by regret",
       "where one of several is chosen: first where the second best costs most; then steps back",
       "Martello and Toth 1981", walk_by_regret, kShort},
      {"climb", "from a greedy plan, single moves and chains of moves as long as they improve",
       "Feo and Resende 1995; chains: Glover 1996", walk_climb, kShort},
      {"many climbs", "climbs from greedy plans with lots drawn, the best of them",
       "Feo and Resende 1995", walk_many_climbs, kLong, true},
      {"tabu", "the best move, better or worse, with a memory against going back",
       "Glover 1989; oscillation: Gendreau, Hertz and Laporte 1994", walk_tabu, kLong, true},
      {"annealing", "moves drawn by lot, worse ones less and less often",
       "Kirkpatrick, Gelatt and Vecchi 1983", walk_annealing, kLong, true},
      {"breeding", "plans crossed, mended and improved, the better ones kept",
       "Chu and Beasley 1998", walk_breeding, kLong, true},
      {"ruin", "part of a plan let go and completed by the exact search, again and again",
       "Shaw 1998", walk_ruin, kLong, true},
      {"violations", "from broken rule to broken rule, whose weight grows; better plans by and by",
       "Selman, Kautz and Cohen 1994", walk_violations, kLong, true, false},
      {"multipliers", "prices on rules that part the model, plans near what they choose; a bound",
       "Fisher 1981; Held, Wolfe and Crowder 1974", walk_multipliers, kLong, true, false}};
  return kWays;
}

namespace {

// Whether some term is none that lines can be made of at sight: completed reals may not keep it.
bool smooth_somewhere(const ModelData& m) {
  const auto smooth = [](const Expression& e) {
    return std::ranges::any_of(e.derived(), [](const Expression::DerivedTerm& t) {
      const Derived::Kind k = t.what->kind;
      return k != Derived::Kind::largest && k != Derived::Kind::curve && k != Derived::Kind::truth;
    });
  };
  return std::ranges::any_of(m.goals, [&](const Goal& g) { return smooth(g.expression); }) ||
         std::ranges::any_of(m.rules, [&](const auto& r) {
           return std::ranges::any_of(r->conditions,
                                      [&](const Condition& c) { return smooth(c.body); });
         });
}

class WalkMethod final : public Method {
 public:
  explicit WalkMethod(const WalkWay& way) : way_(way) {}
  std::string name() const override { return way_.name; }
  std::string about() const override { return way_.about; }
  std::string source() const override { return way_.source; }
  std::int64_t looks() const override { return way_.most_looks; }
  bool draws_lots() const override { return way_.draws; }
  bool takes(const Model& model) const override {
    const ModelData& m = model.data();
    bool steps = false, reals = false;
    for (const auto& f : m.families) {
      const bool real = !f->integer && f->listed.empty();
      reals = reals || (real && f->index.count > 0);
      steps = steps || (!real && f->index.count > 0);
    }
    return steps && !(reals && !way_.reals) &&
           std::ranges::none_of(m.rules, [](const auto& r) { return r->is_tour(); }) &&
           !(reals && smooth_somewhere(m));
  }

  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer* observer) const override {
    need_sensible(options);
    if (options.generator)
      throw UsageError(fmt::format("'{}' cannot follow rules that are generated", name()));
    const Stopwatch clock;
    const Interrupt interrupt = budget_of(options).interrupt(clock);
    MethodAnswer a;
    a.method = a.label = name();
    try {
      Ground ground(model, interrupt);
      // Reals in exact figures take about as long at the end as the ground took to be made.
      Interrupt walking = interrupt;
      if (ground.model().has_reals) {
        constexpr double kMost = 0.3;  // of the limit
        walking.seconds -= std::min(2.0 * clock.seconds(), kMost * options.seconds);
      }
      Pace pace(walking, ground, way_.most_looks);
      Random random(options.seed);
      const auto told = [&](double seconds, double goal) {
        Progress p;
        p.seconds = seconds;
        if (ground.model().goal >= 0) p.best = goal;
        p.found_by = name();
        a.progress.push_back(p);
        return observer != nullptr && observer->enough(p);
      };
      BestPoint best(ground.model(), clock, pace, told);
      Walk walk{model, options, ground, pace, best, random};
      best.offer(ground);
      way_.walk(walk);
      a.note = walk.note;
      a.bound = walk.bound;
      if (!best.values().empty()) judge(model, ground, best, options, clock, a);
    } catch (const LoweringStopped&) {
    } catch (const UsageError& e) {
      throw UsageError(fmt::format("'{}' does not take this model: {}", name(), e.what()));
    }
    a.seconds = clock.seconds();
    return {std::move(a)};
  }

 private:
  // The point in exact figures: whole and listed values as they are, reals worked out for them.
  static void judge(const Model& model, const Ground& ground, const BestPoint& best,
                    const SolveOptions& options, const Stopwatch& clock, MethodAnswer& a) {
    constexpr double kDigits = 1e6;
    std::vector<Rational> values;
    const ModelData& m = model.data();
    for (const auto& f : m.families)
      for (Index i = 0; i < f->index.count; ++i) {
        const double x = best.values()[at(f->first + i)];
        // Six digits say most amounts exactly; where they do not, the check below finds out.
        Rational value = ground.range(f->first + i).whole
                             ? Rational(std::round(x))
                             : Rational(std::round(x * kDigits)) / Rational(kDigits);
        if (!f->listed.empty())
          for (const Rational& v : f->listed)
            if (v.to_double() == x) value = v;
        values.push_back(std::move(value));
      }
    Plan plan(model, std::move(values));
    a.report = check(model, plan);
    if (ground.model().has_reals && best.has_plan() && !a.report->feasible) {
      plan = completed(model, ground, plan, options, clock);
      a.report = check(model, plan);
    }
    a.outcome = a.report->feasible ? Outcome::unproven : Outcome::undecided;
    a.plan = std::move(plan);
    // What doubles took for a plan and the check does not was none.
    if (!a.report->feasible) a.progress.clear();
  }

  // The same choices with the best reals in fractions; a plan that was found is not lost for want
  // of a moment.
  static Plan completed(const Model& model, const Ground& ground, const Plan& found,
                        const SolveOptions& options, const Stopwatch& clock) {
    Model held = model;
    const ModelData& m = model.data();
    for (const auto& f : m.families)
      for (Index i = 0; i < f->index.count; ++i) {
        const Index d = f->first + i;
        if (!ground.range(d).stepped() || !ground.range(d).can_move) continue;
        const Decision decision{m.tag, d};
        if (f->listed.empty() && !f->or_zero)
          held.hold(decision, found[d]);
        else
          held.rule(fmt::format("{} as found, {}", model.decision_name(d), d),
                    Expression(decision) == found[d]);
      }
    SolveOptions rest = options;
    constexpr double kAMoment = 0.5;
    rest.seconds = std::max(kAMoment, options.seconds - clock.seconds());
    const Result r = solve(held, rest);
    return r.plan ? Plan(model, r.plan->values()) : found;
  }

  const WalkWay& way_;
};

}  // namespace

std::vector<std::unique_ptr<Method>> make_walks() {
  std::vector<std::unique_ptr<Method>> all;
  for (const WalkWay& way : walk_ways()) all.push_back(std::make_unique<WalkMethod>(way));
  return all;
}

}  // namespace kiteknot::methods
