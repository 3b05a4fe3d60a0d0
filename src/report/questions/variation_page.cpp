#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "data/files.hpp"
#include "data/tables/csv.hpp"
#include "kiteknot/documents.hpp"
#include "kiteknot/pages.hpp"
#include "report/forms/page.hpp"
#include "report/questions/variants.hpp"

namespace kiteknot {
namespace {

using report::change;
using report::name_of;

// What the change of the best values can be, from what was proven of either; rules that are left
// out never make the best worse.
std::optional<Stretch> change_between(const Variation& v, const Variant& one, bool maximize) {
  if (!one.goal || !v.base.goal || !one.bound || !v.base.bound) return std::nullopt;
  const double here = one.goal->to_double(), base = v.base.goal->to_double();
  Stretch s = maximize ? Stretch{here - *v.base.bound, *one.bound - base}
                       : Stretch{*one.bound - base, here - *v.base.bound};
  if (v.kind == Variation::Kind::rules)
    (maximize ? s.from : s.to) = maximize ? std::max(s.from, 0.0) : std::min(s.to, 0.0);
  if (!std::isfinite(s.from) || !std::isfinite(s.to)) return std::nullopt;
  return s;
}

class VariationPage {
 public:
  VariationPage(const Model& model, const Variation& v, const PageOptions& options)
      : m_(model.data()), v_(v), page_(options), as_set_(!options.under.empty()) {}

  std::string run() {
    page_.title(fmt::format("{}: {}", m_.title, what()), report::Tone::good);
    if (!m_.goals.empty())
      page_.say(fmt::format("{}; {} {}.", wanted(), as_set_ ? "as it is set" : "as it stands",
                            standing_of(v_.base)));
    page_.gap();
    const char* first = v_.kind == Variation::Kind::sweep   ? "value"
                        : v_.kind == Variation::Kind::rules ? "without"
                                                            : "scenario";
    std::vector<std::vector<std::string>> rows = {
        {first, m_.goals.empty() ? "goal" : m_.first_goal().name, "change"}};
    rows[0].insert(rows[0].end(), v_.later_goals.begin(), v_.later_goals.end());
    rows[0].insert(rows[0].end(), {"took", "what comes out"});
    std::vector<std::size_t> flush_right;
    for (std::size_t k = 1; k < rows[0].size() - 2; ++k) flush_right.push_back(k);
    const Variant* last = nullptr;
    for (const Variant* shown : in_order()) {
      const Variant& one = *shown;
      const bool sweep = v_.kind == Variation::Kind::sweep;
      const bool as_before = sweep && last != nullptr && !one.changed.empty() &&
                             one.changed == last->changed && one.outcome == last->outcome;
      last = &one;
      auto& row = rows.emplace_back();
      row = {sweep ? figure(one.at) : one.name, one.goal ? figure(*one.goal) : "-",
             told_change(one)};
      for (std::size_t k = 0; k < v_.later_goals.size(); ++k)
        row.push_back(k < one.later.size() ? figure(one.later[k]) : "-");
      row.push_back(duration(one.seconds));
      row.push_back(as_before ? "as before" : told(one));
    }
    page_.headed_table(rows, flush_right);
    if (rows.size() <= v_.variants.size())
      page_.say(fmt::format("... and {} that cost no more; --csv writes all.",
                            counted(v_.variants.size() + 1 - rows.size(), "other")),
                2);
    if (v_.kind == Variation::Kind::rules && v_.base.goal)
      if (const std::string idle = idle_rules(); !idle.empty()) page_.say(idle, 2);
    if (!v_.steps.empty() || v_.all_steps) steps();
    return page_.take();
  }

 private:
  // As they came; of very many rules those that cost most.
  std::vector<const Variant*> in_order() const {
    constexpr std::size_t kMany = 60, kShown = 40;
    std::vector<const Variant*> all;
    for (const Variant& one : v_.variants) all.push_back(&one);
    if (v_.kind != Variation::Kind::rules || all.size() <= kMany) return all;
    const auto cost = [&](const Variant* one) {  // one without a goal comes first
      const auto by = change(v_, *one);
      return by ? by->abs() : Rational::infinity();
    };
    std::stable_sort(all.begin(), all.end(),
                     [&](const Variant* a, const Variant* b) { return cost(a) > cost(b); });
    all.resize(kShown);
    return all;
  }

  std::string what() const {
    switch (v_.kind) {
      case Variation::Kind::rules:
        return "what each rule costs";
      case Variation::Kind::sweep:
        if (v_.variants.empty()) return v_.varied + ", no value of it";
        return fmt::format("{} from {} to {}", v_.varied, figure(v_.variants.front().at),
                           figure(v_.variants.back().at));
      default:
        return counted(v_.variants.size(), "scenario") + " side by side";
    }
  }

  std::string verdict(const Variant& one) const {
    std::string beyond;
    if (one.bound && !m_.goals.empty())
      beyond = fmt::format(", nothing {} {} can exist",
                           m_.first_goal().sense == Sense::maximize ? "above" : "below",
                           figure(*one.bound));
    switch (one.outcome) {
      case Outcome::infeasible:
        return "no plan meets all rules";
      case Outcome::unbounded:
        return "the goal has no end";
      case Outcome::undecided:
        return "no plan found, and no proof that there is none";
      case Outcome::unproven:
        return "not proven best" + beyond;
      case Outcome::accepted:
        return "within the gap you accept" + beyond;
      default:
        return "";
    }
  }

  std::string standing_of(const Variant& base) const {
    std::string text = verdict(base);
    if (!base.goal) return text;
    std::vector<std::string> values = {figure(*base.goal)};
    for (const Rational& later : base.later) values.push_back(figure(later));
    return (values.size() > 1 ? "they are " : "it is ") + listed(values) +
           (text.empty() ? "" : ", " + text);
  }
  // "joy is to be as large as can be, then cost as small as can be"
  std::string wanted() const {
    std::string text;
    for (const Goal& g : m_.goals)
      text += fmt::format("{}{} {}as {} as can be", text.empty() ? "" : ", then ", g.name,
                          text.empty() ? "is to be " : "",
                          g.sense == Sense::maximize ? "large" : "small");
    return text;
  }

  std::string told_change(const Variant& one) const {
    const auto by = change(v_, one);
    const auto told_by = [](double d) { return (d > 0 ? "+" : "") + figure(d); };
    if (!by) {
      if (m_.goals.empty()) return "";
      const auto range = change_between(v_, one, m_.first_goal().sense == Sense::maximize);
      return range ? told_by(range->from) + " to " + told_by(range->to) : "";
    }
    if (by->is_zero()) return "none";
    return (by->sign() > 0 ? "+" : "") + figure(*by);
  }

  std::string told(const Variant& one) const {
    std::string text = verdict(one);
    if (!one.goal) return text.empty() ? "a plan meets all rules" : text;
    if (one.nothing) return "doing nothing at all is best: is a rule missing?";
    std::vector<std::string> takes, leaves, others;
    for (const auto& [d, value] : one.changed) {
      const std::string name = m_.decision_name(d);
      if (value.is_zero())
        leaves.push_back(name);
      else if (value == Rational(1) && m_.family_of(d).binary)
        takes.push_back(name);
      else
        others.push_back(fmt::format("{} {}", name, figure(value)));
    }
    for (const auto& [name, value] : one.only_here)
      if (value == Rational(1))
        takes.push_back(name);
      else
        others.push_back(fmt::format("{} {}", name, figure(value)));
    std::vector<std::string> parts;
    if (!text.empty()) parts.push_back(text);
    if (!takes.empty()) parts.push_back(report::taking(takes) + listed(takes, 5));
    if (!leaves.empty()) parts.push_back("leaves out " + listed(leaves, 5));
    if (!others.empty()) parts.push_back("has " + listed(others, 5));
    if (!one.not_here.empty()) parts.push_back("has no " + listed(one.not_here, 5));
    return parts.empty() ? "the same plan" : fmt::format("{}", fmt::join(parts, "; "));
  }

  void steps() {
    page_.heading("Where the plan changes");
    std::vector<std::vector<std::string>> rows;
    const auto value = [&](const std::optional<Rational>& goal, const std::vector<Rational>& later,
                           bool plan) {
      if (!goal) return std::string(plan ? "a plan" : "no plan");
      std::string text = figure(*goal);
      for (const Rational& l : later) text += " and " + figure(l);
      return text;
    };
    for (const Step& s : v_.steps)
      if (s.tie)
        rows.push_back({fmt::format("at {}", figure(s.before)),
                        fmt::format("{} either way; then another plan is better",
                                    value(s.goal_before, s.later_before, s.plan_before))});
      else
        rows.push_back(
            {s.first_new  ? fmt::format("from {} on", figure(s.after))
             : s.last_old ? fmt::format("beyond {}", figure(s.before))
                          : fmt::format("between {} and {}", figure(s.before), figure(s.after)),
             fmt::format("{} before, {} there", value(s.goal_before, s.later_before, s.plan_before),
                         value(just_beyond(s), s.later_after, s.plan_after))});
    if (!rows.empty()) page_.table(rows);
    lines();
    page_.say(
        !v_.all_steps
            ? "A limit stopped the search: there may be further changes, and these are not proven."
        : v_.steps.empty() ? "Nowhere between the ends."
                           : "Solved on both sides of every change.",
        2);
  }

  // Solved a sliver beyond: where reals move on from there, the line tells what it begins with.
  [[nodiscard]] std::optional<Rational> just_beyond(const Step& s) const {
    if (s.last_old && s.goal_after && s.later_after.empty())
      for (const Line& l : v_.lines)
        if (l.from == s.before && l.least == l.most) return l.goal_from;
    return s.goal_after;
  }

  // "from 10 to 40   20 to 80: 2 more for each 1"
  void lines() {
    if (v_.lines.empty()) return;
    page_.heading("In between");
    std::vector<std::vector<std::string>> rows;
    for (const Line& l : v_.lines) {
      const bool falls = l.most.sign() <= 0;
      const Rational small = falls ? -l.most : l.least, large = falls ? -l.least : l.most;
      const std::string by = l.least == l.most || figure(small) == figure(large)
                                 ? figure(small)
                                 : fmt::format("{} to {}", figure(small), figure(large));
      rows.push_back({fmt::format("from {} to {}", figure(l.from), figure(l.to)),
                      fmt::format("{} to {}: {} {} for each 1", figure(l.goal_from),
                                  figure(l.goal_to), by, falls ? "less" : "more")});
    }
    page_.table(rows);
  }

  // Nothing is said of what was not proven.
  std::string idle_rules() const {
    std::vector<std::string> idle;
    bool all = v_.base.outcome == Outcome::optimal;
    for (const Variant& one : v_.variants) {
      all = all && one.outcome == Outcome::optimal;
      const auto by = change(v_, one);
      if (v_.base.outcome == Outcome::optimal && one.outcome == Outcome::optimal && by &&
          by->is_zero() && one.later == v_.base.later)
        idle.push_back(one.name);
    }
    if (!idle.empty())
      return fmt::format("{} would gain nothing by going, one at a time.", listed(idle, 8));
    return all ? "Every rule costs something." : "";
  }

  const ModelData& m_;
  const Variation& v_;
  report::Page page_;
  bool as_set_;  // numbers or a scenario are in force already
};

}  // namespace

std::string variation_page(const Model& model, const Variation& variation,
                           const PageOptions& options) {
  return VariationPage(model, variation, options).run();
}

std::string variation_csv(const Variation& v) {
  std::string text = "name,outcome,goal,change,seconds,bound";
  for (const std::string& goal : v.later_goals) text += "," + data::csv_cell(goal);
  text += "\n";
  const auto line = [&](const Variant& one) {
    const auto by = change(v, one);
    text += fmt::format("{},{},{},{},{:.6f},{}", data::csv_cell(name_of(v, one)), word(one.outcome),
                        one.goal ? decimal(*one.goal) : "", by ? decimal(*by) : "", one.seconds,
                        one.bound ? fmt::format("{}", *one.bound) : "");
    for (std::size_t k = 0; k < v.later_goals.size(); ++k)
      text += "," + (k < one.later.size() ? decimal(one.later[k]) : "");
    text += "\n";
  };
  line(v.base);
  for (const Variant& one : v.variants) line(one);
  return text;
}

void write_variation_csv(const std::string& path, const Variation& variation) {
  data::write_file(path, variation_csv(variation));
}

}  // namespace kiteknot
