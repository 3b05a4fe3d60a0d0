// Lamps from two lenders: one gets cheaper with the number, one dearer, and a van comes in three
// sizes. Curves say what a number costs; whether binaries are needed is found out.
#include <iostream>

#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

int main() {
  const auto beaches = kk::Table::parse(
      "beaches", "beach,lamps\nLong Strand,11\nCove Green,7\nTern Flats,5\n", {.key = {"beach"}});
  const auto need = beaches.numbers("lamps");

  kk::Model model{"Lamps for the night glow"};
  // A tier is its rate and how many units wide it is; 40 is charged once.
  const auto harbour = model.curve("harbour", kk::Curve::tiers({{9, 6}, {7, 8}, {5}}, 40));
  const auto club = model.curve("club", kk::Curve::tiers({{6, 8}, {8, 6}, {11}}));
  const auto battery = model.curve("battery", kk::Curve::all_units({{3, 0}, {2.5, 12}, {2, 24}}));
  const auto shine =
      model.curve("shine", kk::Curve::through({{0, 0}, {6, 30}, {14, 54}, {30, 78}}));

  const auto from_harbour = model.integer("from_harbour", beaches, kk::between(0, 20));
  const auto from_club = model.integer("from_club", beaches, kk::between(0, 20));
  const auto van = model.one_of("van", {}, {12, 20, 30});
  const auto helper = model.integer("helper", {}, kk::nothing_or(3, 6));
  const auto at = [&](kk::Row b) { return from_harbour[b] + from_club[b]; };
  const kk::Expression lamps = total(from_harbour) + total(from_club);

  model.minimize("cost", harbour(total(from_harbour)) + club(total(from_club)) + battery(lamps) +
                             4 * van.only() + 12 * helper.only() -
                             total(beaches, [&](kk::Row b) { return shine(at(b)); }) * 0.5);
  model.rule("lit", beaches, [&](kk::Row b) { return at(b) >= need[b]; });
  model.rule("fits", lamps <= van.only());
  model.rule("crew", kk::implies(from_harbour["Long Strand"] >= 1, helper.only() >= 3));
  std::vector<kk::Expression> extra;
  for (const kk::Row b : beaches) extra.push_back(at(b) - need[b]);
  model.rule("even", kk::largest(extra) <= 3);

  const kk::Result result = kk::solve(model);
  std::cout << word(result.outcome) << ", cost " << result.goal().text() << "\n";
  for (const auto& family : {from_harbour, from_club, van})
    for (const auto& name : result.chosen(family)) std::cout << "  " << name << "\n";
}
