#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "report/answers/prices.hpp"
#include "report/workbench/tableau_words.hpp"

namespace kiteknot {
namespace {

using report::Cells;

// Of a long run of steps the first and the last ones are told.
constexpr std::size_t kMostSteps = 14;

class DeedTeller {
 public:
  DeedTeller(report::Page& page, const Workbench& bench, const Deed& deed,
             const PageOptions& options)
      : page_(page),
        bench_(bench),
        deed_(deed),
        options_(options),
        before_(*deed.before),
        after_(*deed.after) {}

  void tell() { std::visit(*this, deed_.what); }

  void operator()(const deeds::Stepped& s) {
    if (s.one && s.run.steps.size() == 1) {
      const TableauStep& step = s.run.steps[0];
      const Tableau& t = before_.tableau();
      if (step.ratios) report::tell_ratios(page_, t, *step.ratios, step.leaving);
      if (step.dual_ratios) report::tell_ratios(page_, t, *step.dual_ratios, step.entering);
    }
    sentence();
    if (s.one && s.run.steps.size() == 1 && !s.run.steps[0].first_phase && !s.run.steps[0].dual &&
        worse(s.run.steps[0]))
      page_.say(
          fmt::format("That made {} worse, as its sign had told.", before_.tableau().goal_name()));
    if (s.run.by_first)
      page_.say(
          "Steps moved nothing for long: from then on the least index chose them, which never goes "
          "round in a circle.");
    if (!s.one && s.run.steps.size() > 1) list(s.run.steps);
    if (s.run.end == TableauRun::End::unbounded) endless(s.run.shown_by);
    if (s.run.end == TableauRun::End::infeasible && s.run.shown_by >= 0)
      row_without_plan(s.run.shown_by);
    if (!s.run.steps.empty() || deed_.number > 0) tableau();
  }
  void operator()(const deeds::FirstPhase&) {
    sentence();
    page_.say(
        "The last row now tells what one more of each does to what is missing; steps go by that "
        "row "
        "until it is 0.");
    tableau();
  }
  void operator()(const deeds::AskedRatios& a) {
    if (a.ratios) {
      report::tell_ratios(page_, before_.tableau(), *a.ratios, -2);
      if (!a.ratios->least)
        page_.say("No row stops it: it can go on for ever.");
      else if (!a.ratios->helps)
        page_.say(fmt::format("Its sign in the row of {} says that this would not help.",
                              before_.tableau().goal_name()));
    }
    if (a.dual) report::tell_ratios(page_, before_.tableau(), *a.dual, -2);
  }
  void operator()(const deeds::Fractions&) {
    const Tableau& t = before_.tableau();
    const std::vector<std::int32_t> rows = fractional_rows(t);
    if (rows.empty()) return page_.say("Everything that has to be whole is.");
    std::vector<Cells> table = {{"row", "value", "above whole", "which cut"}};
    for (const std::int32_t row : rows) {
      const Rational value = row < 0 ? t.goal_value() : t.value(t.basics()[at(row)]);
      const Rational& step = row < 0 ? t.goal_step() : t.column(t.basics()[at(row)]).step;
      const Rational part = value / step - (value / step).floor();
      const std::string why = why_no_fractional_cut(t, row);
      table.push_back(
          {row < 0 ? t.goal_name() : t.column(t.basics()[at(row)]).name, fraction(value),
           step == Rational(1) ? fraction(part)
                               : fmt::format("{} of steps of {}", fraction(part), fraction(step)),
           why.empty() ? "fractional or mixed" : "mixed: " + why});
    }
    page_.say("Rows that a cut can be read off, 'cut on' and the name:");
    page_.headed_table(table, {1, 2});
  }
  void operator()(const deeds::Cut& c) {
    report::tell_derivation(page_, before_.tableau(), c.cut);
    page_.say(fmt::format(
        "At the present point the left side in decisions is {}, not {} {}: the point is cut "
        "off, and no whole plan is. {} is appended with its room.",
        fraction(c.now), c.cut.in_decisions.at_least ? "at least" : "at most",
        fraction(c.cut.in_decisions.limit), report::capital(c.cut.name)));
    tableau();
  }
  void operator()(const deeds::CutAllTheWay& c) {
    sentence();
    if (!c.run.first.steps.empty())
      page_.say(
          fmt::format("{} went before the first cut.", counted(c.run.first.steps.size(), "step")));
    if (c.run.rounds.empty()) {
      if (deed_.number > 0) tableau();
      return;
    }
    std::vector<Cells> rows = {{"cut", "row of", "before", "after", "steps", "in decisions"}};
    const Tableau& t = before_.tableau();
    std::size_t dropped = 0;
    for (const CutRound& r : c.run.rounds) {
      rows.push_back({r.cut.name.substr(std::string("cut ").size()),
                      r.cut.source < 0 ? t.goal_name() : after_name(r.cut.source),
                      fraction(r.before), fraction(r.after), std::to_string(r.steps.steps.size()),
                      shortened(t, r.cut.in_decisions)});
      dropped += r.dropped.size();
    }
    page_.headed_table(rows, {0, 2, 3, 4});
    if (dropped > 0)
      page_.say(fmt::format("{} held nothing back any more on the way and {} dropped.",
                            counted(dropped, "cut"), dropped == 1 ? "was" : "were"));
    tableau();
  }
  void operator()(const deeds::Added& a) {
    sentence();
    const Tableau& t = before_.tableau();
    page_.say(fmt::format("At the present point its left side is {}: the point {}.",
                          fraction(a.now), a.cuts_off_point ? "is cut off" : "stays"));
    using Whole = deeds::Added::Whole;
    if (a.whole == Whole::none_lost)
      page_.say(
          "No whole plan of this copy is lost by it, as the exact search has shown: it is a cut.");
    else if (a.whole == Whole::open)
      page_.say("Whether whole plans are lost by it stayed open in the time there was.");
    else
      page_.say("Whole plans are lost by it" +
                (a.lost ? ", one with " + some_of(t, *a.lost) : std::string()) +
                ": it is a rule of your own, and what is proven from here on holds with it.");
    tableau();
  }
  void operator()(const deeds::Dropped&) {
    sentence();
    tableau();
  }
  void operator()(const deeds::Opened&) {
    sentence();
    tableau();
  }
  void operator()(const deeds::WentTo&) {
    sentence();
    tableau();
  }
  void operator()(const deeds::Closed&) {
    sentence();
    standing();
  }
  void operator()(const deeds::Prices& p) {
    const Result& r = p.result;
    page_.say(fmt::format("{} is {} at the best of this tableau.", r.goals[0].name,
                          fraction(*r.goals[0].value)));
    report::tell_prices(page_, r, r.report->rules.size(), "What limits are worth, in this tableau");
    added_rows();
    report::tell_firmness(page_, r);
  }
  void operator()(const deeds::Shown&) {
    explain_rows();
    tableau();
  }
  void operator()(const deeds::Copies&) { copies(); }
  void operator()(const deeds::History&) {
    std::vector<Cells> rows;
    for (const Deed& d : bench_.story())
      if (d.number > 0) rows.push_back({std::to_string(d.number), deed_sentence(d) + "."});
    const std::size_t done = rows.size();
    for (std::size_t k = bench_.taken_back().size(); k-- > 0;) {
      const Deed& d = bench_.taken_back()[k];
      if (d.number == 0) continue;
      rows.push_back({std::to_string(d.number), deed_sentence(d) + ". (taken back)"});
    }
    if (rows.empty()) return page_.say("Nothing was done yet.");
    page_.table(rows, {0});
    page_.say(fmt::format("{} stand{}; 'back to {}' goes to any, 0 is the first tableau.",
                          counted(done, "step"), done == 1 ? "s" : "", done > 1 ? done - 1 : 0));
  }
  void operator()(const deeds::Moved&) {
    sentence();
    tableau();
  }
  void operator()(const deeds::Note& n) { page_.say(n.text); }
  void operator()(const deeds::Help&) {
    std::vector<Cells> rows;
    for (const StepWords& w : step_words()) rows.push_back({w.form, w.does});
    page_.table(rows);
  }

 private:
  void sentence() {
    const std::string text = deed_sentence(deed_) + ".";
    page_.say(deed_.number > 0 ? fmt::format("Step {}. {}", deed_.number, text) : text);
  }
  void tableau() {
    const Tableau& t = after_.tableau();
    if (after_.copies.size() > 1) {
      const BranchCopy& copy = after_.copy();
      page_.gap();
      page_.say(copy.parent == 0 ? "Copy 1, the first:"
                                 : fmt::format("Copy {}, with {}:", copy.number,
                                               listed(conditions(copy.number))));
    }
    report::tell_tableau(page_, t, options_);
    page_.say(next_here());
    // Going back does not find one.
    if (after_.best_value && after_.best_value != before_.best_value &&
        !std::holds_alternative<deeds::Moved>(deed_.what))
      page_.say(fmt::format("A whole plan, the best so far: {} is {}.", t.goal_name(),
                            fraction(*after_.best_value)));
  }
  // What the tableau calls for, and what the copy at hand does.
  [[nodiscard]] std::string next_here() const {
    const Tableau& t = after_.tableau();
    const BranchCopy& copy = after_.copy();
    if (copy.closing == BranchCopy::Closing::divided)
      return "It is divided into other copies: what is open is there.";
    if (copy.closing != BranchCopy::Closing::open) return "It is closed.";
    if (copy.empty) return "No plan is left here: 'close' closes this copy.";
    if (after_.copies.size() > 1 && t.is_optimal() && t.is_whole())
      return report::what_next(t) + " 'close' closes this copy.";
    if (after_.copies.size() > 1 && copy.bound && can_be_closed(after_, copy.number))
      return fmt::format(
          "With at best {} it cannot beat the best plan, {}: 'close' closes this copy.",
          fraction(*copy.bound), fraction(*after_.best_value));
    return report::what_next(t);
  }
  void explain_rows() {
    const Tableau& t = before_.tableau();
    if (t.basics().empty()) return;
    std::vector<std::pair<Tableau::Column, Rational>> terms;
    for (std::size_t k = 0; k < t.others().size(); ++k)
      if (!t.column(t.others()[k]).fixed())
        terms.emplace_back(t.others()[k], -t.entry(0, static_cast<std::int32_t>(k)));
    const std::string sum = report::sum_text(t, terms);
    page_.say(fmt::format(
        "The first row reads {} = {}{}. The row of {} tells what one more of each does to it.",
        t.column(t.basics()[0]).name, fraction(t.right_side(0)),
        sum == "0"             ? ""
        : sum.starts_with('-') ? " - " + sum.substr(1)
                               : " + " + sum,
        t.goal_name()));
  }
  [[nodiscard]] std::vector<std::string> conditions(std::int32_t number) const {
    std::vector<std::string> out;
    for (std::int32_t k = number; k > 1; k = after_.copies[at(k - 1)].parent)
      out.insert(out.begin(), after_.copies[at(k - 1)].condition);
    return out;
  }
  [[nodiscard]] bool worse(const TableauStep& s) const {
    return before_.tableau().maximize() ? s.goal_after < s.goal_before
                                        : s.goal_after > s.goal_before;
  }
  [[nodiscard]] const std::string& after_name(Tableau::Column c) const {
    return after_.tableau().column(c).name;
  }
  // Of a long sum the first terms.
  static std::string shortened(const Tableau& t, TableauSum sum) {
    constexpr std::size_t kMostTerms = 6, kKept = 3;
    const std::size_t terms = sum.terms.size();
    if (terms <= kMostTerms) return report::sum_text(t, sum);
    sum.terms.resize(kKept);
    std::string text = report::sum_text(t, sum);
    return text.insert(text.rfind(sum.at_least ? " >=" : " <="),
                       fmt::format(" + {} more", terms - kKept));
  }
  static std::string some_of(const Tableau& t, const Plan& plan) {
    std::vector<std::string> parts;
    for (std::int32_t d = 0; d < t.num_decisions(); ++d)
      if (!plan[d].is_zero())
        parts.push_back(fmt::format("{} {}", t.column(d).name, fraction(plan[d])));
    return parts.empty() ? "all at 0" : listed(parts, 8);
  }

  void list(const std::vector<TableauStep>& steps) {
    std::vector<Cells> rows = {
        {"", "comes in", "goes out", "entry", before_.tableau().goal_name(), ""}};
    for (std::size_t k = 0; k < steps.size(); ++k) {
      if (steps.size() > kMostSteps && k == kMostSteps / 2) {
        const std::size_t skipped = steps.size() - kMostSteps;
        rows.push_back({"", fmt::format("... {} more", skipped), "", "", "", ""});
        k += skipped;
      }
      const TableauStep& s = steps[k];
      rows.push_back({std::to_string(k + 1), after_name(s.entering),
                      s.leaving < 0 ? "(to its other limit)" : after_name(s.leaving),
                      s.leaving < 0 ? "" : fraction(s.entry), fraction(s.goal_after),
                      s.first_phase ? fraction(s.missing_after) + " missing"
                      : s.dual      ? "dual"
                                    : ""});
    }
    page_.headed_table(rows, {0, 3, 4});
  }
  void endless(Tableau::Column shown_by) {
    const Tableau& t = after_.tableau();
    const TableauColumn& c = t.column(shown_by);
    if (c.basic) return;
    report::tell_ratios(page_, t, ratios(t, c.place), -2);
  }
  void row_without_plan(Tableau::Column shown_by) {
    const Tableau& t = after_.tableau();
    const TableauColumn& c = t.column(shown_by);
    if (!c.basic) return;
    const Rational v = t.value(shown_by);
    if (c.admits(v)) return;
    report::tell_ratios(page_, t, dual_ratios(t, c.place), -2);
  }
  // Cuts, branches and rules of one's own hold as well.
  void added_rows() {
    const Tableau& t = after_.tableau();
    std::vector<Cells> rows;
    for (const TableauRow& row : t.stated()) {
      const TableauColumn& room = t.column(row.room);
      if (row.rule >= 0 || room.gone || room.basic || t.gain(room.place).is_zero()) continue;
      rows.push_back({row.name, fmt::format("one more changes {} by {}", t.goal_name(),
                                            fraction(t.gain(room.place) * -row.sign))});
    }
    if (rows.empty()) return;
    page_.heading("What the limits of added rows are worth");
    page_.table(rows);
  }

  void copies() {
    std::vector<Cells> rows = {{"copy", "from", "with", "at best", "state"}};
    for (const BranchCopy& copy : after_.copies)
      rows.push_back({std::to_string(copy.number) + (copy.number == after_.at ? " (here)" : ""),
                      copy.parent == 0 ? "" : std::to_string(copy.parent), copy.condition,
                      copy.empty   ? "no plan"
                      : copy.bound ? fraction(*copy.bound)
                                   : "not known",
                      state_of(copy)});
    page_.headed_table(rows, {3});
    standing();
  }
  [[nodiscard]] std::string state_of(const BranchCopy& copy) const {
    switch (copy.closing) {
      case BranchCopy::Closing::open:
        return "open";
      case BranchCopy::Closing::whole:
        return "closed, whole: " + fraction(*copy.value);
      case BranchCopy::Closing::no_plan:
        return "closed, no plan";
      case BranchCopy::Closing::cannot_beat:
        return "closed, cannot beat the best plan";
      case BranchCopy::Closing::divided: {
        std::vector<std::string> parts;
        for (const BranchCopy& other : after_.copies)
          if (other.parent == copy.number) parts.push_back(std::to_string(other.number));
        return "divided into " + listed(parts);
      }
    }
    return {};
  }
  // The best plan, what is open, and whether that is all.
  void standing() {
    const Tableau& t = after_.tableau();
    page_.say(after_.best_value
                  ? fmt::format("Best plan so far: {} is {}, with {}.", t.goal_name(),
                                fraction(*after_.best_value), some_of(t, *after_.best))
                  : "No whole plan so far.");
    const std::vector<std::int32_t> open = open_copies(after_);
    if (open.empty()) {
      std::string text =
          after_.best_value
              ? fmt::format("Every copy is closed: no plan has a better {}", t.goal_name())
              : "Every copy is closed: there is no whole plan";
      if (!after_.narrowed.empty())
        text += fmt::format(", as long as {} {} to hold", listed(after_.narrowed),
                            after_.narrowed.size() == 1 ? "has" : "have");
      return page_.say(text + ".");
    }
    std::vector<std::string> names;
    std::optional<Rational> bound;
    bool known = true;
    for (const std::int32_t k : open) {
      const BranchCopy& copy = after_.copies[at(k - 1)];
      names.push_back(std::to_string(k));
      if (copy.empty) continue;
      known = known && copy.bound;
      if (copy.bound && (!bound || (t.maximize() ? *copy.bound > *bound : *copy.bound < *bound)))
        bound = copy.bound;
    }
    page_.say(
        fmt::format("Still open: {} {}{}.", open.size() == 1 ? "copy" : "copies", listed(names),
                    known && bound ? fmt::format("; nothing {} {} can exist there",
                                                 t.maximize() ? "above" : "below", fraction(*bound))
                                   : ""));
    const std::vector<std::string> missing = sides_missing(after_);
    if (!missing.empty()) page_.say("Not opened yet: " + listed(missing) + ".");
  }

  report::Page& page_;
  const Workbench& bench_;
  const Deed& deed_;
  const PageOptions& options_;
  const BenchState &before_, &after_;
};

}  // namespace

std::string deed_page(const Workbench& bench, const Deed& deed, const PageOptions& options) {
  report::Page page(options);
  DeedTeller(page, bench, deed, options).tell();
  return page.take();
}

}  // namespace kiteknot
