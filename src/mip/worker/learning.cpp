// What a branch that came to nothing tells of the rest of the tree.

#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

void Worker::keep_conflict(std::optional<Conflict> conflict, std::int64_t before) {
  ++learning_tally_.calls;
  learning_tally_.work += work_.units() - before;
  if (!conflict || conflict->bounds.empty()) return;
  ++learning_tally_.steps;
  for (const Change& bound : conflict->bounds)
    if (bound.what != Change::What::condition) pseudo_costs_.add_conflict(bound.index);
  learned_->add(std::move(*conflict));
}

// Where conflicts are of little use, only now and then.
bool Worker::learns() const {
  constexpr std::int64_t kNowAndThen = 8;
  return learned_ != nullptr && task_->depth > 0 && (learned_->pays() || nodes_ % kNowAndThen == 0);
}

// The last propagation ended in a contradiction.
void Worker::learn_from_rows() {
  if (!learns()) return;
  const std::int64_t before = work_.units();
  analysis_->begin(root_mark_, path_.marks(), work_);
  keep_conflict(analysis_->of(propagation_.conflict()), before);
}

void Worker::learn_from_relaxation(bool infeasible) {
  if (!learns() || options_.any_plan) return;
  const std::int64_t before = work_.units();
  analysis_->begin(root_mark_, path_.marks(), work_);
  keep_conflict(analysis_->of(relaxation_, infeasible ? std::nullopt : std::optional(cutoff())),
                before);
}

}  // namespace kiteknot::mip
