#include "kiteknot/model_tour.hpp"

#include <algorithm>
#include <limits>
#include <map>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "data/stops_data.hpp"
#include "model/tours/tour_rule.hpp"

namespace kiteknot {
namespace {

namespace tours = structures::tours;

std::size_t place_of_rule(const ModelData& m) {
  std::vector<std::size_t> found;
  for (std::size_t r = 0; r < m.rules.size(); ++r)
    if (m.rules[r]->is_tour() && !m.rules_off.contains(static_cast<Index>(r))) found.push_back(r);
  if (found.size() == 1) return found[0];
  if (found.empty()) throw UsageError(fmt::format("{} has no tour rule that holds", m.title));
  std::vector<std::string> names;
  for (const std::size_t r : found) names.push_back(m.rules[r]->name);
  throw UsageError(fmt::format("{} has several tour rules: {}", m.title, listed(names)));
}

const TourRule& rule_of(const ModelData& m) {
  return *m.rules[place_of_rule(m)]->conditions[0].trips;
}

// What the first goal charges for each decision (what it gains turned round, where it is to be
// large), or the first rule that counts the legs, where the goal does not; what is no sum is left
// out. `all`: it is the goal's, and nothing was. `lengths`: what legs are charged is none below 0.
std::vector<Rational> charges(const ModelData& m, const TourRule& rule, bool& all, bool& lengths) {
  std::vector<Rational> charge(at(m.num_decisions));
  const auto no_gains = [&] {
    return std::none_of(charge.begin() + rule.legs->first,
                        charge.begin() + rule.legs->first + rule.legs->index.count,
                        [](const Rational& c) { return c.sign() < 0; });
  };
  const auto take = [&](const std::vector<Expression::Term>& terms) {
    bool legs = false;
    for (const auto& t : terms) {
      if (t.decision >= m.num_decisions) continue;
      charge[at(t.decision)] = t.coefficient;
      legs = legs || (t.decision >= rule.legs->first &&
                      t.decision < rule.legs->first + rule.legs->index.count);
    }
    return legs;
  };
  all = m.goals.size() == 1 && m.goals[0].expression.is_linear();
  Collector collector(m, [&](const auto&) { return m.num_decisions; });
  if (!m.goals.empty()) {
    const LinearForm form = collector.collect(m.goals[0].expression);
    all = all && form.constant.is_zero() && m.goals[0].sense == Sense::minimize;
    if (take(form.terms)) {
      if (m.goals[0].sense == Sense::maximize)
        for (Rational& c : charge) c = -c;
      lengths = no_gains();
      return charge;
    }
  }
  all = false;
  for (std::size_t r = 0; r < m.rules.size(); ++r) {
    if (m.rules_off.contains(static_cast<Index>(r))) continue;
    for (const Condition& c : m.rules[r]->conditions) {
      if (!is_linear(c)) continue;
      std::ranges::fill(charge, Rational(0));
      if (take(linear_rule(collector, c).terms)) {
        lengths = no_gains();
        return charge;
      }
    }
  }
  lengths = false;  // nobody charges anything for a leg
  return charge;
}

// x and y, or lon and lat, where the table has them as figures.
std::optional<tours::Places> map_of(const Table& stops, bool& earth) {
  const auto columns = stops.columns();
  const auto has = [&](const char* name) {
    return std::ranges::find(columns, name) != columns.end();
  };
  earth = has("lat") && has("lon");
  if (!earth && !(has("x") && has("y"))) return std::nullopt;
  try {
    const Numbers across = stops.numbers(earth ? "lon" : "x"),
                  up = stops.numbers(earth ? "lat" : "y");
    tours::Places places;
    for (const Row s : stops) {
      places.x.push_back(across[s].to_double());
      places.y.push_back(up[s].to_double());
    }
    return places;
  } catch (const std::exception&) {  // they are no figures: then there is no map
    return std::nullopt;
  }
}

bool only_this_rule(const ModelData& m) {
  return m.rules.size() - m.rules_off.size() == 1 && m.dropped_limits.empty();
}

}  // namespace

ModelTour tour_of(const Model& model) {
  const ModelData& m = model.data();
  const std::size_t place = place_of_rule(m);
  const TourRule& rule = *m.rules[place]->conditions[0].trips;
  auto data = std::make_shared<StopsData>();
  data->name = m.title;
  const Index n = rule.num_stops();
  for (Index s = 0; s < n; ++s) data->names.push_back(rule.stop(s));
  bool all_of_goal = false, measured = false;
  const std::vector<Rational> charge = charges(m, rule, all_of_goal, measured);
  std::vector<double> lengths(at(n) * at(n), std::numeric_limits<double>::infinity());
  for (Index s = 0; s < n; ++s) lengths[at(s) * at(n) + at(s)] = 0.0;
  const std::vector<Rational> numbers = m.number_values();
  bool decimal = true;
  std::size_t pairs = 0;
  for (std::size_t k = 0; k < rule.ends.size(); ++k) {
    const auto [a, b] = rule.ends[k];
    const Rational& length = charge[at(rule.legs->first) + k];
    decimal = decimal && length.sign() >= 0 && (length * Rational(1'000'000)).is_integer();
    decimal = decimal && m.upper(*rule.legs, static_cast<Index>(k), numbers) >= Rational(1) &&
              m.lower(*rule.legs, static_cast<Index>(k), numbers).is_zero();
    if (a == b) continue;
    if (lengths[at(a) * at(n) + at(b)] == std::numeric_limits<double>::infinity()) ++pairs;
    lengths[at(a) * at(n) + at(b)] = length.to_double();
    if (!rule.directed) lengths[at(b) * at(n) + at(a)] = length.to_double();
  }
  const std::size_t every = at(n) * at(std::max<Index>(0, n - 1)) / (rule.directed ? 1 : 2);
  // Two stops and one leg that is gone once are no tour here, and one there.
  const bool plain = n >= 3 && rule.visiting == nullptr && !rule.several && rule.ahead.empty();
  const bool nothing_else = plain && pairs == every && decimal && all_of_goal &&
                            m.families.size() == 1 && only_this_rule(m);
  if (!lengths.empty()) data->distances = tours::Distances(n, std::move(lengths));
  data->map = map_of(rule.stops, data->on_earth);
  if (rule.several) {
    data->capacity = rule.load.empty() ? 0.0 : rule.room(numbers).to_double();
    data->depot = rule.gate;
    data->most_trips = static_cast<Index>(rule.trips(numbers));
    for (const Rational& load : rule.load) data->demand.push_back(load.to_double());
  }
  return {Stops(std::move(data)), m.rules[place]->name, std::max<Index>(rule.gate, 0),
          nothing_else};
}

TourAnswer tour_of(const Model& model, const Plan& plan, Outcome outcome) {
  const ModelData& m = model.data();
  need_plan_of(m, plan);
  const TourRule& rule = rule_of(m);
  const TourReading reading = read_trips(rule, m.number_values(), plan.values());
  TourAnswer answer;
  answer.way = "exact";
  if (!reading.faults.empty()) return answer;
  bool all_of_goal = false, measured = false;
  const std::vector<Rational> charge = charges(m, rule, all_of_goal, measured);
  for (std::size_t k = 0; k < rule.ends.size(); ++k) {
    const auto leg = static_cast<Index>(at(rule.legs->first) + k);
    answer.length += charge[at(leg)] * plan[leg];
  }
  for (Index d = 0; d < m.num_decisions && all_of_goal; ++d)
    all_of_goal = charge[at(d)].is_zero() ||
                  (d >= rule.legs->first && d < rule.legs->first + rule.legs->index.count);
  if (!measured) {
    const PlanReport report = check(model, plan);
    answer.in_place_of_length =
        report.goal ? fmt::format("{} is {}", m.goals[0].name, figure(*report.goal)) : "-";
  }
  answer.outcome = outcome == Outcome::optimal && !all_of_goal ? Outcome::unproven : outcome;
  if (!rule.several) {
    if (!reading.trips.empty()) answer.order = reading.trips[0];
    return answer;
  }
  answer.trips = reading.trips;
  answer.order.assign(1, rule.gate);
  for (const auto& trip : reading.trips)
    answer.order.insert(answer.order.end(), trip.begin() + 1, trip.end());
  return answer;
}

Plan plan_of(const Model& model, const TourAnswer& answer) {
  const ModelData& m = model.data();
  const TourRule& rule = rule_of(m);
  std::map<std::pair<Index, Index>, Index> leg;
  for (std::size_t k = 0; k < rule.ends.size(); ++k) {
    const auto [a, b] = rule.ends[k];
    leg.emplace(std::pair(a, b), static_cast<Index>(k));
    if (!rule.directed) leg.emplace(std::pair(b, a), static_cast<Index>(k));
  }
  std::vector<Rational> values(at(m.num_decisions));
  const auto go = [&](const std::vector<Index>& trip) {
    for (std::size_t k = 0; k < trip.size() && trip.size() > 1; ++k) {
      const auto it = leg.find({trip[k], trip[k + 1 == trip.size() ? 0 : k + 1]});
      if (it == leg.end()) throw UsageError("the tour has a leg that the model does not have");
      values[at(rule.legs->first + it->second)] += Rational(1);
    }
  };
  if (answer.trips.empty()) go(answer.order);
  for (const auto& trip : answer.trips) go(trip);
  return {model, std::move(values)};
}

}  // namespace kiteknot
