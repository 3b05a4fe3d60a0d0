#include "mip/interface/best_few.hpp"

namespace kiteknot::mip {

bool BestFew::offer(std::span<const Rational> plan, const Rational& goal) {
  if (const Rational* worst = last(); worst != nullptr && goal >= *worst) return false;
  Key key = key_of(plan);
  const auto forget = [&](std::multimap<Rational, Key>::iterator it) {
    goals_.erase(it->second);
    order_.erase(it);
  };
  if (const auto known = goals_.find(key); known != goals_.end()) {
    if (known->second <= goal) return false;
    auto [it, end] = order_.equal_range(known->second);
    while (it->second != key) ++it;
    forget(it);
  } else if (order_.size() == wanted_.count) {
    forget(std::prev(order_.end()));
  }
  order_.emplace(goal, key);
  goals_.emplace(std::move(key), goal);
  return true;
}

}  // namespace kiteknot::mip
