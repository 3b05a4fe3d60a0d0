#include <algorithm>
#include <limits>
#include <numeric>
#include <queue>
#include <utility>

#include "base/at.hpp"
#include "structures/sequences/shop.hpp"

namespace kiteknot::structures {
namespace {

struct Sequence {
  std::vector<std::size_t> order;
  std::vector<double> begin;  // by tasks
  double end = 0.0;
};

// Tasks as they arrive; of those that are there the one with the longest tail comes first.
class Arrivals {
 public:
  Arrivals(std::span<const double> head, std::span<const double> tail)
      : head_(head), by_head_(head.size()), there_(Shorter{tail}) {
    std::iota(by_head_.begin(), by_head_.end(), std::size_t{0});
    std::stable_sort(by_head_.begin(), by_head_.end(),
                     [&](std::size_t a, std::size_t b) { return head[a] < head[b]; });
  }
  /// When the next one arrives; never where all did.
  [[nodiscard]] double next() const {
    return came_ < by_head_.size() ? head_[by_head_[came_]]
                                   : std::numeric_limits<double>::infinity();
  }
  [[nodiscard]] bool any_left() const { return came_ < by_head_.size() || !there_.empty(); }
  /// The first of those that are there at `now`, which moves on where there is none.
  std::size_t first(double& now) {
    if (there_.empty()) now = std::max(now, next());
    while (next() <= now) there_.push(by_head_[came_++]);
    return there_.top();
  }
  void done() { there_.pop(); }

 private:
  struct Shorter {
    std::span<const double> tail;
    bool operator()(std::size_t a, std::size_t b) const {
      return tail[a] != tail[b] ? tail[a] < tail[b] : a > b;
    }
  };
  std::span<const double> head_;
  std::vector<std::size_t> by_head_;
  std::size_t came_ = 0;
  std::priority_queue<std::size_t, std::vector<std::size_t>, Shorter> there_;
};

// Schrage's rule: of the tasks that are there the one with the longest tail.
Sequence schrage(std::span<const double> head, std::span<const double> takes,
                 std::span<const double> tail) {
  Arrivals arrivals(head, tail);
  Sequence s;
  s.begin.resize(head.size());
  s.end = -std::numeric_limits<double>::infinity();
  for (double now = s.end; arrivals.any_left();) {
    const std::size_t i = arrivals.first(now);
    arrivals.done();
    s.order.push_back(i);
    s.begin[i] = now;
    now += takes[i];
    s.end = std::max(s.end, now + tail[i]);
  }
  return s;
}

// The same where a task may be interrupted: no order ends earlier.
double with_interruptions(std::span<const double> head, std::span<const double> takes,
                          std::span<const double> tail) {
  Arrivals arrivals(head, tail);
  std::vector<double> left(takes.begin(), takes.end());
  double bound = -std::numeric_limits<double>::infinity();
  for (double now = bound; arrivals.any_left();) {
    const std::size_t i = arrivals.first(now);
    const double step = std::min(left[i], arrivals.next() - now);
    left[i] -= step;
    now += step;
    if (left[i] > 0.0) continue;
    bound = std::max(bound, now + tail[i]);
    arrivals.done();
  }
  return bound;
}

// Carlier's tree: where the critical tasks of Schrage's order wait for one with a shorter tail,
// that one comes before all of them or after.
class Carlier {
 public:
  Carlier(std::span<const double> takes, int nodes) : takes_(takes), nodes_(nodes) {}

  MachineOrder run(std::vector<double> head, std::vector<double> tail) {
    best_.bound = with_interruptions(head, takes_, tail);
    best_.end = std::numeric_limits<double>::infinity();
    look(std::move(head), std::move(tail));
    return best_;
  }

 private:
  void look(std::vector<double> head, std::vector<double> tail) {
    if (nodes_-- < 0) return;
    const Sequence s = schrage(head, takes_, tail);
    if (s.end < best_.end) {
      best_.end = s.end;
      best_.order = s.order;
    }
    if (best_.end <= best_.bound) return;
    // The last task of a critical path, and its first one.
    std::size_t last = s.order.size();
    for (std::size_t k = s.order.size(); k-- > 0 && last == s.order.size();)
      if (s.begin[s.order[k]] + takes_[s.order[k]] + tail[s.order[k]] >= s.end) last = k;
    std::size_t first = last;
    while (first > 0 &&
           s.begin[s.order[first - 1]] + takes_[s.order[first - 1]] >= s.begin[s.order[first]])
      --first;
    std::size_t at_fault = last;
    bool found = false;
    for (std::size_t k = last; k-- > first && !found;)
      if (tail[s.order[k]] < tail[s.order[last]]) {
        at_fault = k;
        found = true;
      }
    if (!found) return;  // the order is best
    double least_head = std::numeric_limits<double>::infinity(), least_tail = least_head, sum = 0.0;
    for (std::size_t k = at_fault + 1; k <= last; ++k) {
      least_head = std::min(least_head, head[s.order[k]]);
      least_tail = std::min(least_tail, tail[s.order[k]]);
      sum += takes_[s.order[k]];
    }
    const std::size_t c = s.order[at_fault];
    std::vector<double> later = head, longer = tail;
    later[c] = std::max(head[c], least_head + sum);
    longer[c] = std::max(tail[c], sum + least_tail);
    if (with_interruptions(later, takes_, tail) < best_.end) look(std::move(later), tail);
    if (with_interruptions(head, takes_, longer) < best_.end)
      look(std::move(head), std::move(longer));
  }

  std::span<const double> takes_;
  int nodes_;
  MachineOrder best_;
};

class Bottleneck {
 public:
  Bottleneck(const Shop& shop, WorkCounter& work)
      : shop_(shop), paths_(shop), orders_(shop.machines.size()), work_(work) {}

  Orders run() {
    if (!paths_.follow(orders_)) return {};
    for (std::size_t placed = 0; placed < shop_.machines.size(); ++placed) {
      std::size_t worst = shop_.machines.size();
      MachineOrder order;
      for (std::size_t m = 0; m < shop_.machines.size(); ++m) {
        if (!orders_[m].empty()) continue;
        MachineOrder own = best_order(m);
        if (worst == shop_.machines.size() || own.end > order.end) {
          worst = m;
          order = std::move(own);
        }
      }
      orders_[worst] = std::move(order.order);
      if (work_.interrupted() || !paths_.follow(orders_)) return {};
      if (!order_anew(worst)) return {};
    }
    return orders_;
  }

 private:
  static constexpr int kNodes = 100, kRounds = 3;

  // With what the other orders say; the tail of a task as one machine sees it begins at its end.
  MachineOrder best_order(std::size_t m) {
    const Shop::Machine& machine = shop_.machines[m];
    std::vector<double> head, takes, tail;
    for (std::size_t a = 0; a < machine.size(); ++a) {
      const Index t = machine.tasks[a];
      head.push_back(paths_.head(t));
      takes.push_back(machine.takes(a));
      tail.push_back(std::max(0.0, paths_.tail(t) - takes.back()));
    }
    work_.add(static_cast<std::int64_t>(20 * machine.size()));
    return one_machine_order(head, takes, tail, kNodes);
  }

  // Those placed, with each taken out in turn; the latest one not.
  bool order_anew(std::size_t latest) {
    for (int round = 0; round < kRounds; ++round) {
      bool changed = false;
      for (std::size_t m = 0; m < shop_.machines.size(); ++m) {
        if (orders_[m].empty() || (m == latest && round == 0)) continue;
        const double before = paths_.end();
        std::vector<std::size_t> old = std::exchange(orders_[m], {});
        if (!paths_.follow(orders_)) return false;
        orders_[m] = best_order(m).order;
        if (paths_.follow(orders_) && paths_.end() < before) {
          changed = true;
          continue;
        }
        orders_[m] = std::move(old);
        if (!paths_.follow(orders_)) return false;
      }
      work_.add(static_cast<std::int64_t>(shop_.machines.size() * at(shop_.num_tasks())));
      if (!changed) break;
    }
    return true;
  }

  const Shop& shop_;
  ShopPaths paths_;
  Orders orders_;
  WorkCounter& work_;
};

}  // namespace

MachineOrder one_machine_order(std::span<const double> head, std::span<const double> takes,
                               std::span<const double> tail, int nodes) {
  return Carlier(takes, nodes).run({head.begin(), head.end()}, {tail.begin(), tail.end()});
}

Orders shifting_bottleneck(const Shop& shop, WorkCounter& work) {
  return Bottleneck(shop, work).run();
}

Orders dispatched(const Shop& shop) {
  ShopPaths paths(shop);
  Orders orders(shop.machines.size());
  if (!paths.follow(orders)) return {};
  // One task is on few machines; here: where it is, and its place there.
  std::vector<std::vector<std::pair<std::size_t, std::size_t>>> places(at(shop.num_tasks()));
  for (std::size_t m = 0; m < shop.machines.size(); ++m)
    for (std::size_t a = 0; a < shop.machines[m].size(); ++a)
      places[at(shop.machines[m].tasks[a])].emplace_back(m, a);
  std::vector<Index> waits(at(shop.num_tasks()));
  std::vector<double> ready = shop.release;
  std::vector<Index> there;
  for (Index t = 0; t < shop.num_tasks(); ++t) {
    waits[at(t)] = static_cast<Index>(paths.into(t).size());
    if (waits[at(t)] == 0) there.push_back(t);
  }
  const auto takes = [&](Index t) {
    double longest = 0.0;
    for (const auto& [m, a] : places[at(t)]) longest = std::max(longest, shop.machines[m].takes(a));
    return longest;
  };
  while (!there.empty()) {
    double first_end = std::numeric_limits<double>::infinity();
    for (const Index t : there) first_end = std::min(first_end, ready[at(t)] + takes(t));
    std::size_t chosen = there.size();
    for (std::size_t k = 0; k < there.size(); ++k) {
      const Index t = there[k];
      if (ready[at(t)] > first_end || (takes(t) > 0.0 && ready[at(t)] >= first_end)) continue;
      if (chosen == there.size() || paths.tail(t) > paths.tail(there[chosen])) chosen = k;
    }
    if (chosen == there.size()) chosen = 0;
    const Index t = there[chosen];
    there.erase(there.begin() + static_cast<std::ptrdiff_t>(chosen));
    for (const auto& [m, a] : places[at(t)]) {
      orders[m].push_back(a);
      for (std::size_t b = 0; b < shop.machines[m].size(); ++b) {
        double& other = ready[at(shop.machines[m].tasks[b])];
        if (b != a) other = std::max(other, ready[at(t)] + shop.machines[m].between(a, b));
      }
    }
    for (const Shop::Arc& arc : paths.from(t)) {
      ready[at(arc.to)] = std::max(ready[at(arc.to)], ready[at(t)] + arc.gap);
      if (--waits[at(arc.to)] == 0) there.push_back(arc.to);
    }
  }
  return orders;
}

}  // namespace kiteknot::structures
