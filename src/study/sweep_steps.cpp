#include "study/sweep_steps.hpp"

#include <algorithm>

#include "base/tolerances.hpp"
#include "model/free_names.hpp"

namespace kiteknot {
namespace {

constexpr std::size_t kMostSolves = 2000;

bool settled(Outcome outcome) {
  return outcome == Outcome::optimal || outcome == Outcome::infeasible ||
         outcome == Outcome::unbounded;
}

// The fraction of the least denominator between two (Stern 1858, Brocot 1861): a change at 40 is
// found as 40. Both are ends, 0 < low < high or both of any sign.
Rational simplest_between(const Rational& low, const Rational& high) {
  if (low.sign() < 0 && high.sign() > 0) return 0;
  if (high.sign() <= 0) return -simplest_between(-high, -low);
  const Rational whole = low.floor();
  if (whole + Rational(1) < high) return whole + Rational(1);
  if (whole == low) {  // whole + 1/k with the least k that is below high
    const Rational k = (Rational(1) / (high - low)).floor() + Rational(1);
    return low + Rational(1) / k;
  }
  if (high - whole == Rational(1) || low - whole >= Rational(1)) return (low + high) / Rational(2);
  return whole +
         Rational(1) / simplest_between(Rational(1) / (high - whole), Rational(1) / (low - whole));
}

}  // namespace

SweepSteps::SweepSteps(const Model& model, std::string number, Ask ask, const TimeLeft& time)
    : model_(model), number_(std::move(number)), ask_(std::move(ask)), time_(time) {
  const ModelData& m = model_.data();
  for (Index d = 0; d < m.num_decisions && !reals_; ++d)
    reals_ = !m.whole(d) && m.family_of(d).listed.empty();
}

void SweepSteps::find(std::vector<SweepAnswer> answers, Variation& out) {
  const Rational from = answers.front().at, to = answers.back().at;
  rising_ = from <= to;
  least_ = (to - from).abs() * Rational::ratio(1, 1'000'000);
  for (SweepAnswer& a : answers) {
    Rational at = a.at;
    answers_.emplace(std::move(at), std::move(a));
  }
  out.all_steps =
      std::ranges::all_of(answers_, [](const auto& a) { return settled(a.second.outcome); });
  for (;; ++round_) {
    out.steps.clear();
    const std::vector<Rational> next = walk(out);
    if (next.empty()) break;
    if (!take(next)) {
      out.all_steps = false;
      break;
    }
    out.all_steps = out.all_steps && std::ranges::all_of(next, [&](const Rational& v) {
                      return settled(answers_.at(v).outcome);
                    });
  }
  tell_lines(out);
  std::ranges::sort(out.steps, {}, &Step::before);
}

// Asks at further values; false where a limit forbids it.
bool SweepSteps::take(const std::vector<Rational>& values) {
  if (solves_ + values.size() > kMostSolves || time_.over()) return false;
  solves_ += values.size();
  for (SweepAnswer& a : ask_(values)) {
    Rational at = a.at;
    answers_.emplace(std::move(at), std::move(a));
  }
  return true;
}

// Carries plans along all answers; steps that are found narrowly enough are noted, and for all
// others a value to look at is returned.
std::vector<Rational> SweepSteps::walk(Variation& out) {
  std::vector<const SweepAnswer*> along;
  for (const auto& [at, a] : answers_) along.push_back(&a);
  if (!rising_) std::ranges::reverse(along);
  std::vector<Rational> next;
  const SweepAnswer* old = along[0];
  for (std::size_t k = 1; k < along.size(); ++k) {
    if (serves(*old, *along[k])) continue;
    if (const auto value = middle_of(*old, *along[k - 1], *along[k], out)) next.push_back(*value);
    old = along[k];
  }
  return next;
}

SweepSteps::Goals SweepSteps::goals_of(const SweepAnswer& a) {
  Goals goals;
  if (a.goal) goals.push_back(*a.goal);
  goals.insert(goals.end(), a.later.begin(), a.later.end());
  return goals;
}

// Values of real decisions are proven to a share.
bool SweepSteps::same(const Goals& a, const Goals& b) const {
  if (a.size() != b.size()) return false;
  for (std::size_t k = 0; k < a.size(); ++k) {
    const Rational off = (a[k] - b[k]).abs();
    const Rational within =
        reals_ ? Rational(kStatedTolerance) * std::max<Rational>(1, b[k].abs()) : Rational(0);
    if (off > within) return false;
  }
  return true;
}

// Whether nothing that moves in steps differs; of "0 or ..." that it is 0.
bool SweepSteps::alike(const Plan& a, const Plan& b) const {
  const ModelData& m = model_.data();
  for (Index d = 0; d < m.num_decisions; ++d) {
    const Family& f = m.family_of(d);
    const bool whole = m.whole(d) || !f.listed.empty();
    if (whole ? a[d] != b[d] : f.or_zero && a[d].is_zero() != b[d].is_zero()) return false;
  }
  return true;
}

// The model with all that moves in steps as it is in the plan.
Model SweepSteps::held(const Plan& plan) const {
  Model model = model_;
  const ModelData& m = model_.data();
  Index rules = 0;
  for (Index d = 0; d < m.num_decisions; ++d) {
    const Family& f = m.family_of(d);
    const Decision decision{m.tag, d, f.binary};
    const bool whole = m.whole(d) || !f.listed.empty();
    if (!whole && !f.or_zero) continue;
    const std::string name = "held " + std::to_string(++rules);
    if (!whole && !plan[d].is_zero()) {
      const auto [low, high] = m.bounds_if_used(f, d - f.first, m.number_values());
      if (low.sign() > 0) model.rule(free_rule(model, name), Expression(decision) >= low);
      if (high.sign() < 0) model.rule(free_rule(model, name), Expression(decision) <= high);
    } else {
      model.rule(free_rule(model, name), Expression(decision) == plan[d]);
    }
  }
  return model;
}

std::optional<SweepSteps::Goals> SweepSteps::worked_out(const Plan& plan, const Rational& at) {
  const PlanReport there = report_at(at, plan);
  if (!reals_) {
    if (!there.feasible) return std::nullopt;
    return there.goals;
  }
  const Result r = solve(held(plan), time_.options());
  if (r.outcome != Outcome::optimal) return std::nullopt;
  Goals goals;
  for (const GoalResult& g : r.goals) goals.push_back(g.value.value_or(Rational(0)));
  return goals;
}

std::optional<SweepSteps::Goals> SweepSteps::reach(const SweepAnswer& of,
                                                   const SweepAnswer& there) {
  if (!of.plan) return std::nullopt;
  if (there.plan && alike(*of.plan, *there.plan)) return goals_of(there);
  const auto key = std::pair(of.at, there.at);
  const auto known = reached_.find(key);
  return known != reached_.end()
             ? known->second
             : reached_.emplace(key, worked_out(*of.plan, there.at)).first->second;
}

// Whether the plan found at one value is, with its real decisions moved, a best one at the other.
bool SweepSteps::serves(const SweepAnswer& of, const SweepAnswer& there) {
  if (of.outcome != there.outcome || of.plan.has_value() != there.plan.has_value()) return false;
  if (!of.plan) return true;
  const auto goals = reach(of, there);
  return goals && same(*goals, goals_of(there));
}

// Where to look next for the value at which the old plan, still good at a, gives way; none where
// that is known (it is noted).
std::optional<Rational> SweepSteps::middle_of(const SweepAnswer& old, const SweepAnswer& a,
                                              const SweepAnswer& b, Variation& out) {
  // With reals, plans say less about where they are possible: every other guess is the middle.
  const bool guess = !reals_ || round_ % 2 == 0;
  const auto first_new = first_possible(a, b);
  const auto last_old = first_possible(b, reals_ ? a : old);
  const auto cross = crossing(old, a, b);
  const Rational width = (b.at - a.at).abs();
  const Rational low = std::min(a.at, b.at), high = std::max(a.at, b.at);
  if (width <= least_) {
    // A round figure in between may be the very one.
    const Rational round = simplest_between(low, high), kRounder = 64;
    if (reals_ && low < round && round < high &&
        round.denominator() * kRounder < a.at.denominator() &&
        round.denominator() * kRounder < b.at.denominator())
      return round;
    out.steps.push_back({a.at, b.at, a.goal, b.goal, a.later, b.later, a.plan.has_value(),
                         b.plan.has_value(), last_old == a.at || cross == a.at, first_new == b.at,
                         cross == a.at});
    return std::nullopt;
  }
  const Rational sliver = b.at > a.at ? least_ : -least_;
  const Rational half = a.at + (b.at - a.at) / Rational(2);
  if (!guess) return half;
  if (cross && *cross != a.at && *cross != b.at) return cross;
  if (first_new && *first_new != b.at) return first_new;
  if (last_old && *last_old != a.at) return last_old;
  if (first_new) return b.at - sliver;
  if (last_old || cross == a.at) return a.at + sliver;
  return half;
}

// Where the goals of the old plan and of b's are equal, if they move evenly.
std::optional<Rational> SweepSteps::crossing(const SweepAnswer& old, const SweepAnswer& a,
                                             const SweepAnswer& b) {
  if (!old.plan || !b.plan || !a.goal || !b.goal) return std::nullopt;
  const auto new_at_a = reach(b, a), old_at_b = reach(old, b);
  if (!new_at_a || !old_at_b || new_at_a->empty() || old_at_b->empty()) return std::nullopt;
  const Rational at_a = (*a.goal - new_at_a->front()).abs();
  const Rational at_b = (*b.goal - old_at_b->front()).abs();
  if ((at_a + at_b).is_zero()) return std::nullopt;
  return a.at + (b.at - a.at) * (at_a / (at_a + at_b));
}

// Where the plan of b is not possible at a: the value nearest to a from which it is. Rules and
// bounds move linearly with most numbers; elsewhere it is a guess that the next solve judges.
std::optional<Rational> SweepSteps::first_possible(const SweepAnswer& a, const SweepAnswer& b) {
  if (!b.plan) return std::nullopt;
  const PlanReport there = report_at(a.at, *b.plan), here = report_at(b.at, *b.plan);
  if (there.feasible || !here.feasible || there.rules.size() != here.rules.size())
    return std::nullopt;
  std::optional<Rational> share;  // of the way from b to a
  for (std::size_t k = 0; k < there.rules.size(); ++k) {
    if (there.rules[k].met || there.rules[k].logical) continue;
    const Rational room = here.rules[k].slack, missing = -there.rules[k].slack;
    if (room.sign() < 0 || missing.sign() <= 0) return std::nullopt;
    const Rational s = room / (room + missing);
    if (!share || s < *share) share = s;
  }
  bound_shares(a.at, b.at, *b.plan, share);
  if (!share) return std::nullopt;
  return b.at + (a.at - b.at) * *share;
}

// The same for bounds that hold numbers.
void SweepSteps::bound_shares(const Rational& there, const Rational& here, const Plan& plan,
                              std::optional<Rational>& share) {
  std::vector<Rational> numbers[2];
  for (const bool at_there : {false, true}) {
    model_.set(number_, at_there ? there : here);
    numbers[at_there ? 1 : 0] = model_.data().number_values();
  }
  const ModelData& m = model_.data();
  const auto look = [&](const Rational& room, const Rational& missing) {
    if (!room.is_finite() || !missing.is_finite() || missing.sign() <= 0 || room.sign() < 0) return;
    const Rational s = room / (room + missing);
    if (!share || s < *share) share = s;
  };
  for (const auto& f : m.families) {
    for (const auto& [member, bound] : f->lower_by_number) {
      const Rational& x = plan[f->first + member];
      look(x - m.lower(*f, member, numbers[0]), m.lower(*f, member, numbers[1]) - x);
    }
    for (const auto& [member, bound] : f->upper_by_number) {
      const Rational& x = plan[f->first + member];
      look(m.upper(*f, member, numbers[0]) - x, x - m.upper(*f, member, numbers[1]));
    }
  }
}

PlanReport SweepSteps::report_at(const Rational& value, const Plan& plan) {
  model_.set(number_, value);
  return check(model_, plan);
}

// From change to change: how the first goal moves with the number. A stretch of two answers gets a
// third one, which a straight line has to pass.
void SweepSteps::tell_lines(Variation& out) {
  if (!out.all_steps || model_.data().goals.size() != 1) return;
  const auto stretches = [&] {
    std::vector<std::vector<const SweepAnswer*>> all(1);
    const auto over = [](const Step& s) { return std::max(s.before, s.after); };
    std::ranges::sort(out.steps, {}, over);
    std::size_t next = 0;
    for (const auto& [at, a] : answers_) {
      if (next < out.steps.size() && at >= over(out.steps[next])) {
        const Step& s = out.steps[next++];
        const SweepAnswer* tie = s.tie ? &answers_.at(s.before) : nullptr;  // belongs to both
        if (tie == &a) all.back().push_back(&a);
        all.emplace_back();
        if (tie != nullptr && tie != &a) all.back().push_back(tie);
      }
      if (a.goal && a.outcome == Outcome::optimal) all.back().push_back(&a);
    }
    return all;
  };
  std::vector<Rational> middles;
  for (const auto& s : stretches())
    if (s.size() == 2 && s[0]->goal != s[1]->goal)
      middles.push_back((s[0]->at + s[1]->at) / Rational(2));
  if (!middles.empty() && !take(middles)) return;
  for (const auto& s : stretches()) {
    if (s.size() < 3) continue;
    Line line{s.front()->at, s.back()->at, *s.front()->goal, *s.back()->goal, {}, {}};
    for (std::size_t k = 1; k < s.size(); ++k) {
      const Rational slope = (*s[k]->goal - *s[k - 1]->goal) / (s[k]->at - s[k - 1]->at);
      // The last digits of reals are proven to a share only: narrow pairs say nothing.
      if (k > 1 && (s[k]->at - s[k - 1]->at) <= least_ * Rational(4)) continue;
      line.least = k == 1 ? slope : std::min(line.least, slope);
      line.most = k == 1 ? slope : std::max(line.most, slope);
    }
    if (line.least == line.most) {  // a straight one goes to where the change is
      const auto reach_to = [&](Rational& end, Rational& goal, const Rational& exact) {
        goal += line.least * (exact - end);
        end = exact;
      };
      for (const Step& step : out.steps) {
        const bool known = step.last_old || step.first_new;
        const Rational& exact = step.last_old ? step.before : step.after;
        const Rational& other = step.last_old ? step.after : step.before;
        if (known && other == line.from) reach_to(line.from, line.goal_from, exact);
        if (known && other == line.to) reach_to(line.to, line.goal_to, exact);
      }
    }
    if (!line.least.is_zero() || !line.most.is_zero()) out.lines.push_back(std::move(line));
  }
}

}  // namespace kiteknot
