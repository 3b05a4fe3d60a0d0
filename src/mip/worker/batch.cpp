// Several nodes, and from each down to where its branch ends, without asking anybody in between:
// that is what a worker beside others is given at a time. And what another one needs to begin.

#include "mip/worker/worker.hpp"

namespace kiteknot::mip {

struct Worker::Spent {
  const BatchLimits& limits;
  std::int64_t number, nodes = 0, work = 0;
  std::int64_t begun = 0;  // what its clock said
  [[nodiscard]] bool up() const { return nodes >= limits.nodes || work >= limits.work; }
};

// As if it had been asked where it stands: of its own way as much remains as is part of the task's.
Task Worker::from_where_it_stands(Task task) const {
  if (!task.from_root) return task;
  // A better plan makes the root tighter: it starts there.
  if (setting_.options.node.price_fixing && known_.best() < root_.fixed_for()) return task;
  const std::vector<std::int64_t>& way = space_.path.numbers();
  std::size_t same = 0;
  while (same < way.size() && same + 1 < task.legs.size() && task.legs[same].number == way[same])
    ++same;
  task.stops = same;
  task.legs.erase(task.legs.begin(), task.legs.begin() + static_cast<std::ptrdiff_t>(same));
  return task;
}

// What was told on the way, or what is counted in the end, whichever is more: both are the same for
// the same tasks.
void Worker::tell_work(std::int64_t from, std::int64_t units) {
  WorkClock* const pulse = space_.interrupt.pulse;
  if (pulse == nullptr) return;
  if (from + units > pulse->units()) pulse->set(from + units);
  space_.work.settle();
  space_.relaxation.simplex().settle_work();
}

void Worker::plunge(Task task, Spent& spent, std::vector<NodeOutcome>& outcomes) {
  std::vector<Change> changes;      // to the child, while it is worked on
  if (known_.closes(task.bound)) {  // by what was found since it was given out
    NodeOutcome outcome;
    outcome.by = ClosedBy::bound;
    outcome.bound = task.bound;
    outcomes.push_back(std::move(outcome));
    ++spent.nodes;
    return;
  }
  for (;;) {
    NodeOutcome outcome = work_on(task);
    for (Child& child : outcome.children) child.number = spent.number++;
    ++spent.nodes;
    spent.work += outcome.counts.work;
    tell_work(spent.begun, spent.work);
    ++node_.nodes;
    node_.pivots += outcome.counts.pivots;
    outcomes.push_back(std::move(outcome));
    const NodeOutcome& last = outcomes.back();
    if (spent.up() || last.end != End::divided || last.children.empty() ||
        known_.closes(last.bound) || space_.interrupt.now())
      return;
    known_.forget_key();
    const Child& child = last.children.front();
    changes = child.changes;
    Task below;
    below.number = child.number;
    below.depth = task.depth + 1;
    below.bound = last.bound;
    below.brief = task.brief;
    below.stay = true;
    below.branched = child.branched;
    below.stops = space_.path.numbers().size();
    below.legs = {{child.number, changes}};
    task = std::move(below);
  }
}

std::vector<std::vector<NodeOutcome>> Worker::work_through(std::span<const Task> tasks,
                                                           const SharedKnowledge& known,
                                                           const BatchLimits& limits) {
  learn(known);
  const WorkClock* const pulse = space_.interrupt.pulse;
  Spent spent{limits, limits.first_number};
  spent.begun = pulse == nullptr ? 0 : pulse->units();
  std::vector<std::vector<NodeOutcome>> outcomes(tasks.size());
  for (std::size_t k = 0; k < tasks.size(); ++k) {
    if (k > 0 && (spent.up() || space_.interrupt.now())) break;
    known_.forget_key();
    plunge(from_where_it_stands(tasks[k]), spent, outcomes[k]);
    const NodeOutcome& last = outcomes[k].back();
    if (last.end == End::stopped || last.ray) break;
  }
  return outcomes;
}

SharedKnowledge Worker::all_found() const {
  SharedKnowledge known;
  known.rows = space_.pool.all();
  if (learner_) known.conflicts = learner_->all();
  return known;
}

SearchOptions Worker::options_for_another() const {
  SearchOptions options = setting_.options;
  options.given.plans.clear();
  options.given.start.clear();
  options.given.basis = {};
  options.given.pseudo_costs = brancher_.costs();
  options.given.implied = space_.implied;
  return options;
}

}  // namespace kiteknot::mip
