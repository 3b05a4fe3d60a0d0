// A repair crate under a mass limit, asked twice: what if it may weigh more? Run it in demo/.
#include <iostream>

#include "kiteknot/study.hpp"

namespace kk = kiteknot;

int main() {
  const auto items = kk::Table::read("items.csv", {.key = {"item"}});
  const auto mass = items.numbers("mass"), worth = items.numbers("worth");
  const auto stock = items.numbers("stock");

  kk::Model model{"Repair crate"};
  const auto limit = model.number("mass_limit", 20);
  const auto pack = model.integer("pack", items, [&](kk::Row i) { return between(0, stock[i]); });
  model.maximize("worth", total(items, [&](kk::Row i) { return worth[i] * pack[i]; }));
  model.rule("mass", total(items, [&](kk::Row i) { return mass[i] * pack[i]; }) <= limit);

  kk::Study study{model};
  std::cout << "worth " << study.solve().goal().text() << " at 20 kg, "
            << study.set(limit, 25).solve().goal().text() << " at 25 kg\n";
}
