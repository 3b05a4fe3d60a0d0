#include "report/tours/trips.hpp"

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "model/tours/tour_rule.hpp"

namespace kiteknot::report {

std::vector<std::vector<std::string>> trip_rows(const ModelData& model, const Plan& plan) {
  constexpr std::size_t kMostStops = 60;
  std::vector<std::vector<std::string>> rows;
  const std::vector<Rational> numbers = model.number_values();
  for (std::size_t r = 0; r < model.rules.size(); ++r) {
    if (!model.rules[r]->is_tour() || model.rules_off.contains(static_cast<Index>(r))) continue;
    const TourRule& rule = *model.rules[r]->conditions[0].trips;
    const TourReading reading = read_trips(rule, numbers, plan.values());
    if (!reading.faults.empty()) continue;
    if (reading.trips.empty()) rows.push_back({model.rules[r]->name, "", "nothing is visited"});
    for (const std::vector<Index>& trip : reading.trips) {
      std::vector<std::string> names;
      Rational load = 0;
      for (const Index s : trip) {
        if (names.size() < kMostStops) names.push_back(rule.stop(s));
        if (!rule.load.empty()) load += rule.load[at(s)];
      }
      std::string text = fmt::format("{}", fmt::join(names, ", "));
      if (names.size() < trip.size())
        text += fmt::format(" and {}", counted(trip.size() - names.size(), "more stop"));
      if (trip.size() > 1) text += ", and back";
      rows.push_back({trip == reading.trips.front() ? model.rules[r]->name : "",
                      rule.load.empty()
                          ? counted(trip.size(), "stop")
                          : fmt::format("{} of {}", figure(load), figure(rule.room(numbers))),
                      std::move(text)});
    }
  }
  return rows;
}

}  // namespace kiteknot::report
