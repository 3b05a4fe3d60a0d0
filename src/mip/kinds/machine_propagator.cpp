#include "mip/kinds/machine_propagator.hpp"

#include <algorithm>
#include <cmath>

#include "base/interval.hpp"

namespace kiteknot::mip {
namespace {

bool holds(const Domain& domain, const Choice& choice) {
  if (choice.column < 0) return true;
  return choice.one ? domain.lower(choice.column) == 1.0 : domain.upper(choice.column) == 0.0;
}

// The begin of a task in the direction of time, as a bound of its column.
Change as_bound(const Problem& p, const MachineTasks& machine, std::size_t task, double start,
                bool turned) {
  const Index j = machine.begin[task];
  double value = turned ? add_up(-start, -machine.takes[task]) : start;
  if (p.integer(j)) value = turned ? std::floor(value) : std::ceil(value);
  return {turned ? Change::What::upper : Change::What::lower, j, value};
}

}  // namespace

template <class Bound>
bool MachineTimes::read(const Problem& problem, const MachineTasks& machine, bool turned,
                        const Bound& bound) {
  constexpr double kMost = 0x1p40;
  tasks_.clear();
  whole_ = true;
  for (std::size_t a = 0; a < machine.size(); ++a) {
    const Index j = machine.begin[a];
    const double low = bound(j, false), high = bound(j, true), takes = machine.takes[a];
    if (std::isinf(low) || std::isinf(high)) return false;
    whole_ = whole_ && problem.integer(j) && std::floor(takes) == takes && takes < kMost &&
             std::abs(low) < kMost && std::abs(high) < kMost;
    const structures::MachineTask task{low, takes, add_up(high, takes)};
    tasks_.push_back(turned ? structures::mirrored(task) : task);
  }
  return true;
}

MachinePropagator::MachinePropagator(const Precedences& found, std::uint8_t kind, Domain& domain)
    : found_(found),
      kind_(kind),
      reader_(domain.add_reader()),
      machines_of_(at(domain.problem().num_columns())),
      awake_(found.machines.size(), 1) {
  for (std::size_t m = 0; m < found.machines.size(); ++m) {
    const MachineTasks& machine = found.machines[m];
    const auto add = [&](Index j) {
      if (j < 0) return;
      std::vector<std::size_t>& list = machines_of_[at(j)];
      if (list.empty() || list.back() != m) list.push_back(m);
    };
    std::ranges::for_each(machine.begin, add);
    for (const Precedence& p : machine.before) add(p.when.column);
    queue_.push_back(m);
  }
}

void MachinePropagator::follow(Domain& domain) {
  domain.read_trail(
      reader_, [](std::size_t) {},
      [&](const Domain::Step& step, std::size_t) {
        if (step.change.what == Change::What::condition) return;  // its column moves as well
        for (const std::size_t m : machines_of_[at(step.change.index)]) {
          if (awake_[m] != 0) continue;
          awake_[m] = 1;
          queue_.push_back(m);
        }
      });
}

void MachinePropagator::forget(Domain& domain) {
  follow(domain);
  for (const std::size_t m : queue_) awake_[m] = 0;
  queue_.clear();
}

// Once each: what moved by it is for the rows first.
bool MachinePropagator::propagate(Domain& domain, const Allowance& allowance) {
  follow(domain);
  for (std::size_t left = queue_.size(); left > 0; --left) {
    if (allowance.spent()) return true;
    const std::size_t m = queue_.front();
    queue_.erase(queue_.begin());
    awake_[m] = 0;
    const auto n = static_cast<std::int64_t>(found_.machines[m].size());
    allowance.work.add(4 * n * n);
    domain.because(Reason::of(kind_, static_cast<Index>(m)));
    if (!look(m, domain)) return false;
  }
  follow(domain);
  return true;
}

bool MachinePropagator::look(std::size_t m, Domain& domain) {
  return look(m, domain, false) && look(m, domain, true);
}

// Those that come before a task in the direction of time: by a choice, or since neither could come
// later.
void MachinePropagator::find_before(const MachineTasks& machine, const Domain& domain,
                                    std::size_t task, bool turned) {
  before_.clear();
  for (std::size_t a = 0; a < machine.size(); ++a) {
    if (a == task) continue;
    const Precedence& order = turned ? machine.order(task, a) : machine.order(a, task);
    if (order.from >= 0 && holds(domain, order.when)) before_.push_back(a);
  }
}

bool MachinePropagator::look(std::size_t m, Domain& domain, bool turned) {
  const MachineTasks& machine = found_.machines[m];
  const auto bound = [&](Index j, bool upper) { return upper ? domain.upper(j) : domain.lower(j); };
  if (!times_.read(domain.problem(), machine, turned, bound)) return true;
  if (!one_.raise(times_.tasks(), release_)) return false;
  for (std::size_t a = 0; a < machine.size(); ++a) {
    double& start = release_[a];
    find_before(machine, domain, a, turned);
    // One alone: its row says as much.
    if (before_.size() > 1) start = std::max(start, one_.done(times_.tasks(), before_));
    if (!(start > times_.tasks()[a].release)) continue;
    if (!domain.apply(as_bound(domain.problem(), machine, a, start, turned))) return false;
  }
  return true;
}

bool MachineReasons::chosen(const Choice& choice) const {
  if (choice.column < 0) return true;
  return choice.one ? why_.bound(choice.column, false) == 1.0
                    : why_.bound(choice.column, true) == 0.0;
}

// What was found to be needed, as bounds of columns.
bool MachineReasons::tell(bool turned) {
  for (const structures::TaskNeed& need : needs_) {
    const Index j = machine_.begin[need.task];
    const double takes = machine_.takes[need.task];
    // With time turned round an end is a begin: of the column's lower bound.
    const bool upper = need.end != turned;
    double value = turned ? -need.limit : need.limit;
    if (upper) {
      // The end is no later than `value`: in whole numbers so much for the begin; else what it was.
      value = times_.whole() ? value - takes : why_.bound(j, true);
    } else if (!times_.whole()) {
      value = why_.bound(j, false);
    }
    const Change bound{upper ? Change::What::upper : Change::What::lower, j, value};
    if (!why_.needs(bound)) return false;
  }
  return true;
}

bool MachineReasons::explain_start(std::size_t task, double start, bool turned) {
  needs_.clear();
  if (one_.why_raised(times_.tasks(), task, start, times_.whole(), needs_)) return tell(turned);
  before_.clear();
  for (std::size_t a = 0; a < machine_.size(); ++a) {
    if (a == task) continue;
    const Precedence& order = turned ? machine_.order(task, a) : machine_.order(a, task);
    if (order.from >= 0 && chosen(order.when)) before_.push_back(a);
  }
  needs_.clear();
  if (!one_.why_done(times_.tasks(), before_, start, times_.whole(), needs_)) return false;
  for (const structures::TaskNeed& need : needs_) {
    const Choice& when =
        (turned ? machine_.order(task, need.task) : machine_.order(need.task, task)).when;
    if (when.column < 0) continue;
    if (!why_.needs({when.one ? Change::What::lower : Change::What::upper, when.column,
                     when.one ? 1.0 : 0.0}))
      return false;
  }
  return tell(turned);
}

bool MachineReasons::explain(const Change* concluded) {
  if (concluded == nullptr) return explain_conflict();
  const auto place = std::ranges::find(machine_.begin, concluded->index);
  if (place == machine_.begin.end()) return false;
  const auto task = static_cast<std::size_t>(place - machine_.begin.begin());
  const bool turned = concluded->what == Change::What::upper;
  const auto bound = [&](Index j, bool upper) { return why_.bound(j, upper); };
  if (!times_.read(p_, machine_, turned, bound)) return false;
  double start = turned ? -add_up(concluded->value, machine_.takes[task]) : concluded->value;
  // Rounded to a whole number: anything beyond the one before.
  if (!times_.whole() && p_.integer(concluded->index))
    start = step_up(turned ? -add_down(concluded->value + 1.0, machine_.takes[task])
                           : concluded->value - 1.0);
  return explain_start(task, start, turned);
}

// Some set does not fit, or a task has to begin later than it may. Only whole numbers: elsewhere
// all branchings are at fault.
bool MachineReasons::explain_conflict() {
  const auto bound = [&](Index j, bool upper) { return why_.bound(j, upper); };
  for (const bool turned : {false, true}) {
    if (!times_.read(p_, machine_, turned, bound)) return false;
    needs_.clear();
    if (one_.why_overloaded(times_.tasks(), times_.whole(), needs_)) return tell(turned);
    if (!times_.whole()) continue;
    for (std::size_t a = 0; a < machine_.size(); ++a) {
      const structures::MachineTask& task = times_.tasks()[a];
      const double late = task.due - task.takes;  // the latest begin
      if (!explain_start(a, late + 1.0, turned)) continue;
      needs_.assign(1, {a, true, task.due});
      return tell(turned);
    }
  }
  return false;
}

}  // namespace kiteknot::mip
