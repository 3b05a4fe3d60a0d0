#include "methods/kinds/kind_ways.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "methods/budget.hpp"
#include "model/model_data.hpp"

namespace kiteknot::methods {
namespace {

FoundKind kind_of(const CompiledModel& compiled) {
  const std::optional<PlainProblem> p = plain_problem(compiled);
  return p ? find_kind(*p) : FoundKind();
}

class KindMethod final : public Method {
 public:
  KindMethod(const KindEntry& entry, const KindWay& way) : entry_(entry), way_(way) {}
  std::string name() const override { return way_.name; }
  std::string about() const override { return way_.about; }
  std::string source() const override { return way_.source; }
  bool draws_lots() const override { return way_.draws_lots; }
  bool takes(const Model& model) const override { return methods::kind_of(model).entry == &entry_; }
  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer* observer) const override {
    need_sensible(options);
    const Stopwatch clock;
    const Interrupt interrupt = budget_of(options).interrupt(clock);
    const CompiledModel compiled(model.data());
    const FoundKind found = kind_of(compiled);
    if (options.generator || found.entry != &entry_)
      throw UsageError(
          fmt::format("'{}' does not take this model: it is no {}", way_.name, entry_.word));
    MethodAnswer a;
    a.method = a.label = way_.name;
    const auto told = [&](double cost) {
      return compiled.told_goal(cost + compiled.figures[at(compiled.goal)].constant);
    };
    KindRun r(compiled.num_decisions(), options.seed, interrupt, HUGE_VAL,
              std::isfinite(options.seconds), [&](double cost, const std::vector<double>&) {
                Progress p;
                p.seconds = clock.seconds();
                p.best = told(cost);
                p.found_by = way_.name;
                a.progress.push_back(p);
                return observer != nullptr && observer->enough(p);
              });
    way_.run(r, *found.kind);
    a.note = std::move(r.note);
    if (std::isfinite(r.proven()) && whole_figure(compiled.figures[at(compiled.goal)].constant))
      a.bound = told(r.proven());
    if (!r.best().empty()) {
      std::vector<Rational> values;
      for (const double v : r.best()) values.emplace_back(v);
      a.plan.emplace(model, std::move(values));
      a.report = check(model, *a.plan);
      a.outcome = a.report->feasible ? Outcome::unproven : Outcome::undecided;
    }
    a.seconds = clock.seconds();
    return {std::move(a)};
  }

 private:
  const KindEntry& entry_;
  const KindWay& way_;
};

}  // namespace

std::vector<std::unique_ptr<Method>> make_kind_ways() {
  std::vector<std::unique_ptr<Method>> all;
  for (const KindEntry& entry : special_kinds())
    for (const KindWay& way : entry.ways) all.push_back(std::make_unique<KindMethod>(entry, way));
  return all;
}

FoundKind kind_of(const Model& model) {
  const ModelData& m = model.data();
  std::size_t terms = 0;
  for (const auto& rules : m.rules) {
    if (rules->soft() || !std::ranges::all_of(rules->conditions, is_linear)) return {};
    for (const Condition& c : rules->conditions)
      terms += c.body.terms().size() + c.body.factored().size();
  }
  constexpr std::size_t kInPassing = 2'000'000;
  if (terms > kInPassing || m.goals.size() != 1 || !m.goals[0].expression.is_linear()) return {};
  return kind_of(CompiledModel(m));
}

}  // namespace kiteknot::methods

namespace kiteknot {

std::string known_kind(const Model& model) {
  const methods::FoundKind found = methods::kind_of(model);
  return found ? found.kind->told() : std::string();
}

}  // namespace kiteknot
