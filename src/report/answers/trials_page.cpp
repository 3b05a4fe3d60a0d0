// A comparison over many cases in words and tables.

#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/answers/trials_words.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace report {

std::string told_distance(double d) {
  if (std::isinf(d)) return "no plan";
  constexpr double kNothing = 1e-9, kLeast = 0.0001;
  if (d <= kNothing) return "0";
  return d < kLeast ? "below 0.01 %" : percent(d);
}

}  // namespace report

namespace {

using report::told_distance;

class TrialsPage {
 public:
  TrialsPage(const Trials& t, const PageOptions& options)
      : t_(t),
        standings_(standings(t)),
        width_(static_cast<std::size_t>(options.width)),
        page_(options) {}

  std::string run() {
    title();
    cases_in_words();
    ways();
    if (t_.cases.size() == 1)
      one_case();
    else
      by_case();
    conclusions();
    notes();
    if (t_.stopped) page_.say("It was stopped by hand: what was tried by then is told.", 2);
    return page_.take();
  }

 private:
  static std::string in_all(std::size_t some, std::size_t all) {
    return some == all ? fmt::format("all {}", all) : fmt::format("{} of {}", some, all);
  }

  void title() {
    const std::string what = t_.cases.size() == 1 && t_.cases[0].failed.empty()
                                 ? t_.cases[0].title
                                 : counted(t_.cases.size(), "case");
    page_.title(fmt::format("{}: {} side by side", what, counted(t_.ways.size(), "way")),
                report::Tone::good);
    const TrialCaseAnswer* first = nullptr;
    bool alike = true;
    for (const TrialCaseAnswer& c : t_.cases) {
      if (!c.failed.empty()) continue;
      if (first == nullptr) first = &c;
      alike = alike && c.goal == first->goal && c.sense == first->sense;
    }
    if (first != nullptr && alike && !first->goal.empty())
      page_.say(fmt::format(
          "{} is to be {}.", first->goal,
          first->sense == Sense::maximize ? "as large as can be" : "as small as can be"));
    page_.say(fmt::format(
        "Each way had {}{}{}, the exact search and its proof the same{}. Reading a model is "
        "nobody's "
        "time.",
        duration(t_.seconds), t_.cases.size() > 1 ? " on each case" : "", side_by_side(),
        t_.runs > 1 ? fmt::format("; ways that draw lots were run {} times", t_.runs) : ""));
    page_.gap();
  }

  [[nodiscard]] std::string side_by_side() const {
    if (t_.processes > 1)
      return fmt::format(" and a core of its own, {} processes at work{}", t_.processes,
                         t_.at_once > 1 ? fmt::format(" on {} cases each", t_.at_once) : "");
    return t_.at_once > 1 ? fmt::format(" and a core of its own, {} cases at a time", t_.at_once)
                          : std::string();
  }

  void cases_in_words() {
    std::size_t proven = 0, open = 0, none = 0, failed = 0, planless = 0;
    double widest = 0.0;
    for (const TrialCaseAnswer& c : t_.cases) {
      failed += c.failed.empty() ? 0 : 1;
      none += c.infeasible ? 1 : 0;
      proven += c.proven ? 1 : 0;
      if (!c.failed.empty() || c.proven || c.infeasible) continue;
      if (!c.best) {
        ++planless;
        continue;
      }
      ++open;
      const double best = c.best->to_double();
      widest = std::max(
          widest, c.bound ? std::abs(best - *c.bound) / std::max(std::abs(best), 1e-10) : HUGE_VAL);
    }
    const std::size_t read = t_.cases.size() - failed;
    if (proven == read && read > 0)
      page_.say(
          read == 1
              ? "The best is proven; distances are from it."
              : fmt::format("The best is proven on all {} cases; distances are from it.", read));
    else if (proven > 0)
      page_.say(fmt::format("The best is proven on {} of {} cases.", proven, read));
    if (open > 0)
      page_.say(fmt::format(
          "On {} distances are from the best that anybody found{}.",
          open == 1 ? "1 case" : counted(open, "case"),
          std::isinf(widest) ? ", and nobody has proven how much better it could be"
                             : fmt::format("; by the proven bounds it could be {} better at most",
                                           percent(widest))));
    if (none > 0)
      page_.say(fmt::format("{} proven to have no plan: {} out of the figures below.",
                            none == 1 ? "1 case is" : fmt::format("{} cases are", none),
                            none == 1 ? "it is left" : "they are left"));
    if (planless > 0)
      page_.say(fmt::format("On {} nobody found a plan.", counted(planless, "case")));
    page_.gap();
  }

  void ways() {
    const bool several = t_.cases.size() > 1;
    const bool runs = t_.runs > 1;
    std::vector<report::Cells> rows;
    report::Cells head = {"way"};
    if (several) {
      head.insert(head.end(), {"plans", "best found", "median", "mean", "worst"});
    } else {
      head.insert(head.end(), {goal_name(), "from the best"});
    }
    if (runs) head.insert(head.end(), {"runs from", "to"});
    head.insert(head.end(), {"best after", "1 % after"});
    if (several) head.emplace_back("wins");
    rows.push_back(head);
    for (const WayStanding& s : standings_) {
      if (s.cases == 0) continue;
      report::Cells row = {s.way};
      const bool none = s.without == s.cases;
      if (several) {
        row.push_back(in_all(s.cases - s.without, s.cases));
        row.push_back(fmt::format("{}", s.at_best));
        for (const double d : {s.median, s.mean, s.worst})
          row.push_back(none ? "-" : told_distance(d));
      } else {
        row.push_back(none ? "-" : value_of(s.way));
        row.push_back(none ? "no plan" : told_distance(s.median));
      }
      if (runs)
        for (const double d : {s.best_runs, s.worst_runs})
          row.push_back(none || std::isinf(d) ? "-" : told_distance(d));
      row.push_back(s.to_best ? duration(*s.to_best) : "-");
      row.push_back(s.to_near ? duration(*s.to_near) : "-");
      if (several)
        row.push_back(s.way == "exact" || s.way == "branching alone" ? ""
                                                                     : fmt::format("{}", s.wins));
      rows.push_back(row);
    }
    std::vector<std::size_t> right;
    for (std::size_t k = 1; k < head.size(); ++k) right.push_back(k);
    page_.headed_table(rows, right);
    if (several)
      page_.say(
          "Distances and times are over the cases with a plan, times medians. A way wins a "
          "case where no other one but the exact search ended nearer to the best.",
          2);
  }

  [[nodiscard]] std::string goal_name() const {
    return t_.cases[0].goal.empty() ? "goal" : t_.cases[0].goal;
  }

  // Of the middle run.
  [[nodiscard]] std::string value_of(const std::string& way) const {
    std::vector<const Attempt*> runs;
    for (const Attempt& a : t_.attempts)
      if (a.way == way && a.found) runs.push_back(&a);
    if (runs.empty()) return "-";
    std::ranges::sort(runs, {}, [&](const Attempt* a) { return *distance(t_, *a); });
    const Attempt& a = *runs[runs.size() / 2];
    return a.value ? figure(*a.value) : "-";
  }

  void one_case() {
    const auto exact = std::ranges::find(t_.attempts, "exact", &Attempt::way);
    if (exact == t_.attempts.end() || exact->plan.empty()) return;
    std::vector<report::Cells> rows;
    for (const Attempt& a : t_.attempts) {
      if (a.way == "exact" || a.plan.empty() || a.run > 1) continue;
      std::vector<std::string> takes, leaves;
      for (const std::string& d : a.plan)
        if (std::ranges::find(exact->plan, d) == exact->plan.end()) takes.push_back(d);
      for (const std::string& d : exact->plan)
        if (std::ranges::find(a.plan, d) == a.plan.end()) leaves.push_back(d);
      std::string text;
      if (!takes.empty()) text = "has " + listed(takes, 6);
      if (!leaves.empty()) text += (text.empty() ? "has not " : "; not ") + listed(leaves, 6);
      rows.push_back({a.way, text.empty() ? "the same decisions" : text});
    }
    if (rows.empty()) return;
    page_.heading(t_.cases[0].proven ? "Against the proven best plan" : "Against the exact search");
    page_.table(rows);
  }

  void by_case() {
    constexpr std::size_t kMostCases = 60;
    std::vector<WayStanding> order = standings_;
    std::erase_if(order, [](const WayStanding& s) { return s.cases == s.without; });
    std::size_t longest = 10;
    for (const TrialCaseAnswer& c : t_.cases)
      longest = std::max(longest, report::shown_width(c.name));
    constexpr std::size_t kColumn = 12;  // about what names broken over lines take
    const std::size_t room =
        width_ > longest + kColumn ? (width_ - longest - kColumn) / kColumn : 0;
    const std::size_t most = std::max<std::size_t>(4, room);
    page_.heading("By case");
    for (std::size_t from = 0; from < order.size(); from += most) {
      std::vector<std::string> told;
      for (std::size_t k = from; k < std::min(order.size(), from + most); ++k)
        told.push_back(order[k].way);
      if (from > 0) page_.gap();
      page_.grid(case_rows(told, kMostCases));
    }
    if (std::ranges::any_of(t_.cases, [](const auto& c) { return c.best && !c.proven; }))
      page_.say("?: the best that anybody found, not proven.", 2);
    if (t_.cases.size() > kMostCases)
      page_.say(fmt::format("... and {} more; --table writes all of them.",
                            counted(t_.cases.size() - kMostCases, "case")),
                2);
  }

  std::vector<report::Cells> case_rows(const std::vector<std::string>& told, std::size_t most) {
    std::vector<report::Cells> rows;
    report::Cells head = {"case", "best"};
    head.insert(head.end(), told.begin(), told.end());
    rows.push_back(head);
    for (std::size_t k = 0; k < std::min(t_.cases.size(), most); ++k) {
      const TrialCaseAnswer& c = t_.cases[k];
      report::Cells row = {c.name};
      if (!c.failed.empty() || c.infeasible) {
        row.push_back(c.infeasible ? "no plan" : "not read");
        row.resize(head.size());
      } else {
        row.push_back(!c.best ? "-" : c.proven ? figure(*c.best) : figure(*c.best) + " ?");
        for (const std::string& way : told) row.push_back(cell(c.name, way));
      }
      rows.push_back(std::move(row));
    }
    return rows;
  }

  [[nodiscard]] std::string cell(const std::string& name, const std::string& way) const {
    std::vector<double> runs;
    bool tried = false;
    for (const Attempt& a : t_.attempts) {
      if (a.of != name || a.way != way) continue;
      tried = true;
      if (const auto d = distance(t_, a)) runs.push_back(*d);
    }
    if (runs.empty()) return tried ? "refused" : "";
    std::ranges::sort(runs);
    const double middle = runs[runs.size() / 2];
    return std::isinf(middle) ? "-" : told_distance(middle);
  }

  static std::string chance_in_words(double p) {
    if (p >= 0.1) return fmt::format("{:.0f} in 100", 100.0 * p);
    if (p >= 0.001) return fmt::format("1 in {:.0f}", 1.0 / p);
    return p > 1e-6 ? fmt::format("1 in {}", rough(std::round(1.0 / p)))
                    : "less than 1 in a million";
  }

  // What the spread allows to conclude; on one case nothing.
  void conclusions() {
    if (t_.cases.size() < 2) {
      if (t_.ways.size() > 1)
        page_.say(
            "One case says nothing about the next: compare over many before you choose a way.", 2);
      return;
    }
    const std::vector<PairedFinding> all = findings(t_);
    if (all.empty()) return;
    constexpr double kUnlikely = 0.05;
    page_.heading("What this allows to conclude");
    std::vector<std::string> alike;
    std::vector<report::Cells> rows;
    for (const PairedFinding& f : all) {
      if (f.chance > kUnlikely) {
        alike.push_back(f.farther);
        continue;
      }
      rows.push_back({fmt::format("nearer than {}", f.farther),
                      fmt::format("on {} of {} cases, farther on {}", f.wins,
                                  f.wins + f.losses + f.ties, f.losses),
                      fmt::format("chance alone: {}", chance_in_words(f.chance))});
    }
    const std::string& best = all[0].nearer;
    if (rows.empty()) {
      page_.say(fmt::format("{} came out nearest to the best, but these cases do not tell it from "
                            "any other way: more cases would be needed.",
                            best),
                2);
    } else {
      page_.say(fmt::format("{} ended", best), 2);
      page_.table(rows);
      if (!alike.empty())
        page_.say(fmt::format("These cases do not tell {} from {}.", best, listed(alike)), 2);
    }
    page_.say(
        "Chances are those of signed ranks, two-sided, times the ways that it is held against "
        "(Holm).",
        2);
  }

  // Of every way why it ended without a plan or refused, at the first case of each.
  void notes() {
    for (const std::string& way : t_.ways) {
      std::size_t refused = 0, without = 0;
      const Attempt *first_refused = nullptr, *first_without = nullptr, *said = nullptr;
      for (const Attempt& a : t_.attempts) {
        if (a.way != way) continue;
        if (a.refused) {
          if (refused++ == 0) first_refused = &a;
        } else if (!a.found) {
          if (without++ == 0) first_without = &a;
        } else if (!a.note.empty() && said == nullptr && way != "exact") {
          said = &a;
        }
      }
      const bool several = t_.cases.size() > 1;
      if (refused > 0)
        page_.say(several ? fmt::format("{} (so on {}).", first_refused->note,
                                        counted(refused, "attempt"))
                          : first_refused->note + ".",
                  2);
      if (without > 0)
        page_.say(fmt::format("{}: {}{}.", way,
                              several ? fmt::format("no plan in {}, first on {}",
                                                    counted(without, "attempt"), first_without->of)
                                      : "no plan",
                              first_without->note.empty() ? "" : ", where " + first_without->note),
                  2);
      if (said != nullptr && !several) page_.say(fmt::format("{}: {}.", way, said->note), 2);
    }
    constexpr std::size_t kMost = 12;
    std::size_t failed = 0;
    for (const TrialCaseAnswer& c : t_.cases)
      if (!c.failed.empty() && failed++ < kMost)
        page_.say(fmt::format("{} could not be read: {}", c.name, c.failed), 2);
    if (failed > kMost)
      page_.say(fmt::format("... and {}.", counted(failed - kMost, "further case")), 2);
  }

  const Trials& t_;
  std::vector<WayStanding> standings_;
  std::size_t width_;
  report::Page page_;
};

}  // namespace

std::string trials_page(const Trials& trials, const PageOptions& options) {
  return TrialsPage(trials, options).run();
}

}  // namespace kiteknot
