// A repair crate under a mass limit, asked twice: what if it may weigh more?
#include <iostream>

#include "kiteknot/kiteknot.hpp"

namespace kk = kiteknot;

int main() {
  const auto items = kk::Table::parse(
      "items",
      "item,mass,worth,stock\nspar set,7.5,62,2\ncord drum,4,30,3\n"
      "sail cloth,6,47,2\nglue and clamps,5,37,2\nspare bridles,2.5,17,2\nferrule box,3,21,1\n",
      {.key = {"item"}});
  const auto mass = items.numbers("mass"), worth = items.numbers("worth"),
             stock = items.numbers("stock");

  kk::Model model{"Repair crate"};
  const auto limit = model.number("mass_limit", 20);
  const auto pack =
      model.integer("pack", items, [&](kk::Row i) { return kk::between(0, stock[i]); });
  model.maximize("worth", total(items, [&](kk::Row i) { return worth[i] * pack[i]; }));
  model.rule("mass", total(items, [&](kk::Row i) { return mass[i] * pack[i]; }) <= limit);

  kk::Study study{model};
  std::cout << "worth " << study.solve().goal().text() << " at 20 kg, "
            << study.set(limit, 25).solve().goal().text() << " at 25 kg\n";
}
