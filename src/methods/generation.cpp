#include "methods/generation.hpp"

#include <cmath>
#include <unordered_map>
#include <unordered_set>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/tolerances.hpp"
#include "base/work.hpp"
#include "methods/exact.hpp"
#include "model/evaluation.hpp"
#include "model/lowering_builder.hpp"

namespace kiteknot {

Candidate::Candidate(const Model& model, std::vector<double> values, bool whole)
    : model_(model.data().tag), values_(std::move(values)), whole_(whole) {
  if (values_.size() != at(model.num_decisions()))
    throw UsageError(fmt::format("a candidate of {} values was made for a model of {} decisions",
                                 values_.size(), model.num_decisions()));
}

double Candidate::operator[](const Decision& d) const {
  if (d.id < 0 || !understood(d.model, d.id + 1, 0, model_) || at(d.id) >= values_.size())
    throw UsageError("a candidate was asked for a decision of another model");
  return values_[at(d.id)];
}

void Additions::rule(std::string name, Condition condition) {
  rules_.push_back({std::move(name), std::move(condition), false});
}

void Additions::rule_here(std::string name, Condition condition) {
  rules_.push_back({std::move(name), std::move(condition), true});
}

}  // namespace kiteknot

namespace kiteknot::methods {
namespace {

void check_form(const Additions::Rule& rule, const Model& model) {
  if (!is_linear(rule.condition))
    throw UsageError(
        fmt::format("the generated rule '{}' is not a comparison of sums of decisions", rule.name));
  const ModelData& m = model.data();
  for (const Expression* e : {&rule.condition.body, &rule.condition.low, &rule.condition.high})
    try {
      m.need_own(*e);
    } catch (const UsageError& error) {
      throw UsageError(fmt::format("the generated rule '{}': {}", rule.name, error.what()));
    }
}

}  // namespace

std::unique_ptr<kiteknot::Generator> twin_of(const kiteknot::Generator& generator) {
  std::unique_ptr<kiteknot::Generator> twin = generator.twin();
  if (twin == nullptr) throw UsageError("the twin() of a generator gave nothing");
  return twin;
}

GeneratedRules::GeneratedRules(const Model& model, std::unique_ptr<kiteknot::Generator> generator)
    : GeneratedRules(model, std::move(generator), std::make_shared<Family>()) {}

GeneratedRules::GeneratedRules(const Model& model, std::unique_ptr<kiteknot::Generator> generator,
                               std::shared_ptr<Family> family)
    : model_(model), generator_(std::move(generator)), family_(std::move(family)) {
  family_->push_back(names_);
}

std::shared_ptr<mip::RowGenerator> GeneratedRules::twin() const {
  return std::shared_ptr<mip::RowGenerator>(
      new GeneratedRules(model_, twin_of(*generator_), family_));
}

std::vector<std::string> GeneratedRules::names() const {
  Names all;
  for (const auto& own : *family_)
    for (const std::string& name : own->in_order)
      if (all.known.insert(name).second) all.in_order.push_back(name);
  return all.in_order;
}

std::vector<mip::LinearRow> GeneratedRules::look(std::span<const double> point, bool) {
  const ModelData& m = model_.data();
  std::vector<double> values(point.begin(), point.begin() + m.num_decisions);
  bool whole = true;
  for (Index d = 0; d < m.num_decisions && whole; ++d)
    whole = !m.whole(d) ||
            std::abs(values[at(d)] - std::round(values[at(d)])) <= Tolerances{}.integrality;
  if (!whole && !wants_fractions()) return {};
  for (Index d = 0; d < m.num_decisions && whole; ++d)
    if (m.whole(d)) values[at(d)] = std::round(values[at(d)]);
  Additions additions;
  generator_->look(Candidate(model_, std::move(values), whole), additions);
  std::vector<mip::LinearRow> rows;
  Collector collector(m);
  for (const Additions::Rule& rule : additions.rules()) {
    check_form(rule, model_);
    LinearRule form = linear_rule(collector, rule.condition);
    const Rational scale = whole_scale(form.terms);
    rows.push_back(problem_row({0, std::move(form.terms)}, form.low, form.high, scale));
    rows.back().local = rule.here;
    if (names_->known.insert(rule.name).second) names_->in_order.push_back(rule.name);
  }
  return rows;
}

Result search_in_rounds(const Model& given, const SolveOptions& options, Observer* observer) {
  const Stopwatch clock;
  Model model = given;
  const std::unique_ptr<kiteknot::Generator> generator = twin_of(*options.generator);
  SolveOptions alone = options;
  alone.generator.reset();
  std::vector<std::string> names;
  std::unordered_set<std::string> taken;       // the same, and the model's own rules
  std::unordered_map<std::string, int> times;  // that a name was given
  for (const auto& rule : given.data().rules) taken.insert(rule->name);
  SearchCounts before;
  for (int number = 1;; ++number) {
    alone.seconds = std::max(0.0, options.seconds - clock.seconds());
    Result r = search(model, alone, observer, false);
    r.search.add(before);
    before = r.search;
    r.search.generated_constraints = static_cast<std::int64_t>(names.size());
    r.search.seconds = clock.seconds();
    r.generated = names;
    if (!r.plan) return r;
    std::vector<double> values;
    for (const Rational& x : r.plan->values()) values.push_back(x.to_double());
    Additions additions;
    generator->look(Candidate(model, std::move(values), true), additions);
    const Evaluation here(model.data(), r.plan->values(), false);
    Round round{number, *r.plan, {}};
    for (const Additions::Rule& rule : additions.rules()) {
      check_form(rule, model);
      if (rule.here)
        throw UsageError(fmt::format(
            "the generated rule '{}' holds in a part of a search only; rounds have no parts",
            rule.name));
      if (here.is(rule.condition)) continue;
      std::string name = rule.name;
      for (int& k = times.try_emplace(rule.name, 1).first->second; !taken.insert(name).second;)
        name = fmt::format("{} {}", rule.name, ++k);
      names.push_back(name);
      round.added.push_back(name);
    }
    if (observer != nullptr) observer->round(round);
    if (round.added.empty()) return r;
    if (!r.search.stopped_by.empty()) {  // no time to go on: the plan at hand is none
      r.outcome = Outcome::undecided;
      r.plan.reset();
      r.report.reset();
      for (GoalResult& g : r.goals) g.value.reset(), g.gap.reset();
      return r;
    }
    std::size_t next = names.size() - round.added.size();
    for (const Additions::Rule& rule : additions.rules())
      if (!here.is(rule.condition)) model.rule(names[next++], rule.condition);
  }
}

}  // namespace kiteknot::methods
