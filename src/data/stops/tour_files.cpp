#include "data/files.hpp"
#include "data/stops/stops.hpp"
#include "kiteknot/tour.hpp"

namespace kiteknot {

Reading<Stops> Stops::parse(const std::string& text, const std::string& file) {
  Reading<StopsData> read = data::read_stops(text, file);
  if (!read.ok()) return read.notes();
  Diagnostics notes = read.notes();
  return {Stops(std::make_shared<const StopsData>(std::move(read).value())), std::move(notes)};
}

Reading<Stops> Stops::read(const std::string& path) {
  return parse(data::read_file(path), path);
}

std::string tour_text(const Stops& stops, const std::vector<std::int32_t>& order) {
  for (const std::int32_t s : order) (void)stops.name(s);
  return data::tsplib_tour(stops.title(), order);
}

Reading<std::vector<std::int32_t>> read_tour(const std::string& path, const Stops& stops) {
  return data::read_tsplib_tour(data::read_file(path), path, stops.size());
}

}  // namespace kiteknot
