#pragma once
// What the commands over stops share.

#include <string>

#include "command.hpp"

namespace kiteknot::cli {

/// Files of stops, by their endings; anything else is a model.
bool is_stops(const std::string& file);
/// Warnings go to stderr; errors are thrown as InputError.
Stops read_stops(const std::string& file);
/// Options that make several trips of stops with loads.
struct TripsArguments {
  double capacity = 0.0;   // 0: not said
  std::int32_t trips = 0;  // at most; 0: any number
  std::string from;
  void add_to(CLI::App& command, bool with_from = true);
  /// For several trips where a capacity is given or the file has one.
  [[nodiscard]] Stops of(const Stops& stops) const;
};
/// Throw CommandLineError: no .svg or .png; a matrix does not tell where the stops are.
void need_drawing_name(const std::string& option, const std::string& file);
void need_a_map(const Stops& stops);
/// SVG as it is; PNG where that can be made of it, else the SVG beside it.
void write_drawing(const std::string& file, const std::string& svg);

/// `kiteknot compare` over a file of stops.
int compare_ways(const std::string& file, const std::vector<std::string>& ways,
                 const SearchArguments& search, const TripsArguments& trips, const std::string& map,
                 const std::string& progress);

}  // namespace kiteknot::cli
