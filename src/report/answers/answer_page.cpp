#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/evaluation.hpp"
#include "report/answers/decided.hpp"
#include "report/answers/prices.hpp"
#include "report/answers/rule_rows.hpp"
#include "report/answers/search_words.hpp"
#include "report/forms/page.hpp"
#include "report/tours/trips.hpp"

namespace kiteknot {
namespace {

using report::Page;
using report::Tone;

class AnswerPage {
 public:
  AnswerPage(const Result& result, const PageOptions& options, const ShowOptions& what,
             const std::string& remark)
      : r_(result),
        m_(result.model().data()),
        page_(options),
        options_(options),
        what_(what),
        remark_(remark) {}

  std::string run() {
    headline();
    if (r_.plan) {
      page_.heading(r_.outcome == Outcome::unbounded ? "One plan of many" : "Decided");
      report::tell_decided(page_, m_, *r_.plan, what_, options_);
      besides("What forms round trips", [&] { round_trips(); });
      besides("What was worked out", [&] { worked_out(); });
      besides("The list of rules", [&] { rules(); });
      besides("What limits are worth", [&] { prices(); });
    }
    besides("How it went", [&] { how_it_went(); });
    return page_.take();
  }

 private:
  void besides(const std::string& what, const std::function<void()>& tell) {
    report::tell_besides(page_, what, tell);
  }
  [[nodiscard]] std::string goal_name() const { return r_.goals.empty() ? "" : r_.goals[0].name; }
  [[nodiscard]] bool maximizes() const {
    return !r_.goals.empty() && r_.goals[0].sense == Sense::maximize;
  }

  void headline() {
    const std::string relaxed = r_.relaxed_only ? ", whole decisions relaxed" : "";
    const auto title = [&](const std::string& verdict, Tone tone) {
      page_.title(fmt::format("{}{}: {}", m_.title, relaxed, verdict), tone);
    };
    switch (r_.outcome) {
      case Outcome::optimal:
        title(r_.goals.empty() ? "a plan that meets all rules" : "proven optimal", Tone::good);
        break;
      case Outcome::accepted:
        title("a plan within the gap you accept", Tone::good);
        break;
      case Outcome::unproven:
        title("the best plan so far, not proven best", Tone::bad);
        break;
      case Outcome::undecided:
        title("no plan found, and no proof that there is none", Tone::bad);
        break;
      case Outcome::infeasible:
        title("no plan meets all rules", Tone::bad);
        break;
      case Outcome::unbounded:
        title(fmt::format("{} has no end", goal_name()), Tone::bad);
        break;
    }
    value();
    later_goals();
    if (!remark_.empty()) page_.say(remark_);
    if (r_.outcome == Outcome::infeasible)
      page_.say(
          "That is proven: no choice of the decisions, however dear or poor, meets every rule at "
          "once. 'explain' tells which of them clash, and the cheapest way out.");
    if (r_.outcome == Outcome::unbounded)
      page_.say(fmt::format("Plans can be {} without limit: a bound or a rule seems to be missing.",
                            maximizes() ? "bettered" : "cheapened"));
    if (!r_.reason.empty()) page_.say(fmt::format("Not settled because {}.", r_.reason));
  }

  void value() {
    if (r_.goals.empty()) return;
    const GoalResult& g = r_.goals[0];
    if (r_.outcome == Outcome::unbounded) return;
    const std::string reach = maximizes() ? "more" : "less";
    const auto stopped = [&]() -> std::string {
      if (r_.search.stopped_by == "time") return "at the time limit";
      if (r_.search.stopped_by == "nodes") return "at the limit on branches";
      if (r_.search.stopped_by == "hand") return "by hand";
      if (r_.search.stopped_by == "memory") return "at the limit on memory";
      if (r_.search.stopped_by == "gap") return "at the gap";
      return "";
    };
    if (g.value && r_.outcome == Outcome::optimal && g.reached && *g.reached != *g.value) {
      page_.say(fmt::format("{} is {}. The best it can be is {}: it yields {}.", g.name,
                            figure(*g.value), figure(*g.reached), yields(g)));
    } else if (g.value && r_.outcome == Outcome::optimal) {
      const bool to_the_digit = g.gap && *g.gap == 0.0;
      page_.say(to_the_digit ? fmt::format("{} is {}, and no plan reaches {}.", g.name,
                                           figure(*g.value), reach)
                             : fmt::format("{} is {}, and no plan reaches {}: proven to {}.",
                                           g.name, figure(*g.value), reach, nearness(g)));
    } else if (g.value) {
      std::string line = fmt::format("{} is {}", g.name, figure(*g.value));
      if (g.bound)
        line +=
            fmt::format("; nothing {} {} can exist, a gap of {}", maximizes() ? "above" : "below",
                        figure(*g.bound), percent(g.gap.value_or(0.0)));
      if (!stopped().empty()) line += fmt::format(". Stopped {}", stopped());
      page_.say(line + ".");
    } else if (g.bound && r_.outcome == Outcome::undecided) {
      page_.say(fmt::format("Nothing {} {} can exist.{}", maximizes() ? "above" : "below",
                            figure(*g.bound),
                            stopped().empty() ? "" : fmt::format(" Stopped {}.", stopped())));
    } else if (!stopped().empty()) {
      page_.say(fmt::format("Stopped {}.", stopped()));
    }
  }

  // "5 to cost", "5 to cost and 2 to walk"; in sum where a later goal gave something back.
  static std::string yields(const GoalResult& g) {
    std::vector<std::string> parts;
    for (const auto& [to, amount] : g.yielded) {
      if (amount.sign() < 0) return figure((*g.reached - *g.value).abs()) + " to what comes after";
      parts.push_back(fmt::format("{} to {}", figure(amount), to));
    }
    return listed(parts);
  }

  // "Then cost is 400: alone it could be 320, in its turn it was 390, so what comes first costs it
  // 70; it yields 10 to walk."
  void later_goals() {
    for (std::size_t k = 1; k < r_.goals.size(); ++k) {
      const GoalResult& g = r_.goals[k];
      if (!g.value) continue;
      std::string line = fmt::format("Then {} is {}", g.name, figure(*g.value));
      if (g.alone && *g.alone == *g.value)
        line += ", as good as it could be alone";
      else if (const Rational turn = g.reached.value_or(*g.value); g.alone && turn == *g.value)
        line += fmt::format("; alone it could be {}, so what comes first costs it {}",
                            figure(*g.alone), figure((*g.alone - turn).abs()));
      else if (g.alone && *g.alone == turn)
        line += fmt::format("; in its turn it was {}, as good as alone, and it yields {}",
                            figure(turn), yields(g));
      else if (g.alone)
        line += fmt::format(
            "; alone it could be {}, in its turn it was {}, so what comes first costs it {}, and "
            "it yields {}",
            figure(*g.alone), figure(turn), figure((*g.alone - turn).abs()), yields(g));
      else if (turn != *g.value)
        line += fmt::format("; in its turn it was {}, and it yields {}", figure(turn), yields(g));
      if (g.gap && *g.gap > 0.0 && g.bound)
        line += fmt::format("; nothing {} {} goes with what comes first, a gap of {}",
                            g.sense == Sense::maximize ? "above" : "below", figure(*g.bound),
                            percent(*g.gap));
      page_.say(line + ".");
    }
  }

  void round_trips() {
    const std::vector<std::vector<std::string>> trips = report::trip_rows(m_, *r_.plan);
    if (trips.empty()) return;
    page_.heading("Round trips");
    page_.table(trips);
  }

  void worked_out() {
    if (r_.relaxed_only) return;
    constexpr std::size_t kMostRows = 16;
    std::vector<std::vector<std::string>> rows = report::worked_out_rows(m_, *r_.plan);
    if (rows.empty()) return;
    page_.heading("Worked out");
    const std::size_t all = rows.size();
    rows.resize(std::min(rows.size(), kMostRows));
    page_.table(rows);
    if (all > rows.size()) page_.say(fmt::format("... and {} more", all - rows.size()), 2);
  }

  void rules() {
    if (!r_.report) return;
    const std::vector<std::string> ends =
        r_.relaxed_only ? std::vector<std::string>{} : report::curve_ends(m_, *r_.plan);
    if (r_.report->rules.empty() && ends.empty()) return;
    page_.heading("Rules");
    page_.table(report::rule_rows(m_, *r_.report, r_.relaxed_only));
    constexpr std::size_t kMostEnds = 6;
    for (std::size_t k = 0; k < ends.size() && k < kMostEnds; ++k) page_.say(ends[k] + ".", 2);
    if (ends.size() > kMostEnds)
      page_.say(
          fmt::format("... and {} more uses of curves at their ends", ends.size() - kMostEnds), 2);
  }

  // Where the model solved has no whole decisions.
  void prices() {
    if (!(r_.relaxed_only || !r_.has_integers) || r_.relaxed.shadow_prices.empty() ||
        r_.goals.empty() || !r_.report || r_.outcome != Outcome::optimal)
      return;
    report::tell_prices(
        page_, r_, r_.report->rules.size(),
        r_.relaxed_only ? "What limits are worth, in the relaxation" : "What limits are worth");
    report::tell_firmness(page_, r_);
  }

  // How near to its bound a proof ended: relative, or where the value is next to 0 as it is.
  static std::string nearness(const GoalResult& g) {
    constexpr double kNearZero = 1e-3;
    if (!g.gap || *g.gap < kNearZero || !g.bound)
      return fmt::format("a relative gap of {:.1g}", g.gap.value_or(0.0));
    return fmt::format("within {:.1g}", std::abs(g.value->to_double() - *g.bound));
  }

  void how_it_went() {
    page_.heading("How it went");
    if (r_.relaxed_only && r_.has_integers == false && r_.plan &&
        check(r_.model(), *r_.plan).feasible)
      page_.say("All decisions came out whole by themselves.", 2);
    if (!r_.relaxed_only && r_.has_integers && r_.relaxed.value) relaxation();
    if (!r_.relaxed_only && r_.relaxed.infeasible && r_.has_integers)
      page_.say("Not even fractions of decisions would meet the rules.", 2);
    if (!r_.search.start.empty()) start();
    std::string line = !r_.search.structure.empty() && r_.search.nodes <= 1
                           ? fmt::format("All of it is one {}, solved by {}: no branching",
                                         r_.search.structure, r_.search.structure_method)
                       : r_.search.nodes <= 1
                           ? "No branching"
                           : counted(static_cast<std::size_t>(r_.search.nodes), "branch");
    line += ", " + counted(static_cast<std::size_t>(r_.search.lp_iterations), "pivot");
    if (r_.search.generated_constraints > 0)
      line += fmt::format(", {}", counted(static_cast<std::size_t>(r_.search.generated_constraints),
                                          "generated rule"));
    line += fmt::format(", {}", duration(r_.search.seconds));
    if (!r_.search.found_by.empty() && r_.search.nodes > 1)
      line += fmt::format("; the plan was found by {}", r_.search.found_by);
    page_.say(line + ".", 2);
    several();
    if (r_.search.seconds_before > 0.0)
      page_.say(fmt::format("It went on from a search that was kept, of {}.",
                            duration(r_.search.seconds_before)),
                2);
    if (!r_.search.keep_problem.empty())
      page_.say("The search could not be kept: " + r_.search.keep_problem + ".", 2);
    report::tell_branching(page_, r_);
    learned();
    report::tell_work(page_, r_);
    if (r_.report && !r_.report->exact)
      page_.say(fmt::format("Checked as stated: the largest violation is {:.2g}, within what real "
                            "decisions are allowed.",
                            r_.report->largest_violation),
                2);
    else if (r_.report && r_.relaxed_only && !all_sums())
      page_.say(
          "Its sums were checked as stated, in exact arithmetic; logic and curves count in "
          "fractions.",
          2);
    else if (r_.report)
      page_.say("Checked as stated, in exact arithmetic.", 2);
  }

  // What it was to share the branches.
  void several() {
    const SearchCounts& s = r_.search;
    if (s.processes > 1)
      page_.say(fmt::format("{} processes searched it: {} were those of the other{}.", s.processes,
                            counted(static_cast<std::size_t>(s.branches_of_processes), "branch"),
                            s.processes > 2 ? "s" : ""),
                2);
    const double all = s.workers * s.seconds_shared;
    if (s.workers < 2 || all <= 0.0) return;
    const auto share = [&](double part) { return fmt::format("{:.0f} %", 100.0 * part / all); };
    page_.say(fmt::format("{} at work shared the branches for {}. Of their time, {} went without a "
                          "branch to work on, and {} waiting until others had done as much.",
                          s.workers, duration(s.seconds_shared), share(s.without_branch),
                          share(s.waited)),
              2);
  }

  [[nodiscard]] bool all_sums() const {
    return std::all_of(m_.rules.begin(), m_.rules.end(),
                       [&](const auto& r) {
                         return !r->soft() &&
                                std::all_of(
                                    r->conditions.begin(), r->conditions.end(),
                                    [&](const Condition& c) { return takes_fractions(m_, c); });
                       }) &&
           std::all_of(m_.goals.begin(), m_.goals.end(),
                       [&](const Goal& g) { return takes_fractions(m_, g.expression); });
  }

  void relaxation() {
    const double value = *r_.relaxed.value;
    if (!std::isfinite(value)) return;  // beyond what doubles can say
    const bool same =
        !r_.has_plan() || r_.goals.empty() || !r_.goals[0].value ||
        std::abs(r_.goals[0].value->to_double() - value) <= 1e-6 * std::max(1.0, std::abs(value));
    if (r_.relaxed.integral && same) {
      page_.say(fmt::format("Relaxed, the goal is {} too: the decisions came out whole by "
                            "themselves.",
                            figure(value)),
                2);
      return;
    }
    std::string line = fmt::format("Relaxed, the goal is {}", figure(value));
    if (!r_.goals.empty() && r_.goals[0].value) {
      const double cost = std::abs(r_.goals[0].value->to_double() - value);
      line += cost <= 1e-9 * (1.0 + std::abs(value))
                  ? ": whole decisions cost nothing"
                  : fmt::format(": whole decisions cost {}{}",
                                r_.outcome == Outcome::optimal ? "" : "at most ", figure(cost));
    }
    page_.say(line + ".", 2);
    if (m_.num_decisions > 0 && r_.plan) rounding();
    beforehand(value);
    tell_machines(page_, r_);
    cuts(value);
  }

  // What branches that came to nothing were good for.
  void learned() {
    std::int64_t conflicts = 0, uses = 0;
    for (const SearchPart& part : r_.search.parts) {
      if (part.kind == "learning") conflicts = part.found;
      if (part.name == "learned conflicts") uses = part.found + part.conflicts;
    }
    if (conflicts == 0 || uses == 0) return;
    page_.say(fmt::format("Branches that came to nothing taught it {} of decisions that cannot go "
                          "together, which it used {}.",
                          counted(static_cast<std::size_t>(conflicts), "set"),
                          counted(static_cast<std::size_t>(uses), "time")),
              2);
  }

  // What was left to search, where that is less than there was.
  void beforehand(double relaxed) {
    if (!r_.search.reduced) return;
    const Reduced& left = *r_.search.reduced;
    if (left.columns == left.columns_before && left.rows == left.rows_before) return;
    std::string line = fmt::format(
        "What could be told beforehand left {} of {} columns and {} of {} rows to search",
        figure(static_cast<double>(left.columns)), figure(static_cast<double>(left.columns_before)),
        figure(static_cast<double>(left.rows)), figure(static_cast<double>(left.rows_before)));
    if (left.relaxed && std::abs(*left.relaxed - relaxed) > 1e-9 * (1.0 + std::abs(relaxed)))
      line += fmt::format("; relaxed, the goal is then {}", figure(*left.relaxed));
    page_.say(line + ".", 2);
  }

  // What became of the values that the search was to start from.
  void start() {
    if (r_.search.start == "none")
      return page_.say("No plan was found that keeps what the start decides.", 2);
    page_.say(r_.goals.empty() || !r_.search.start_value
                  ? "The start, filled in where it was open, is a plan."
                  : fmt::format("The start, filled in where it was open, is a plan: {} is {}.",
                                goal_name(), figure(*r_.search.start_value)),
              2);
  }

  // How far the first branch came on the way from the relaxed goal to the plan's.
  void cuts(double relaxed) {
    if (r_.search.cuts == 0 || !r_.search.root_bound || r_.goals.empty() || !r_.goals[0].value)
      return;
    const double all = r_.goals[0].value->to_double() - relaxed;
    const double gone = *r_.search.root_bound - relaxed;
    if (!(std::abs(all) > 0.0)) return;
    constexpr double kLittle = 0.005, kNearlyAll = 0.995;
    const double share = gone / all;
    page_.say(fmt::format("{} moved the relaxed goal {}, before the search branched.",
                          counted(static_cast<std::size_t>(r_.search.cuts), "cut"),
                          share < kLittle
                              ? "hardly at all"
                              : fmt::format("to {}, {}", figure(*r_.search.root_bound),
                                            share >= kNearlyAll ? "all the way"
                                                                : fmt::format("{:.0f} % of the way",
                                                                              100.0 * share))),
              2);
  }

  // What rounding the relaxed point would have done; only where all decisions are whole.
  void rounding() {
    for (const auto& f : m_.families)
      if (!f->integer) return;
    const std::vector<MethodAnswer> ways = roundings(r_);
    if (ways.empty()) return;
    const PlanReport& nearest = *ways[0].report;
    if (nearest.feasible && nearest.goal) {
      page_.say(fmt::format("Rounding that to the nearest meets all rules, at {}.",
                            figure(*nearest.goal)),
                2);
      return;
    }
    std::vector<std::string> broken;
    for (const RuleValue& v : nearest.rules)
      if (!v.met && !v.soft)
        broken.push_back(v.logical ? m_.rule_name(v.family, v.member)
                                   : fmt::format("{} by {}", m_.rule_name(v.family, v.member),
                                                 figure(v.slack.abs())));
    if (!broken.empty())
      page_.say(fmt::format("Rounding that to the nearest breaks {}.", listed(broken, 4)), 2);
  }

  const Result& r_;
  const ModelData& m_;
  Page page_;
  const PageOptions& options_;
  const ShowOptions& what_;
  const std::string& remark_;
};

}  // namespace

std::string answer_page(const Result& result, const PageOptions& options, const ShowOptions& what,
                        const std::string& remark) {
  return AnswerPage(result, options, what, remark).run();
}

std::string progress_line(const Model& model, const Progress& p) {
  std::string line = " " + duration(p.seconds);
  line += p.plans > 0 ? "   " + counted(static_cast<std::size_t>(p.plans), "plan") + " so far"
          : p.best    ? fmt::format("   best {} (by {})", figure(*p.best), p.found_by)
                      : "   no plan yet";
  const bool up = !model.data().goals.empty() && model.data().first_goal().sense == Sense::maximize;
  if (p.bound)
    line += fmt::format("   nothing {} {} can exist", up ? "above" : "below", figure(*p.bound));
  if (p.gap) line += fmt::format("   gap {}", percent(*p.gap));
  line += fmt::format("   {} open", figure(Rational(static_cast<long long>(p.open))));
  return p.workers > 1 ? line + fmt::format("   {} at work", p.workers) : line;
}

}  // namespace kiteknot
