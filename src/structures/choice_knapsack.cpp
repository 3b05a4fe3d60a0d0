#include "structures/choice_knapsack.hpp"

#include <algorithm>
#include <numeric>

#include "base/at.hpp"

namespace kiteknot::structures {
namespace {

__extension__ using Wide = __int128;  // products of two sums

constexpr std::size_t kMostSums = 10'000'000;

// A step along the upper hull of a class: from an item to the next heavier one.
struct Step {
  Index of = 0;                         // the class
  std::int64_t profit = 0, weight = 0;  // what it adds; weight above 0
  [[nodiscard]] bool steeper(const Step& o) const {
    return static_cast<Wide>(profit) * o.weight > static_cast<Wide>(o.profit) * weight;
  }
};

// Items of a class that nothing lighter beats, by weight, and of these those on the upper hull.
struct Reduced {
  std::vector<Index> items, hull;
};

Reduced reduced(const std::vector<ChoiceItem>& all) {
  Reduced r;
  std::vector<Index> order(all.size());
  std::iota(order.begin(), order.end(), 0);
  std::ranges::stable_sort(order, [&](Index a, Index b) {
    const ChoiceItem &x = all[at(a)], &y = all[at(b)];
    return x.weight != y.weight ? x.weight < y.weight : x.profit > y.profit;
  });
  for (const Index k : order)
    if (r.items.empty() || all[at(k)].profit > all[at(r.items.back())].profit) r.items.push_back(k);
  for (const Index k : r.items) {
    const auto below = [&] {  // the last one lies under the line to the new one
      const ChoiceItem &a = all[at(r.hull[r.hull.size() - 2])], &b = all[at(r.hull.back())],
                       &c = all[at(k)];
      return static_cast<Wide>(b.profit - a.profit) * (c.weight - a.weight) <=
             static_cast<Wide>(c.profit - a.profit) * (b.weight - a.weight);
    };
    while (r.hull.size() > 1 && below()) r.hull.pop_back();
    r.hull.push_back(k);
  }
  return r;
}

// The relaxed choice, but for the part of a step that would still fit.
struct Relaxed {
  std::vector<Reduced> classes;
  std::vector<std::size_t> stands;  // by class: on its hull
  std::int64_t profit = 0, weight = 0;
};

std::optional<Relaxed> relax(const ChoiceProblem& p) {
  Relaxed r;
  std::vector<Step> steps;
  for (Index c = 0; c < static_cast<Index>(p.classes.size()); ++c) {
    const auto& items = p.classes[at(c)];
    r.classes.push_back(reduced(items));
    const std::vector<Index>& hull = r.classes.back().hull;
    r.profit += items[at(hull.front())].profit;
    r.weight += items[at(hull.front())].weight;
    for (std::size_t k = 1; k < hull.size(); ++k) {
      const ChoiceItem &from = items[at(hull[k - 1])], &to = items[at(hull[k])];
      steps.push_back({c, to.profit - from.profit, to.weight - from.weight});
    }
  }
  r.stands.assign(p.classes.size(), 0);
  if (r.weight > p.capacity) return std::nullopt;
  // Those of one class are in order already: the hull gets flatter.
  std::ranges::stable_sort(steps, [](const Step& a, const Step& b) { return a.steeper(b); });
  for (const Step& s : steps) {
    if (r.weight + s.weight > p.capacity) break;
    r.weight += s.weight;
    r.profit += s.profit;
    ++r.stands[at(s.of)];
  }
  return r;
}

ChoicePlan plan_of(const ChoiceProblem& p, const Relaxed& r) {
  ChoicePlan plan{{}, r.profit, r.weight};
  for (std::size_t c = 0; c < p.classes.size(); ++c)
    plan.item.push_back(r.classes[c].hull[r.stands[c]]);
  return plan;
}

// Each class once more: the best item that still fits in place of its own.
void improve(const ChoiceProblem& p, ChoicePlan& plan) {
  for (std::size_t c = 0; c < p.classes.size(); ++c) {
    const auto& items = p.classes[c];
    const ChoiceItem now = items[at(plan.item[c])];
    Index best = plan.item[c];
    for (Index k = 0; k < static_cast<Index>(items.size()); ++k)
      if (plan.weight - now.weight + items[at(k)].weight <= p.capacity &&
          items[at(k)].profit > items[at(best)].profit)
        best = k;
    plan.profit += items[at(best)].profit - now.profit;
    plan.weight += items[at(best)].weight - now.weight;
    plan.item[c] = best;
  }
}

class Core {
 public:
  Core(const ChoiceProblem& p, const Relaxed& r, ChoicePlan start)
      : p_(p), r_(r), best_(std::move(start)) {
    for (Index c = 0; c < static_cast<Index>(p.classes.size()); ++c) {
      if (auto s = step(c, 0)) up_.push_back(*s);
      if (r.stands[at(c)] > 0) down_.push_back(*step(c, -1));
    }
    std::ranges::stable_sort(up_, [](const Step& a, const Step& b) { return a.steeper(b); });
    std::ranges::stable_sort(down_, [](const Step& a, const Step& b) { return b.steeper(a); });
    inside_.assign(p.classes.size(), 0);
  }

  ChoiceProgram run(WorkCounter& work) {
    sums_.push_back({r_.weight, r_.profit, 0});
    trail_.push_back({});
    std::size_t up = 0, down = 0;
    for (bool turn = true;; turn = !turn) {
      while (up < up_.size() && inside_[at(up_[up].of)]) ++up;
      while (down < down_.size() && inside_[at(down_[down].of)]) ++down;
      const Step* next_up = up < up_.size() ? &up_[up] : nullptr;
      const Step* next_down = down < down_.size() ? &down_[down] : nullptr;
      drop_hopeless(next_up, next_down);
      if (sums_.empty() || (next_up == nullptr && next_down == nullptr)) break;
      const Step* joins =
          (turn && next_up != nullptr) || next_down == nullptr ? next_up : next_down;
      if (!join(joins->of, work)) return {best_, false};
    }
    return {best_, true};
  }

 private:
  // A sum of one item of each class inside, the others as the relaxed choice has them.
  struct Sum {
    std::int64_t weight = 0, profit = 0;
    std::uint32_t trail = 0;
  };
  struct Trail {  // how it came about
    std::uint32_t before = 0;
    Index of = -1, item = -1;
  };

  // From where the class stands (0) or to there (-1).
  [[nodiscard]] std::optional<Step> step(Index c, int way) const {
    const auto& hull = r_.classes[at(c)].hull;
    const std::size_t from = r_.stands[at(c)] + static_cast<std::size_t>(way);
    if (from + 1 >= hull.size()) return std::nullopt;
    const ChoiceItem &a = p_.classes[at(c)][at(hull[from])],
                     &b = p_.classes[at(c)][at(hull[from + 1])];
    return Step{c, b.profit - a.profit, b.weight - a.weight};
  }

  // What classes outside may still gain is at most the steepest of their steps times the room that
  // is left, and what they lose at least the flattest times the weight that is too much: a step up
  // is nowhere steeper than one down. Those that fit are plans.
  void drop_hopeless(const Step* up, const Step* down) {
    std::size_t kept = 0;
    for (const Sum& s : sums_) {
      const std::int64_t room = p_.capacity - s.weight;
      if (room >= 0 && s.profit > best_.profit) take(s);
    }
    for (const Sum& s : sums_) {
      const std::int64_t room = p_.capacity - s.weight;
      const Step* by = room >= 0 ? up : down;
      if (by == nullptr) continue;  // nothing more comes of it
      const Wide reach = static_cast<Wide>(best_.profit - s.profit) * by->weight;
      if (static_cast<Wide>(room) * by->profit <= reach) continue;
      sums_[kept++] = s;
    }
    sums_.resize(kept);
  }

  void take(const Sum& s) {
    best_.profit = s.profit;
    best_.weight = s.weight;
    for (std::size_t c = 0; c < p_.classes.size(); ++c)
      best_.item[c] = r_.classes[c].hull[r_.stands[c]];
    for (std::uint32_t t = s.trail; t != 0; t = trail_[t].before)
      best_.item[at(trail_[t].of)] = trail_[t].item;
  }

  // All sums with all items of the class, by weight, without those that something lighter beats.
  bool join(Index c, WorkCounter& work) {
    inside_[at(c)] = 1;
    const auto& items = p_.classes[at(c)];
    const ChoiceItem& stands = items[at(r_.classes[at(c)].hull[r_.stands[at(c)]])];
    std::vector<Sum> all;
    for (const Index k : r_.classes[at(c)].items) {
      const std::int64_t dw = items[at(k)].weight - stands.weight,
                         dp = items[at(k)].profit - stands.profit;
      std::vector<Sum> merged;
      merged.reserve(all.size() + sums_.size());
      std::size_t i = 0, j = 0;
      const auto add = [&](const Sum& s, bool fresh) {
        if (!merged.empty() && merged.back().profit >= s.profit) return;
        if (!merged.empty() && merged.back().weight == s.weight)
          merged.back() = s;
        else
          merged.push_back(s);
        if (fresh && (dw != 0 || dp != 0)) {
          trail_.push_back({s.trail, c, k});
          merged.back().trail = static_cast<std::uint32_t>(trail_.size() - 1);
        }
      };
      while (i < all.size() || j < sums_.size()) {
        const bool old =
            j >= sums_.size() || (i < all.size() && all[i].weight <= sums_[j].weight + dw);
        if (old)
          add(all[i++], false);
        else
          add({sums_[j].weight + dw, sums_[j].profit + dp, sums_[j++].trail}, true);
      }
      work.add(static_cast<std::int64_t>(2 * merged.size()) + 1);
      if (work.interrupted() || trail_.size() + merged.size() > kMostSums) return false;
      all = std::move(merged);
    }
    sums_ = std::move(all);
    return true;
  }

  const ChoiceProblem& p_;
  const Relaxed& r_;
  ChoicePlan best_;
  std::vector<Step> up_, down_;  // of each class the next one, steepest or flattest first
  std::vector<char> inside_;
  std::vector<Sum> sums_;
  std::vector<Trail> trail_;
};

}  // namespace

std::optional<ChoicePlan> choose_by_slopes(const ChoiceProblem& p) {
  const std::optional<Relaxed> r = relax(p);
  if (!r) return std::nullopt;
  ChoicePlan plan = plan_of(p, *r);
  improve(p, plan);
  return plan;
}

ChoiceProgram choose_best(const ChoiceProblem& p, WorkCounter& work) {
  const std::optional<Relaxed> r = relax(p);
  if (!r) return {std::nullopt, true};
  ChoicePlan start = plan_of(p, *r);
  improve(p, start);
  return Core(p, *r, std::move(start)).run(work);
}

}  // namespace kiteknot::structures
