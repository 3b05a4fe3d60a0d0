#include "report/drawing/plane_scene.hpp"

#include <cmath>
#include <set>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "kiteknot/solve.hpp"
#include "model/evaluation.hpp"

namespace kiteknot::report {

PlaneOf::PlaneOf(const Model& model, const PlaneAsked& asked, const Plan& plan)
    : model_(model), open_(model), m_(model.data()), asked_(asked), held_(plan) {
  need_plan_of(m_, plan);
  for (const Decision& d : {asked.x, asked.y}) (void)model.name(d);  // it is this model's
  if (asked.x.id == asked.y.id)
    throw UsageError("a plane has two different decisions, and " + model.name(asked.x) +
                     " was named twice");
  for (const auto& [decision, value] : asked.at) {
    if (decision.id == asked.x.id || decision.id == asked.y.id)
      throw UsageError(model.name(decision) + " spans the plane: it cannot be held at a value");
    held_.set(decision, value);
  }
  for (const Decision& d : {asked.x, asked.y})
    if (held_can_be(d.id) && m_.whole(d.id)) open_.drop_limits(d, false, false, true);
}

PlaneScene PlaneOf::scene() {
  PlaneScene s;
  // Each try takes the time of all rules and decisions.
  constexpr double kFew = 2000.0, kLeastCells = 16.0;
  const double size = std::max(1.0, static_cast<double>(m_.num_rule_rows + m_.num_decisions));
  s.cells =
      static_cast<int>(std::max(kLeastCells, s.cells * std::min(1.0, std::sqrt(kFew / size))));
  s.x_name = model_.name(asked_.x);
  s.y_name = model_.name(asked_.y);
  s.x_whole = m_.whole(asked_.x.id);
  s.y_whole = m_.whole(asked_.y.id);
  for (std::size_t r = 0; r < m_.rules.size(); ++r)
    if (!m_.rules_off.contains(static_cast<Index>(r))) rules(s, static_cast<Index>(r));
  limits(s, asked_.x, true);
  limits(s, asked_.y, false);
  // Listed values are lines of the plane; between them its rules hold or not, if fractions mean
  // something to all of them.
  const bool between_lines =
      (!s.x_listed.empty() || !s.y_listed.empty()) &&
      std::ranges::all_of(m_.rules, [&](const auto& rules) {
        return rules->soft() || std::ranges::all_of(rules->conditions, [&](const Condition& c) {
                 return takes_fractions(m_, c);
               });
      });
  s.holds = [this, between_lines](const Rational& x, const Rational& y) {
    if (between_lines) return check_exactly(model_, at_point(x, y), true).feasible;
    // A whole point is checked as stated; between them conditions count as those of real decisions.
    const bool whole =
        (!m_.whole(asked_.x.id) || x.is_integer()) && (!m_.whole(asked_.y.id) || y.is_integer());
    if (whole) return check_exactly(model_, at_point(x, y)).feasible;
    return check_exactly(open_, Plan(open_, at_point(x, y).values())).feasible;
  };
  goal(s);
  constexpr int kFine = 224;  // curved edges want a finer grid
  if (!s.curves.empty() && size < kFew) s.cells = kFine;
  return s;
}

// The relaxed best of the plane, the whole one, and the roundings of the first.
void PlaneOf::add_marks(PlaneScene& s) {
  Model free = model_;
  for (std::int32_t d = 0; d < m_.num_decisions; ++d)
    if (d != asked_.x.id && d != asked_.y.id && held_can_be(d))
      free.hold(model_.decision(m_.decision_name(d)), held_[d]);
  SolveOptions brief;
  constexpr double kSeconds = 20.0;
  brief.seconds = kSeconds;
  const Result relaxed = solve_relaxed(free, brief), whole = solve(free, brief);
  const std::string name = m_.goals.empty() ? "" : m_.first_goal().name + " ";
  const auto value = [&](const Result& r) {
    return r.goals.empty() || !r.goals[0].value ? "" : ": " + name + figure(*r.goals[0].value);
  };
  if (whole.has_plan())
    s.marks.push_back({(*whole.plan)[asked_.x].to_double(), (*whole.plan)[asked_.y].to_double(),
                       (s.x_whole || s.y_whole ? "best whole plan" : "best plan") + value(whole),
                       PlaneMark::Kind::whole});
  if (!relaxed.has_plan() || (!s.x_whole && !s.y_whole)) return;
  const Rational x = (*relaxed.plan)[asked_.x], y = (*relaxed.plan)[asked_.y];
  const bool same =
      whole.has_plan() && x == (*whole.plan)[asked_.x] && y == (*whole.plan)[asked_.y];
  if (same) {
    s.marks.back().words += ", relaxed too";
    return;
  }
  s.marks.push_back(
      {x.to_double(), y.to_double(), "relaxed" + value(relaxed), PlaneMark::Kind::relaxed});
  std::set<std::pair<std::string, std::string>> seen;
  if (whole.has_plan())
    seen.insert({(*whole.plan)[asked_.x].text(), (*whole.plan)[asked_.y].text()});
  const auto rounding = [&](const char* words, auto how) {
    const Rational rx = s.x_whole ? how(x) : x, ry = s.y_whole ? how(y) : y;
    if (!seen.insert({rx.text(), ry.text()}).second) return;
    s.marks.push_back(
        {rx.to_double(), ry.to_double(), words + told(rx, ry), PlaneMark::Kind::rounded});
  };
  rounding("rounded", [](const Rational& v) { return v.round(); });
  rounding("rounded down", [](const Rational& v) { return v.floor(); });
  rounding("rounded up", [](const Rational& v) { return v.ceil(); });
}

/// "with box at 0", "the other 12 decisions as in the plan"
std::string PlaneOf::others() const {
  std::vector<std::string> parts;
  std::int32_t count = 0;
  for (std::int32_t d = 0; d < m_.num_decisions; ++d) {
    if (d == asked_.x.id || d == asked_.y.id) continue;
    ++count;
    parts.push_back(fmt::format("{} at {}", m_.decision_name(d), figure(held_[d])));
  }
  if (count == 0) return "";
  constexpr std::int32_t kMost = 4;
  if (count <= kMost) return ", with " + listed(parts);
  return fmt::format(
      ", the other {} decisions as in the plan{}", count,
      asked_.at.empty() ? "" : fmt::format(", but for {} held elsewhere", asked_.at.size()));
}

Plan PlaneOf::at_point(const Rational& x, const Rational& y) const {
  Plan plan = held_;
  plan.set(asked_.x, x);
  plan.set(asked_.y, y);
  return plan;
}

bool PlaneOf::held_can_be(std::int32_t d) const {
  const Family& f = m_.family_of(d);
  return f.listed.empty() && !f.or_zero;
}

void PlaneOf::rules(PlaneScene& s, Index family) {
  const RuleFamily& rules = *m_.rules[at(family)];
  for (Index i = 0; i < rules.index.count; ++i) {
    const Condition& c = rules.conditions[at(i)];
    if (rules.soft()) continue;  // it may be missed
    if (!is_linear(c)) {
      s.only_rows = false;
      if (takes_fractions(m_, c)) add_curves(s, c, m_.rule_name(family, i));
      continue;
    }
    const LinearRule linear = linear_rule(collector_, c);
    PlaneRow row;
    row.name = m_.rule_name(family, i);
    Rational rest;
    for (const Expression::Term& t : linear.terms) {
      if (t.decision == asked_.x.id)
        row.a = t.coefficient.to_double();
      else if (t.decision == asked_.y.id)
        row.b = t.coefficient.to_double();
      else
        rest += t.coefficient * held_[t.decision];
    }
    row.low = linear.low.is_finite() ? (linear.low - rest).to_double() : -HUGE_VAL;
    row.high = linear.high.is_finite() ? (linear.high - rest).to_double() : HUGE_VAL;
    if (row.a != 0.0 || row.b != 0.0)
      s.rows.push_back(std::move(row));
    else if (row.low > 0.0 || row.high < 0.0)
      s.only_rows = false;  // broken whatever both are: nothing is left
  }
}

void PlaneOf::limits(PlaneScene& s, const Decision& decision, bool is_x) {
  const Family& f = m_.family_of(decision.id);
  if (!f.listed.empty() || f.or_zero) s.only_rows = false;
  for (const Rational& v : f.listed) (is_x ? s.x_listed : s.y_listed).push_back(v.to_double());
  const Rational low = m_.lower(f, decision.id - f.first, collector_.numbers()),
                 high = m_.upper(f, decision.id - f.first, collector_.numbers());
  const std::string name = model_.name(decision);
  const auto add = [&](const Rational& limit, bool is_low) {
    if (!limit.is_finite()) return;
    PlaneRow row;
    row.kind = PlaneRow::Kind::limit;
    row.a = is_x ? 1.0 : 0.0;
    row.b = is_x ? 0.0 : 1.0;
    row.low = is_low ? limit.to_double() : -HUGE_VAL;
    row.high = is_low ? HUGE_VAL : limit.to_double();
    row.name = is_low && limit.is_zero()
                   ? ""
                   : fmt::format("{} {} {}", name, is_low ? ">=" : "<=", figure(limit));
    s.rows.push_back(std::move(row));
  };
  add(low, true);
  add(high, false);
}

// With both decisions real; NaN where a term has no value.
double PlaneOf::value_at(double x, double y, const Expression& e, const Expression& less) const {
  std::vector<Rational> values(held_.values().begin(), held_.values().end());
  // Seven digits are enough for a picture, and short fractions are quick.
  values[at(asked_.x.id)] = Rational::exactly(static_cast<double>(static_cast<float>(x)));
  values[at(asked_.y.id)] = Rational::exactly(static_cast<double>(static_cast<float>(y)));
  const Evaluation here(m_, values, false, true);
  const double value = here.difference(e, less).value.to_double();
  return here.outside().empty() ? value : std::nan("");
}

// Of a comparison each limit is an edge.
void PlaneOf::add_curves(PlaneScene& s, const Condition& c, const std::string& name) {
  if (c.has_high)
    s.curves.push_back(
        {name, [this, &c](double x, double y) { return value_at(x, y, c.high, c.body); }});
  if (c.has_low && !(c.has_high && value_at(0.0, 0.0, c.low, c.high) == 0.0))
    s.curves.push_back(
        {name, [this, &c](double x, double y) { return value_at(x, y, c.body, c.low); }});
}

void PlaneOf::goal(PlaneScene& s) {
  if (m_.goals.empty()) return;
  if (!m_.goal_with_charges(0).is_linear()) {
    if (!takes_fractions(m_, m_.goal_with_charges(0))) return;
    s.goal = m_.first_goal().name;
    s.goal_at = [this, goal = m_.goal_with_charges(0)](double x, double y) {
      return value_at(x, y, goal, {});
    };
    return;
  }
  s.goal = m_.first_goal().name;
  s.maximize = m_.first_goal().sense == Sense::maximize;
  for (const Expression::Term& t : collector_.collect(m_.goal_with_charges(0)).terms) {
    if (t.decision == asked_.x.id) s.goal_x = t.coefficient.to_double();
    if (t.decision == asked_.y.id) s.goal_y = t.coefficient.to_double();
  }
}

// What a rounding comes to: its goal, or the first rule that it breaks.
std::string PlaneOf::told(const Rational& x, const Rational& y) const {
  const PlanReport report = check_exactly(model_, at_point(x, y));
  if (report.feasible)
    return report.goal ? ": " + m_.first_goal().name + " " + figure(*report.goal) : "";
  for (const RuleValue& v : report.rules)
    if (!v.met && !v.soft) return ": breaks " + m_.rule_name(v.family, v.member);
  return ": outside its limits";
}

Drawing sheet(const std::string& title, const std::string& below, const Ground& g) {
  Drawing d(kSheetWidth, kSheetHeight, g);
  const double width = kSheetWidth - 80.0;
  d.text({40.0, 46.0}, fitted(title, 24.0, 0.92 * width), 24.0, g.ink, Drawing::Side::left, true);
  d.text({40.0, 74.0}, fitted(below, 15.0, width), 15.0, g.soft);
  return d;
}

}  // namespace kiteknot::report
