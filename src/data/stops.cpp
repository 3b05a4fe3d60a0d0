#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/random.hpp"
#include "base/text.hpp"
#include "data/stops_data.hpp"
#include "kiteknot/tour.hpp"

namespace kiteknot {

namespace tours = structures::tours;

namespace {
void need_stop(const StopsData& stops, std::int32_t stop) {
  if (stop < 0 || stop >= stops.distances.size())
    throw UsageError(fmt::format("there are {}, and none with number {}",
                                 counted(at(stops.distances.size()), "stop"), stop));
}
}  // namespace

void need_answer_of(const Stops& stops, const TourAnswer& answer) {
  const auto need = [&](const std::vector<std::int32_t>& list) {
    for (const std::int32_t s : list) need_stop(stops.data(), s);
  };
  const auto need_round = [&](const TourRound& round) {
    for (const auto& loop : round.loops) {
      if (loop.empty()) throw UsageError("a loop of a round has no stops");
      need(loop);
    }
  };
  need(answer.order);
  for (const auto& trip : answer.trips) need(trip);
  for (const TourRound& round : answer.rounds) need_round(round);
  if (answer.loose) need_round(*answer.loose);
  if (!answer.relaxed) return;
  for (const PartOfLeg& leg : answer.relaxed->legs) {
    need_stop(stops.data(), leg.from);
    need_stop(stops.data(), leg.to);
  }
  for (const auto& [set, value] : answer.relaxed->sets) need(set);
}

Stops::Stops(std::shared_ptr<const StopsData> data) : data_(std::move(data)) {
  if (!data_) throw UsageError("stops were made of nothing");
}

std::int32_t Stops::size() const noexcept {
  return data_->distances.size();
}
const std::string& Stops::name(std::int32_t stop) const {
  need_stop(*data_, stop);
  return data_->names[at(stop)];
}
const std::string& Stops::title() const noexcept {
  return data_->name;
}
double Stops::length(std::int32_t from, std::int32_t to) const {
  if (from < 0 || to < 0 || from >= size() || to >= size())
    throw UsageError("a length was asked for between stops that are not there");
  return data_->distances(from, to);
}
bool Stops::directed() const noexcept {
  return !data_->distances.symmetric();
}
bool Stops::on_a_map() const noexcept {
  return data_->map.has_value();
}
const char* Stops::unit() const noexcept {
  return data_->on_earth ? "km" : "";
}
bool Stops::several() const noexcept {
  return data_->capacity.has_value();
}
Stops Stops::in_trips(double capacity, std::int32_t most, std::int32_t from) const {
  if (data_->demand.empty())
    throw UsageError("the stops have no loads: a column 'load' tells them");
  if (from < 0 || from >= size())
    throw UsageError("trips are to start at a stop that is not there");
  if (!(capacity >= 0.0) || !std::isfinite(capacity))
    throw UsageError(fmt::format("a trip with room for {} makes no sense", capacity));
  if (most < 0) throw UsageError("a number of trips from 1 up was expected");
  auto data = std::make_shared<StopsData>(*data_);
  data->capacity = capacity;
  data->most_trips = most;
  data->depot = from;
  return Stops(std::move(data));
}
std::int32_t Stops::gate() const noexcept {
  return data_->depot;
}
double Stops::load(std::int32_t stop) const {
  need_stop(*data_, stop);
  return data_->demand.empty() || stop == data_->depot ? 0.0 : data_->demand[at(stop)];
}
double Stops::load(const std::vector<std::int32_t>& trip) const {
  double sum = 0.0;
  for (const std::int32_t s : trip) sum += load(s);
  return sum;
}
double Stops::capacity() const noexcept {
  return data_->capacity.value_or(0.0);
}
std::int32_t Stops::find(const std::string& name) const {
  const auto it = std::find(data_->names.begin(), data_->names.end(), name);
  if (it != data_->names.end()) return static_cast<std::int32_t>(it - data_->names.begin());
  if (const std::optional<Rational> number = Rational::parse(name);
      number && number->is_integer() && *number >= Rational(1) && *number <= Rational(size()))
    return static_cast<std::int32_t>(number->to_double()) - 1;
  throw UsageError(fmt::format("there is no stop '{}'{}", name, nearest_hint(name, data_->names)));
}

Stops Stops::made_up(std::int32_t count, std::uint64_t seed) {
  if (count < 0) throw UsageError("a number of stops from 0 up was expected");
  constexpr std::int64_t kSide = 1'000'000;
  constexpr double kFine = 1000.0;
  Random random(seed);
  auto data = std::make_shared<StopsData>();
  data->name = fmt::format("{} made-up stops", count);
  tours::Places places;
  for (std::int32_t k = 0; k < count; ++k) {
    places.x.push_back(static_cast<double>(random.between(0, kSide)) / kFine);
    places.y.push_back(static_cast<double>(random.between(0, kSide)) / kFine);
    data->names.push_back(std::to_string(k + 1));
  }
  data->map = places;
  data->distances = tours::Distances(tours::Formula::plane, std::move(places));
  return Stops(std::move(data));
}

}  // namespace kiteknot
