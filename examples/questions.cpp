// Questions around a model: what if, why not, how firm, and why nothing at all.
#include <iostream>

#include "kiteknot/kiteknot.hpp"

namespace kk = kiteknot;

int main() {
  const auto shows = kk::Table::parse("shows",
                                      "show,crew,crowd\n"
                                      "night glow,14,118\n"
                                      "lantern walk,6,74\n"
                                      "sled race,7,88\n"
                                      "tea tent,4,52\n"
                                      "drum line,5,71\n",
                                      {.key = {"show"}});
  const auto crew = shows.numbers("crew"), crowd = shows.numbers("crowd");
  kk::Model model{"A small programme"};
  const auto hours = model.number("hours", 20);
  const auto run = model.binary("run", shows);
  const auto taken = total(shows, [&](kk::Row s) { return crew[s] * run[s]; });
  model.maximize("crowd", total(shows, [&](kk::Row s) { return crowd[s] * run[s]; }));
  model.rule("crew", taken <= hours);
  model.rule("enough", total(run) >= 2);

  // What if there were more hours? Where does the plan change?
  const kk::Variation more = kk::sweep(model, {"hours", 16, 32, 5, true});
  for (const kk::Step& step : more.steps)
    std::cout << "from " << step.after.text() << " hours on the crowd is "
              << step.goal_after->text() << "\n";

  // What does each rule cost?
  for (const kk::Variant& without : kk::without_each(model).variants)
    std::cout << "without " << without.name << ": " << without.goal->text() << "\n";

  // Why is the night glow not in it, and what would bring it in?
  const kk::Why why = kk::why(model, run["night glow"] >= 1);
  std::cout << "the night glow would cost " << why.cost->text() << "; with a crowd of "
            << why.break_even->needed.text() << " it would be as good\n";

  // How firm is the plan? The tightest figure first.
  const kk::Firmness firm = kk::firmness(model);
  std::cout << firm.figures.size() << " figures looked at in " << firm.solves << " solves\n";

  // Crew against crowd: every plan that no other betters in both.
  const kk::TradeOff trade = kk::trade_off(model, kk::trade_goal(model, "crowd"),
                                           {"crew taken", kk::Sense::minimize, taken});
  for (const kk::TradePoint& point : trade.points)
    std::cout << point.first.text() << " for " << point.second.text() << " hours\n";

  // And if nothing is feasible: which rules clash, and the cheapest way out.
  model.rule("everything", total(run) >= 5);
  const kk::Explanation e = kk::explain(model);
  std::cout << kk::explanation_page(model, e);
  return e.outcome == kk::Outcome::infeasible && trade.all ? 0 : 1;
}
