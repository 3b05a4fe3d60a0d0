#pragma once
// Shops: tasks with fixed gaps between some of them, and machines whose tasks follow one another in
// an order that is to be found; the last one is to begin as early as can be. Plain arrays; no
// model. A plan is an order on every machine; begins are longest paths.

#include <span>
#include <vector>

#include "base/work.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

struct Shop {
  /// `to` begins no earlier than `gap` after `from`.
  struct Arc {
    Index from = 0, to = 0;
    double gap = 0.0;
  };
  struct Machine {
    std::vector<Index> tasks;
    std::vector<double> gap;  ///< size^2: [a * size + b] from a to b where b comes later
    [[nodiscard]] std::size_t size() const noexcept { return tasks.size(); }
    /// By places in `tasks`.
    [[nodiscard]] double between(std::size_t a, std::size_t b) const {
      return gap[a * tasks.size() + b];
    }
    [[nodiscard]] double takes(std::size_t a) const;  ///< the least gap after it
  };
  std::vector<double> release;  ///< by tasks
  std::vector<Arc> arcs;
  std::vector<Machine> machines;
  Index last = 0;  ///< the task that is to begin early

  [[nodiscard]] Index num_tasks() const noexcept { return static_cast<Index>(release.size()); }
};

/// By machines: places in its `tasks`, the first first.
using Orders = std::vector<std::vector<std::size_t>>;

/// Longest paths under orders of all or some machines (others: empty).
class ShopPaths {
 public:
  explicit ShopPaths(const Shop& shop);

  /// False: they contradict each other, or fixed gaps. O(tasks + arcs).
  [[nodiscard]] bool follow(const Orders& orders);
  /// When a task begins, and from its begin to that of the last one (-infinity: it does not matter
  /// to it).
  [[nodiscard]] double head(Index task) const { return head_[at(task)]; }
  [[nodiscard]] double tail(Index task) const { return tail_[at(task)]; }
  [[nodiscard]] double end() const { return head_[at(shop_.last)]; }
  /// Fixed arcs into and out of a task.
  [[nodiscard]] std::span<const Shop::Arc> into(Index task) const {
    return {into_.data() + into_start_[at(task)], into_.data() + into_start_[at(task) + 1]};
  }
  [[nodiscard]] std::span<const Shop::Arc> from(Index task) const {
    return {from_.data() + from_start_[at(task)], from_.data() + from_start_[at(task) + 1]};
  }

 private:
  const Shop& shop_;
  std::vector<Shop::Arc> into_, from_;
  std::vector<std::size_t> into_start_, from_start_;
  std::vector<std::vector<Shop::Arc>> next_;  // along orders
  std::vector<double> head_, tail_;
  std::vector<Index> degree_, topological_;
};

/// Heads, times and tails of one machine: an order whose last end with its tail is early. Schrage's
/// rule, and Carlier's branch and bound around it for so many nodes. Source: Carlier 1982, "The
/// one-machine sequencing problem".
struct MachineOrder {
  std::vector<std::size_t> order;
  double end = 0.0;
  double bound = 0.0;  ///< no order ends earlier, but for rounding
};
[[nodiscard]] MachineOrder one_machine_order(std::span<const double> head,
                                             std::span<const double> takes,
                                             std::span<const double> tail, int nodes);

/// Machine after machine, the one that is late the most first, with those before it ordered anew.
/// Empty: orders came to contradict each other. Source: Adams, Balas and Zawack 1988, "The shifting
/// bottleneck procedure for job shop scheduling".
[[nodiscard]] Orders shifting_bottleneck(const Shop& shop, WorkCounter& work);

/// Tasks one after the other as they can begin, with the longest tail first among those that keep
/// each other waiting. Source: Giffler and Thompson 1960, "Algorithms for solving
/// production-scheduling problems".
[[nodiscard]] Orders dispatched(const Shop& shop);

/// Neighbours on a machine at either end of a block of a longest path change places, with what was
/// changed lately left alone; from the best orders again, shaken, where nothing comes of it. Ends
/// at `target`, when the work is done, or when nothing better came for long. Sources: Nowicki and
/// Smutnicki 1996, "A fast taboo search algorithm for the job shop problem"; estimates: Taillard
/// 1994, "Parallel taboo search techniques for the job shop scheduling problem".
struct ShopSearch {
  double target = 0.0;
  std::int64_t until = 0;  ///< units of work
  std::uint64_t seed = 0;
};
[[nodiscard]] Orders improve_orders(const Shop& shop, Orders orders, const ShopSearch& options,
                                    WorkCounter& work);

}  // namespace kiteknot::structures
