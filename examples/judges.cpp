// Who judges which contest? Logic between decisions, and a rule that may be missed at a price. Run
// it in demo/: it reads bids.csv.
#include <iostream>

#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

int main() {
  const auto judges = kk::Table::parse("judges",
                                       "judge,home\nMira,cove\nOren,dune\nTamsin,cove\nIlya,reef\n"
                                       "Wanda,dune\nBashir,reef\n",
                                       {.key = {"judge"}});
  const auto contests = kk::Table::parse("contests",
                                         "contest,place\nkite building,cove\nstunt duel,dune\n"
                                         "night glow,reef\nfighter cup,dune\n",
                                         {.key = {"contest"}});
  const auto bids =
      kk::Table::read("bids.csv", {.key = {{"judge", judges}, {"contest", contests}}});
  const auto price = bids.numbers("price");
  const auto rivals = kk::Table::pairs(
      "rivals", judges, [](kk::Row a, kk::Row b) { return a.text("home") == b.text("home"); });

  kk::Model model{"Judges for the contests"};
  const auto sits = model.binary("sits", bids);
  const auto load =
      model.let("load", judges, [&](kk::Row j) { return total(bids.where("judge", j), sits); });
  model.minimize("cost", total(bids, [&](kk::Row b) { return price[b] * sits[b]; }));
  model.rule("cover", contests,
             [&](kk::Row c) { return total(bids.where("contest", c), sits) == 1; });
  model.rule("one_each", judges, [&](kk::Row j) { return load[j] <= 2; });
  model.rule("away", bids, [&](kk::Row b) {
    const bool at_home = b.row("judge").text("home") == b.row("contest").text("place");
    return at_home ? kk::negated(sits[b]) : kk::all_of({});
  });
  const auto oren = judges["Oren"];
  model.rule("friends",
             kk::implies(sits.named({"Mira", "stunt duel"}),
                         kk::any_of({sits.named({"Oren", "night glow"}), load[oren] == 0})));
  model.rule("enough", kk::at_least(3, each(judges, [&](kk::Row j) { return load[j] >= 1; })));
  model.rule("apart", rivals, [&](kk::Row r) {
    return kk::any_of({load[r.row("a")] == 0, load[r.row("b")] == 0});
  });
  model.or_pay("apart", 6);

  const kk::Result result = kk::solve(model);
  std::cout << word(result.outcome) << ", cost " << result.goal().text() << "\n";
  for (const auto& name : result.chosen(sits)) std::cout << "  " << name << "\n";
}
