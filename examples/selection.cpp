// Which shows go on? Run it in demo/: it reads shows.csv.
#include <iostream>

#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

int main() {
  const auto shows = kk::Table::read("shows.csv", {.key = {"show"}});
  const auto crew = shows.numbers("crew"), cost = shows.numbers("cost"),
             crowd = shows.numbers("crowd");

  kk::Model model{"Festival programme"};
  const auto run = model.binary("run", shows);
  model.maximize("crowd", total(shows, [&](kk::Row s) { return crowd[s] * run[s]; }));
  model.rule("crew", total(shows, [&](kk::Row s) { return crew[s] * run[s]; }) <= 35);
  model.rule("grant", total(shows, [&](kk::Row s) { return cost[s] * run[s]; }) <= 1200);
  model.rule("family", total(shows.where("kind", "family"), run) >= 2);

  const kk::Result result = kk::solve(model);
  std::cout << word(result.outcome) << ", crowd " << result.goal().text() << "\n";
  for (const auto& name : result.chosen(run)) std::cout << "  " << name << "\n";
}
