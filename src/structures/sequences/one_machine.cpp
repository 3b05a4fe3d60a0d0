#include "structures/sequences/one_machine.hpp"

#include <algorithm>
#include <limits>

#include "base/interval.hpp"

namespace kiteknot::structures {
namespace {
constexpr double kNever = -std::numeric_limits<double>::infinity();
}

// Nearly in order as a rule: from call to call few tasks move.
void OneMachine::sort(std::span<const MachineTask> tasks) {
  if (by_release_.size() != tasks.size()) {
    by_release_.resize(tasks.size());
    for (std::size_t i = 0; i < tasks.size(); ++i) by_release_[i] = i;
  }
  for (std::size_t r = 1; r < by_release_.size(); ++r) {
    const std::size_t i = by_release_[r];
    std::size_t to = r;
    for (; to > 0 && tasks[by_release_[to - 1]].release > tasks[i].release; --to)
      by_release_[to] = by_release_[to - 1];
    by_release_[to] = i;
  }
}

// For every limit D: the tasks that end by D and are released at a place or later take P from there
// and are done at C. A task outside that would have to end by D as well if it came before the last
// of them, and then does not fit, comes after all of them.
bool OneMachine::raise(std::span<const MachineTask> tasks, std::vector<double>& release) {
  const std::size_t n = tasks.size();
  sort(tasks);
  release.resize(n);
  for (std::size_t i = 0; i < n; ++i) release[i] = tasks[i].release;
  takes_.resize(n);
  done_.resize(n);
  for (std::size_t k = 0; k < n; ++k) {
    const double limit = tasks[k].due;
    double takes = 0.0, done = kNever;
    for (std::size_t r = n; r-- > 0;) {
      const MachineTask& t = tasks[by_release_[r]];
      if (t.due <= limit) {
        takes = add_down(takes, t.takes);
        done = std::max(done, add_down(t.release, takes));
        if (done > limit) return false;
      }
      takes_[r] = takes;
      done_[r] = done;
    }
    double all = kNever;  // when those released before are done, with all that come later
    for (std::size_t r = 0; r < n; ++r) {
      const std::size_t i = by_release_[r];
      const MachineTask& t = tasks[i];
      if (t.due <= limit) {
        all = std::max(all, add_down(t.release, takes_[r]));
      } else {
        if (takes_[r] > 0.0 && add_down(add_down(t.release, takes_[r]), t.takes) > limit)
          release[i] = std::max(release[i], done_[r]);
        if (all > kNever && add_down(all, t.takes) > limit)
          release[i] = std::max(release[i], done_[0]);
      }
    }
  }
  return true;
}

double OneMachine::done(std::span<const MachineTask> tasks, std::span<const std::size_t> which) {
  chosen_.assign(which.begin(), which.end());
  std::sort(chosen_.begin(), chosen_.end(),
            [&](std::size_t a, std::size_t b) { return tasks[a].release > tasks[b].release; });
  double takes = 0.0, done = kNever;
  for (const std::size_t i : chosen_) {
    takes = add_down(takes, tasks[i].takes);
    done = std::max(done, add_down(tasks[i].release, takes));
  }
  return done;
}

bool OneMachine::why_done(std::span<const MachineTask> tasks, std::span<const std::size_t> which,
                          double end, bool whole, std::vector<TaskNeed>& needs) {
  (void)done(tasks, which);  // in order of release, the latest first
  double takes = 0.0;
  for (std::size_t k = 0; k < chosen_.size(); ++k) {
    const MachineTask& t = tasks[chosen_[k]];
    takes = add_down(takes, t.takes);
    if (add_down(t.release, takes) < end) continue;
    const double from = whole ? end - takes : t.release;
    for (std::size_t i = 0; i <= k; ++i) needs.push_back({chosen_[i], false, from});
    return true;
  }
  return false;
}

bool OneMachine::why_raised(std::span<const MachineTask> tasks, std::size_t task, double start,
                            bool whole, std::vector<TaskNeed>& needs) {
  const std::size_t n = tasks.size();
  const MachineTask& own = tasks[task];
  sort(tasks);
  for (std::size_t k = 0; k < n; ++k) {
    const double limit = tasks[k].due;
    if (k == task) continue;
    double takes = 0.0, takes_late = 0.0, late_from = 0.0;  // late: those that are done at `start`
    bool late = false;
    for (std::size_t r = n; r-- > 0;) {
      const std::size_t i = by_release_[r];
      const MachineTask& t = tasks[i];
      if (i == task || t.due > limit) continue;
      takes = add_down(takes, t.takes);
      if (!late && add_down(t.release, takes) >= start) {
        late = true;
        takes_late = takes;
        late_from = t.release;
      }
      double from = std::min(own.release, t.release);
      if (!late || !(add_down(add_down(from, takes), own.takes) > limit)) continue;
      double late_needs = late_from;
      if (whole) {
        from = limit + 1.0 - takes - own.takes;
        late_needs = start - takes_late;
      }
      needs.push_back({task, false, from});
      for (std::size_t q = r; q < n; ++q) {
        const std::size_t j = by_release_[q];
        if (j == task || tasks[j].due > limit) continue;
        const bool of_late = tasks[j].release >= late_from;
        needs.push_back({j, false, of_late ? std::max(from, late_needs) : from});
        needs.push_back({j, true, limit});
      }
      return true;
    }
  }
  return false;
}

bool OneMachine::why_overloaded(std::span<const MachineTask> tasks, bool whole,
                                std::vector<TaskNeed>& needs) {
  const std::size_t n = tasks.size();
  sort(tasks);
  for (std::size_t k = 0; k < n; ++k) {
    const double limit = tasks[k].due;
    double takes = 0.0;
    for (std::size_t r = n; r-- > 0;) {
      const MachineTask& t = tasks[by_release_[r]];
      if (t.due > limit) continue;
      takes = add_down(takes, t.takes);
      if (!(add_down(t.release, takes) > limit)) continue;
      const double from = whole ? limit + 1.0 - takes : t.release;
      for (std::size_t q = r; q < n; ++q) {
        const std::size_t j = by_release_[q];
        if (tasks[j].due > limit) continue;
        needs.push_back({j, false, from});
        needs.push_back({j, true, limit});
      }
      return true;
    }
  }
  return false;
}

}  // namespace kiteknot::structures
