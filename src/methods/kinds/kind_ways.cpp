#include "methods/kinds/kind_ways.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "base/work.hpp"
#include "methods/budget.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {
namespace {

// What a way of a kind is given.
struct KindRun {
  const Model& model;
  const CompiledModel& compiled;
  const SolveOptions& options;
  const Interrupt& interrupt;
  Random random;
  Observer* observer = nullptr;
  MethodAnswer answer{};
  std::vector<double> best{};  // by decision
  double goal = HUGE_VAL;
  bool enough = false;
  std::int64_t looks = 0;  // without a clock: how far it goes

  [[nodiscard]] bool over(std::int64_t most) {
    return enough || interrupt.now() || (!std::isfinite(options.seconds) && ++looks > most);
  }
  // A plan with its goal in the compiled model's sense and scale, but for its constant.
  void take(double cost, std::vector<double> values) {
    if (cost >= goal) return;
    goal = cost;
    best = std::move(values);
    Progress p;
    p.seconds = interrupt.clock->seconds();
    p.best = compiled.told_goal(cost + compiled.figures[at(compiled.goal)].constant);
    p.found_by = answer.method;
    answer.progress.push_back(p);
    enough = observer != nullptr && observer->enough(p);
  }
  [[nodiscard]] std::vector<double> nothing() const {
    return std::vector<double>(at(compiled.num_decisions()), 0.0);
  }
};

std::vector<double> values_of(const KindRun& r, const CoverKind& k,
                              const structures::CoverPlan& plan) {
  std::vector<double> values = r.nothing();
  for (const Index s : plan.sets) values[at(k.decision[at(s)])] = 1.0;
  return values;
}

void cover_greedy(KindRun& r, const SpecialKind& kind) {
  const CoverKind& k = std::get<CoverKind>(kind);
  const structures::CoverPlan plan = structures::greedy_cover(k.problem);
  if (!plan.sets.empty()) r.take(plan.cost, values_of(r, k, plan));
}

void cover_prices(KindRun& r, const SpecialKind& kind) {
  const CoverKind& k = std::get<CoverKind>(kind);
  constexpr std::int64_t kLooks = 3'000;
  constexpr int kRounds = 1'000'000;
  const structures::CoverWatch watch{
      [&](const structures::CoverPlan& plan) { r.take(plan.cost, values_of(r, k, plan)); },
      [&] { return r.over(kLooks); }};
  (void)structures::priced_covers(k.problem, r.random, kRounds, watch);
}

void boxed(KindRun& r, const BoxKind& k, const structures::Boxes& boxes) {
  if (at(boxes.used) > k.used.size()) {
    r.answer.note =
        fmt::format("it needs {}, and there are {}", counted(at(boxes.used), "box"), k.used.size());
    return;
  }
  std::vector<double> values = r.nothing();
  double cost = 0.0;
  for (std::size_t i = 0; i < k.sizes.size(); ++i) values[at(k.put[i][at(boxes.box_of[i])])] = 1.0;
  for (Index b = 0; b < boxes.used; ++b) {
    values[at(k.used[at(b)])] = 1.0;
    for (const WeightedNode& t : r.compiled.terms.of(r.compiled.goal))
      if (t.node == k.used[at(b)]) cost += t.weight;
  }
  r.take(cost, std::move(values));
  // Whole sizes: the bound is exact.
  const Index least = structures::boxes_needed(k.sizes, k.room);
  double each = 0.0;
  for (const WeightedNode& t : r.compiled.terms.of(r.compiled.goal))
    if (t.node == k.used.front()) each = t.weight;
  if (r.compiled.goal_step > 0.0)
    r.answer.bound =
        r.compiled.told_goal(each * least + r.compiled.figures[at(r.compiled.goal)].constant);
  if (boxes.used == least)
    r.answer.note =
        fmt::format("{} are needed at least: nothing is better", counted(at(least), "box"));
}

void boxes_first(KindRun& r, const SpecialKind& kind) {
  const BoxKind& k = std::get<BoxKind>(kind);
  boxed(r, k, structures::first_fit(k.sizes, k.room));
}
void boxes_best(KindRun& r, const SpecialKind& kind) {
  const BoxKind& k = std::get<BoxKind>(kind);
  boxed(r, k, structures::best_fit(k.sizes, k.room));
}

void located(KindRun& r, const LocationKind& k, const structures::LocationPlan& plan) {
  if (!std::isfinite(plan.cost)) return;
  std::vector<double> values = r.nothing();
  for (std::size_t f = 0; f < k.open.size(); ++f) values[at(k.open[f])] = plan.open[f] ? 1.0 : 0.0;
  for (std::size_t c = 0; c < k.amount.size(); ++c)
    values[at(k.ship[c][at(plan.from[c])])] = k.amount[c];
  r.take(plan.cost, std::move(values));
}

void places_added(KindRun& r, const SpecialKind& kind) {
  const LocationKind& k = std::get<LocationKind>(kind);
  located(r, k, structures::add_places(k.problem));
}
void places_dropped(KindRun& r, const SpecialKind& kind) {
  const LocationKind& k = std::get<LocationKind>(kind);
  located(r, k, structures::drop_places(k.problem));
}
void places_swapped(KindRun& r, const SpecialKind& kind) {
  const LocationKind& k = std::get<LocationKind>(kind);
  structures::LocationPlan plan = structures::add_places(k.problem);
  located(r, k, plan);
  constexpr std::int64_t kRounds = 100'000;
  for (double before = HUGE_VAL; plan.cost < before && !r.over(kRounds);) {
    before = plan.cost;
    plan = structures::swap_places(k.problem, std::move(plan), 1);
    located(r, k, plan);
  }
}
void places_priced(KindRun& r, const SpecialKind& kind) {
  const LocationKind& k = std::get<LocationKind>(kind);
  structures::DualAscent d = structures::dual_ascent(k.problem);
  located(r, k, d.plan);
  located(r, k, structures::swap_places(k.problem, std::move(d.plan), 1'000));
}

std::vector<double> values_of(const KindRun& r, const RoomKind& k,
                              const structures::RoomPlan& plan) {
  std::vector<double> values = r.nothing();
  for (Index j = 0; j < k.problem.jobs; ++j)
    values[at(k.does[k.problem.place(plan.agent_of[at(j)], j)])] = 1.0;
  return values;
}
void jobs_by_regret(KindRun& r, const SpecialKind& kind) {
  const RoomKind& k = std::get<RoomKind>(kind);
  const structures::RoomPlan plan = structures::by_regret(k.problem);
  if (!plan.agent_of.empty() && plan.over <= 0.0)
    r.take(plan.cost, values_of(r, k, plan));
  else if (!plan.agent_of.empty())
    r.answer.note = "some job found no agent with room";
}
void jobs_exchanged(KindRun& r, const SpecialKind& kind) {
  const RoomKind& k = std::get<RoomKind>(kind);
  constexpr std::int64_t kLooks = 200'000;
  structures::exchange(
      k.problem, structures::by_regret(k.problem), r.random,
      [&](const structures::RoomPlan& plan) {
        constexpr double kNoise = 1e-9;
        if (plan.over <= kNoise) r.take(plan.cost, values_of(r, k, plan));
      },
      [&] { return r.over(kLooks); });
}

struct KindWay {
  std::string name, about;
  std::size_t kind = 0;  // place in SpecialKind
  void (*run)(KindRun&, const SpecialKind&) = nullptr;
  bool draws = false;
};

const std::vector<KindWay>& kind_ways() {
  static const std::vector<KindWay> kAll = {
      {"cover greedy", "of a cover: most needs for its cost first, then needless sets out", 1,
       cover_greedy},
      {"cover prices", "of a cover: prices on needs, covers near them, sets fixed bit by bit", 1,
       cover_prices, true},
      {"first fit", "of boxes: largest first, each into the first box with room", 2, boxes_first},
      {"best fit", "of boxes: largest first, each into the fullest box with room", 2, boxes_best},
      {"add places", "of a choice of places: the one that saves most is opened, again and again", 3,
       places_added},
      {"drop places", "of a choice of places: from all open, the dearest is closed", 3,
       places_dropped},
      {"swap places", "of a choice of places: opened, closed and swapped while that is better", 3,
       places_swapped},
      {"dual ascent", "of a choice of places: those that customers' prices pay for, then swapped",
       3, places_priced},
      {"job regret", "of jobs to agents with room: first whose second best costs most", 4,
       jobs_by_regret},
      {"job exchange", "of jobs to agents with room: shifts and swaps, again from a few lots away",
       4, jobs_exchanged, true}};
  return kAll;
}

const char* const kKindWords[] = {"", "cover", "packing of items into equal boxes",
                                  "choice of places without limits on what they serve",
                                  "assignment of jobs to agents with room"};

class KindMethod final : public Method {
 public:
  explicit KindMethod(const KindWay& way) : way_(way) {}
  std::string name() const override { return way_.name; }
  std::string about() const override { return way_.about; }
  bool draws_lots() const override { return way_.draws; }
  bool takes(const Model& model) const override {
    return special_kind_of(model).index() == way_.kind;
  }
  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer* observer) const override {
    need_sensible(options);
    const Stopwatch clock;
    const Interrupt interrupt = budget_of(options).interrupt(clock);
    const CompiledModel compiled(model.data());
    const SpecialKind kind = special_kind(compiled);
    if (options.generator || kind.index() != way_.kind)
      throw UsageError(fmt::format("'{}' does not take this model: it is no {}", way_.name,
                                   kKindWords[way_.kind]));
    KindRun r{model, compiled, options, interrupt, Random(options.seed), observer};
    r.answer.method = r.answer.label = way_.name;
    way_.run(r, kind);
    MethodAnswer a = std::move(r.answer);
    if (!r.best.empty()) {
      std::vector<Rational> values;
      for (const double v : r.best) values.emplace_back(v);
      a.plan.emplace(model, std::move(values));
      a.report = check(model, *a.plan);
      a.outcome = a.report->feasible ? Outcome::unproven : Outcome::undecided;
    }
    a.seconds = clock.seconds();
    return {std::move(a)};
  }

 private:
  const KindWay& way_;
};

}  // namespace

std::vector<std::unique_ptr<Method>> make_kind_ways() {
  std::vector<std::unique_ptr<Method>> all;
  for (const KindWay& way : kind_ways()) all.push_back(std::make_unique<KindMethod>(way));
  return all;
}

std::vector<std::string> ways_of(const SpecialKind& kind) {
  std::vector<std::string> names;
  for (const KindWay& way : kind_ways())
    if (way.kind == kind.index()) names.push_back(way.name);
  return names;
}

SpecialKind special_kind_of(const Model& model) {
  const ModelData& m = model.data();
  std::size_t terms = 0;
  for (const auto& rules : m.rules) {
    if (rules->soft() || !std::ranges::all_of(rules->conditions, is_linear)) return {};
    for (const Condition& c : rules->conditions)
      terms += c.body.terms().size() + c.body.factored().size();
  }
  constexpr std::size_t kInPassing = 2'000'000;
  if (terms > kInPassing || m.goals.size() != 1 || !m.goals[0].expression.is_linear()) return {};
  return special_kind(CompiledModel(m));
}

}  // namespace kiteknot::methods

namespace kiteknot {

std::string known_kind(const Model& model) {
  return methods::told(methods::special_kind_of(model));
}

}  // namespace kiteknot
