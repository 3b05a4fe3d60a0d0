// Items into several sacks, each into one at most.

#include "structures/sacks.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "methods/kinds/choices_and_others.hpp"
#include "methods/kinds/special_kind.hpp"

namespace kiteknot::methods {
namespace {

struct Sacks final : SpecialKind {
  structures::SackProblem problem;
  std::vector<std::vector<Index>> put;  // by item and sack

  [[nodiscard]] std::string told() const override {
    return fmt::format("a packing of {} into {}, as much as fits",
                       counted(problem.profit.size(), "item"),
                       counted(problem.room.size(), "sack"));
  }
};

std::unique_ptr<SpecialKind> find_sack(const PlainProblem& p) {
  const auto s = choices_and_others(p, true);
  if (!s || s->choices.empty() || s->others.size() < 2) return {};
  auto found = std::make_unique<Sacks>();
  Sacks& k = *found;
  k.problem.profit.assign(s->choices.size(), 0);
  k.problem.weight.assign(s->choices.size(), 0);
  k.put.assign(s->choices.size(), std::vector<Index>(s->others.size(), -1));
  for (std::size_t b = 0; b < s->others.size(); ++b) {
    const Index row = s->others[b];
    const double room = std::floor(p.high[at(row)]);
    if (std::isfinite(p.low[at(row)]) || !(room >= 0.0) || !whole_figure(room)) return {};
    k.problem.room.push_back(static_cast<std::int64_t>(room));
    for (const WeightedNode& t : p.row(row)) {
      const Index item = s->choice[at(t.node)];
      const double profit = -p.cost[at(t.node)];
      if (item < 0 || !(t.weight > 0.0) || !(profit > 0.0) || !whole_figure(t.weight) ||
          !whole_figure(profit))
        return {};
      // The same in every sack.
      std::int64_t &weighs = k.problem.weight[at(item)], &brings = k.problem.profit[at(item)];
      const auto w = static_cast<std::int64_t>(t.weight), g = static_cast<std::int64_t>(profit);
      if (weighs != 0 && (weighs != w || brings != g)) return {};
      weighs = w;
      brings = g;
      k.put[at(item)][b] = t.node;
    }
  }
  // Every item may go into every sack, and every decision says one of that.
  if (p.cost.size() != s->choices.size() * s->others.size()) return {};
  for (const auto& of_item : k.put)
    if (std::ranges::any_of(of_item, [](Index d) { return d < 0; })) return {};
  return found;
}

void take_sack(KindRun& r, const Sacks& k, const structures::SackPlan& plan) {
  std::vector<double> values = r.nothing();
  for (std::size_t i = 0; i < k.put.size(); ++i)
    if (plan.sack_of[i] >= 0) values[at(k.put[i][at(plan.sack_of[i])])] = 1.0;
  r.take(-static_cast<double>(plan.profit), std::move(values));
}

void sacks_by_worth(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Sacks&>(kind);
  take_sack(r, k, structures::fill_by_worth(k.problem));
}

void sacks_refilled(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const Sacks&>(kind);
  structures::SackPlan plan = structures::fill_by_worth(k.problem);
  take_sack(r, k, plan);
  WorkCounter work;
  work.obey(r.interrupt());
  const structures::SackBound joined = structures::joined_sacks(k.problem, work);
  r.bound(-static_cast<double>(joined.profit));
  structures::SackPlan split = structures::split_joined(k.problem, joined, work);
  take_sack(r, k, split);
  if (split.profit > plan.profit) plan = std::move(split);
  const auto done = [&] {
    if (r.cost() > r.proven()) return false;
    r.note = "one sack in place of all holds no more: nothing is better";
    return true;
  };
  if (done()) return;
  constexpr std::int64_t kRounds = 2'000;
  structures::refill(
      k.problem, std::move(plan), r.random,
      {[&](const structures::SackPlan& better) { take_sack(r, k, better); },
       [&](double entries) { return r.cost() <= r.proven() || r.over(kRounds, 20.0 * entries); }});
  (void)done();
}

}  // namespace

KindEntry sack_kind() {
  return {"packing of items into several sacks",
          find_sack,
          {{"sack worth", "of several sacks: what is worth most for its weight first, then swaps",
            "Martello and Toth 1981", sacks_by_worth},
           {"sack refill", "of several sacks: some are emptied and filled anew, each exactly",
            "Pisinger 1999", sacks_refilled, true}},
          sacks_refilled,
          "sacks filled anew"};
}

}  // namespace kiteknot::methods
