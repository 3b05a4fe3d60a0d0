#include "kiteknot/firm.hpp"

#include <algorithm>
#include <cmath>

#include "study/firm_question.hpp"
#include "study/told_plan.hpp"

namespace kiteknot {

bool FirmQuestion::begin() {
  --left_;
  ++out.solves;
  const Model stated = model_;
  out.best = told_plan(study_, stated, model_, left_of_time_.options());
  if (!proven(out.best)) return false;
  sign_ = data().goals[0].sense == Sense::maximize ? 1 : -1;
  const bool whole = moves_in_steps(data(), data().goal_with_charges(0));
  tolerance_ =
      whole ? Rational(0) : Rational(1e-7) * (Rational(1) + out.best.goals[0].value->abs());
  return true;
}

std::optional<Result> FirmQuestion::ask(const Model& m) {
  if (used_up()) return std::nullopt;
  --left_;
  ++out.solves;
  return study_.ask(m, left_of_time_.options());
}

double FirmFigure::tightness() const {
  double room = HUGE_VAL;
  if (low) room = std::min(room, (now - *low).to_double());
  if (high) room = std::min(room, (*high - now).to_double());
  return room / std::max(std::abs(now.to_double()), 1e-9);
}

Firmness firmness(const Model& model, const SolveOptions& options, int most_solves) {
  if (most_solves < 1) throw UsageError("a budget has at least one solve");
  FirmQuestion question(model, options, most_solves);
  Firmness& out = question.out;
  if (!question.begin()) return std::move(out);
  // What the goal counts first, but not so much of it that nothing is left for limits; what
  // decisions are tied by comes last.
  constexpr int kShare = 2;
  question.hold_back(std::min(solves_for_limits(question), question.left() / kShare));
  Looked goal = goal_figures(question, 0);
  question.hold_back(0);
  limit_figures(question);
  if (goal.done < goal.all) goal = goal_figures(question, goal.done);
  multiplier_figures(question);
  out.not_looked_at = goal.all - goal.done;
  const auto settled = [](const FirmFigure& f) { return f.low_reached && f.high_reached; };
  std::stable_sort(out.figures.begin(), out.figures.end(),
                   [&](const FirmFigure& a, const FirmFigure& b) {
                     return settled(a) != settled(b) ? settled(a) : a.tightness() < b.tightness();
                   });
  for (const FirmFigure& f : out.figures)
    out.not_reached += f.low_reached && f.high_reached ? 0 : 1;
  return std::move(out);
}

}  // namespace kiteknot
