#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "report/workbench/tableau_words.hpp"

namespace kiteknot {
namespace {

// What each kind of deed comes to, in one sentence.
class Sentence {
 public:
  explicit Sentence(const Deed& deed)
      : before_(*deed.before), after_(*deed.after), t_(before_.tableau()) {}

  std::string operator()(const deeds::Stepped& s) const {
    const std::string end = ending(s.run);
    if (s.run.steps.empty()) return end.empty() ? "Nothing to do" : end;
    std::string text;
    if (s.run.steps.size() == 1) {
      text = one(s.run.steps[0]);
    } else {
      text = fmt::format("{} by the rule '{}': {}", counted(s.run.steps.size(), "step"),
                         word(s.rule), change(s.run.steps.front(), s.run.steps.back()));
    }
    return end.empty() ? text : text + "; " + lower_first(end);
  }
  std::string operator()(const deeds::FirstPhase& f) const {
    return fmt::format("The first phase began: {} is missing", fraction(f.missing));
  }
  std::string operator()(const deeds::AskedRatios& a) const {
    return "Asked for the ratios of " + name(a.ratios ? a.ratios->entering : a.dual->leaving);
  }
  std::string operator()(const deeds::Fractions&) const {
    return "Asked which rows are fractional";
  }
  std::string operator()(const deeds::Cut& c) const {
    return fmt::format("{}, a {} cut of the row of {}: {}", report::capital(c.cut.name),
                       c.cut.kind == TableauCut::Kind::mixed ? "mixed-integer" : "fractional",
                       c.cut.source < 0 ? t_.goal_name() : name(c.cut.source),
                       report::sum_text(t_, c.cut.in_decisions));
  }
  std::string operator()(const deeds::CutAllTheWay& c) const {
    const std::size_t n = c.run.rounds.size();
    if (n == 0 && c.run.end == CutRun::End::infeasible) return "No plan at all, before any cut";
    if (n == 0) return "All is whole: no cut is needed";
    const std::string told =
        fmt::format("{}: {} went from {} to {}", counted(n, "cut"), t_.goal_name(),
                    fraction(c.run.rounds.front().before), fraction(c.run.rounds.back().after));
    switch (c.run.end) {
      case CutRun::End::whole:
        return told + ", and all is whole";
      case CutRun::End::infeasible:
        return fmt::format("{}: they leave no plan, so that there is no whole one",
                           counted(n, "cut"));
      case CutRun::End::too_long:
        return told +
               "; fractions got longer than one reads, and it stopped there ('all the way "
               "anyway' goes on)";
      default:
        return told + "; it stopped at its limit of cuts";
    }
  }
  std::string operator()(const deeds::Added& a) const {
    return fmt::format("The rule {} was added: {}", a.name, report::sum_text(t_, a.sum));
  }
  std::string operator()(const deeds::Dropped& d) const {
    return report::capital(d.name) + " was dropped";
  }
  std::string operator()(const deeds::Opened& o) const {
    return fmt::format("Copy {} was opened from copy {}, with {}", o.copy, o.from,
                       after_.copies[at(o.copy - 1)].condition);
  }
  std::string operator()(const deeds::WentTo& w) const {
    return fmt::format("Went to copy {}", w.copy);
  }
  std::string operator()(const deeds::Closed& c) const {
    const BranchCopy& copy = after_.copies[at(c.copy - 1)];
    switch (copy.closing) {
      case BranchCopy::Closing::no_plan:
        return fmt::format("Copy {} was closed: it has no plan", c.copy);
      case BranchCopy::Closing::whole:
        return fmt::format("Copy {} was closed: its best is whole, {}", c.copy,
                           fraction(*copy.value));
      default:
        return fmt::format("Copy {} was closed: with at best {} it cannot beat {}", c.copy,
                           fraction(*copy.bound), fraction(*after_.best_value));
    }
  }
  std::string operator()(const deeds::Prices&) const { return "Asked what limits are worth"; }
  std::string operator()(const deeds::Shown&) const { return "Looked at the tableau"; }
  std::string operator()(const deeds::Copies&) const { return "Asked for the copies"; }
  std::string operator()(const deeds::History&) const { return "Asked for the history"; }
  std::string operator()(const deeds::Moved& m) const {
    return m.to < m.from ? fmt::format("Back to where {} stood", after(m.to))
                         : fmt::format("Forth again to where {} stood", after(m.to));
  }
  std::string operator()(const deeds::Note& n) const { return n.text; }
  std::string operator()(const deeds::Help&) const { return "Asked for help"; }

 private:
  [[nodiscard]] const std::string& name(Tableau::Column c) const {
    return after_.tableau().columns().size() > at(c) && t_.columns().size() <= at(c)
               ? after_.tableau().column(c).name
               : t_.column(c).name;
  }
  static std::string after(std::int32_t number) {
    return number == 0 ? "the first tableau" : fmt::format("step {}", number);
  }
  // Of our own sentences only, which begin with a word of ours.
  static std::string lower_first(std::string text) {
    if (text.starts_with("No ")) text[0] = 'n';
    if (text.starts_with("Nothing")) text[0] = 'n';
    return text;
  }

  [[nodiscard]] std::string change(const TableauStep& first, const TableauStep& last) const {
    std::string text;
    if (first.first_phase)
      text = fmt::format("what is missing went from {} to {}", fraction(first.missing_before),
                         fraction(last.missing_after));
    if (first.first_phase && last.first_phase) return text;
    if (!text.empty()) text += ", ";
    if (first.goal_before == last.goal_after)
      return text + fmt::format("{} stays {}", t_.goal_name(), fraction(last.goal_after));
    return text + fmt::format("{} {} from {} to {}", t_.goal_name(),
                              first.goal_before < last.goal_after ? "rose" : "fell",
                              fraction(first.goal_before), fraction(last.goal_after));
  }

  [[nodiscard]] std::string one(const TableauStep& s) const {
    const std::string what =
        s.leaving < 0 ? fmt::format("{} went to its other limit", name(s.entering))
        : s.dual      ? fmt::format("{} went out for {}", name(s.leaving), name(s.entering))
                      : fmt::format("{} came in for {}", name(s.entering), name(s.leaving));
    return what + ": " + change(s, s);
  }

  [[nodiscard]] std::string ending(const TableauRun& r) const {
    switch (r.end) {
      case TableauRun::End::optimal:
        return r.steps.empty() ? fmt::format("Nothing to do: {} is at its best, {}", t_.goal_name(),
                                             fraction(t_.goal_value()))
                               : "its best";
      case TableauRun::End::feasible:
        return "nothing is missing any more, and the first phase is over";
      case TableauRun::End::unbounded:
        return fmt::format("No end: {} can go on for ever, and {} with it", name(r.shown_by),
                           t_.goal_name());
      case TableauRun::End::infeasible:
        return r.shown_by < 0
                   ? "No plan: nothing brings down what is missing"
                   : fmt::format("No plan: nothing in its row brings {} within its limits",
                                 name(r.shown_by));
      case TableauRun::End::neither:
        return "Nothing was done: neither kind of step is safe here; 'first phase' comes first";
      case TableauRun::End::limit:
        return {};
    }
    return {};
  }

  const BenchState &before_, &after_;
  const Tableau& t_;
};

}  // namespace

std::string deed_sentence(const Deed& deed) {
  return std::visit(Sentence(deed), deed.what);
}

}  // namespace kiteknot
