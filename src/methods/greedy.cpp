// What people do by hand. First, while some rule still needs more: the decision that meets the most
// of all needs for its cost (Chvatal 1979, "A greedy heuristic for the set-covering problem").
// Then, while there is something to gain: decisions by goal per share of the scarcest rule (Dantzig
// 1957, "Discrete-variable extremum problems"). Nothing is ever taken back.

#include "methods/greedy.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/at.hpp"
#include "base/work.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

// Plain logic over yes-or-no decisions is a sum too: a count of them, one that needs another, some
// that exclude each other. Anything deeper is left to the check.
std::optional<Condition> as_sum(const Condition& c) {
  using K = Condition::Kind;
  const auto plain = [](const Condition& part) { return part.kind == K::truth; };
  const auto all_plain = [&](const std::vector<Condition>& parts) {
    return std::all_of(parts.begin(), parts.end(), plain);
  };
  const auto sum = [](const std::vector<Condition>& parts) {
    Expression total;
    for (const Condition& part : parts) total += part.body;
    return total;
  };
  if (c.kind == K::compare) return c;
  if (c.kind == K::truth) return c.body >= 1;
  if (c.kind == K::count && all_plain(c.parts)) return within(c.least, sum(c.parts), c.most);
  if (c.kind == K::implies && all_plain(c.parts)) return c.parts[0].body <= c.parts[1].body;
  if (c.kind == K::any && all_plain(c.parts)) return sum(c.parts) >= 1;
  if (c.kind != K::negation) return std::nullopt;
  const Condition& inner = c.parts[0];
  if (plain(inner)) return inner.body <= 0;
  if (inner.kind == K::all && all_plain(inner.parts))
    return sum(inner.parts) <= static_cast<int>(inner.parts.size()) - 1;
  return std::nullopt;
}

class GreedyRun {
 public:
  GreedyRun(const Model& model, const SolveOptions& options)
      : model_(model), m_(model.data()), plan_(model) {
    interrupt_ = {&clock_, options.seconds, options.stop.flag()};
    Collector collector(m_);
    const auto n = static_cast<std::size_t>(m_.num_decisions);
    upper_.resize(n);
    integer_.resize(n);
    by_decision_.resize(n);
    worth_.resize(n);
    if (!m_.goals.empty()) {
      const int sign = m_.goals[0].sense == Sense::maximize ? 1 : -1;
      // What one more of a decision adds by itself; terms that are not sums count at the check.
      const Expression& goal = m_.goals[0].expression;
      for (const auto& t : goal.terms()) worth_[at(t.decision)] += t.coefficient * sign;
      for (const auto& t : goal.factored())
        if (t.decision >= 0)
          worth_[at(t.decision)] += evaluate(*t.factor, collector.numbers()) * sign;
    }
    for (std::size_t r = 0; r < m_.rules.size(); ++r) {
      if (m_.rules_off.contains(static_cast<Index>(r))) continue;
      if (m_.rules[r]->soft()) continue;
      for (Index i = 0; i < m_.rules[r]->index.count; ++i) {
        if (interrupt_.now()) return;  // run() will find out
        const auto stated = as_sum(m_.rules[r]->conditions[at(i)]);
        if (!stated || !is_linear(*stated)) continue;  // told by the check
        Line line{static_cast<Index>(r), i, linear_rule(collector, *stated), 0};
        for (const auto& t : line.rule.terms)
          by_decision_[at(t.decision)].push_back(
              {static_cast<Index>(lines_.size()), t.coefficient});
        lines_.push_back(std::move(line));
      }
    }
    for (const auto& f : m_.families)
      for (Index i = 0; i < f->index.count; ++i) {
        const Index d = f->first + i;
        const Rational low = m_.lower(*f, i, collector.numbers());
        upper_[at(d)] = m_.upper(*f, i, collector.numbers());
        integer_[at(d)] = f->integer;
        const Rational start = low.is_finite() ? (f->integer ? low.ceil() : low)
                                               : std::min<Rational>(0, upper_[at(d)]);
        if (!start.is_zero()) raise(d, start);
      }
  }

  MethodAnswer run() {
    if (!interrupt_.now()) find_scarce();
    if (!meet_needs() || !collect_gains()) answer_.note = "it was stopped before it was through";
    answer_.method = answer_.label = "greedy";
    answer_.report = check(model_, plan_);
    answer_.outcome = answer_.report->feasible ? Outcome::unproven : Outcome::undecided;
    answer_.plan = plan_;
    answer_.by_needs = by_needs_;
    answer_.seconds = clock_.seconds();
    if (scarce_ >= 0) {
      const Line& line = lines_[at(scarce_)];
      answer_.scarce = m_.rule_name(line.family, line.member);
      answer_.scarce_limit = line.rule.high + line.rule.moved;
    }
    return std::move(answer_);
  }

 private:
  struct Line {
    Index family, member;
    LinearRule rule;
    Rational activity;
  };
  struct Use {
    Index line;
    Rational coefficient;
  };

  void raise(Index d, const Rational& by) {
    plan_.set(Decision{m_.tag, d}, plan_[d] + by);
    for (const Use& u : by_decision_[at(d)]) lines_[at(u.line)].activity += u.coefficient * by;
  }

  // How much more of a decision fits before a limit is passed; needs are not made worse either.
  Rational room(Index d) const {
    Rational most = upper_[at(d)].is_finite() ? upper_[at(d)] - plan_[d] : Rational::infinity();
    for (const Use& u : by_decision_[at(d)]) {
      const Line& line = lines_[at(u.line)];
      const Rational& limit = u.coefficient.sign() > 0 ? line.rule.high : line.rule.low;
      if (!limit.is_finite()) continue;
      const Rational fits = (limit - line.activity) / u.coefficient;
      most = std::min(most, std::max<Rational>(fits, 0));
    }
    return integer_[at(d)] && most.is_finite() ? most.floor() : most;
  }

  Rational need(const Line& line) const {
    if (!line.rule.low.is_finite() || line.activity >= line.rule.low) return 0;
    return line.rule.low - line.activity;
  }

  void pick(Index d, const Rational& amount, double ratio) {
    raise(d, amount);
    std::vector<GreedyPick>& picks = answer_.picks;
    const bool again = !picks.empty() && picks.back().decision == d && picks.back().ratio == ratio;
    GreedyPick& p = again ? picks.back() : picks.emplace_back();
    p.decision = d;
    p.amount += amount;
    p.ratio = ratio;
    p.worth += worth_[at(d)] * amount *
               (m_.goals.empty() || m_.goals[0].sense == Sense::maximize ? 1 : -1);
    if (scarce_ >= 0) p.used = lines_[at(scarce_)].activity + lines_[at(scarce_)].rule.moved;
  }

  // False: stopped.
  bool meet_needs() {
    std::vector<Rational> first_need;
    for (const Line& line : lines_) first_need.push_back(need(line));
    constexpr int kMostPicks = 100000;
    for (int picks = 0; picks < kMostPicks; ++picks) {
      if (interrupt_.now()) return false;
      Index best = -1;
      double best_ratio = 0.0;
      bool best_free = false;
      Rational best_amount = 0;
      for (Index d = 0; d < m_.num_decisions; ++d) {
        double share = 0.0;
        Rational wanted = 0;
        for (const Use& u : by_decision_[at(d)]) {
          const Rational missing = need(lines_[at(u.line)]);
          if (u.coefficient.sign() <= 0 || missing.is_zero()) continue;
          const Rational met = std::min(missing, u.coefficient);
          share += (met / std::max(first_need[at(u.line)], missing)).to_double();
          wanted = std::max(wanted, missing / u.coefficient);
        }
        if (share <= 0.0) continue;
        const Rational most = room(d);
        if (most.sign() <= 0) continue;
        // What costs nothing goes first, ranked by what it brings.
        const double cost = -worth_[at(d)].to_double();
        const bool free = cost <= 0.0;
        const double ratio = free ? gain_ratio(d) : share / cost;
        if (best >= 0 && (free == best_free ? ratio <= best_ratio : !free)) continue;
        best = d;
        best_free = free;
        best_ratio = ratio;
        best_amount = integer_[at(d)] ? Rational(1) : std::min(most, wanted);
      }
      if (best < 0) return true;
      by_needs_ = by_needs_ || !best_free;
      pick(best, best_amount, best_ratio);
    }
    return true;
  }

  // The rule whose limit is asked for most often over by the decisions that improve the goal.
  void find_scarce() {
    Rational most = 0;
    for (std::size_t k = 0; k < lines_.size(); ++k) {
      const Line& line = lines_[k];
      const Rational left =
          line.rule.high.is_finite() ? line.rule.high - line.activity : Rational(0);
      if (left.sign() <= 0) continue;
      Rational asked = 0;
      for (const auto& t : line.rule.terms)
        if (t.coefficient.sign() > 0 && worth_[at(t.decision)].sign() > 0 &&
            upper_[at(t.decision)].is_finite())
          asked += t.coefficient * (upper_[at(t.decision)] - plan_[t.decision]);
      if (asked / left <= most) continue;
      most = asked / left;
      scarce_ = static_cast<Index>(k);
    }
  }

  // Goal per share of the scarce rule's limit; infinite where a decision uses nothing of it.
  double gain_ratio(Index d) const {
    Rational use = 0;
    for (const Use& u : by_decision_[at(d)])
      if (u.line == scarce_) use += u.coefficient;
    const Rational limit = scarce_ >= 0 ? lines_[at(scarce_)].rule.high : Rational(1);
    return use.sign() > 0 && limit.sign() > 0 ? (worth_[at(d)] * limit / use).to_double()
                                              : std::numeric_limits<double>::infinity();
  }

  bool collect_gains() {
    struct Candidate {
      Index decision;
      double ratio;
    };
    std::vector<Candidate> candidates;
    for (Index d = 0; d < m_.num_decisions; ++d) {
      if (worth_[at(d)].sign() <= 0) continue;
      candidates.push_back({d, gain_ratio(d)});
    }
    std::stable_sort(candidates.begin(), candidates.end(),
                     [](const Candidate& a, const Candidate& b) { return a.ratio > b.ratio; });
    for (const Candidate& c : candidates) {
      if (interrupt_.now()) return false;
      const Rational amount = room(c.decision);
      if (amount.sign() <= 0) continue;
      if (!amount.is_finite()) {
        answer_.note = "the goal has no end along " + m_.decision_name(c.decision);
        return true;
      }
      pick(c.decision, amount, c.ratio);
    }
    return true;
  }

  const Model& model_;
  const ModelData& m_;
  Plan plan_;
  std::vector<Line> lines_;
  std::vector<std::vector<Use>> by_decision_;
  std::vector<Rational> upper_, worth_;  // worth_: improvement of the goal per unit
  std::vector<char> integer_;
  Index scarce_ = -1;
  bool by_needs_ = false;
  Stopwatch clock_;
  Interrupt interrupt_;
  MethodAnswer answer_;
};

class GreedyMethod final : public Method {
 public:
  std::string name() const override { return "greedy"; }
  std::string about() const override {
    return "by goal per share of the scarcest rule, one after the other";
  }
  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer*) const override {
    if (options.generator) throw UsageError("'greedy' cannot follow rules that are generated");
    return {GreedyRun(model, options).run()};
  }
};

}  // namespace

std::unique_ptr<Method> make_greedy() {
  return std::make_unique<GreedyMethod>();
}

}  // namespace kiteknot
