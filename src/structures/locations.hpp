#pragma once
// Facility location without capacities on plain arrays: which places open, each customer at the
// cheapest open one.

#include <vector>

#include "linalg/lines.hpp"

namespace kiteknot::structures {

using linalg::Index;

struct LocationProblem {
  std::vector<double> rent;                ///< by place, from 0 up
  std::vector<std::vector<double>> serve;  ///< by customer and place; infinite: it cannot
};
struct LocationPlan {
  std::vector<char> open;   ///< by place
  std::vector<Index> from;  ///< by customer: its place, -1: none can
  double cost = 0.0;        ///< infinite where a customer has none
};
/// The plan of these open places.
LocationPlan located(const LocationProblem& problem, std::vector<char> open);

/// From nothing, the place that saves most is opened, as long as one saves (Kuehn and Hamburger
/// 1963, "A heuristic program for locating warehouses").
LocationPlan add_places(const LocationProblem& problem);
/// From everything, the place that costs most is closed (Feldman, Lehrer and Ray 1966, "Warehouse
/// location under continuous economies of scale").
LocationPlan drop_places(const LocationProblem& problem);
/// Opens, closes or swaps the best pair as long as that is better (Teitz and Bart 1968, "Heuristic
/// methods for estimating the generalized vertex median of a weighted graph"), at most `rounds`.
LocationPlan swap_places(const LocationProblem& problem, LocationPlan from, int rounds);

struct DualAscent {
  std::vector<double> price;  ///< by customer: they prove the bound, in doubles
  double bound = 0.0;
  LocationPlan plan;  ///< of the places that the prices pay for
};
/// Customers pay more and more, until every place that they would open is paid (Erlenkotter 1978,
/// "A dual-based procedure for uncapacitated facility location").
DualAscent dual_ascent(const LocationProblem& problem);

}  // namespace kiteknot::structures
