// A way of one's own beside the others: from the greedy programme one show is swapped for another,
// as long as that draws more people. Run it in demo/: it reads programme.knot.
#include <iostream>

#include "kiteknot/kiteknot.hpp"

namespace kk = kiteknot;

class Swapping final : public kk::Method {
 public:
  std::string name() const override { return "swapping"; }
  std::string about() const override { return "one show for another, while that draws more"; }

  std::vector<kk::MethodAnswer> run(const kk::Model& model, const kk::SolveOptions& options,
                                    kk::Observer*) const override {
    kk::MethodAnswer a = kk::method("greedy").run(model, options, nullptr).front();
    a.method = a.label = name();
    const bool more = model.goal_sense() == kk::Sense::maximize;
    for (bool better = a.report && a.report->feasible; better && !options.stop.pressed();) {
      better = false;
      for (int out = 0; out < model.num_decisions() && !better; ++out)
        for (int in = 0; in < model.num_decisions() && !better; ++in) {
          const kk::Decision leaves = model.decision(out), comes = model.decision(in);
          if ((*a.plan)[leaves].is_zero() || !(*a.plan)[comes].is_zero()) continue;
          kk::Plan next = *a.plan;
          next.set(leaves, 0);
          next.set(comes, 1);
          const kk::PlanReport report = check(model, next);
          if (!report.feasible ||
              (more ? *report.goal <= *a.report->goal : *report.goal >= *a.report->goal))
            continue;
          a.plan = next;
          a.report = report;
          better = true;
        }
    }
    return {a};
  }
};

int main() {
  const auto read = [](int grant) {
    kk::Model programme = kk::read_model("programme.knot").value();
    programme.set("grant", grant);
    return programme;
  };
  std::vector<kk::TrialCase> cases;
  for (int grant = 800; grant <= 1400; grant += 50)
    cases.push_back({"grant " + std::to_string(grant), [=] { return read(grant); }});

  kk::TrialOptions options;
  options.own = {std::make_shared<Swapping>()};
  options.ways = {"greedy", "swapping", "climb", "tabu"};
  options.seconds = 1.0;
  const kk::Trials trials = kk::run_trials(cases, options);
  std::cout << trials_page(trials);
}
