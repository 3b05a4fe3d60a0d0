#include "mip/heuristics/sequencing.hpp"

#include <algorithm>
#include <cmath>
namespace kiteknot::mip {

namespace {

// Each two of which come in an order that is to be chosen.
std::vector<std::size_t> free_tasks(const MachineTasks& m) {
  std::vector<std::size_t> free;
  for (std::size_t a = 0; a < m.size(); ++a) free.push_back(a);
  const auto settled = [&](std::size_t a) {
    return std::ranges::count_if(free, [&](std::size_t b) {
      return b != a && (m.order(a, b).from < 0 || m.order(b, a).from < 0);
    });
  };
  for (;;) {
    const auto most = std::ranges::max_element(free, {}, settled);
    if (most == free.end() || settled(*most) == 0) return free;
    free.erase(most);
  }
}

}  // namespace

// Fits where the goal is one column, which comes after a task.
bool Sequencing::read(const Problem& p) {
  found_ = precedences_of(p);
  if (found_ == nullptr) return false;
  goal_ = -1;
  for (Index j = 0; j < p.num_columns(); ++j) {
    if (p.cost(j) == 0.0) continue;
    if (goal_ >= 0 || p.cost(j) < 0.0) return false;
    goal_ = j;
  }
  std::vector<Index> task(at(p.num_columns()), -1);
  const auto task_of = [&](Index j) {
    if (task[at(j)] < 0) {
      task[at(j)] = shop_.num_tasks();
      shop_.release.push_back(std::isinf(p.lower(j)) ? 0.0 : p.lower(j));
    }
    return task[at(j)];
  };
  for (const Precedence& a : found_->always)
    shop_.arcs.push_back({task_of(a.from), task_of(a.to), a.gap});
  if (goal_ < 0 || task[at(goal_)] < 0) return false;
  shop_.last = task[at(goal_)];
  for (const MachineTasks& m : found_->machines) {
    // A task that always comes before or after others has no place to be found among them.
    std::vector<std::size_t> free = free_tasks(m);
    structures::Shop::Machine machine;
    for (const std::size_t a : free) machine.tasks.push_back(task_of(m.begin[a]));
    for (const std::size_t a : free)
      for (const std::size_t b : free) machine.gap.push_back(m.order(a, b).gap);
    shop_.machines.push_back(std::move(machine));
    tasks_.push_back(std::move(free));
  }
  return true;
}

bool Sequencing::wants(const NodeView& node) const {
  return node.depth == 0 && node.moment == NodeView::Moment::relaxed && !read_;
}

std::optional<std::vector<double>> Sequencing::look(const NodeView& node) {
  read_ = true;
  if (!read(node.domain.problem())) return std::nullopt;
  constexpr std::int64_t kLeast = 100'000'000;
  const std::int64_t until = node.work.units() + std::max(kLeast, node.spent);
  structures::Orders orders = structures::shifting_bottleneck(shop_, node.work);
  if (orders.empty()) orders = structures::dispatched(shop_);
  if (orders.empty()) return std::nullopt;
  orders = structures::improve_orders(
      shop_, std::move(orders), {.target = node.domain.lower(goal_), .until = until, .seed = 1},
      node.work);
  return point_of(node, orders);
}

// The lowest values with the choices made: what rows of two columns ask, begins meet.
std::optional<std::vector<double>> Sequencing::point_of(const NodeView& node,
                                                        const structures::Orders& orders) const {
  Domain& domain = node.domain;
  const std::size_t mark = domain.mark();
  const auto choose = [&] {
    for (std::size_t m = 0; m < orders.size(); ++m)
      for (std::size_t k = 0; k < orders[m].size(); ++k)
        for (std::size_t l = k + 1; l < orders[m].size(); ++l) {
          const std::vector<std::size_t>& task = tasks_[m];
          const Choice& when =
              found_->machines[m].order(task[orders[m][k]], task[orders[m][l]]).when;
          const bool possible =
              when.one ? domain.raise_lower(when.column, 1.0) : domain.drop_upper(when.column, 0.0);
          if (!possible) return false;
        }
    return node.propagation.run(domain, node.work);
  };
  std::optional<std::vector<double>> point;
  if (choose()) {
    point.emplace();
    for (Index j = 0; j < domain.problem().num_columns(); ++j) {
      const double low = domain.lower(j);
      point->push_back(std::isinf(low) ? std::min(0.0, domain.upper(j)) : low);
    }
  }
  domain.undo_to(mark);
  return point;
}

}  // namespace kiteknot::mip
