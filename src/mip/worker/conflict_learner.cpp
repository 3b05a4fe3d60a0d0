#include "mip/worker/conflict_learner.hpp"

#include <algorithm>

namespace kiteknot::mip {
namespace {

constexpr std::size_t kToldBounds = 12;

LearnedPropagator& added_to(NodeWorkspace& space) {
  auto learned = std::make_unique<LearnedPropagator>(space.domain);
  LearnedPropagator& there = *learned;
  space.propagation.add(std::move(learned));
  return there;
}

}  // namespace

ConflictLearner::ConflictLearner(NodeWorkspace& space, PseudoCosts& costs)
    : space_(space),
      costs_(costs),
      learned_(added_to(space)),
      analysis_(space.domain, space.pool, learned_) {}

// Where conflicts are of little use, only now and then.
bool ConflictLearner::learns(const Where& where) const {
  constexpr std::int64_t kNowAndThen = 8;
  return where.depth > 0 && (learned_.pays() || where.nodes % kNowAndThen == 0);
}

void ConflictLearner::from_rows(const Where& where) {
  if (!learns(where)) return;
  const std::int64_t before = space_.work.units();
  analysis_.begin(where.root, space_.path.marks(), space_.work);
  keep(analysis_.of(space_.propagation.conflict()), before);
}

void ConflictLearner::from_relaxation(const Where& where, const std::optional<Cutoff>& cutoff) {
  if (!learns(where)) return;
  const std::int64_t before = space_.work.units();
  analysis_.begin(where.root, space_.path.marks(), space_.work);
  keep(analysis_.of(space_.relaxation, cutoff), before);
}

void ConflictLearner::keep(std::optional<Conflict> conflict, std::int64_t before) {
  ++tally_.calls;
  tally_.work += space_.work.units() - before;
  if (!conflict || conflict->bounds.empty()) return;
  ++tally_.steps;
  for (const Change& bound : conflict->bounds)
    if (bound.what != Change::What::condition) costs_.add_conflict(bound.index);
  if (conflict->bounds.size() <= kToldBounds) found_.push_back(*conflict);
  learned_.add(std::move(*conflict));
}

// Two of its bounds that do not hold where the domain stands come first: they are watched.
void ConflictLearner::adopt(const Conflict& conflict) {
  Conflict own = conflict;
  std::stable_partition(own.bounds.begin(), own.bounds.end(),
                        [&](const Change& bound) { return !holds(space_.domain, bound); });
  learned_.add(std::move(own));
}

}  // namespace kiteknot::mip
