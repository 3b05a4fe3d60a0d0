#include <algorithm>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/random.hpp"
#include "base/text.hpp"
#include "kiteknot/tour.hpp"
#include "model/stops_data.hpp"

namespace kiteknot {

namespace tours = structures::tours;

std::int32_t Stops::size() const noexcept {
  return data_->distances.size();
}
const std::string& Stops::name(std::int32_t stop) const {
  return data_->names.at(static_cast<std::size_t>(stop));
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
  return data_->demand.empty() || stop == data_->depot ? 0.0 : data_->demand.at(at(stop));
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
