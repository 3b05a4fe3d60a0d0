// A number swept over a range, and the values at which the best plan changes.

#include <algorithm>
#include <deque>

#include "methods/exact.hpp"
#include "methods/variants.hpp"
#include "model/limit_changes.hpp"
#include "model/model_data.hpp"
#include "study/time_left.hpp"
#include "study/variants.hpp"

namespace kiteknot {
namespace {

class SweepRun {
 public:
  SweepRun(const Model& model, const std::string& number, const SolveOptions& options)
      : model_(model), number_(number), time_(options) {
    base_.emplace(methods::search(model_, time_.options("as it stands"), nullptr, false, &memory_));
    v_.kind = Variation::Kind::sweep;
    v_.varied = number;
    v_.base = variant_of("as it stands", methods::answer_of(*base_), nullptr, kItself);
    v_.later_goals = model.data().later_goals();
    const ModelData& m = base_->model().data();
    if (m.goals.size() > 1) return;  // a search for each
    const auto place = std::ranges::find(m.numbers, number, &NumberDefinition::name);
    lowering_.emplace(lower(m));
    moved_.emplace(m, *lowering_, static_cast<Index>(place - m.numbers.begin()));
  }

  void ask_points(const Rational& from, const Rational& to, int points) {
    std::vector<Rational> values;
    for (int k = 0; k < points; ++k)
      values.push_back(points == 1 ? from : from + (to - from) * Rational::ratio(k, points - 1));
    answers_ = ask_all(values);
    for (std::size_t k = 0; k < values.size(); ++k) {
      v_.variants.push_back(variant_of(values[k].text(), answers_[k], plan_of(*base_), kItself));
      v_.variants.back().at = values[k];
    }
  }

  // Stretches between two answers are halved, all at a time, until each holds no change or one.
  void find_steps(const Rational& from, const Rational& to) {
    constexpr std::size_t kMostSolves = 2000;
    const Rational least = (to - from).abs() * Rational::ratio(1, 1'000'000);
    const auto sure = [](const Answer& a) {
      return a.outcome != Outcome::unproven && a.outcome != Outcome::accepted &&
             a.outcome != Outcome::undecided;
    };
    v_.all_steps = std::ranges::all_of(answers_, sure);
    std::vector<std::pair<Answer, Answer>> open;
    for (std::size_t k = 0; k + 1 < answers_.size(); ++k)
      open.emplace_back(answers_[k], answers_[k + 1]);
    for (std::size_t solves = 0; !open.empty();) {
      std::vector<std::pair<Answer, Answer>> halved;
      std::vector<Rational> middles;
      for (auto& [a, b] : open) {
        const std::optional<Rational> middle = middle_of(a, b, least);
        if (!middle) continue;
        if (solves + middles.size() >= kMostSolves) {
          v_.all_steps = false;
          break;
        }
        middles.push_back(*middle);
        halved.emplace_back(std::move(a), std::move(b));
      }
      open.clear();
      solves += middles.size();
      const std::vector<Answer> answers = ask_all(middles);
      v_.all_steps = v_.all_steps && std::ranges::all_of(answers, sure);
      for (std::size_t k = 0; k < middles.size(); ++k) {
        open.emplace_back(std::move(halved[k].first), answers[k]);
        open.emplace_back(answers[k], std::move(halved[k].second));
      }
    }
    std::ranges::sort(v_.steps, {}, &Step::before);
  }

  Variation take() { return std::move(v_); }

 private:
  struct Answer : methods::Answer {
    Rational at;
    [[nodiscard]] bool like(const Answer& other) const {
      return outcome == other.outcome && plan.has_value() == other.plan.has_value() &&
             (!plan || plan->values() == other.plan->values());
    }
  };

  // All at once, where the number moves limits only; others one by one.
  std::vector<Answer> ask_all(const std::vector<Rational>& values) {
    std::vector<std::optional<methods::Answer>> found(values.size());
    if (moved_ && moved_->only_limits()) {
      std::vector<mip::LimitChanges> changes;
      for (const Rational& value : values) {
        model_.set(number_, value);
        changes.push_back(moved_->under(model_.data()));
      }
      const auto judge = [&](std::size_t k, const Plan& plan) {
        PlanReport report = report_at(values[k], plan);
        return methods::Held{report.feasible, std::move(report.goal)};
      };
      found = methods::solve_variants(model_, *lowering_, changes, judge, time_.all(), memory_);
    }
    for (const std::size_t k : ends_first(values.size())) {
      if (found[k]) continue;
      model_.set(number_, values[k]);
      found[k] = methods::answer_of(methods::search(
          model_, time_.options(number_ + " = " + values[k].text()), nullptr, false, &memory_));
    }
    std::vector<Answer> answers;
    for (std::size_t k = 0; k < values.size(); ++k)
      answers.push_back({std::move(*found[k]), values[k]});
    return answers;
  }
  // Ends first, then middles: what holds at both ends of a stretch is known all over it.
  static std::vector<std::size_t> ends_first(std::size_t count) {
    std::vector<std::size_t> order;
    if (count > 0) order.push_back(0);
    if (count > 1) order.push_back(count - 1);
    std::deque<std::pair<std::size_t, std::size_t>> open = {{0, count - 1}};
    for (; count > 2 && !open.empty(); open.pop_front()) {
      const auto [a, b] = open.front();
      if (b - a < 2) continue;
      order.push_back(a + (b - a) / 2);
      open.emplace_back(a, order.back());
      open.emplace_back(order.back(), b);
    }
    return order;
  }

  // Where to look next between two answers; none where nothing changes in between, or where the
  // change is known (it is noted).
  std::optional<Rational> middle_of(const Answer& a, const Answer& b, const Rational& least) {
    if (a.like(b) || serves(a, b) || serves(b, a)) return std::nullopt;
    const auto first_new = first_possible(a, b), last_old = first_possible(b, a);
    if ((b.at - a.at).abs() <= least) {
      note_step(a, b, last_old == a.at, first_new == b.at);
      return std::nullopt;
    }
    const Rational sliver = b.at > a.at ? least : -least;
    return first_new && *first_new != b.at ? *first_new
           : last_old && *last_old != a.at ? *last_old
           : first_new                     ? b.at - sliver
           : last_old                      ? a.at + sliver
                                           : a.at + (b.at - a.at) / Rational(2);
  }
  void note_step(const Answer& a, const Answer& b, bool last_old, bool first_new) {
    v_.steps.push_back({a.at, b.at, a.goal, b.goal, a.later, b.later, a.plan.has_value(),
                        b.plan.has_value(), last_old, first_new});
  }

  // Whether the plan found at one value is a best one at the other as well.
  bool serves(const Answer& one, const Answer& other) {
    if (!one.plan || !other.plan || one.outcome != other.outcome) return false;
    const PlanReport there = report_at(other.at, *one.plan);
    std::vector<Rational> goals;
    if (other.goal) goals.push_back(*other.goal);
    goals.insert(goals.end(), other.later.begin(), other.later.end());
    return there.feasible && there.goals == goals;
  }

  // Where the plan of b is not possible at a: the value nearest to a from which it is. Rules and
  // bounds move linearly with most numbers; elsewhere it is a guess that the next solve judges.
  std::optional<Rational> first_possible(const Answer& a, const Answer& b) {
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
  void bound_shares(const Rational& there, const Rational& here, const Plan& plan,
                    std::optional<Rational>& share) {
    std::vector<Rational> numbers[2];
    for (const bool at_there : {false, true}) {
      model_.set(number_, at_there ? there : here);
      numbers[at_there ? 1 : 0] = model_.data().number_values();
    }
    const ModelData& m = model_.data();
    const auto look = [&](const Rational& room, const Rational& missing) {
      if (!room.is_finite() || !missing.is_finite() || missing.sign() <= 0 || room.sign() < 0)
        return;
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
  PlanReport report_at(const Rational& value, const Plan& plan) {
    model_.set(number_, value);
    return check(model_, plan);
  }

  Model model_;
  methods::Memory memory_;
  std::string number_;
  TimeLeft time_;
  std::optional<Result> base_;
  std::optional<Lowering> lowering_;  // of the base, where variants can share a search
  std::optional<MovedLimits> moved_;
  std::vector<Answer> answers_;
  Variation v_;
};

}  // namespace

Variation sweep(const Model& model, const Sweep& question, const SolveOptions& options) {
  if (question.points < 1) throw UsageError("a sweep has at least one point");
  Model(model).set(question.number, question.from);  // wrong names are told before any work
  SweepRun run(model, question.number, options);
  run.ask_points(question.from, question.to, question.points);
  if (question.steps) run.find_steps(question.from, question.to);
  return run.take();
}

}  // namespace kiteknot
