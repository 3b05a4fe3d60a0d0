// A number swept over a range, and the values at which the best plan changes.

#include <algorithm>
#include <deque>

#include "methods/exact.hpp"
#include "methods/variants.hpp"
#include "model/limit_changes.hpp"
#include "model/model_data.hpp"
#include "study/side_by_side.hpp"
#include "study/sweep_steps.hpp"
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

  void find_steps() {
    SweepSteps steps(
        model_, number_, [this](const std::vector<Rational>& v) { return ask_all(v); }, time_);
    steps.find(answers_, v_);
  }

  Variation take() { return std::move(v_); }

 private:
  // All at once, where the number moves limits only; others one by one.
  std::vector<SweepAnswer> ask_all(const std::vector<Rational>& values) {
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
    std::vector<std::size_t> open = ends_first(values.size());
    std::erase_if(open, [&](std::size_t k) { return found[k].has_value(); });
    side_by_side(
        open.size(), base_->search.work, time_, memory_,
        [&](std::size_t k) { return number_ + " = " + values[open[k]].text(); },
        [&](std::size_t k, methods::Memory& own, const SolveOptions& limits) {
          std::optional<methods::Answer>& answer = found[open[k]];
          if (time_.over()) {  // nothing is known of what is left, and that takes long, too
            answer.emplace();
            return;
          }
          Model here = model_;
          here.set(number_, values[open[k]]);
          answer = methods::answer_of(methods::search(here, limits, nullptr, false, &own));
        });
    std::vector<SweepAnswer> answers;
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

  PlanReport report_at(const Rational& value, const Plan& plan) {
    model_.set(number_, value);
    return check(model_, plan);
  }

  Model model_;
  methods::Memory memory_;
  std::string number_;
  TimeLeft time_;
  std::optional<Result> base_;
  std::optional<Lowering> lowering_;  // of the base, where variants can share a root
  std::optional<MovedLimits> moved_;
  std::vector<SweepAnswer> answers_;
  Variation v_;
};

}  // namespace

Variation sweep(const Model& model, const Sweep& question, const SolveOptions& options) {
  if (question.points < 1) throw UsageError("a sweep has at least one point");
  Model(model).set(question.number, question.from);  // wrong names are told before any work
  SweepRun run(model, question.number, options);
  run.ask_points(question.from, question.to, question.points);
  if (question.steps) run.find_steps();
  return run.take();
}

}  // namespace kiteknot
