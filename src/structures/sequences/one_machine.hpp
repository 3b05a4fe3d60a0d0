#pragma once
// One machine that takes one task at a time: when tasks can begin at the earliest, and why. Plain
// arrays; no model. Latest ends are found with time turned round (`mirrored`). All sums are rounded
// down, so that what follows is certain. Sources: Carlier and Pinson 1989, "An algorithm for
// solving the job-shop problem" (edge finding); the quadratic sweep: Nuijten 1994, "Time and
// resource constrained scheduling".

#include <span>
#include <vector>

namespace kiteknot::structures {

/// Limits are finite.
struct MachineTask {
  double release = 0.0;  ///< it begins no earlier
  double takes = 0.0;    ///< at least 0
  double due = 0.0;      ///< it ends no later
};
[[nodiscard]] inline MachineTask mirrored(const MachineTask& task) {
  return {-task.due, task.takes, -task.release};
}

/// A limit of a task that a conclusion needs: it begins no earlier, or ends no later.
struct TaskNeed {
  std::size_t task = 0;
  bool end = false;
  double limit = 0.0;
};

class OneMachine {
 public:
  /// Earliest starts that follow from tasks that have to come first, whichever their order: of sets
  /// between limits, all of which a task outside cannot precede. False: some set does not fit
  /// between its limits. O(n^2).
  [[nodiscard]] bool raise(std::span<const MachineTask> tasks, std::vector<double>& release);
  /// When all of these tasks, in whatever order, are done at the earliest; -infinity of none.
  /// O(n log n).
  [[nodiscard]] double done(std::span<const MachineTask> tasks, std::span<const std::size_t> which);

  // Why. `whole`: all limits and times are whole numbers, exact in doubles, and limits are given up
  // as far as that goes. False: it does not follow.

  /// That `task` begins no earlier than `start`, which raise() found from these limits or weaker
  /// ones. O(n^2).
  [[nodiscard]] bool why_raised(std::span<const MachineTask> tasks, std::size_t task, double start,
                                bool whole, std::vector<TaskNeed>& needs);
  /// That some set does not fit. O(n^2).
  [[nodiscard]] bool why_overloaded(std::span<const MachineTask> tasks, bool whole,
                                    std::vector<TaskNeed>& needs);
  /// That all of some of these tasks are not done before `end`: those, and their earliest starts.
  [[nodiscard]] bool why_done(std::span<const MachineTask> tasks,
                              std::span<const std::size_t> which, double end, bool whole,
                              std::vector<TaskNeed>& needs);

 private:
  void sort(std::span<const MachineTask> tasks);

  std::vector<std::size_t> by_release_, chosen_;
  std::vector<double> takes_, done_;  // of the set from a place on, by places in by_release_
};

}  // namespace kiteknot::structures
