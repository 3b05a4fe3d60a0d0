// Assignment: one steward a gate, as near to home as can be; Ilya and Wanda not side by side.
#include <iostream>

#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

int main() {
  const auto stewards = kk::Table::of_figures(
      "stewards", "steward", "home", {{"Ilya", 3}, {"Mira", 9}, {"Oren", 1}, {"Wanda", 4}});
  auto gates = kk::Table::of_keys("gates", "gate", {"north", "pier", "south"});
  gates.add_numbers("place", {{"north", 2}, {"pier", 5}, {"south", 8}});
  const auto way = [](kk::Row s, kk::Row g) {
    return (s.number("home") - g.number("place")).abs();
  };

  kk::Model model{"Stewards at the gates"};
  // Nobody goes farther than 4.
  const auto stands = model.binary(
      "stands", {{stewards, gates}, [&](kk::Row s, kk::Row g) { return way(s, g) <= 4; }});
  const auto at = [&](kk::Row s, kk::Row g) {
    return way(s, g) <= 4 ? kk::Expression(stands(s, g)) : kk::Expression(0);
  };
  model.minimize("way", total(stewards, [&](kk::Row s) {
                   return total(gates, [&](kk::Row g) { return way(s, g) * at(s, g); });
                 }));
  model.rule("one", gates,
             [&](kk::Row g) { return total(stewards, [&](kk::Row s) { return at(s, g); }) == 1; });
  model.rule("once", stewards,
             [&](kk::Row s) { return total(gates, [&](kk::Row g) { return at(s, g); }) <= 1; });
  model.rule("apart", kk::negated(kk::all_of({stands("Ilya", "north"), stands("Wanda", "pier")})));
  const kk::Result best = kk::solve(model);
  std::cout << word(best.outcome) << ", way " << best.goal() << "\n";
  for (const auto& name : best.chosen(stands)) std::cout << "  " << name << "\n";
}
