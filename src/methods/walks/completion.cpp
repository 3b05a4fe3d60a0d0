#include "methods/walks/completion.hpp"

#include "base/at.hpp"

namespace kiteknot::methods {
namespace {

Lowering lowered(const Model& model, const Interrupt& interrupt) {
  Lowering lowering = lower(model.data(), false, false, interrupt);
  if (!lowering.problem.exact())
    throw UsageError(
        "its real decisions stand in terms that are not linear, which linear completion does not "
        "tell");
  return lowering;
}

}  // namespace

Completion::Completion(const Model& model, const CompiledModel& compiled,
                       const Interrupt& interrupt)
    : interrupt_(interrupt),
      lowering_(lowered(model, interrupt)),
      domain_(lowering_.problem),
      propagation_(domain_),
      relaxation_(lowering_.problem),
      judge_(compiled) {
  work_.obey(interrupt_);
  for (Index d = 0; d < compiled.num_decisions(); ++d)
    if (compiled.ranges[kiteknot::at(d)].stepped()) whole_.push_back(d);
  relaxation_.tighten(domain_);
}

std::optional<Score> Completion::at(std::span<const double> values, std::vector<double>& point) {
  const std::size_t mark = domain_.mark();
  bool possible = true;
  for (const Index d : whole_) {
    const double v = values[kiteknot::at(d)];
    possible = possible && domain_.raise_lower(d, v) && domain_.drop_upper(d, v);
  }
  possible = possible && propagation_.run(domain_, work_);
  if (possible) {
    relaxation_.follow(domain_);
    possible = relaxation_.solve({.interrupt = interrupt_}).status == lp::Status::optimal;
  }
  std::optional<Score> score;
  if (possible) {
    point.assign(relaxation_.point().begin(),
                 relaxation_.point().begin() + static_cast<std::ptrdiff_t>(values.size()));
    for (const Index d : whole_) point[kiteknot::at(d)] = values[kiteknot::at(d)];
    judge_.take_all(point);
    judge_.keep();
    // The simplex's own tolerances, over sums of many terms.
    constexpr double kOfRows = 1e-5;
    if (judge_.score().broken <= kOfRows) score = Score{0.0, judge_.goal()};
  }
  domain_.undo_to(mark);
  return score;
}

}  // namespace kiteknot::methods
