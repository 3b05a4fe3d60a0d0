// A round trip as one rule of a model: which stops are left out, so that most is brought out within
// 24 kilometres; and what is wrong with a plan that is no round trip.
#include <algorithm>
#include <iostream>

#include "kiteknot/kiteknot.hpp"

namespace kk = kiteknot;
using kk::Row;

// The row of the leg between two stops.
static Row stops_of(const kk::Table& legs, const kk::Stops& stops, int a, int b) {
  return legs.row({stops.name(std::min(a, b)), stops.name(std::max(a, b))});
}

int main() {
  const kk::Table stops = kk::Table::read("stops.csv", {.key = {{"stop"}}});
  kk::Table legs = kk::Table::pairs("legs", stops);
  const kk::Stops places = kk::Stops::read("stops.csv").value();
  legs.add_numbers("km", [&](Row l) -> kk::Rational {
    return places.length(l.row("a").index(), l.row("b").index());
  });
  const kk::Numbers km = legs.numbers("km"), rolls = stops.numbers("load");

  kk::Model day{"A short day"};
  const kk::Decisions go = day.binary("go", legs), bring = day.binary("bring", stops);
  day.maximize("rolls", total(stops, [&](Row s) { return rolls[s] * bring[s]; }));
  day.tour("trip", go, stops, {.visiting = bring, .from = stops["Gate"]});
  day.rule("short", total(legs, [&](Row l) { return km[l] * go[l]; }) <= 24);

  const kk::Result best = solve(day);
  const kk::TourAnswer trip = tour_of(day, *best.plan, best.outcome);
  std::cout << best.goal().to_double() << " rolls over " << trip.order.size() << " stops, "
            << trip.length.to_double() << " long, and " << kk::word(best.outcome) << "\n";

  kk::Plan broken = *best.plan;
  broken.set(go(stops_of(legs, places, trip.order[0], trip.order[1])), 0);
  const kk::PlanReport report = check(day, broken);
  std::cout << check_page(day, broken, report, "without the first leg");
}
