#include <fmt/format.h>

#include "base/text.hpp"
#include "data/files.hpp"
#include "data/tables/csv.hpp"
#include "kiteknot/documents.hpp"
#include "kiteknot/pages.hpp"
#include "model/evaluation.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

// Rises towards the good side?
std::string wanted(const TradeGoal& g) {
  return fmt::format("{} as {} as can be", g.name, g.sense == Sense::maximize ? "large" : "small");
}

// What a plan does that the one before it does not.
std::string told(const ModelData& m, const Plan* before, const Plan& plan) {
  if (before == nullptr) return "where the first goal is best";
  const auto [takes, leaves, others] = report::differences(m, *before, plan, false);
  std::vector<std::string> parts;
  if (!takes.empty()) parts.push_back("takes " + listed(takes, 4));
  if (!leaves.empty()) parts.push_back("leaves out " + listed(leaves, 4));
  if (!others.empty()) parts.push_back("has " + listed(others, 3));
  return fmt::format("{}", fmt::join(parts, "; "));
}

// Whether the second goal goes from point to point by the least step it can take.
bool nothing_between(const ModelData& m, const TradeOff& t) {
  const Rational step = step_of(m, t.second.expression);
  if (step.is_zero()) return false;
  for (std::size_t k = 1; k < t.points.size(); ++k)
    if ((t.points[k].second - t.points[k - 1].second).abs() != step) return false;
  return t.points.size() > 1;
}

}  // namespace

std::string trade_page(const Model& model, const TradeOff& t, const PageOptions& options) {
  const ModelData& m = model.data();
  report::Page page(options);
  page.title(fmt::format("{}: {} against {}", m.title, t.first.name, t.second.name),
             t.points.empty() ? report::Tone::bad : report::Tone::good);
  if (t.points.empty()) {
    page.say(t.outcome == Outcome::infeasible  ? "No plan meets all rules; 'explain' tells why."
             : t.outcome == Outcome::unbounded ? "One of the goals has no end; 'explain' tells why."
                                               : "No plan was found within the limits.");
    return page.take();
  }
  page.say(fmt::format("{} and {}; no plan betters one of these in both.", wanted(t.first),
                       wanted(t.second)));
  page.gap();
  std::vector<std::vector<std::string>> rows = {
      {t.first.name, t.second.name, "each unit costs", "against the line above"}};
  for (std::size_t k = 0; k < t.points.size(); ++k) {
    const TradePoint& p = t.points[k];
    std::string rate;
    if (k > 0) {
      const TradePoint& last = t.points[k - 1];
      rate = rough(((p.first - last.first) / (p.second - last.second)).abs().to_double());
    }
    std::string what = told(m, k > 0 ? &t.points[k - 1].plan : nullptr, p.plan);
    if (!p.proven) what += " (not proven)";
    rows.push_back({figure(p.first), figure(p.second), rate, what});
  }
  page.headed_table(rows, {0, 1, 2});
  const char* more = t.all ? "These are all of them"
                     : t.outcome == Outcome::optimal && nothing_between(m, t)
                         ? "Nothing lies between them"
                     : t.outcome == Outcome::optimal ? "There may be more between them"
                                                     : "A limit stopped the search for more";
  page.say(fmt::format("{}; {}.", more, counted(static_cast<std::size_t>(t.solves), "solve")), 2);
  return page.take();
}

std::string trade_csv(const Model& model, const TradeOff& t) {
  const ModelData& m = model.data();
  std::vector<Index> used;
  for (Index d = 0; d < m.num_decisions; ++d)
    for (const TradePoint& p : t.points)
      if (!p.plan[d].is_zero()) {
        used.push_back(d);
        break;
      }
  std::string text = fmt::format("{},{},proven,seconds", data::csv_cell(t.first.name),
                                 data::csv_cell(t.second.name));
  for (const Index d : used) text += "," + data::csv_cell(m.decision_name(d));
  text += "\n";
  for (const TradePoint& p : t.points) {
    text += fmt::format("{},{},{},{:.6f}", decimal(p.first), decimal(p.second),
                        p.proven ? "yes" : "no", p.seconds);
    for (const Index d : used) text += "," + decimal(p.plan[d]);
    text += "\n";
  }
  return text;
}

void write_trade_csv(const std::string& path, const Model& model, const TradeOff& trade) {
  data::write_file(path, trade_csv(model, trade));
}

}  // namespace kiteknot
