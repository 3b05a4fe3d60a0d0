// Cover: the fewest masts whose lamps reach every field. Data of the program's own.
#include <iostream>

#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

int main() {
  const auto masts = kk::Table::of_figures("masts", "mast", "rent",
                                           {{"Gull", 4}, {"Mole", 6}, {"Pier", 5}, {"Stairs", 3}});
  const auto fields =
      kk::Table::of_keys("fields", "field", {"cove", "dune", "reef", "sand", "weir"});
  const auto reaches = kk::Table::of("reaches", {"mast", "field"},
                                     {{"Gull", "cove"},
                                      {"Gull", "dune"},
                                      {"Mole", "dune"},
                                      {"Mole", "reef"},
                                      {"Mole", "sand"},
                                      {"Pier", "cove"},
                                      {"Pier", "weir"},
                                      {"Stairs", "sand"},
                                      {"Stairs", "weir"}},
                                     {.key = {{"mast", masts}, {"field", fields}}});

  kk::Model model{"Lamps on masts"};
  const auto use = model.binary("use", masts);
  model.minimize("rent", total(masts, [&](kk::Row m) { return m.number("rent") * use[m]; }));
  model.rule("lit", fields, [&](kk::Row f) {
    return total(reaches.where("field", f), [&](kk::Row r) { return use[r.row("mast")]; }) >= 1;
  });

  const kk::Result best = kk::solve(model);
  std::cout << word(best.outcome) << ", rent " << best.goal() << "\n";
  for (const auto& name : best.chosen(use)) std::cout << "  " << name << "\n";
}
