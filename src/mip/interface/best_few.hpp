#pragma once
// The best few plans in place of the best one: the tree's cutoff is the goal of the last of them
// (Danna, Fenelon, Gu and Wunderling 2007, "Generating multiple solutions for mixed integer
// programming problems"). Two plans are the same where they agree in the key columns.

#include <map>
#include <optional>
#include <span>
#include <vector>

#include "base/at.hpp"
#include "kiteknot/rational.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::mip {

using linalg::Index;

/// What is asked for; `count` 0: the best plan only.
struct FewWanted {
  std::size_t count = 0;
  std::vector<Index> key;  ///< integer columns
};

class BestFew {
 public:
  using Key = std::vector<Rational>;
  explicit BestFew(FewWanted wanted) : wanted_(std::move(wanted)) {}

  [[nodiscard]] bool on() const noexcept { return wanted_.count > 0; }
  [[nodiscard]] const std::vector<Index>& key_columns() const noexcept { return wanted_.key; }
  [[nodiscard]] Key key_of(std::span<const Rational> plan) const {
    Key key;
    for (const Index j : wanted_.key) key.push_back(plan[at(j)]);
    return key;
  }
  /// Notes a plan with its goal; false where it is no news: as good a one with this key is known,
  /// or that many better ones.
  bool offer(std::span<const Rational> plan, const Rational& goal);
  /// Goal of the best plan with this key.
  [[nodiscard]] const Rational* with_key(const Key& key) const {
    const auto known = goals_.find(key);
    return known == goals_.end() ? nullptr : &known->second;
  }
  /// Goals and keys, the best first; of equal goals that which came first, so that what a bound
  /// proves to be in its place stays there.
  [[nodiscard]] const std::multimap<Rational, Key>& in_order() const noexcept { return order_; }
  /// Goal of the last of the few; none while there are fewer.
  [[nodiscard]] const Rational* last() const {
    return order_.size() < wanted_.count ? nullptr : &order_.rbegin()->first;
  }

 private:
  FewWanted wanted_;
  std::map<Key, Rational> goals_;       // of the few
  std::multimap<Rational, Key> order_;  // the same
};

}  // namespace kiteknot::mip
