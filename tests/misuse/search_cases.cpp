// Solving, generators, observers, studies and what they give back.

#include <cmath>
#include <limits>

#include "misuse.hpp"

using namespace misuse;

namespace {

// Refuses two shows at once; what it does wrong is the case's matter.
class Pairs : public Generator {
 public:
  explicit Pairs(const Programme& p) : run_(p.run) {}
  void look(const Candidate& candidate, Additions& additions) override {
    if (candidate[run_["drums"]] + candidate[run_["sleds"]] > 1.5)
      additions.rule("pair", run_["drums"] + run_["sleds"] <= 1);
  }
  [[nodiscard]] std::unique_ptr<Generator> twin() const override {
    return std::make_unique<Pairs>(*this);
  }

 protected:
  Decisions run_;
};
class WithoutTwin final : public Pairs {
 public:
  using Pairs::Pairs;
  [[nodiscard]] std::unique_ptr<Generator> twin() const override { return nullptr; }
};
class OfAnother final : public Pairs {
 public:
  OfAnother(const Programme& p, Decision foreign) : Pairs(p), foreign_(std::move(foreign)) {}
  void look(const Candidate&, Additions& additions) override {
    additions.rule("foreign", foreign_ + run_["lamps"] <= 1);
  }
  [[nodiscard]] std::unique_ptr<Generator> twin() const override {
    return std::make_unique<OfAnother>(*this);
  }

 private:
  Decision foreign_;
};
class AsksAnother final : public Pairs {
 public:
  AsksAnother(const Programme& p, Decision foreign) : Pairs(p), foreign_(std::move(foreign)) {}
  void look(const Candidate& candidate, Additions&) override { (void)candidate[foreign_]; }
  [[nodiscard]] std::unique_ptr<Generator> twin() const override {
    return std::make_unique<AsksAnother>(*this);
  }

 private:
  Decision foreign_;
};
class Logical final : public Pairs {
 public:
  using Pairs::Pairs;
  void look(const Candidate&, Additions& additions) override {
    additions.rule("logical", implies(run_["drums"], run_["sleds"]));
  }
  [[nodiscard]] std::unique_ptr<Generator> twin() const override {
    return std::make_unique<Logical>(*this);
  }
};
class Here final : public Pairs {
 public:
  using Pairs::Pairs;
  void look(const Candidate&, Additions& additions) override {
    additions.rule_here("here", run_["drums"] <= 0);
  }
  [[nodiscard]] std::unique_ptr<Generator> twin() const override {
    return std::make_unique<Here>(*this);
  }
};
// Adds what cuts nothing off, for ever.
class Idle final : public Pairs {
 public:
  using Pairs::Pairs;
  void look(const Candidate&, Additions& additions) override {
    additions.rule("idle", run_["drums"] <= 1);
  }
  [[nodiscard]] std::unique_ptr<Generator> twin() const override {
    return std::make_unique<Idle>(*this);
  }
};
// One rule each time, all of one name.
class Many final : public Pairs {
 public:
  Many(const Programme& p, const Decisions& x) : Pairs(p), x_(x) {}
  void look(const Candidate& candidate, Additions& additions) override {
    for (std::int32_t i = 0; i < x_.size(); ++i)
      if (candidate[x_.member(i)] > 0.5) additions.rule("one name", x_.member(i) <= 0);
  }
  [[nodiscard]] std::unique_ptr<Generator> twin() const override {
    return std::make_unique<Many>(*this);
  }

 private:
  Decisions x_;
};
class Throws final : public Observer {
 public:
  void progress(const Progress&) override { throw std::runtime_error("enough"); }
  void better_plan(const Progress&, const Plan&) override { throw std::runtime_error("enough"); }
};

template <class G, class... Args>
SolveOptions with(Args&&... args) {
  SolveOptions options;
  options.generator = std::make_shared<G>(std::forward<Args>(args)...);
  return options;
}

SolveOptions in_rounds(SolveOptions options) {
  options.in_rounds = true;
  return options;
}

}  // namespace

HARMLESS(generator_as_it_should_be) {
  Programme p;
  need(solve(p.model, with<Pairs>(p)).goal() == solve(p.model, in_rounds(with<Pairs>(p))).goal());
}
REFUSED(generator_without_twin, "gave nothing") {
  Programme p;
  (void)solve(p.model, with<WithoutTwin>(p));
}
REFUSED(generator_without_twin_in_rounds, "gave nothing") {
  Programme p;
  (void)solve(p.model, in_rounds(with<WithoutTwin>(p)));
}
REFUSED(generator_of_another_model, "mixes the models") {
  Programme p;
  Model m = small_model();
  (void)solve(p.model, with<OfAnother>(p, m.decision("x")));
}
REFUSED(generator_of_another_model_in_rounds, "mixes the models") {
  Programme p;
  Model m = small_model();
  (void)solve(p.model, in_rounds(with<OfAnother>(p, m.decision("x"))));
}
REFUSED(generator_of_a_later_decision, "another copy of model") {
  Programme p;
  Model later = p.model;
  for (int k = 0; k < 50; ++k) (void)later.binary("late" + std::to_string(k));
  (void)solve(p.model, with<OfAnother>(p, later.decision("late49")));
}
REFUSED(generator_asks_another_model, "of another model") {
  Programme p;
  Model m = small_model();
  (void)solve(p.model, with<AsksAnother>(p, m.decision("x")));
}
REFUSED(generator_of_logic, "is not a comparison of sums") {
  Programme p;
  (void)solve(p.model, with<Logical>(p));
}
REFUSED(generator_here_in_rounds, "rounds have no parts") {
  Programme p;
  (void)solve(p.model, in_rounds(with<Here>(p)));
}
HARMLESS(generator_that_adds_what_holds) {
  Programme p;
  SolveOptions options = with<Idle>(p);
  options.seconds = 5.0;
  need(solve(p.model, options).goal() == Rational(90));
}
HARMLESS(generator_with_one_name) {
  Programme p;
  std::vector<std::string> keys;
  for (int k = 0; k < 1500; ++k) keys.push_back(std::to_string(k));
  const Decisions x = p.model.binary("x", Table::of_keys("many", "k", keys));
  p.model.add_to_goal(0, total(x));
  const Result r = solve(p.model, with<Many>(p, x));
  need(r.goal() == Rational(90) && r.generated.size() == 1);
  const Result rounds = solve(p.model, in_rounds(with<Many>(p, x)));
  need(rounds.goal() == Rational(90) && rounds.generated.size() == 1500);
  need(rounds.generated[0] == "one name" && rounds.generated[1] == "one name 2");
}
REFUSED(candidate_too_short, "1 values") {
  Programme p;
  (void)Candidate(p.model, {1.0}, true);
}

HARMLESS(observer_that_throws) {
  Programme p;
  Throws observer;
  try {
    (void)solve(p.model, {}, &observer);
  } catch (const std::runtime_error& e) {
    need(std::string(e.what()) == "enough");
  }
  need(solve(p.model).goal() == Rational(90));
}
HARMLESS(observer_that_changes_the_model) {
  struct Changes : Observer {
    Model* model = nullptr;
    void better_plan(const Progress&, const Plan&) override { model->without("crew"); }
  };
  Programme p;
  Changes observer;
  observer.model = &p.model;
  need(solve(p.model, {}, &observer).goal() == Rational(90));
}

REFUSED(options_seconds_not_a_number, "makes no sense") {
  Programme p;
  SolveOptions options;
  options.seconds = std::nan("");
  (void)solve(p.model, options);
}
REFUSED(options_seconds_negative, "makes no sense") {
  Programme p;
  SolveOptions options;
  options.seconds = -1.0;
  (void)solve_relaxed(p.model, options);
}
REFUSED(options_gap_not_a_number, "makes no sense") {
  Programme p;
  SolveOptions options;
  options.gap = std::nan("");
  (void)solve(p.model, options);
}
REFUSED(options_gap_infinite, "makes no sense") {
  Programme p;
  SolveOptions options;
  options.gap = std::numeric_limits<double>::infinity();
  (void)Study(p.model).solve(options);
}
REFUSED(options_nodes_negative, "makes no sense") {
  Programme p;
  SolveOptions options;
  options.nodes = -5;
  (void)without_each(p.model, false, options);
}
REFUSED(options_memory_not_a_number, "makes no sense") {
  Programme p;
  SolveOptions options;
  options.memory_bytes = std::nan("");
  (void)compare(p.model, {"exact"}, options);
}
REFUSED(options_each_negative, "makes no sense") {
  Programme p;
  SolveOptions options;
  options.seconds_each = -3.0;
  (void)explain(p.model, {{}, {}, options});
}
REFUSED(options_of_a_method, "makes no sense") {
  Programme p;
  SolveOptions options;
  options.seconds = -3.0;
  (void)method("greedy").run(p.model, options, nullptr);
}
REFUSED(options_start_of_another_model, "of another model") {
  Programme p;
  Model m = small_model();
  SolveOptions options;
  options.start = {{m.decision("x"), 1}};
  (void)solve(p.model, options);
}
REFUSED(options_start_infinite, "infinite value") {
  Programme p;
  SolveOptions options;
  options.start = {{p.run["drums"], Rational::infinity()}};
  (void)solve(p.model, options);
}
HARMLESS(options_start_out_of_its_limits) {
  Programme p;
  SolveOptions options;
  options.start = {{p.run["drums"], 17}, {p.run["lamps"], Rational::ratio(1, 3)}};
  need(solve(p.model, options).goal() == Rational(90));
}
HARMLESS(options_nothing_to_spend) {
  Programme p;
  SolveOptions options;
  options.seconds = 0.0;
  options.nodes = 0;
  options.memory_bytes = 0.0;
  const Result r = solve(p.model, options);
  need(r.outcome != Outcome::infeasible);
}

HARMLESS(model_of_nothing) {
  const Model none{"None"};
  const Result r = solve(none);
  need(r.outcome == Outcome::optimal && r.has_plan());
  (void)solve_relaxed(none);
  (void)explain(none);
  (void)worth_a_look(none);
  (void)compare(none, method_names());
}
HARMLESS(model_without_goal) {
  Programme p;
  p.model.forget_goals();
  need(solve(p.model).has_plan());
  (void)without_each(p.model);
  (void)cheapest_loosening(p.model);
  (void)compare(p.model, method_names());
}
REFUSED(result_of_nothing, "there is no plan") {
  (void)Result().goal();
}
REFUSED(result_of_nothing_asked, "there is no plan") {
  Programme p;
  (void)Result()[p.run["drums"]];
}
REFUSED(result_of_no_decisions, "there is no plan") {
  Programme p;
  (void)Result(p.model).chosen(p.run);
}
HARMLESS(result_moved_from) {
  Programme p;
  Result r = solve(p.model);
  const Result taken = std::move(r);
  need(taken.goal() == Rational(90));
  need(!r.model().title().empty());  // NOLINT(bugprone-use-after-move)
}
HARMLESS(switch_moved_from) {
  StopSwitch a;
  const StopSwitch b = std::move(a);
  a.press();  // NOLINT(bugprone-use-after-move)
  need(b.pressed());
  a.reset();
  need(!b.token().pressed());
}
HARMLESS(study_moved_from) {
  Programme p;
  Study study(p.model);
  (void)study.solve();
  Study other = std::move(study);
  need(other.solve().goal() == Rational(90));
  need(study.solve().goal() == Rational(90));  // NOLINT(bugprone-use-after-move)
}
REFUSED(study_of_another_model, "other decisions") {
  Programme p;
  Study study(p.model);
  (void)study.ask(small_model());
}
HARMLESS(study_of_a_model_like_it) {
  Programme p;
  Study study(p.model);
  (void)study.solve();
  need(study.ask(other_model()).goal() == Rational(1));
}
REFUSED(study_number_missing, "no number") {
  Programme p;
  Study(p.model).set("ours", 3);
}
REFUSED(study_rule_missing, "nearest is 'crew'") {
  Programme p;
  Study(p.model).without("crow");
}
REFUSED(method_missing, "greedy") {
  (void)method("greddy");
}
REFUSED(ranks_without_a_transport, "carries their letters") {
  (void)RankGroup(nullptr, {});
}
REFUSED(compare_method_missing, "greedy") {
  Programme p;
  (void)compare(p.model, {"exact", "greddy"});
}
HARMLESS(compare_of_nothing) {
  Programme p;
  need(compare(p.model, {}).answers.empty());
  (void)compare(Result(p.model), {"greedy"});
  (void)compare(Result(), method_names());
}
HARMLESS(complete_beside_names_like_its_own) {
  Programme p;
  p.model.rule("given 1", p.run["sleds"] <= 1);
  p.model.rule("another than plan 1", p.run["sleds"] <= 1);
  p.model.rule("the condition asked", p.run["sleds"] <= 1);
  p.model.rule("better", p.run["sleds"] <= 1);
  p.model.rule("held 1", p.run["sleds"] <= 1);
  p.model.rule("trade limit", p.run["sleds"] <= 1);
  p.model.rule("goal crowd", p.run["sleds"] <= 1);
  p.model.minimize("needs", total(p.run));
  (void)p.model.let("trade goal", total(p.run));
  need(complete(p.model, {{p.run["drums"], 1}}).goals[0].value == Rational(60));
  need(next_best(solve(p.model), {3, {}}).plans.size() == 4);
  (void)firmness(p.model);
  (void)why(p.model, p.run["drums"] >= 1);
  (void)trade_off(p.model, trade_goal(p.model, "crowd"), trade_goal(p.model, "needs"));
  (void)sweep(p.model, {"hours", 1, 9, 5, true});
}
REFUSED(complete_of_another_model, "was given to model") {
  Programme p;
  Model m = small_model();
  (void)complete(p.model, {{m.decision("x"), 1}});
}
