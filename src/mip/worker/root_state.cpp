#include "mip/worker/root_state.hpp"

namespace kiteknot::mip {

void RootState::remember(double bound, const CertainCosts& costs, const Relaxation& relaxation) {
  const PriceEnds ends = relaxation.ends();
  own_ = {
      bound, costs, {ends.lower.begin(), ends.lower.end()}, {ends.upper.begin(), ends.upper.end()},
      {},    false};
}

std::shared_ptr<const RootFacts> RootState::hand_out(const Domain& domain, bool cut_by_paths) {
  for (const Domain::Step& step : domain.trail()) own_.changes.push_back(step.change);
  own_.cut_by_paths = cut_by_paths;
  facts_ = std::make_shared<const RootFacts>(std::exchange(own_, {}));
  mark_ = domain.mark();
  return facts_;
}

void RootState::adopt(std::shared_ptr<const RootFacts> facts, NodeWorkspace& space) {
  facts_ = std::move(facts);
  space.go_to_root(0);
  space.domain.because({Reason::By::root});
  for (const Change& c : facts_->changes)
    if (!space.domain.apply(c)) break;  // every node will find out
  space.domain.because({});
  mark_ = space.domain.mark();
}

void RootState::tighten(const KnownBest& known, NodeWorkspace& space) {
  if (!facts_ || known.best() >= fixed_for_) return;
  fixed_for_ = known.best();
  space.go_to_root(mark_);
  space.domain.because({Reason::By::reduced_cost});
  if (!facts_->costs.reduced.empty())
    tighten_by_reduced_costs(space.domain, facts_->costs, known.cutoff(), facts_->bound,
                             {facts_->lower, facts_->upper});
  tighten_by_goal(space.domain, known.cutoff());
  space.domain.because({});
  if (!space.propagation.run(space.domain, space.work))
    space.domain.undo_to(mark_);  // every node will find out
  mark_ = space.domain.mark();
}

void RootState::narrow(TermRanges& ranges, NodeWorkspace& space) {
  if (!facts_) return;
  space.go_to_root(mark_);
  if (!ranges.settle()) space.domain.undo_to(mark_);  // every node will find out
  mark_ = space.domain.mark();
}

}  // namespace kiteknot::mip
