#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/pages.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

// The least that is not nothing.
Rational least_taken(const ModelData& m, const Family& f, Index decision) {
  for (const Rational& v : f.listed)
    if (v.sign() > 0) return v;
  const Rational least =
      f.or_zero ? m.bounds_if_used(f, decision - f.first, m.number_values()).first : Rational(1);
  return std::max<Rational>(least, 1);
}

// What taking the decision does to the plan, exactly, the rest as it is.
std::string taken(const Result& best, Index decision) {
  const Model& model = best.model();
  const ModelData& m = model.data();
  Plan plan = *best.plan;
  const Family& family = m.family_of(decision);
  plan.set({m.tag, decision, family.binary}, least_taken(m, family, decision));
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
  if (!report.goal || best.goals.empty() || !best.goals[0].value) return "meets all rules as well";
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
    if ((!f->integer && f->listed.empty()) || (!what.family.empty() && what.family != f->name))
      continue;
    for (Index i = 0; i < f->index.count; ++i) {
      const Index d = f->first + i;
      if (!best.plan || !(*best.plan)[d].is_zero() ||
          m.upper(*f, i, m.number_values()).sign() <= 0 || ++all > most)
        continue;
      const Rational least = least_taken(m, *f, d);
      rows.push_back(
          {m.decision_name(d), (f->binary ? "" : figure(least) + " of it: ") + taken(best, d)});
    }
  }
  if (rows.empty()) page.say("Nothing that is taken or not is left out.", 2);
  page.table(rows);
  if (all > rows.size())
    page.say(fmt::format("... and {}", counted(all - rows.size(), "other")), 2);
  return page.take();
}

}  // namespace kiteknot
