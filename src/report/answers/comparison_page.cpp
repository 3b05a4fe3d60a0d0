#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

class ComparisonPage {
 public:
  ComparisonPage(const Model& model, const Comparison& c, const PageOptions& options)
      : model_(model), m_(model.data()), c_(c), page_(options) {}

  std::string run() {
    const bool has_goal = !m_.goals.empty();
    const std::string goal = has_goal ? m_.first_goal().name : "goal";
    page_.title(fmt::format("{}: {} side by side", m_.title, counted(c_.answers.size(), "way")),
                report::Tone::good);
    if (has_goal)
      page_.say(fmt::format("{} is to be {}.", goal,
                            maximizes() ? "as large as can be" : "as small as can be"));
    if (m_.goals.size() > 1)
      page_.say(fmt::format("What comes after it, {}, is not compared.", listed(m_.later_goals())));
    page_.gap();
    std::vector<std::vector<std::string>> rows = {{"way", goal, "from the best", "took", "rules"}};
    for (const MethodAnswer& a : c_.answers)
      rows.push_back({a.label, a.report && a.report->goal ? figure(*a.report->goal) : "-",
                      distance(a), a.refused ? "-" : duration(a.seconds), verdict(a)});
    page_.headed_table(rows, {1});
    for (const MethodAnswer& a : c_.answers)
      if (!a.note.empty())  // a refusal names the way itself
        page_.say(a.note.starts_with("'") ? a.note + "." : fmt::format("{}: {}.", a.label, a.note),
                  2);
    if (std::isfinite(c_.seconds_each))
      page_.say(fmt::format("Each way had {}, the proof the same.", duration(c_.seconds_each)), 2);
    else if (std::isfinite(c_.seconds))
      page_.say(fmt::format("All ways together had {}: the proof half of it, each other way an "
                            "equal part of what was left.",
                            duration(c_.seconds)),
                2);
    price_of_wholeness();
    differences();
    for (const MethodAnswer& a : c_.answers)
      if (!a.picks.empty()) picks(a, goal);
    return page_.take();
  }

 private:
  [[nodiscard]] bool maximizes() const {
    return !m_.goals.empty() && m_.first_goal().sense == Sense::maximize;
  }

  [[nodiscard]] bool endless() const {
    return std::any_of(c_.answers.begin(), c_.answers.end(),
                       [](const MethodAnswer& a) { return a.outcome == Outcome::unbounded; });
  }

  // "proven best", "5.6 % worse", "2.0 % beyond it, as no plan can be"
  std::string distance(const MethodAnswer& a) const {
    if (!a.report || !a.report->goal) return "-";
    if (!c_.best || endless()) return "-";
    const Rational difference = (*a.report->goal - *c_.best) * Rational(maximizes() ? 1 : -1);
    const std::string best = c_.proven ? "proven best" : "best known";
    if (difference.is_zero())
      return a.report->feasible && a.method != "relaxed" ? best : "the same";
    const double size = std::max(std::abs(c_.best->to_double()), 1e-10);
    constexpr double kProofs = 1e-6;  // of real values: nearer than that no proof looks
    if (a.report->feasible && a.method != "relaxed" &&
        std::abs(difference.to_double()) <= kProofs * size)
      return best;
    const std::string share = percent(std::abs(difference.to_double()) / size);
    if (difference.sign() > 0) return share + " beyond";
    return share + " worse";
  }

  std::string verdict(const MethodAnswer& a) const {
    if (a.refused) return "not taken";
    if (!a.report) return std::string(word(a.outcome));
    if (a.outcome == Outcome::unbounded) return "one plan of many: the goal has no end";
    if (a.method == "relaxed") {
      const PlanReport whole = check_whole(a);
      const auto fractional = static_cast<std::size_t>(
          std::count_if(whole.faults.begin(), whole.faults.end(),
                        [](const DecisionFault& f) { return f.what == "is not whole"; }));
      if (fractional > 0) return fmt::format("{} not whole", counted(fractional, "decision"));
      const PlanReport stated = check(model_, *a.plan);
      return stated.feasible && stated.goal == a.report->goal
                 ? "all met, and whole"
                 : "whole, but curves and logic in fractions";
    }
    if (a.report->feasible) return "all met";
    std::vector<std::string> broken;
    for (const RuleValue& v : a.report->rules)
      if (!v.met && !v.soft)
        broken.push_back(v.logical ? m_.rule_name(v.family, v.member)
                                   : fmt::format("{} by {}", m_.rule_name(v.family, v.member),
                                                 figure(v.slack.abs())));
    for (const DecisionFault& f : a.report->faults)
      broken.push_back(f.decision < 0 ? f.what
                                      : fmt::format("{} ({} {})", m_.decision_name(f.decision),
                                                    figure(f.value), f.what));
    return "breaks " + listed(broken, 4);
  }

  // What it costs that decisions are whole, and what rounding would have cost.
  void price_of_wholeness() {
    const auto relaxed = std::find_if(
        c_.answers.begin(), c_.answers.end(),
        [](const MethodAnswer& a) { return a.method == "relaxed" && a.report && a.report->goal; });
    if (relaxed == c_.answers.end() || !c_.best || !c_.proven) return;
    const Rational price = (*relaxed->report->goal - *c_.best).abs();
    if (price.is_zero()) {
      page_.say("Whole decisions cost nothing here.", 2);
      return;
    }
    const double size = std::max(std::abs(c_.best->to_double()), 1e-10);
    std::string text = fmt::format("Whole decisions cost {} ({}): {} relaxed, {} at best.",
                                   figure(price), percent(price.to_double() / size),
                                   figure(*relaxed->report->goal), figure(*c_.best));
    std::optional<Rational> least;
    bool mended = true;  // the best one needed a repair
    for (const MethodAnswer& a : c_.answers)
      if (a.method == "rounded" && a.report && a.report->feasible && a.report->goal) {
        const Rational more = (*a.report->goal - *c_.best).abs();
        const bool repair = a.label == "rounded, repaired";
        if (!least || more < *least || (more == *least && !repair)) {
          least = more;
          mended = repair;
        }
      }
    if (least)
      text += least->is_zero() ? (mended ? " Rounding would have done once it was repaired."
                                         : " Rounding would have done.")
                               : fmt::format(" Rounding at its best{} costs another {}.",
                                             mended ? ", repaired," : "", figure(*least));
    else if (std::any_of(c_.answers.begin(), c_.answers.end(),
                         [](const MethodAnswer& a) { return a.method == "rounded"; }))
      text += " No rounding meets the rules.";
    page_.say(text, 2);
  }

  PlanReport check_whole(const MethodAnswer& a) const {
    PlanReport r;
    for (const auto& f : m_.families)
      for (Index i = 0; i < f->index.count; ++i)
        if (f->integer && !(*a.plan)[f->first + i].is_integer())
          r.faults.push_back({f->first + i, (*a.plan)[f->first + i], "is not whole"});
    return r;
  }

  // Which decisions differ from the exact answer's plan, by name.
  void differences() {
    const auto exact =
        std::find_if(c_.answers.begin(), c_.answers.end(),
                     [](const MethodAnswer& a) { return a.method == "exact" && a.plan; });
    if (exact == c_.answers.end()) return;
    std::vector<std::vector<std::string>> rows;
    for (const MethodAnswer& a : c_.answers) {
      if (&a == &*exact || !a.plan || a.method == "relaxed") continue;
      const std::string told = report::told(report::differences(m_, *exact->plan, *a.plan, true));
      rows.push_back({a.label, told.empty() ? "the same decisions" : told});
    }
    if (rows.empty()) return;
    if (endless()) return;
    page_.heading(c_.proven ? "Against the proven best plan" : "Against the best known plan");
    page_.table(rows);
  }

  void picks(const MethodAnswer& a, const std::string& goal) {
    std::string how = fmt::format("How {} chose", a.label);
    if (a.by_needs)
      how += fmt::format(": by what 1 % of all needs takes of {}", goal);
    else if (!a.scarce.empty())
      how += fmt::format(": by {} for each 1 of {}, the scarcest rule", goal, a.scarce);
    page_.heading(how);
    std::vector<std::vector<std::string>> rows = {
        {"pick", "ratio", goal, a.scarce.empty() ? "" : a.scarce + " so far", ""}};
    constexpr std::size_t kMostPicks = 40;
    for (const GreedyPick& p : a.picks) {
      if (rows.size() > kMostPicks) break;
      const std::string name = m_.decision_name(p.decision);
      std::string why = p.why;
      if (p.needed_by >= 0) why = "needed by " + m_.decision_name(p.needed_by);
      rows.push_back(
          {p.amount == Rational(1) ? name : fmt::format("{} x {}", figure(p.amount), name),
           std::isnan(p.ratio)   ? ""
           : std::isinf(p.ratio) ? (a.scarce.empty() ? "" : "uses none")
           : p.by_need           ? rough(0.01 / p.ratio)
                                 : rough(p.ratio),
           fmt::format("{}{}", p.worth.sign() >= 0 ? "+" : "", figure(p.worth)),
           a.scarce.empty() ? "" : fmt::format("{} of {}", figure(p.used), figure(a.scarce_limit)),
           why});
    }
    page_.headed_table(rows, {1, 2});
    if (a.picks.size() > kMostPicks)
      page_.say(fmt::format("... and {}", counted(a.picks.size() - kMostPicks, "more pick")), 2);
    if (!a.no_room.empty()) {
      constexpr std::size_t kMostNames = 8;
      std::vector<std::string> names;
      for (const std::int32_t d : a.no_room) names.push_back(m_.decision_name(d));
      page_.say(
          fmt::format("Did not fit into {} any more: {}.", a.scarce, listed(names, kMostNames)), 2);
    }
  }

  const Model& model_;
  const ModelData& m_;
  const Comparison& c_;
  report::Page page_;
};

}  // namespace

std::string comparison_page(const Model& model, const Comparison& comparison,
                            const PageOptions& options) {
  return ComparisonPage(model, comparison, options).run();
}

}  // namespace kiteknot
