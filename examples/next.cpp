// What comes next, what if, and what would have to change: questions around one answer.
#include <iostream>

#include "kiteknot/ranking.hpp"
#include "kiteknot/solve.hpp"
#include "kiteknot/vary.hpp"
#include "kiteknot/why.hpp"

namespace kk = kiteknot;

int main() {
  const auto shows =
      kk::Table::parse("shows", "show,crew,crowd\ndrums,3,40\nlamps,5,70\nmasks,4,50\nsleds,2,20\n",
                       {.key = {"show"}});
  kk::Model model{"Programme"};
  const auto run = model.binary("run", shows);
  const auto hours = model.number("hours", 8);
  model.maximize("crowd", total(shows, [&](kk::Row s) { return s.number("crowd") * run[s]; }));
  model.rule("crew", total(shows, [&](kk::Row s) { return s.number("crew") * run[s]; }) <= hours);

  const kk::Result best = kk::solve(model);
  for (const kk::RankedPlan& plan : kk::next_best(best, {.count = 2}).plans) {
    std::cout << "crowd " << plan.goals[0] << ":";
    for (const kk::Row s : shows)
      if (plan.plan[run[s]] == kk::Rational(1)) std::cout << " " << s.text("show");
    std::cout << "\n";
  }
  for (const auto& v :
       kk::sweep(model, {.number = "hours", .from = 6, .to = 12, .points = 3}).variants)
    std::cout << v.at << " hours: crowd " << v.goal.value_or(0) << "\n";
  const kk::Why why = kk::why(model, run["masks"] >= 1);
  std::cout << "with masks it is " << why.cost.value_or(0) << " less";
  if (why.break_even) std::cout << ", unless they draw " << why.break_even->needed;
  std::cout << "\n";
}
