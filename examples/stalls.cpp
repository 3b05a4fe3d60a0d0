// Facility location: which kitchens open, and which beaches they serve; rent once, a way a meal.
#include <iostream>

#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

int main() {
  const auto kitchens = kk::Table::parse(
      "kitchens", "kitchen,rent,meals\nMole,90,70\nPier,60,40\nWeir,75,60\n", {.key = {"kitchen"}});
  const auto beaches = kk::Table::of_figures("beaches", "beach", "meals",
                                             {{"cove", 25}, {"dune", 30}, {"reef", 20}});
  const auto ways = kk::Table::parse("ways",
                                     "kitchen,beach,cost\nMole,cove,2\nMole,dune,1\nMole,reef,3\n"
                                     "Pier,cove,1\nPier,reef,2\nWeir,dune,2\nWeir,reef,1\n",
                                     {.key = {{"kitchen", kitchens}, {"beach", beaches}}});

  kk::Model model{"Kitchens for the beaches"};
  const auto open = model.binary("open", kitchens);
  const auto bring = model.integer("bring", ways, kk::between(0, kk::no_limit));
  model.minimize("cost", total(kitchens, [&](kk::Row k) { return k.number("rent") * open[k]; }) +
                             total(ways, [&](kk::Row w) { return w.number("cost") * bring[w]; }));
  model.rule("fed", beaches,
             [&](kk::Row b) { return total(ways.where("beach", b), bring) == b.number("meals"); });
  model.rule("room", kitchens, [&](kk::Row k) {
    return total(ways.where("kitchen", k), bring) <= k.number("meals") * open[k];
  });

  const kk::Result best = kk::solve(model);
  std::cout << word(best.outcome) << ", cost " << best.goal() << "\n";
  for (const auto& family : {open, bring})
    for (const auto& name : best.chosen(family))
      std::cout << "  " << name << " " << best[model.decision(name)] << "\n";
}
