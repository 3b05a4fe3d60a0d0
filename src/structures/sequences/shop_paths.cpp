#include <algorithm>
#include <limits>

#include "base/at.hpp"
#include "structures/sequences/shop.hpp"

namespace kiteknot::structures {

double Shop::Machine::takes(std::size_t a) const {
  double least = std::numeric_limits<double>::infinity();
  for (std::size_t b = 0; b < size(); ++b)
    if (b != a) least = std::min(least, between(a, b));
  return size() > 1 ? least : 0.0;
}

ShopPaths::ShopPaths(const Shop& shop)
    : shop_(shop), into_(shop.arcs), from_(shop.arcs), next_(at(shop.num_tasks())) {
  const auto starts = [&](std::vector<Shop::Arc>& arcs, auto key) {
    std::stable_sort(arcs.begin(), arcs.end(),
                     [&](const Shop::Arc& a, const Shop::Arc& b) { return key(a) < key(b); });
    std::vector<std::size_t> start(at(shop.num_tasks()) + 1, 0);
    for (const Shop::Arc& a : arcs) ++start[at(key(a)) + 1];
    for (std::size_t t = 1; t < start.size(); ++t) start[t] += start[t - 1];
    return start;
  };
  into_start_ = starts(into_, [](const Shop::Arc& a) { return a.to; });
  from_start_ = starts(from_, [](const Shop::Arc& a) { return a.from; });
}

bool ShopPaths::follow(const Orders& orders) {
  const Index n = shop_.num_tasks();
  for (auto& next : next_) next.clear();
  degree_.assign(at(n), 0);
  for (Index t = 0; t < n; ++t) degree_[at(t)] = static_cast<Index>(into(t).size());
  for (std::size_t m = 0; m < orders.size(); ++m)
    for (std::size_t k = 1; k < orders[m].size(); ++k) {
      const Shop::Machine& machine = shop_.machines[m];
      const std::size_t a = orders[m][k - 1], b = orders[m][k];
      next_[at(machine.tasks[a])].push_back(
          {machine.tasks[a], machine.tasks[b], machine.between(a, b)});
      ++degree_[at(machine.tasks[b])];
    }
  head_ = shop_.release;
  topological_.clear();
  for (Index t = 0; t < n; ++t)
    if (degree_[at(t)] == 0) topological_.push_back(t);
  for (std::size_t k = 0; k < topological_.size(); ++k) {
    const Index t = topological_[k];
    const auto go = [&](const Shop::Arc& arc) {
      head_[at(arc.to)] = std::max(head_[at(arc.to)], head_[at(t)] + arc.gap);
      if (--degree_[at(arc.to)] == 0) topological_.push_back(arc.to);
    };
    std::ranges::for_each(from(t), go);
    std::ranges::for_each(next_[at(t)], go);
  }
  if (topological_.size() != at(n)) return false;
  tail_.assign(at(n), -std::numeric_limits<double>::infinity());
  tail_[at(shop_.last)] = 0.0;
  for (std::size_t k = topological_.size(); k-- > 0;) {
    const Index t = topological_[k];
    const auto go = [&](const Shop::Arc& arc) {
      tail_[at(t)] = std::max(tail_[at(t)], tail_[at(arc.to)] + arc.gap);
    };
    std::ranges::for_each(from(t), go);
    std::ranges::for_each(next_[at(t)], go);
  }
  return true;
}

}  // namespace kiteknot::structures
