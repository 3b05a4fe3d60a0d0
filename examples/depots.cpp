// Which depots open, and what do they ship? Fixed and per-unit costs, capacities, and logic between
// openings. Run it in demo/: it reads depots.csv, fields.csv and lanes.csv.
#include <iostream>

#include "kiteknot/explain.hpp"
#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

int main() {
  const auto depots = kk::Table::read("depots.csv", {.key = {"depot"}});
  const auto fields = kk::Table::read("fields.csv", {.key = {"field"}});
  const auto lanes = kk::Table::read("lanes.csv", {.key = {{"depot", depots}, {"field", fields}}});
  const auto rent = depots.numbers("rent"), room = depots.numbers("capacity");
  const auto demand = fields.numbers("demand"), rate = lanes.numbers("rate");

  kk::Model model{"Rope and repair depots"};
  const kk::Number limit = model.number("open_limit", 4);
  const auto open = model.binary("open", depots);
  const auto ship =
      model.real("ship", lanes, [&](kk::Row l) { return kk::between(0, demand[l.row("field")]); });
  const auto load =
      model.let("load", depots, [&](kk::Row d) { return total(lanes.where("depot", d), ship); });

  model.minimize("cost", total(depots, [&](kk::Row d) { return rent[d] * open[d]; }) +
                             total(lanes, [&](kk::Row l) { return rate[l] * ship[l]; }));
  model.rule("need", fields,
             [&](kk::Row f) { return total(lanes.where("field", f), ship) == demand[f]; });
  model.rule("capacity", depots, [&](kk::Row d) { return load[d] <= room[d] * open[d]; });
  model.rule("link", lanes,
             [&](kk::Row l) { return ship[l] <= demand[l.row("field")] * open[l.row("depot")]; });
  model.rule("few", total(open) <= limit);
  model.rule("pair", kk::implies(open["North Mole"], open["Gull Bank"]));
  model.rule("either_end", kk::exclusive(open["Lantern Pier"], open["Salt Stairs"]));
  model.rule("busy", depots, [&](kk::Row d) { return kk::implies(open[d], load[d] >= 8); });

  kk::Study study{model};
  const kk::Result free = study.solve();
  std::cout << word(free.outcome) << ", cost " << free.goal().text() << "\n";
  for (const auto& name : free.chosen(open)) std::cout << "  " << name << "\n";
  const kk::Result paired = study.set(limit, 2).solve();
  std::cout << "with two depots at most: " << word(paired.outcome);
  if (paired.has_plan()) std::cout << ", cost " << paired.goal().text();
  std::cout << "\n";
}
