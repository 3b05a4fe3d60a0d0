// Cord is spun, stored and used over ten weeks: an ordered table, set-ups, and no three weeks of
// spinning in a row. Run it in demo/: it reads weeks.csv.
#include <iostream>

#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

int main() {
  const auto weeks = kk::Table::read("weeks.csv", {.key = {"week"}, .ordered = true});
  const auto need = weeks.numbers("need"), setup = weeks.numbers("setup");
  const auto spin = weeks.numbers("spin"), keep = weeks.numbers("keep");

  kk::Model model{"Cord over the weeks"};
  const kk::Number start = model.number("start", 20);
  const auto spun = model.integer("spun", weeks, kk::between(0, 80));
  const auto kept = model.integer("kept", weeks, kk::between(0, 60));
  const auto runs = model.binary("runs", weeks);

  model.minimize("cost", total(weeks, [&](kk::Row w) {
                   return setup[w] * runs[w] + spin[w] * spun[w] + keep[w] * kept[w];
                 }));
  model.rule("balance", weeks, [&](kk::Row w) {
    const auto before = weeks.before(w);
    const kk::Expression stock = before ? kk::Expression(kept[*before]) : kk::Expression(start);
    return stock + spun[w] == need[w] + kept[w];
  });
  model.rule("link", weeks, [&](kk::Row w) { return kk::implies(spun[w] >= 1, runs[w]); });
  model.rule("worth_it", weeks, [&](kk::Row w) { return kk::implies(runs[w], spun[w] >= 15); });
  model.rule("oil", weeks, [&](kk::Row w) {
    const auto before = weeks.before(w), after = weeks.after(w);
    if (!before || !after) return kk::all_of({});
    return kk::at_most(2, {runs[*before], runs[w], runs[*after]});
  });
  model.rule("ready", kept["w10"] >= 10);

  const kk::Result result = kk::solve(model);
  std::cout << word(result.outcome) << ", cost " << result.goal().text() << "\n";
  for (const auto& name : result.chosen(runs)) std::cout << "  " << name << "\n";
}
