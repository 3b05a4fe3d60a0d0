#include "stops.hpp"

#include "drawing.hpp"
#include "terminal.hpp"
#include "values.hpp"

namespace kiteknot::cli {

Stops read_stops(const std::string& file) {
  return noted(Stops::read(file));
}

void TripsArguments::add_to(CLI::App& command, bool with_from) {
  command
      .add_option("--capacity", capacity,
                  "of stops: several trips from one, each with loads of at most so much "
                  "(column load)")
      ->check(a_figure(false));
  command.add_option("--trips", trips, "of stops: at most so many trips; any number if not said")
      ->check(a_count(false, 1'000'000));
  if (with_from)
    command.add_option("--from", from, "of stops: where trips start; the first if not said");
}

Stops TripsArguments::of(const Stops& stops) const {
  if (!stops.several() && capacity == 0.0) {
    if (trips > 0) throw CommandLineError("--trips needs what a trip may carry: --capacity");
    return stops;
  }
  try {
    const std::int32_t gate = !from.empty() ? stops.find(from) : std::max(stops.gate(), 0);
    return stops.in_trips(capacity > 0.0 ? capacity : stops.capacity(), trips, gate);
  } catch (const UsageError& e) {
    throw CommandLineError(e.what());
  }
}

void need_drawing_name(const std::string& option, const std::string& file) {
  if (!file.empty() && !file.ends_with(".svg") && !file.ends_with(".png"))
    throw CommandLineError(option + " takes a file that ends in .svg or .png, not '" + file + "'");
}

void need_a_map(const Stops& stops) {
  if (!stops.on_a_map())
    throw CommandLineError(
        "a matrix of lengths does not tell where the stops are, so there is no map to draw");
}

void write_drawing(const std::string& file, const std::string& svg) {
  if (file.ends_with(".svg")) return write_text(file, svg);
  if (can_paint()) return paint(svg, file);
  const std::string instead = file.substr(0, file.size() - 3) + "svg";
  write_text(instead, svg);
  print_error("rsvg-convert is not installed, so " + file + " was not painted; the drawing is in " +
              instead);
}

}  // namespace kiteknot::cli
