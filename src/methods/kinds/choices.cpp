// One of every group, or at most one, within one limit.

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "methods/kinds/special_kind.hpp"
#include "structures/choice_knapsack.hpp"

namespace kiteknot::methods {
namespace {

struct GroupChoice final : SpecialKind {
  structures::ChoiceProblem problem;         // the lightest of each class weighs nothing
  std::vector<std::vector<Index>> decision;  // by class and item; -1: none of them
  double cost = 0.0;                         // of no profit
  std::size_t items = 0;

  [[nodiscard]] std::string told() const override {
    return fmt::format("a choice from {} of {} altogether within one limit",
                       counted(problem.classes.size(), "group"), counted(items, "item"));
  }
};

// The row that is no choice, with what it weighs at most; a sum that has to be large is a small sum
// of what is not taken.
struct GroupLimit {
  std::vector<double> weight;  // by decision
  double capacity = 0.0;
  static std::optional<GroupLimit> of(const PlainProblem& p, Index row) {
    const bool above = std::isfinite(p.low[at(row)]), below = std::isfinite(p.high[at(row)]);
    if (above == below) return {};
    const double sign = above ? -1.0 : 1.0;
    GroupLimit l;
    l.weight.assign(p.cost.size(), 0.0);
    for (const WeightedNode& t : p.row(row)) {
      if (!whole_figure(t.weight)) return {};
      l.weight[at(t.node)] += sign * t.weight;
    }
    l.capacity = std::floor(above ? -p.low[at(row)] : p.high[at(row)]);
    if (!whole_figure(l.capacity)) return {};
    return l;
  }
};

std::unique_ptr<SpecialKind> find_choice(const PlainProblem& p) {
  if (!p.all_binary() || p.num_rows() < 2) return {};
  if (!std::ranges::all_of(p.cost, whole_figure)) return {};
  auto found = std::make_unique<GroupChoice>();
  GroupChoice& k = *found;
  Index limit = -1;
  std::vector<Index> group(p.cost.size(), -1);
  std::vector<char> or_none;
  for (Index i = 0; i < p.num_rows(); ++i) {
    const bool one = p.one_of(i);
    const bool fresh =
        std::ranges::all_of(p.row(i), [&](const auto& t) { return group[at(t.node)] < 0; });
    if ((one || p.at_most_one_of(i)) && fresh) {
      std::vector<Index>& members = k.decision.emplace_back();
      or_none.push_back(one ? 0 : 1);
      for (const WeightedNode& t : p.row(i)) {
        group[at(t.node)] = static_cast<Index>(k.decision.size()) - 1;
        members.push_back(t.node);
      }
    } else if (limit < 0 && !one && !p.at_most_one_of(i)) {
      limit = i;
    } else {
      return {};
    }
  }
  if (limit < 0 || k.decision.empty()) return {};
  const std::optional<GroupLimit> l = GroupLimit::of(p, limit);
  if (!l) return {};
  for (Index d = 0; d < p.num_decisions(); ++d)  // alone: it, or not
    if (group[at(d)] < 0) {
      k.decision.push_back({d});
      or_none.push_back(1);
    }
  // Weights from the lightest up; profits are what is saved against no cost.
  double capacity = l->capacity;
  double sum = 0.0;
  for (std::size_t c = 0; c < k.decision.size(); ++c) {
    k.items += k.decision[c].size();
    if (or_none[c]) k.decision[c].push_back(-1);
    double least = HUGE_VAL;
    for (const Index d : k.decision[c]) least = std::min(least, d < 0 ? 0.0 : l->weight[at(d)]);
    capacity -= least;
    auto& items = k.problem.classes.emplace_back();
    double most = 0.0;
    for (const Index d : k.decision[c]) {
      const double w = (d < 0 ? 0.0 : l->weight[at(d)]) - least, cost = d < 0 ? 0.0 : p.cost[at(d)];
      items.push_back({static_cast<std::int64_t>(-cost), static_cast<std::int64_t>(w)});
      most = std::max({most, w, std::abs(cost)});
    }
    sum += most;
  }
  constexpr double kMostSum = 1e15;  // exact, and below the 2^50 of the program
  if (sum > kMostSum || std::abs(capacity) > kMostSum) return {};
  k.problem.capacity = static_cast<std::int64_t>(capacity);
  // A knapsack alone is none: the search has that one.
  if (std::ranges::all_of(k.decision, [](const auto& c) { return c.size() <= 2; }) &&
      std::ranges::all_of(or_none, [](char c) { return c != 0; }))
    return {};
  return found;
}

void take_choice(KindRun& r, const GroupChoice& k, const structures::ChoicePlan& plan) {
  std::vector<double> values = r.nothing();
  for (std::size_t c = 0; c < k.decision.size(); ++c)
    if (const Index d = k.decision[c][at(plan.item[c])]; d >= 0) values[at(d)] = 1.0;
  r.take(-static_cast<double>(plan.profit), std::move(values));
}

constexpr const char* kGroupsTooHeavy = "the lightest of each group are too heavy together";

void choice_by_slopes(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const GroupChoice&>(kind);
  const auto plan = structures::choose_by_slopes(k.problem);
  if (plan)
    take_choice(r, k, *plan);
  else
    r.note = kGroupsTooHeavy;
}

void choice_program(KindRun& r, const SpecialKind& kind) {
  const auto& k = static_cast<const GroupChoice&>(kind);
  WorkCounter work;
  work.obey(r.interrupt());
  const structures::ChoiceProgram found = structures::choose_best(k.problem, work);
  if (found.plan) take_choice(r, k, *found.plan);
  if (found.plan && found.best) {
    r.bound(-static_cast<double>(found.plan->profit));
    r.note = "nothing is better";
  }
  if (!found.plan) r.note = kGroupsTooHeavy;
}

}  // namespace

KindEntry choice_kind() {
  return {"choice from groups within one limit",
          find_choice,
          {{"choice slopes", "of a choice from groups: the steps that pay most for their weight",
            "Sinha and Zoltners 1979", choice_by_slopes},
           {"choice program", "of a choice from groups: the best of all, by a program over sums",
            "Pisinger 1995", choice_program}},
          choice_program,
          "a program over sums of choices"};
}

}  // namespace kiteknot::methods
