#include "kiteknot/trade.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/study.hpp"
#include "model/evaluation.hpp"
#include "model/free_names.hpp"
#include "model/model_data.hpp"
#include "study/time_left.hpp"

namespace kiteknot {
namespace {

class Trader {
 public:
  Trader(const Model& model, TradeGoal first, TradeGoal second, const SolveOptions& options)
      : plain_(model), time_(options), study_(model) {
    out_.first = std::move(first);
    out_.second = std::move(second);
    plain_.forget_goals();
    // Charges stand in the expressions already.
    for (const auto& r : model.data().rules)
      if (r->soft()) plain_.or_pay(r->name, 0);
    step_ = step_of(model.data(), out_.second.expression);
  }

  TradeOff run(int points) {
    if (points == 0 && step_.is_zero())
      throw UsageError(fmt::format(
          "{} can take any amount, so there is no end of points; say how many are wanted",
          out_.second.name));
    const auto start = best(out_.first, out_.second, std::nullopt);
    if (!start) return std::move(out_);
    out_.outcome = Outcome::optimal;
    out_.points.push_back(*start);
    if (points == 0)
      every_point();
    else if (points > 1)
      spread(points);
    return std::move(out_);
  }

 private:
  // Best in `one`, then in `two`, the second goal no worse than `limit`.
  std::optional<TradePoint> best(const TradeGoal& one, const TradeGoal& two,
                                 const std::optional<Rational>& limit) {
    Model m = plain_;
    if (limit)
      m.rule(free_rule(m, "trade limit"), out_.second.sense == Sense::minimize
                                              ? Expression(out_.second.expression) <= *limit
                                              : Expression(out_.second.expression) >= *limit);
    Model main = m;
    main.add_goal(free_name(main, "trade goal"), one.sense, one.expression);
    const Result r = study_.ask(main, time_.options());
    ++out_.solves;
    out_.outcome = r.outcome;
    if (!r.plan || r.outcome == Outcome::unbounded) return std::nullopt;
    const Rational reached = *r.goals[0].value;
    // No slack: the plan at hand, which the study remembers, meets this exactly.
    m.rule(free_rule(m, "trade reached"), one.sense == Sense::minimize
                                              ? Expression(one.expression) <= reached
                                              : Expression(one.expression) >= reached);
    m.add_goal(free_name(m, "trade goal"), two.sense, two.expression);
    const Result s = study_.ask(m, time_.options());
    ++out_.solves;
    const Plan& plan = s.plan ? *s.plan : *r.plan;
    TradePoint point{0, 0, Plan(study_.model(), plan.values()), false, 0.0};
    Evaluation at(plain_.data(), point.plan.values(), true);
    point.first = at.value(out_.first.expression);
    point.second = at.value(out_.second.expression);
    point.proven = r.outcome == Outcome::optimal && s.outcome == Outcome::optimal;
    point.seconds = r.search.seconds + s.search.seconds;
    return point;
  }

  [[nodiscard]] Rational better(const Rational& second, const Rational& by) const {
    return out_.second.sense == Sense::minimize ? second - by : second + by;
  }

  // From the best of the first goal on, each time a step better in the second.
  void every_point() {
    while (true) {
      const auto next = best(out_.first, out_.second, better(out_.points.back().second, step_));
      if (!next) break;
      out_.points.push_back(*next);
      if (!next->proven) return void(out_.outcome = Outcome::unproven);
    }
    out_.all = out_.outcome == Outcome::infeasible;
    out_.outcome = out_.all ? Outcome::optimal : Outcome::unproven;
  }

  void spread(int points) {
    const Rational from = out_.points[0].second;
    const auto end = best(out_.second, out_.first, std::nullopt);
    if (!end) return;
    const Rational to = end->second;
    for (int k = 1; k + 1 < points; ++k) {
      const Rational limit = from + (to - from) * Rational::ratio(k, points - 1);
      const bool there = out_.second.sense == Sense::minimize ? out_.points.back().second <= limit
                                                              : out_.points.back().second >= limit;
      if (there) continue;
      if (const auto next = best(out_.first, out_.second, limit)) add(*next);
    }
    add(*end);
    out_.outcome = std::all_of(out_.points.begin(), out_.points.end(),
                               [](const TradePoint& p) { return p.proven; })
                       ? Outcome::optimal
                       : Outcome::unproven;
  }
  void add(TradePoint point) {
    if (point.second != out_.points.back().second) out_.points.push_back(std::move(point));
  }

  Model plain_;
  TimeLeft time_;
  Study study_;
  Rational step_;
  TradeOff out_;
};

}  // namespace

TradeGoal trade_goal(const Model& model, const std::string& text) {
  const ModelData& m = model.data();
  std::vector<std::string> known;
  for (std::size_t g = 0; g < m.goals.size(); ++g) {
    known.push_back(m.goals[g].name);
    if (m.goals[g].name == text) return {text, m.goals[g].sense, m.goal_with_charges(g)};
  }
  for (const Sense sense : {Sense::minimize, Sense::maximize}) {
    const std::string start = std::string(word(sense)) + " ";
    if (!text.starts_with(start)) continue;
    const std::string name = text.substr(start.size());
    std::vector<std::string> lets;
    for (const auto& l : m.lets) {
      if (!l->index.tables.empty()) continue;
      lets.push_back(l->name);
      if (l->name == name) return {name, sense, l->values[0]};
    }
    for (const Goal& g : m.goals)
      if (g.name == name) return {name, sense, g.expression};
    throw UsageError(fmt::format("no expression '{}' stands alone in the model{}", name,
                                 nearest_hint(name, lets)));
  }
  throw UsageError(fmt::format(
      "the model has no goal '{}'{}; an expression is traded as 'minimize NAME' or 'maximize NAME'",
      text, nearest_hint(text, known)));
}

TradeOff trade_off(const Model& model, const TradeGoal& first, const TradeGoal& second, int points,
                   const SolveOptions& options) {
  if (points < 0) throw UsageError("a trade-off has at least one point, or all with 0");
  return Trader(model, first, second, options).run(points);
}

}  // namespace kiteknot
