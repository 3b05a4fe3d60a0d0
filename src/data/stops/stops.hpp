#pragma once
// Files that say where stops are, or how far apart: CSV of names with x, y (a plane) or lat, lon
// (the earth), CSV matrices of lengths, and TSPLIB (Reinelt 1991, "TSPLIB: a traveling salesman
// problem library").

#include <string>
#include <vector>

#include "data/stops_data.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot::data {

/// By what the text looks like. `file`: for messages.
Reading<StopsData> read_stops(const std::string& text, const std::string& file);
Reading<StopsData> read_stops_csv(const std::string& text, const std::string& file);
Reading<StopsData> read_tsplib(const std::string& text, const std::string& file);

/// A tour as TSPLIB has it: numbers of stops from 1.
std::string tsplib_tour(const std::string& name, const std::vector<linalg::Index>& tour);
/// Stops from 0; all of `stops` of them, each once.
Reading<std::vector<linalg::Index>> read_tsplib_tour(const std::string& text,
                                                     const std::string& file, linalg::Index stops);

}  // namespace kiteknot::data
