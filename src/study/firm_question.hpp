#pragma once
// What is asked about how firm a plan is: the model with one goal, its best plan, a budget of
// solves, and the figures found so far.

#include "kiteknot/firm.hpp"
#include "model/evaluation.hpp"
#include "model/model_data.hpp"
#include "study/time_left.hpp"
#include "study/variants.hpp"

namespace kiteknot {

class FirmQuestion {
 public:
  FirmQuestion(const Model& model, const SolveOptions& options, int most)
      : out{Result(model), {}, {}, 0, 0, 0, model.data().later_goals()},
        model_(model),
        left_of_time_(options),
        study_(model),
        left_(most) {}

  /// Finds the best plan first, the one that is told. False: it is not proven best.
  bool begin();
  /// Of the budget, to be kept for later.
  void hold_back(int solves) noexcept { held_back_ = solves; }
  [[nodiscard]] int left() const noexcept { return left_; }
  [[nodiscard]] bool used_up() const { return left_ <= held_back_ || left_of_time_.over(); }
  /// None: the budget is used up.
  std::optional<Result> ask(const Model& m);
  [[nodiscard]] const Model& model() const noexcept { return model_; }
  [[nodiscard]] const ModelData& data() const { return model_.data(); }
  /// Larger is better, whatever the goal's sense; 1 or -1 turns one into the other.
  [[nodiscard]] Rational worth(const Result& r) const {
    return *r.goals[0].value * Rational(sign_);
  }
  [[nodiscard]] int sign() const noexcept { return sign_; }
  [[nodiscard]] const Rational& value(Index d) const { return (*out.best.plan)[d]; }
  /// What an expression comes to at a plan.
  [[nodiscard]] Rational value_at(const Expression& e, const Plan& plan) const {
    return Evaluation(data(), plan.values(), true).value(e);
  }
  /// Values of the goal nearer than this count as the same.
  [[nodiscard]] const Rational& tolerance() const noexcept { return tolerance_; }

  Firmness out;

 private:
  Model model_;
  TimeLeft left_of_time_;
  Study study_;
  int left_, sign_ = 1, held_back_ = 0;
  Rational tolerance_;
};

/// Figures of curves in the goal, then its coefficients from the given one on, those likely to be
/// tight first, while the budget lasts; how many were looked at, and how many there are
/// (firm_goal.cpp).
struct Looked {
  std::size_t done = 0, all = 0;
};
Looked goal_figures(FirmQuestion& question, std::size_t from);
/// Limits of rules (firm_limits.cpp) ...
void limit_figures(FirmQuestion& question);
/// ... and what a yes-or-no decision is multiplied by in one.
void multiplier_figures(FirmQuestion& question);
/// How many solves the limits of rules may take.
int solves_for_limits(const FirmQuestion& question);

}  // namespace kiteknot
