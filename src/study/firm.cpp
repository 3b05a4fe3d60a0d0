#include "kiteknot/firm.hpp"

#include <algorithm>
#include <cmath>

#include "study/firm_question.hpp"

namespace kiteknot {

bool FirmQuestion::begin() {
  --left_;
  ++out.solves;
  out.best = study_.ask(model_, left_of_time_.options());
  if (!proven(out.best)) return false;
  sign_ = data().goals[0].sense == Sense::maximize ? 1 : -1;
  const bool whole = moves_in_steps(data(), data().goal_with_charges(0));
  tolerance_ =
      whole ? Rational(0) : Rational(1e-7) * (Rational(1) + out.best.goals[0].value->abs());
  return true;
}

std::optional<Result> FirmQuestion::ask(const Model& m) {
  if (left_ <= 0 || left_of_time_.over()) return std::nullopt;
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
  goal_figures(question);
  limit_figures(question);
  std::stable_sort(
      out.figures.begin(), out.figures.end(),
      [](const FirmFigure& a, const FirmFigure& b) { return a.tightness() < b.tightness(); });
  for (const FirmFigure& f : out.figures)
    out.not_reached += f.low_reached && f.high_reached ? 0 : 1;
  return std::move(out);
}

}  // namespace kiteknot
