#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/pages.hpp"
#include "report/forms/page.hpp"
#include "report/questions/clash_rows.hpp"

namespace kiteknot {
namespace {

using report::Cells;
using report::Tone;

class ExplanationPage {
 public:
  ExplanationPage(const Model& model, const Explanation& e, const PageOptions& options)
      : model_(model), m_(model.data()), e_(e), page_(options), rows_(m_) {}

  std::string run() {
    if (e_.outcome == Outcome::unbounded) {
      endless();
    } else if (e_.outcome == Outcome::undecided) {
      page_.title(fmt::format("{}: not settled", m_.title), Tone::bad);
      page_.say("Whether some rules clash was not proven within the limits.");
    } else if (e_.outcome != Outcome::infeasible) {
      page_.title(fmt::format("{}: a plan meets all rules", m_.title), Tone::good);
      page_.say("Nothing clashes; 'solve' finds the best of such plans.");
    } else {
      page_.title(fmt::format("{}: no plan meets all rules", m_.title), Tone::bad);
      for (std::size_t k = 0; k < e_.clashes.found.size(); ++k) clash(k);
      rest();
      if (e_.loosening) way_out(*e_.loosening);
    }
    return page_.take();
  }

 private:
  void clash(std::size_t number) {
    const Clash& c = e_.clashes.found[number];
    const std::size_t parts = c.rows.size() + c.limits.size();
    const auto all = [](const std::vector<char>& needed) {
      return std::all_of(needed.begin(), needed.end(), [](char n) { return n != 0; });
    };
    const bool irreducible = c.row_needed.size() == c.rows.size() && all(c.row_needed) &&
                             c.limit_needed.size() == c.limits.size() && all(c.limit_needed);
    if (number > 0) page_.gap();
    if (c.rows.empty())
      page_.say("It is not the rules: the decisions' own limits leave nothing.");
    else if (number > 0)
      page_.say("Apart from those, these cannot hold together either:");
    else if (parts == 1)
      page_.say(c.all_limits ? "This one cannot hold by itself, within the decisions' limits:"
                             : "This one cannot hold by itself, whatever is decided:");
    else
      page_.say(irreducible
                    ? "These cannot hold together, though any smaller part of them can:"
                    : "These cannot hold together; of some it was not shown that they are needed:");
    page_.gap();
    std::vector<std::vector<std::string>> rows;
    constexpr std::size_t kMostRows = 40;  // more are no explanation
    const bool cut = !irreducible && c.rows.size() > kMostRows;
    for (std::size_t k = 0; k < (cut ? kMostRows : c.rows.size()); ++k) {
      const RuleRow& row = c.rows[k];
      Cells told = rows_.rule(row);
      if (k >= c.row_needed.size() || !c.row_needed[k]) told[1] += " (not shown needed)";
      rows.push_back(std::move(told));
    }
    rows_.add_limits(c, rows);
    page_.table(rows);
    for (const Cells& name : rows_.names())
      page_.say(fmt::format("where {} is {}", name[0], name[1]), 2);
    if (cut)
      page_.say(fmt::format("and {} more; given more time, a smaller part of them is looked for.",
                            counted(c.rows.size() - kMostRows, "rule")));
    if (!c.about_tours.empty()) {
      page_.gap();
      std::vector<std::vector<std::string>> told;
      for (const std::string& text : c.about_tours)
        told.push_back({told.empty() ? "because" : "", text});
      page_.table(told);
    }
    page_.gap();
    if (!irreducible || c.kind != Clash::Kind::found) return;
    page_.say(
        fmt::format("Proven in {}: together they leave no plan{}, and without {} there is one.",
                    counted(static_cast<std::size_t>(c.solves), "solve"),
                    c.all_limits ? " within the decisions' limits" : "",
                    parts == 1 ? "it" : "any one of them"));
  }

  void rest() {
    if (e_.clashes.found.back().rows.empty()) return;
    if (e_.clashes.rest == Clash::Kind::none && e_.clashes.found.size() > 1)
      page_.say("All other rules can be met together.");
    if (e_.clashes.rest == Clash::Kind::found)
      page_.say("There may be further clashes among the other rules.");
    if (e_.clashes.rest == Clash::Kind::undecided)
      page_.say("Whether the other rules clash as well was not settled within the limits.");
  }

  void way_out(const Loosening& l) {
    page_.heading("Cheapest way out");
    if (l.kind == Loosening::Kind::impossible) {
      page_.say("None: what has to be kept leaves no plan, however the other rules are missed.", 2);
      if (std::ranges::any_of(m_.rules, [](const auto& r) { return r->is_tour(); }))
        page_.say("A tour is always kept: there is nothing between one and none.", 2);
      return;
    }
    if (l.kind != Loosening::Kind::found) {
      page_.say("None was found within the limits.", 2);
      return;
    }
    std::vector<std::vector<std::string>> rows;
    std::optional<PlanReport> there;  // of the plan that misses them
    if (l.plan) there = check(model_, *l.plan);
    for (const Loosening::Miss& miss : l.misses) {
      const Condition& c = m_.rule_with(miss.row.family, miss.row.member)
                               .conditions[static_cast<std::size_t>(miss.row.member)];
      std::string how =
          c.kind == Condition::Kind::compare ? "be missed by " + figure(miss.by) : "not hold";
      // "be missed by 2: 3 where exactly 1 must be, 2 too much"
      if (there && c.kind == Condition::Kind::compare)
        for (const RuleValue& v : there->rules)
          if (v.family == miss.row.family && v.member == miss.row.member && !v.met) {
            std::string stands = report::standing(v);
            if (const std::size_t colon = stands.find(": "); colon != std::string::npos)
              stands.replace(colon, 2, ", ");
            how += ": " + stands;
          }
      if (miss.weight != Rational(1)) how += fmt::format(", at {} each", figure(miss.weight));
      rows.push_back({"let " + m_.rule_name(miss.row.family, miss.row.member), how});
    }
    page_.table(rows);
    const std::string total = fmt::format("{} in all", figure(l.total));
    if (l.least && l.fewest)
      page_.say(
          fmt::format("That is {}; proven: no less will do, and no fewer rules for it.", total), 2);
    else if (l.least)
      page_.say(fmt::format("That is {}; proven: no less will do. Fewer rules might.", total), 2);
    else
      page_.say(fmt::format("That is {}; whether less would do was not settled.", total), 2);
    page_.say("A plan that meets everything else was found and checked.", 2);
  }

  void endless() {
    const Goal& goal = m_.first_goal();
    page_.title(fmt::format("{}: {} has no end", m_.title, goal.name), Tone::bad);
    page_.say("From a plan that meets all rules, this step can be taken again and again:");
    page_.gap();
    std::vector<std::vector<std::string>> rows;
    std::vector<std::string> upward, downward;
    for (const auto& [d, by] : e_.direction) {
      rows.push_back({m_.decision_name(d), (by.sign() > 0 ? "+" : "") + figure(by)});
      (by.sign() > 0 ? upward : downward).push_back(m_.decision_name(d));
    }
    page_.table(rows, {1});
    page_.gap();
    if (!e_.goal_step.is_zero())
      page_.say(fmt::format("Every step changes {} by {}, and no rule stops it.", goal.name,
                            figure(e_.goal_step)));
    std::vector<std::string> missing;
    if (!upward.empty()) missing.push_back("a greatest value for " + listed(upward, 6));
    if (!downward.empty()) missing.push_back("a least value for " + listed(downward, 6));
    page_.say(fmt::format("What is missing: {}, or a rule that holds {} back.",
                          fmt::join(missing, " or "), rows.size() == 1 ? "it" : "one of them"));
  }

  const Model& model_;
  const ModelData& m_;
  const Explanation& e_;
  report::Page page_;
  report::ClashRows rows_;
};

}  // namespace

std::string explanation_page(const Model& model, const Explanation& explanation,
                             const PageOptions& options) {
  return ExplanationPage(model, explanation, options).run();
}

}  // namespace kiteknot
