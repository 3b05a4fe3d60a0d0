#include "mip/structures/knapsack.hpp"

#include <algorithm>
#include <cmath>

#include "base/wide.hpp"
#include "mip/problem/exact_sums.hpp"

namespace kiteknot::mip {
namespace {

using Whole = std::int64_t;

/// `copies` of a column away from the end of its box that costs room least.
struct Item {
  Whole weight = 0, worth = 0;
  Index column = 0;
  Whole copies = 1;
};

/// Columns as amounts of weight >= 0 away from where they stand at first.
struct Knapsack {
  std::vector<Item> items;     // of positive weight and worth, each of which fits
  std::vector<double> stands;  // by columns
  std::vector<double> step;    // by columns: 1 or -1
  Whole room = 0;
};

// What a whole column can be.
double lowest(const Problem& p, Index j) {
  return std::ceil(p.lower(j));
}
double highest(const Problem& p, Index j) {
  return std::floor(p.upper(j));
}

// sign * a'x <= limit, where only one limit of the row counts: the other one is met by every point
// within the bounds. All sums are exact.
std::optional<std::pair<double, double>> one_sided(const Problem& p) {
  double least = 0.0, most = 0.0;
  const RowView row = p.row(0);
  for (std::size_t k = 0; k < row.index.size(); ++k) {
    const double a = row.value[k], low = lowest(p, row.index[k]), high = highest(p, row.index[k]);
    least += a * (a > 0.0 ? low : high);
    most += a * (a > 0.0 ? high : low);
  }
  if (row.lower <= least) return std::pair{1.0, std::floor(std::min(row.upper, most))};
  if (row.upper >= most) return std::pair{-1.0, std::floor(-row.lower)};
  return std::nullopt;
}

std::optional<Knapsack> recognised(const Problem& p) {
  if (p.num_rows() != 1 || !sums_are_exact(p)) return std::nullopt;
  for (Index j = 0; j < p.num_columns(); ++j)
    if (lowest(p, j) > highest(p, j)) return std::nullopt;
  const auto side = one_sided(p);
  if (!side) return std::nullopt;
  const auto [sign, limit] = *side;
  Knapsack k;
  std::vector<double> weight(at(p.num_columns()), 0.0);
  const RowView row = p.row(0);
  for (std::size_t e = 0; e < row.index.size(); ++e) weight[at(row.index[e])] = sign * row.value[e];
  double used = 0.0;
  for (Index j = 0; j < p.num_columns(); ++j) {
    const double w = weight[at(j)];
    // Without weight a column goes where it is cheap, otherwise where it takes least room.
    const bool low = w != 0.0 ? w > 0.0 : p.cost(j) >= 0.0;
    k.stands.push_back(low ? lowest(p, j) : highest(p, j));
    k.step.push_back(low ? 1.0 : -1.0);
    used += w * k.stands.back();
  }
  if (!(used <= limit)) return std::nullopt;
  k.room = static_cast<Whole>(limit - used);
  for (Index j = 0; j < p.num_columns(); ++j) {
    const auto w = static_cast<Whole>(std::abs(weight[at(j)]));
    const auto worth = static_cast<Whole>(-p.cost(j) * k.step[at(j)]);
    if (w == 0 || worth <= 0) continue;
    // By powers of two and a rest, any number of copies is a sum.
    Whole left = std::min(static_cast<Whole>(highest(p, j) - lowest(p, j)), k.room / w);
    for (Whole n = 1; left > 0; n *= 2) {
      const Whole copies = std::min(n, left);
      k.items.push_back({w * copies, worth * copies, j, copies});
      left -= copies;
    }
  }
  return k;
}

class CoreProgram {
 public:
  CoreProgram(Knapsack& k, std::int64_t most_states, WorkCounter& work)
      : k_(k), most_states_(most_states), work_(work) {
    std::stable_sort(k.items.begin(), k.items.end(), [](const Item& a, const Item& b) {
      return Wide(a.worth) * b.weight > Wide(b.worth) * a.weight;
    });
  }

  /// Fills in the best point; false where it was given up.
  bool run() {
    State start;
    const auto n = static_cast<Index>(k_.items.size());
    while (right_ < n && start.weight + k_.items[at(right_)].weight <= k_.room) {
      start.weight += k_.items[at(right_)].weight;
      start.worth += k_.items[at(right_)].worth;
      ++right_;
    }
    const Index first_out = right_;
    left_ = right_ - 1;
    best_ = start.worth;
    states_ = {start};
    while (!states_.empty() && (right_ < n || left_ >= 0)) {
      if (right_ < n && !take(right_, 1, right_ + 1, left_)) return false;
      if (left_ >= 0 && !take(left_, -1, right_, left_ - 1)) return false;
    }
    tell(first_out);
    return true;
  }

 private:
  struct State {
    Whole weight = 0, worth = 0;
    std::int32_t way = -1;  // the last item that was changed, and so on back
  };
  struct Link {
    std::int32_t before;
    Index item;
  };

  /// The most that a state can still come to with the items outside the core. What is put in is
  /// worth no more by weight than the next item on the right, what is taken out no less than the
  /// next one on the left.
  [[nodiscard]] Whole reach(const State& s, Index right, Index left) const {
    const Whole free = k_.room - s.weight;
    if (free >= 0) {
      if (right >= static_cast<Index>(k_.items.size())) return s.worth;
      const Item& next = k_.items[at(right)];
      return s.worth + static_cast<Whole>(Wide(free) * next.worth / next.weight);
    }
    if (left < 0) return -1;
    const Item& next = k_.items[at(left)];
    const Wide lost = Wide(-free) * next.worth;
    return s.worth - static_cast<Whole>((lost + next.weight - 1) / next.weight);
  }

  /// Every state with and without the change, by rising weight and worth; those that cannot better
  /// the best one go. `right` and `left` are what the core grows by next.
  bool take(Index item, Whole sign, Index right, Index left) {
    right_ = right;
    left_ = left;
    const Item& change = k_.items[at(item)];
    next_.clear();
    const auto keep = [&](State s, bool changed) {
      if (!next_.empty() && s.worth <= next_.back().worth) return;  // a lighter one is as good
      if (s.weight <= k_.room && s.worth > best_) {
        if (changed) s.way = linked(s.way, item), changed = false;
        best_ = s.worth;
        best_way_ = s.way;
      }
      if (reach(s, right, left) <= best_) return;
      if (changed) s.way = linked(s.way, item);
      if (!next_.empty() && next_.back().weight == s.weight)
        next_.back() = s;
      else
        next_.push_back(s);
    };
    std::size_t same = 0, moved = 0;
    while (same < states_.size() || moved < states_.size()) {
      const Whole there = moved < states_.size() ? states_[moved].weight + sign * change.weight : 0;
      if (moved == states_.size() || (same < states_.size() && states_[same].weight <= there)) {
        keep(states_[same++], false);
      } else {
        const State& s = states_[moved++];
        keep({there, s.worth + sign * change.worth, s.way}, true);
      }
    }
    work_.add(static_cast<std::int64_t>(2 * states_.size()) + 1);
    states_.swap(next_);
    return static_cast<std::int64_t>(links_.size()) <= most_states_ && !work_.interrupted();
  }

  std::int32_t linked(std::int32_t before, Index item) {
    links_.push_back({before, item});
    return static_cast<std::int32_t>(links_.size()) - 1;
  }

  void tell(Index first_out) {
    std::vector<char> in(k_.items.size(), 0);
    std::fill_n(in.begin(), first_out, char{1});
    for (std::int32_t way = best_way_; way >= 0; way = links_[static_cast<std::size_t>(way)].before)
      in[at(links_[static_cast<std::size_t>(way)].item)] ^= 1;
    for (std::size_t i = 0; i < in.size(); ++i) {
      const Item& item = k_.items[i];
      if (in[i] != 0)
        k_.stands[at(item.column)] += k_.step[at(item.column)] * static_cast<double>(item.copies);
    }
  }

  Knapsack& k_;
  std::int64_t most_states_;
  WorkCounter& work_;
  Index left_ = -1, right_ = 0;
  Whole best_ = 0;
  std::int32_t best_way_ = -1;
  std::vector<State> states_, next_;
  std::vector<Link> links_;
};

}  // namespace

std::optional<std::vector<double>> solve_knapsack(const Problem& problem, std::int64_t most_states,
                                                  WorkCounter& work) {
  std::optional<Knapsack> k = recognised(problem);
  if (!k || !CoreProgram(*k, most_states, work).run()) return std::nullopt;
  return std::move(k->stands);
}

}  // namespace kiteknot::mip
