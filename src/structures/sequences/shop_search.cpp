#include <algorithm>
#include <limits>

#include "base/at.hpp"
#include "base/random.hpp"
#include "structures/sequences/shop.hpp"

namespace kiteknot::structures {
namespace {

class Search {
 public:
  Search(const Shop& shop, Orders orders, const ShopSearch& options, WorkCounter& work)
      : shop_(shop),
        paths_(shop),
        orders_(std::move(orders)),
        options_(options),
        random_(options.seed),
        work_(work) {
    std::size_t size = 0, tasks = 0;
    for (const Shop::Machine& m : shop.machines) {
      forbidden_.emplace_back(m.size() * m.size(), 0);
      size = std::max(size, m.size());
      tasks += m.size();
    }
    tenure_ = 6 + static_cast<std::int64_t>(size) / 3;
    cost_ = 4 * static_cast<std::int64_t>(shop.num_tasks()) +
            2 * static_cast<std::int64_t>(shop.arcs.size() + tasks);
  }

  Orders run() {
    if (!paths_.follow(orders_)) return {};
    best_ = orders_;
    best_end_ = paths_.end();
    std::int64_t since = 0, last_better = 0;
    const std::int64_t enough = 20 * shop_.num_tasks() * std::int64_t{shop_.num_tasks()};
    for (; best_end_ > options_.target && step_ - last_better < enough &&
           work_.units() < options_.until && !work_.interrupted();
         ++step_) {
      work_.add(cost_);
      if (!step()) break;  // no longest path has anything to change: it is best
      if (paths_.end() < best_end_) {
        best_end_ = paths_.end();
        best_ = orders_;
        since = 0;
        last_better = step_;
      } else if (++since > kPatience) {
        shake();
        since = 0;
      }
    }
    return best_;
  }

 private:
  static constexpr std::int64_t kPatience = 3'000;  // steps without a better end

  // Places k and k + 1 of a machine's order change.
  struct Swap {
    std::size_t machine = 0, k = 0;
    double end = 0.0;  // an estimate
  };

  // Along one longest path, at either end of its blocks on a machine; not before the first of the
  // first block, nor after the last of the last one, which changes nothing.
  void list_swaps() {
    swaps_.clear();
    const double end = paths_.end();
    const auto critical = [&](std::size_t m, std::size_t k) {
      const Shop::Machine& machine = shop_.machines[m];
      const std::size_t a = orders_[m][k], b = orders_[m][k + 1];
      const Index u = machine.tasks[a], v = machine.tasks[b];
      const double through = paths_.head(u) + machine.between(a, b) + paths_.tail(v);
      return through >= end - kSliver;
    };
    for (std::size_t m = 0; m < orders_.size(); ++m) {
      const std::size_t n = orders_[m].size();
      for (std::size_t k = 0; k + 1 < n;) {
        if (!critical(m, k)) {
          ++k;
          continue;
        }
        const std::size_t first = k;
        while (k + 1 < n && critical(m, k)) ++k;
        // The block is first .. k.
        const bool after_others = waits(shop_.machines[m].tasks[orders_[m][first]]);
        const bool before_others = is_waited_for(shop_.machines[m].tasks[orders_[m][k]]);
        const bool two = k == first + 1;
        if (after_others || (two && before_others)) add_swap(m, first);
        if (!two && before_others) add_swap(m, k - 1);
      }
    }
  }

  // Whether the longest path to a block comes from another machine, and goes on to one.
  [[nodiscard]] bool waits(Index begins) const {
    return paths_.head(begins) > shop_.release[at(begins)] + kSliver;
  }
  [[nodiscard]] bool is_waited_for(Index ends) const {
    return std::ranges::any_of(paths_.from(ends), [&](const Shop::Arc& arc) {
      return arc.to != shop_.last && paths_.tail(arc.to) + arc.gap >= paths_.tail(ends) - kSliver;
    });
  }

  // Taillard's estimate: longest paths through the two, with all others as they are.
  void add_swap(std::size_t m, std::size_t k) {
    const Shop::Machine& machine = shop_.machines[m];
    const std::vector<std::size_t>& order = orders_[m];
    const std::size_t a = order[k], b = order[k + 1];
    const Index u = machine.tasks[a], v = machine.tasks[b];
    double head_v = fixed_head(v);
    if (k > 0)
      head_v = std::max(
          head_v, paths_.head(machine.tasks[order[k - 1]]) + machine.between(order[k - 1], b));
    const double head_u = std::max(fixed_head(u), head_v + machine.between(b, a));
    double tail_u = fixed_tail(u);
    if (k + 2 < order.size())
      tail_u = std::max(
          tail_u, machine.between(a, order[k + 2]) + paths_.tail(machine.tasks[order[k + 2]]));
    const double tail_v = std::max(fixed_tail(v), machine.between(b, a) + tail_u);
    swaps_.push_back({m, k, std::max(head_v + tail_v, head_u + tail_u)});
  }
  [[nodiscard]] double fixed_head(Index t) const {
    double head = shop_.release[at(t)];
    for (const Shop::Arc& arc : paths_.into(t))
      head = std::max(head, paths_.head(arc.from) + arc.gap);
    return head;
  }
  [[nodiscard]] double fixed_tail(Index t) const {
    double tail = -std::numeric_limits<double>::infinity();
    for (const Shop::Arc& arc : paths_.from(t))
      tail = std::max(tail, paths_.tail(arc.to) + arc.gap);
    return tail;
  }

  [[nodiscard]] bool is_forbidden(const Swap& s) const {
    const std::size_t n = shop_.machines[s.machine].size();
    const std::size_t a = orders_[s.machine][s.k], b = orders_[s.machine][s.k + 1];
    return forbidden_[s.machine][b * n + a] > step_;
  }

  // False: there is nothing to change.
  bool step() {
    list_swaps();
    if (swaps_.empty()) return false;
    std::size_t chosen = swaps_.size();
    for (std::size_t k = 0; k < swaps_.size(); ++k) {
      if (is_forbidden(swaps_[k]) && swaps_[k].end >= best_end_) continue;
      if (chosen == swaps_.size() || swaps_[k].end < swaps_[chosen].end) chosen = k;
    }
    if (chosen == swaps_.size())
      chosen = static_cast<std::size_t>(
          random_.between(0, static_cast<std::int64_t>(swaps_.size()) - 1));
    make(swaps_[chosen]);
    return true;
  }

  void make(const Swap& s) {
    std::vector<std::size_t>& order = orders_[s.machine];
    const std::size_t n = shop_.machines[s.machine].size();
    const std::size_t a = order[s.k], b = order[s.k + 1];
    std::swap(order[s.k], order[s.k + 1]);
    forbidden_[s.machine][a * n + b] = step_ + tenure_ + random_.between(0, tenure_);
    if (paths_.follow(orders_)) return;
    std::swap(order[s.k], order[s.k + 1]);  // fixed gaps say otherwise
    forbidden_[s.machine][b * n + a] = step_ + 100 * tenure_;
    (void)paths_.follow(orders_);
  }

  void shake() {
    constexpr int kSwaps = 12;
    orders_ = best_;
    (void)paths_.follow(orders_);
    for (int k = 0; k < kSwaps; ++k) {
      list_swaps();
      if (swaps_.empty()) return;
      make(swaps_[static_cast<std::size_t>(
          random_.between(0, static_cast<std::int64_t>(swaps_.size()) - 1))]);
    }
  }

  static constexpr double kSliver = 1e-9;

  const Shop& shop_;
  ShopPaths paths_;
  Orders orders_, best_;
  ShopSearch options_;
  Random random_;
  WorkCounter& work_;
  double best_end_ = 0.0;
  std::vector<std::vector<std::int64_t>> forbidden_;  // by pairs: until that step
  std::int64_t step_ = 1, tenure_ = 0, cost_ = 0;
  std::vector<Swap> swaps_;
};

}  // namespace

Orders improve_orders(const Shop& shop, Orders orders, const ShopSearch& options,
                      WorkCounter& work) {
  return Search(shop, std::move(orders), options, work).run();
}

}  // namespace kiteknot::structures
