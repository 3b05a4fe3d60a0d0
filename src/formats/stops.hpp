#pragma once
// Files that say where stops are, or how far apart: CSV of names with x, y (a plane) or lat, lon
// (the earth), CSV matrices of lengths, and TSPLIB (Reinelt 1991, "TSPLIB: a traveling salesman
// problem library").

#include <optional>
#include <string>
#include <vector>

#include "kiteknot/errors.hpp"
#include "structures/tours/distances.hpp"

namespace kiteknot::formats {

struct Stops {
  std::string name;                ///< of the whole; may be empty
  std::vector<std::string> names;  ///< of stops
  structures::tours::Distances distances{0, {}};
  /// Where to draw them; x to the right, y upward. Nothing: nobody knows.
  std::optional<structures::tours::Places> map;
  std::vector<std::pair<linalg::Index, linalg::Index>> fixed;  ///< legs that have to be there
  // Of several vehicles.
  std::optional<double> capacity;
  std::vector<double> demand;  ///< by stops; empty: none
  linalg::Index depot = -1;
};

/// By what the text looks like. `file`: for messages.
Reading<Stops> read_stops(const std::string& text, const std::string& file);
Reading<Stops> read_stops_csv(const std::string& text, const std::string& file);
Reading<Stops> read_tsplib(const std::string& text, const std::string& file);

/// A tour as TSPLIB has it: numbers of stops from 1.
std::string tsplib_tour(const std::string& name, const std::vector<linalg::Index>& tour);
/// Stops from 0; all of `stops` of them, each once.
Reading<std::vector<linalg::Index>> read_tsplib_tour(const std::string& text,
                                                     const std::string& file, linalg::Index stops);

}  // namespace kiteknot::formats
