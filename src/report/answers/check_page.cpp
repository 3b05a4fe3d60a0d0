#include <algorithm>
#include <map>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/answers/decided.hpp"
#include "report/answers/rule_rows.hpp"
#include "report/forms/algebra.hpp"
#include "report/tours/trips.hpp"

namespace kiteknot {

std::string check_page(const Model& model, const Plan& plan, const PlanReport& report,
                       const std::string& plan_name, const PageOptions& options) {
  const ModelData& m = model.data();
  need_plan_of(m, plan);
  report::Page page(options);
  const auto missed = static_cast<std::size_t>(report.num_missed());
  if (report.feasible) {
    page.title(fmt::format("{}: {} meets all rules", m.title, plan_name), report::Tone::good);
  } else {
    std::vector<std::string> what;
    if (missed > 0) what.push_back(fmt::format("breaks {}", counted(missed, "rule")));
    if (!report.faults.empty())
      what.push_back(fmt::format("has {} that cannot be", counted(report.faults.size(), "value")));
    page.title(fmt::format("{}: {} {}", m.title, plan_name, listed(what)), report::Tone::bad);
  }
  if (report.goal)
    page.say(fmt::format("{} is {}{}.", m.first_goal().name, figure(*report.goal),
                         report.feasible ? "" : ", if the plan were allowed"));
  for (std::size_t k = 1; k < report.goals.size(); ++k)
    page.say(fmt::format("{} is {}.", m.goals[k].name, figure(report.goals[k])));
  if (report.feasible && !report.exact)
    page.say(fmt::format("The largest violation is {:.2g}, within what real decisions are allowed.",
                         report.largest_violation));

  page.heading("Decided");
  report::tell_decided(page, m, plan, {}, options);
  if (const auto trips = report::trip_rows(m, plan); !trips.empty()) {
    page.heading("Round trips");
    page.table(trips);
  }
  if (!report.faults.empty()) {
    page.heading("Cannot be");
    std::vector<std::vector<std::string>> rows;
    constexpr std::size_t kMostFaults = 20;
    for (const DecisionFault& f : report.faults)
      if (rows.size() < kMostFaults) rows.push_back({"-", report::told(m, f)});
    page.table(rows);
  }
  page.heading("Rules");
  report::Algebra algebra(m);
  const Evaluation at(m, plan.values(), true);
  const auto told = [&](const RuleValue& v) {
    if (!v.logical) return report::standing(v);
    const Condition& c =
        m.rule_with(v.family, v.member).conditions[static_cast<std::size_t>(v.member)];
    if (v.met) return algebra.text(c);
    return algebra.why_not(c, at) +
           (v.soft ? fmt::format(", which costs {}", figure(v.charge)) : "");
  };
  std::vector<std::vector<std::string>> rows;
  constexpr std::size_t kMostRows = 60;
  std::size_t met_left_out = 0;
  // Rules of a family that are all met are summed up where they are many.
  constexpr std::size_t kFew = 8;
  std::map<Index, std::vector<const RuleValue*>> met_of;
  for (const RuleValue& v : report.rules)
    if (v.met) met_of[v.family].push_back(&v);
  for (const bool met : {false, true})
    for (const RuleValue& v : report.rules) {
      if (v.met != met) continue;
      if (const auto& alike = met_of[v.family]; met && alike.size() > kFew) {
        if (&v == alike.front())
          rows.push_back({"met", m.rule_with(v.family, v.member).name, report::summed_up(alike)});
        continue;
      }
      if (met && rows.size() >= kMostRows)
        ++met_left_out;
      else
        rows.push_back({met ? (v.binding ? "met, at the limit" : "met")
                            : (v.soft ? "missed, and paid for" : "broken"),
                        m.rule_name(v.family, v.member), told(v)});
    }
  if (rows.empty()) rows.push_back({"none", ""});
  page.table(rows);
  if (met_left_out > 0)
    page.say(fmt::format("... and {} that are met", counted(met_left_out, "more rule")), 2);

  std::vector<std::vector<std::string>> values = report::worked_out_rows(m, plan);
  if (!values.empty()) {
    page.heading("Worked out");
    const std::size_t all = values.size();
    values.resize(std::min(values.size(), kMostRows));
    page.table(values);
    if (all > values.size()) page.say(fmt::format("... and {} more", all - values.size()), 2);
  }
  return page.take();
}

}  // namespace kiteknot
