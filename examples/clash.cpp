// Nothing is possible: which rules cannot hold together, and what is the least to give way?
#include <iostream>

#include "kiteknot/explain.hpp"
#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

int main() {
  const auto shows = kk::Table::parse(
      "shows", "show,crew,crowd\ndrums,3,40\nlamps,5,70\nsleds,2,20\n", {.key = {"show"}});
  kk::Model model{"Too much"};
  const auto run = model.binary("run", shows);
  model.maximize("crowd", total(shows, [&](kk::Row s) { return s.number("crowd") * run[s]; }));
  model.rule("crew", total(shows, [&](kk::Row s) { return s.number("crew") * run[s]; }) <= 6);
  model.rule("promised", kk::all_of({run["lamps"], run["sleds"]}));
  model.rule("short", run["drums"] + run["sleds"] <= 1);

  const kk::Clash clash = kk::find_clash(model);
  std::cout << "cannot hold together:";
  for (const kk::RuleRow& row : clash.rows) std::cout << " " << model.name(row);
  const kk::Loosening way_out = kk::cheapest_loosening(model, {.keep = {"promised"}});
  for (const auto& miss : way_out.misses)
    std::cout << "\n" << model.name(miss.row) << " has to give way by " << miss.by;
  std::cout << "\n";
}
