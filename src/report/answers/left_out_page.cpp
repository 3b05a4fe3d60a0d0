#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/pages.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

// What taking the decision does to the plan, exactly, the rest as it is.
std::string taken(const Result& best, Index decision) {
  const Model& model = best.model();
  const ModelData& m = model.data();
  Plan plan = *best.plan;
  plan.set({m.tag, decision, true}, 1);
  const PlanReport report = check(model, plan);
  std::vector<std::string> broken;
  for (const RuleValue& v : report.rules) {
    if (v.met || v.soft) continue;
    const std::string name = m.rule_name(v.family, v.member);
    broken.push_back(v.logical ? name : fmt::format("{} ({})", name, report::standing(v)));
  }
  for (const DecisionFault& f : report.faults) broken.push_back(report::told(m, f));
  constexpr std::size_t kMost = 2;
  if (!broken.empty()) return "breaks " + listed(broken, kMost);
  if (!report.goal || best.goals.empty()) return "meets all rules as well";
  const Rational change = *report.goal - *best.goals[0].value;
  if (change.is_zero()) return fmt::format("leaves {} as it is", best.goals[0].name);
  return fmt::format("{} {} {} {}", change.sign() > 0 ? "adds" : "takes", figure(change.abs()),
                     change.sign() > 0 ? "to" : "from", best.goals[0].name);
}

}  // namespace

std::string left_out_page(const Result& best, const PageOptions& options, const ShowOptions& what) {
  constexpr std::size_t kMost = 40;
  const ModelData& m = best.model().data();
  report::Page page(options);
  page.heading("Left out: what taking each one does, the rest as it is");
  const std::size_t most = what.rows > 0 ? static_cast<std::size_t>(what.rows) : kMost;
  std::vector<std::vector<std::string>> rows;
  std::size_t all = 0;
  for (const auto& f : m.families) {
    if (!f->binary || (!what.family.empty() && what.family != f->name)) continue;
    for (Index i = 0; i < f->index.count; ++i) {
      const Index d = f->first + i;
      if (!best.plan || !(*best.plan)[d].is_zero() || ++all > most) continue;
      rows.push_back({m.decision_name(d), taken(best, d)});
    }
  }
  if (rows.empty()) page.say("Nothing that is taken or not is left out.", 2);
  page.table(rows);
  if (all > rows.size())
    page.say(fmt::format("... and {}", counted(all - rows.size(), "other")), 2);
  return page.take();
}

}  // namespace kiteknot
