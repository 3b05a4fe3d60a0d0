#include "stops.hpp"

#include "drawing.hpp"
#include "terminal.hpp"

namespace kiteknot::cli {

Stops read_stops(const std::string& file) {
  Reading<Stops> read = Stops::read(file);
  for (const Diagnostic& note : read.notes().items())
    if (note.warning && read.ok()) print_error(note.text());
  return std::move(read).value();
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
