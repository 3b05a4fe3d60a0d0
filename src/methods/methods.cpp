// The registry, and the methods that need only a few lines: exact, relaxed, rounded.

#include "kiteknot/methods.hpp"

#include <cmath>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"
#include "base/work.hpp"
#include "kiteknot/solve.hpp"
#include "methods/greedy.hpp"
#include "methods/kinds/kind_ways.hpp"
#include "methods/local.hpp"
#include "methods/walks/walk_method.hpp"
#include "model/free_names.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

MethodAnswer answer_of(const Result& r, std::string method) {
  MethodAnswer a;
  a.method = a.label = std::move(method);
  a.outcome = r.outcome;
  a.plan = r.plan;
  a.report = r.report;
  a.seconds = r.search.seconds;
  a.note = r.reason;
  a.progress = r.search.progress;
  if (!r.goals.empty()) a.bound = r.goals[0].bound;
  return a;
}

enum class Rounding { nearest, down, up };
constexpr Rounding kRoundings[] = {Rounding::nearest, Rounding::down, Rounding::up};

MethodAnswer rounding(const Result& result, Rounding how) {
  const ModelData& m = result.model().data();
  constexpr double kNear = 1e-6;  // of a whole number: rounding down must not turn 0.9999999 into 0
  const Stopwatch clock;
  MethodAnswer a;
  a.method = "rounded";
  a.label = how == Rounding::nearest ? "rounded to nearest"
            : how == Rounding::down  ? "rounded down"
                                     : "rounded up";
  Plan plan(result.model());
  for (const auto& f : m.families)
    for (Index i = 0; i < f->index.count; ++i) {
      const Index d = f->first + i;
      const double x = result.relaxed.point[static_cast<std::size_t>(d)];
      if (!std::isfinite(x)) throw UsageError("a relaxed point without end was to be rounded");
      // A relaxed plan holds exact values; the point of a search only doubles.
      const Rational exact = result.relaxed_only && result.plan ? (*result.plan)[d] : Rational(x);
      const bool whole = std::abs(x - std::round(x)) <= kNear;
      Rational value = exact;
      if (f->integer)
        value = Rational(whole || how == Rounding::nearest ? std::round(x)
                         : how == Rounding::down           ? std::floor(x)
                                                           : std::ceil(x));
      plan.set(Decision{m.tag, d}, value);
    }
  a.report = check(result.model(), plan);
  a.outcome = a.report->feasible ? Outcome::unproven : Outcome::undecided;
  a.plan = std::move(plan);
  a.seconds = result.search.seconds + clock.seconds();
  return a;
}

class ExactMethod final : public Method {
 public:
  std::string name() const override { return "exact"; }
  std::string about() const override { return "branch and bound to the proof"; }
  std::string source() const override { return "Land and Doig 1960; Padberg and Rinaldi 1991"; }
  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer* observer) const override {
    need_sensible(options);
    return {answer_of(solve(model, options, observer), name())};
  }
};

// What the search's own ways to plans bring is the difference to it.
class BranchingMethod final : public Method {
 public:
  std::string name() const override { return "branching alone"; }
  std::string about() const override {
    return "branch and bound that looks for no plans beside its branches";
  }
  std::string source() const override { return "Land and Doig 1960"; }
  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer* observer) const override {
    need_sensible(options);
    SolveOptions alone = options;
    alone.looks_for_plans = false;
    return {answer_of(solve(model, alone, observer), name())};
  }
};

class RelaxedMethod final : public Method {
 public:
  std::string name() const override { return "relaxed"; }
  std::string about() const override {
    return "whole decisions may be fractional: what no plan can beat";
  }
  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer*) const override {
    need_sensible(options);
    const Result r = solve_relaxed(model, options);
    MethodAnswer a = answer_of(r, name());
    if (!r.has_plan() || r.search.seconds >= options.seconds) return {std::move(a)};
    const PlanReport whole = check(model, *r.plan);
    if (whole.feasible && whole.goal == a.report->goal)
      a.note = "its decisions came out whole by themselves";
    return {std::move(a)};
  }
};

class RoundedMethod final : public Method {
 public:
  std::string name() const override { return "rounded"; }
  std::string about() const override {
    return "the relaxed plan, rounded to nearest, down and up, and repaired";
  }
  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer*) const override {
    need_sensible(options);
    if (options.generator) throw UsageError("'rounded' cannot follow rules that are generated");
    const Stopwatch clock;
    const Result relaxed = solve_relaxed(model, options);
    std::vector<MethodAnswer> answers;
    double last = 0.0;  // seconds that the last rounding took: the next one will take as long
    const auto over = [&] {
      return clock.seconds() + last >= options.seconds ||
             Interrupt{.stopped = options.stop.flag()}.by_hand();
    };
    for (const Rounding how : kRoundings) {
      if (relaxed.relaxed.point.empty()) break;
      if (!answers.empty() && over()) {
        answers.back().note = "the time was over before other ways of rounding were looked at";
        return answers;
      }
      const double before = clock.seconds();
      answers.push_back(rounding(relaxed, how));
      last = clock.seconds() - before;
    }
    if (!answers.empty()) {
      if (answers[0].report->feasible || over()) return answers;
      SolveOptions limited = options;
      limited.seconds = std::max(0.0, options.seconds - clock.seconds() - last);
      answers.push_back(repaired(model, answers[0], limited));
      return answers;
    }
    MethodAnswer none;
    none.method = none.label = name();
    none.note = "there is no relaxed plan to round";
    return {std::move(none)};
  }

 private:
  // The plan that meets all rules with the fewest steps away from a rounding; the best of those.
  static MethodAnswer repaired(const Model& model, const MethodAnswer& rounding,
                               const SolveOptions& options) {
    const Stopwatch clock;
    MethodAnswer a;
    a.method = "rounded";
    a.label = "rounded, repaired";
    const ModelData& m = model.data();
    Expression steps;
    for (const auto& f : m.families)
      for (Index i = 0; i < f->index.count && f->integer; ++i) {
        const Decision d{m.tag, f->first + i};
        const Rational& was = (*rounding.plan)[d];
        if (!f->binary)
          steps += absolute(Expression(d) - was);
        else if (was.is_zero())
          steps += d;
        else
          steps += 1 - Expression(d);
      }
    Model nearest = model;
    nearest.forget_goals();
    for (const auto& r : m.rules)  // charges stand in the goal below
      if (r->soft()) nearest.or_pay(r->name, 0);
    nearest.minimize(free_name(nearest, "steps of repair"), steps);
    if (!m.goals.empty())
      nearest.add_goal(m.first_goal().name, m.first_goal().sense, m.goal_with_charges(0));
    SolveOptions limited = options;
    constexpr std::int64_t kMostNodes = 20'000;  // a lesson is not worth a long search
    limited.nodes = std::min(limited.nodes, kMostNodes);
    limited.seconds = std::max(0.0, limited.seconds - clock.seconds());
    const Result r = solve(nearest, limited);
    if (r.plan) {
      a.plan.emplace(model, r.plan->values());
      a.report = check(model, *a.plan);
      a.outcome = a.report->feasible ? Outcome::unproven : Outcome::undecided;
      const auto away = static_cast<std::size_t>(std::llround(r.goals[0].value->to_double()));
      a.note = away == 0
                   ? "whole decisions as rounded, the others worked out anew"
                   : fmt::format("the plan nearest to the rounding that meets all rules, {} away",
                                 counted(away, "step"));
    } else {
      a.outcome = r.outcome;
      a.note = r.outcome == Outcome::infeasible ? "no plan meets all rules"
                                                : "no repair was found within the limits";
    }
    a.seconds = rounding.seconds + clock.seconds();
    return a;
  }
};

}  // namespace

std::vector<MethodAnswer> roundings(const Result& result) {
  std::vector<MethodAnswer> answers;
  if (result.relaxed.point.empty()) return answers;
  if (result.relaxed.point.size() != static_cast<std::size_t>(result.model().num_decisions()))
    throw UsageError("a relaxed point of other decisions was to be rounded");
  for (const Rounding how : kRoundings) answers.push_back(rounding(result, how));
  return answers;
}

const std::vector<std::unique_ptr<Method>>& all_methods() {
  static const std::vector<std::unique_ptr<Method>> kMethods = [] {
    std::vector<std::unique_ptr<Method>> all;
    all.push_back(std::make_unique<ExactMethod>());
    all.push_back(std::make_unique<BranchingMethod>());
    all.push_back(std::make_unique<RelaxedMethod>());
    all.push_back(std::make_unique<RoundedMethod>());
    all.push_back(make_greedy());
    all.push_back(methods::make_local());
    all.push_back(methods::make_local_from_many());
    for (auto& walk : methods::make_walks()) all.push_back(std::move(walk));
    for (auto& way : methods::make_kind_ways()) all.push_back(std::move(way));
    return all;
  }();
  return kMethods;
}

const Method& method(const std::string& name) {
  std::vector<std::string> known;
  for (const auto& m : all_methods()) {
    if (m->name() == name) return *m;
    known.push_back(m->name());
  }
  throw UsageError(fmt::format("there is no method '{}'{}; the methods are {}", name,
                               nearest_hint(name, known), listed(known)));
}

std::vector<std::string> method_names() {
  return {"exact", "relaxed", "rounded", "greedy"};
}

std::vector<std::string> method_names(const Model& model, bool all) {
  // A first look at a model is no contest of everything that there is.
  static const std::set<std::string> kForContests = {
      "branching alone", "greedy by worth", "greedy by prices", "greedy by regret",
      "many climbs",     "breeding",        "violations",       "multipliers"};
  // The kind is looked for once, not once for each of its ways.
  static const std::set<std::string> kOfKinds = [] {
    std::set<std::string> names;
    for (const auto& way : methods::make_kind_ways()) names.insert(way->name());
    return names;
  }();
  std::vector<std::string> names;
  for (const auto& m : all_methods())
    if (!kOfKinds.contains(m->name()) && (all || !kForContests.contains(m->name())) &&
        m->takes(model))
      names.push_back(m->name());
  if (const methods::FoundKind kind = methods::kind_of(model))
    for (const methods::KindWay& own : kind.entry->ways) names.push_back(own.name);
  return names;
}

MethodAnswer exact_answer(const Result& result) {
  return answer_of(result, "exact");
}

}  // namespace kiteknot
