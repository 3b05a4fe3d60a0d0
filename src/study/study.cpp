#include "kiteknot/study.hpp"

#include <algorithm>
#include <cmath>

#include "kiteknot/solve.hpp"
#include "methods/exact.hpp"
#include "model/free_names.hpp"
#include "study/time_left.hpp"

namespace kiteknot {

Study::Study(const Model& model) : model_(model), memory_(std::make_unique<methods::Memory>()) {}
Study::~Study() = default;
Study::Study(Study&&) noexcept = default;
Study& Study::operator=(Study&&) noexcept = default;

Study& Study::set(const Number& number, const Rational& value) {
  model_.set(number, value);
  return *this;
}
Study& Study::set(const std::string& number, const Rational& value) {
  model_.set(number, value);
  return *this;
}
Study& Study::without(const std::string& rule) {
  model_.without(rule);
  return *this;
}
Study& Study::with(const std::string& rule) {
  model_.with(rule);
  return *this;
}

Result Study::solve(const SolveOptions& options, Observer* observer) {
  need_sensible(options);
  return methods::search(model_, options, observer, false, memory());
}

Result Study::ask(const Model& variant, const SolveOptions& options) {
  if (variant.num_decisions() != model_.num_decisions())
    throw UsageError("a study was asked about a model with other decisions");
  need_sensible(options);
  return methods::search(variant, options, nullptr, false, memory());
}

// One that was moved from has none left, and begins anew.
methods::Memory* Study::memory() {
  if (!memory_) memory_ = std::make_unique<methods::Memory>();
  return memory_.get();
}

namespace {

// Whoever comes to the proven best need not go on.
class UntilProven final : public Observer {
 public:
  UntilProven(const Comparison& c, Observer* other) : c_(c), other_(other) {}
  void better_plan(const Progress& p, const Plan& plan) override {
    if (other_ != nullptr) other_->better_plan(p, plan);
  }
  void progress(const Progress& p) override {
    if (other_ != nullptr) other_->progress(p);
  }
  bool enough(const Progress& p) override {
    const bool told = other_ != nullptr && other_->enough(p);
    return told || (c_.proven && c_.best && p.best && *p.best == c_.best->to_double());
  }

 private:
  const Comparison& c_;
  Observer* other_;
};

// A plan is judged as stated, whoever says what of it.
std::vector<MethodAnswer> judged(const Model& model, std::vector<MethodAnswer> answers) {
  for (MethodAnswer& a : answers) {
    if (!a.plan) continue;
    a.report = check(model, *a.plan);
    a.outcome = a.report->feasible ? Outcome::unproven : Outcome::undecided;
  }
  return answers;
}

}  // namespace

Comparison compare(const Model& model, const std::vector<std::string>& names,
                   const SolveOptions& options, Observer* observer, const OwnMethods& own) {
  for (const std::string& name : names) (void)method(name);  // wrong names are told before any work
  const TimeLeft time(options);
  SolveOptions first = options;  // the proof has half of the time, where others come after it
  if (names.size() + own.size() > 1) first.seconds /= 2.0;
  first.seconds = std::min(first.seconds, options.seconds_each);
  const Result solved = solve(model, first, observer);
  Comparison c = compare(solved, names, time.all(), observer, own);
  c.seconds = options.seconds;
  return c;
}

Comparison compare(const Result& solved, const std::vector<std::string>& names,
                   const SolveOptions& options, Observer* observer, const OwnMethods& own) {
  for (const std::string& name : names) (void)method(name);
  Comparison c;
  c.seconds_each = options.seconds_each;
  const TimeLeft time(options);
  std::size_t left =
      own.size() + static_cast<std::size_t>(std::ranges::count_if(
                       names, [](const std::string& name) { return name != "exact"; }));
  const MethodAnswer exact = exact_answer(solved);
  if (exact.report && exact.report->goal) c.best = exact.report->goal;
  c.bound = exact.bound;
  c.proven = exact.outcome == Outcome::optimal;
  UntilProven until(c, observer);
  const auto add = [&](const Method& way, bool of_user) {
    std::vector<MethodAnswer> answers;
    SolveOptions part = time.options();  // each an equal part of what is left
    if (std::isfinite(options.seconds)) part.seconds /= static_cast<double>(left);
    part.seconds = std::min(part.seconds, options.seconds_each);
    --left;
    try {  // one way that fails costs no other
      answers = way.run(solved.model(), part, &until);
      if (of_user) answers = judged(solved.model(), std::move(answers));
    } catch (const std::exception& e) {
      MethodAnswer failed;
      failed.method = failed.label = way.name();
      failed.note = e.what();
      failed.refused = dynamic_cast<const UsageError*>(&e) != nullptr;
      answers.push_back(std::move(failed));
    }
    for (MethodAnswer& a : answers) c.answers.push_back(std::move(a));
  };
  for (const std::string& name : names)
    if (name == "exact")
      c.answers.push_back(exact);
    else
      add(method(name), false);
  for (const auto& way : own) add(*way, true);
  return c;
}

Result complete(const Model& model, const std::vector<std::pair<Decision, Rational>>& given,
                const SolveOptions& options, Observer* observer) {
  Model fixed = model;
  for (std::size_t k = 0; k < given.size(); ++k)
    fixed.rule(free_rule(fixed, "given " + std::to_string(k + 1)),
               Expression(given[k].first) == given[k].second);
  Result r = solve(fixed, options, observer);
  // The answer speaks of the model as stated, without these rules.
  Result whole(model);
  whole.outcome = r.outcome;
  whole.goals = r.goals;
  whole.search = r.search;
  whole.reason = r.reason;
  whole.has_integers = r.has_integers;
  if (r.plan) {
    whole.plan.emplace(model, r.plan->values());
    whole.report = check(model, *whole.plan);
  }
  return whole;
}

}  // namespace kiteknot
