#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/pages.hpp"
#include "report/forms/page.hpp"
#include "report/questions/clash_rows.hpp"

namespace kiteknot {
namespace {

using report::Tone;

class WhyPage {
 public:
  WhyPage(const Why& w, const std::string& asked, const PageOptions& options)
      : w_(w), m_(w.best.model().data()), asked_(asked), page_(options) {}

  std::string run() {
    page_.title(fmt::format("{}: why {}?", m_.title, asked_), Tone::good);
    if (!w_.best.plan || w_.best.outcome == Outcome::unbounded) {
      page_.say(
          w_.best.outcome == Outcome::infeasible
              ? "No plan meets the rules in any case; 'explain' without --why tells which clash."
              : fmt::format("The model as it stands is {}, so there is nothing to compare with.",
                            word(w_.best.outcome)));
      return page_.take();
    }
    if (m_.goals.empty()) {
      if (w_.other.plan)
        page_.say(fmt::format("There is no goal, and a plan {} it exists.",
                              w_.holds ? "with and one without" : "with"));
      else
        page_.say(w_.holds ? "Every plan that meets the rules has it." : "No plan can have it.");
      if (w_.clash) clash();
      return page_.take();
    }
    verdict();
    if (const std::string only = report::first_goal_only(m_.first_goal().name, w_.later_goals);
        !only.empty())
      page_.say(only);
    if (w_.clash) clash();
    if (w_.other.plan) plan();
    break_even();
    page_.gap();
    page_.say(fmt::format("{}{}.", counted(static_cast<std::size_t>(w_.solves), "solve"),
                          w_.cost ? ", all proven" : ""));
    return page_.take();
  }

 private:
  void verdict() {
    if (w_.best.goals.empty() || !w_.best.goals[0].value)
      throw UsageError("the best answer of this question tells no goal");
    const std::string& goal = m_.first_goal().name;
    const std::string best = figure(*w_.best.goals[0].value);
    const char* with = w_.holds ? "without" : "with";
    if (w_.holds) page_.say("The best plan found meets it already.");
    if (w_.other.outcome == Outcome::infeasible) {
      page_.say(w_.holds ? "Every plan that meets the rules does." : "No plan can have it.");
      return;
    }
    if (!w_.other.plan) {
      page_.say(
          fmt::format("Whether a plan {} it exists was not settled within the limits.", with));
      return;
    }
    if (w_.other.outcome == Outcome::unbounded) {
      page_.say(fmt::format("{} it, {} has no end.", w_.holds ? "Without" : "With", goal));
      return;
    }
    if (w_.other.goals.empty() || !w_.other.goals[0].value)
      throw UsageError("the other answer of this question tells no goal");
    const std::string other = figure(*w_.other.goals[0].value);
    if (w_.cost)
      page_.say(w_.cost->is_zero()
                    ? fmt::format("{} is {} with it and without it: it costs nothing.", goal, best)
                    : fmt::format("{} is {} {} it, and {} {} it: {} worse.", goal, best,
                                  w_.holds ? "with" : "without", other, with, figure(*w_.cost)));
    else
      page_.say(fmt::format("{} is {}; {} it {} was found. Not both are proven best.", goal, best,
                            with, other));
  }

  void clash() {
    const ModelData& m = w_.other.model().data();
    page_.gap();
    if (w_.clash->kind != Clash::Kind::found) {
      page_.say("Which rules stand against it was not settled within the limits.");
      return;
    }
    page_.say("These cannot hold together with it, though any smaller part of them could:");
    page_.gap();
    report::ClashRows clash(m);
    std::vector<std::vector<std::string>> rows;
    for (const RuleRow& row : w_.clash->rows) rows.push_back(clash.rule(row));
    clash.add_limits(*w_.clash, rows);
    page_.table(rows);
    for (const report::Cells& name : clash.names())
      page_.say(fmt::format("where {} is {}", name[0], name[1]), 2);
  }

  void plan() {
    page_.heading(fmt::format("The best plan {} it", w_.holds ? "without" : "with"));
    std::vector<std::vector<std::string>> rows;
    const auto [takes, leaves, others] =
        report::differences(m_, *w_.best.plan, *w_.other.plan, true);
    if (!takes.empty()) rows.push_back({"takes", listed(takes)});
    if (!leaves.empty()) rows.push_back({"leaves out", listed(leaves)});
    if (!others.empty()) rows.push_back({"has", listed(others)});
    std::vector<std::string> limits;
    for (const RuleRow& row : w_.at_limit) limits.push_back(m_.rule_name(row.family, row.member));
    rows.push_back({"at the limit", limits.empty() ? "no rule" : listed(limits)});
    page_.table(rows);
  }

  void break_even() {
    const std::string heading = w_.holds ? "What would drive it out of the best plan"
                                         : "What would bring it into the best plan";
    if (!w_.break_even) {
      if (w_.no_break_even.empty() || (w_.cost && w_.cost->is_zero())) return;
      page_.heading(heading);
      page_.say(fmt::format("Its figure in the goal: {}.", w_.no_break_even), 2);
      return;
    }
    const BreakEven& b = *w_.break_even;
    page_.heading(heading);
    page_.say(fmt::format("{} counts {} in {} for each unit; at {} both plans are equally good.",
                          m_.decision_name(b.decision), figure(b.now), m_.first_goal().name,
                          figure(b.needed)),
              2);
    page_.say(
        fmt::format("Solved on both sides: at {} the best plan stays as it is, at {} it changes.",
                    figure(b.outside), figure(b.inside)),
        2);
  }

  const Why& w_;
  const ModelData& m_;
  const std::string& asked_;
  report::Page page_;
};

}  // namespace

std::string why_page(const Why& why, const std::string& asked, const PageOptions& options) {
  return WhyPage(why, asked, options).run();
}

}  // namespace kiteknot
