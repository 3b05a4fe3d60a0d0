#include "structures/tours/distances.hpp"

#include <cmath>
#include <limits>
#include <numbers>

namespace kiteknot::structures::tours {
namespace {

constexpr double kMillion = 1e6;
constexpr double kEarth = 6371.0088;    // kilometres: the mean radius
constexpr double kGeoEarth = 6378.388;  // as TSPLIB has it
constexpr double kGeoPi = 3.141592;

double to_the_millionth(double v) {
  return std::round(v * kMillion) / kMillion;
}
double nearest_whole(double v) {
  return std::floor(v + 0.5);
}

// DDD.MM in radians.
double geo_radians(double v) {
  const double degrees = std::trunc(v), minutes = v - degrees;
  return kGeoPi * (degrees + 5.0 * minutes / 3.0) / 180.0;
}

}  // namespace

Distances::Distances(Formula formula, Places places)
    : size_(static_cast<Index>(places.x.size())), formula_(formula), places_(std::move(places)) {
  const bool round = formula == Formula::earth || formula == Formula::geo;
  if (round)
    for (std::vector<double>* v : {&places_.x, &places_.y})
      for (double& c : *v)
        c = formula == Formula::geo ? geo_radians(c) : c * std::numbers::pi / 180.0;
  space_ = places_;
  space_.z.resize(at(size_), 0.0);
  if (round)
    for (std::size_t i = 0; i < at(size_); ++i) {
      const double latitude = places_.x[i], longitude = places_.y[i];
      space_.x[i] = std::cos(latitude) * std::cos(longitude);
      space_.y[i] = std::cos(latitude) * std::sin(longitude);
      space_.z[i] = std::sin(latitude);
    }
}

Distances::Distances(Index size, std::vector<double> matrix)
    : size_(size), matrix_(std::move(matrix)) {
  for (Index i = 0; i < size && symmetric_; ++i)
    for (Index j = 0; j < i && symmetric_; ++j) symmetric_ = (*this)(i, j) == (*this)(j, i);
}

double Distances::operator()(Index from, Index to) const {
  if (!matrix_.empty()) return matrix_[at(from) * at(size_) + at(to)];
  return by_formula(at(from), at(to));
}

double Distances::by_formula(std::size_t i, std::size_t j) const {
  const double dx = places_.x[i] - places_.x[j], dy = places_.y[i] - places_.y[j];
  switch (formula_) {
    case Formula::plane:
      return to_the_millionth(std::sqrt(dx * dx + dy * dy));
    case Formula::euc_2d:
      return nearest_whole(std::sqrt(dx * dx + dy * dy));
    case Formula::ceil_2d:
      return std::ceil(std::sqrt(dx * dx + dy * dy));
    case Formula::euc_3d: {
      const double dz = places_.z[i] - places_.z[j];
      return nearest_whole(std::sqrt(dx * dx + dy * dy + dz * dz));
    }
    case Formula::man_2d:
      return nearest_whole(std::abs(dx) + std::abs(dy));
    case Formula::max_2d:
      return std::max(nearest_whole(std::abs(dx)), nearest_whole(std::abs(dy)));
    case Formula::att: {
      const double r = std::sqrt((dx * dx + dy * dy) / 10.0), t = nearest_whole(r);
      return t < r ? t + 1.0 : t;
    }
    case Formula::earth: {  // haversines keep near places apart
      const double a = std::sin(0.5 * dx), b = std::sin(0.5 * dy);
      const double h = a * a + std::cos(places_.x[i]) * std::cos(places_.x[j]) * b * b;
      return to_the_millionth(2.0 * kEarth * std::asin(std::sqrt(std::min(1.0, h))));
    }
    case Formula::geo: {
      if (i == j) return 0.0;
      const double q1 = std::cos(dy), q2 = std::cos(dx), q3 = std::cos(places_.x[i] + places_.x[j]);
      return std::trunc(kGeoEarth * std::acos(0.5 * ((1.0 + q1) * q2 - (1.0 - q1) * q3)) + 1.0);
    }
  }
  return 0.0;
}

// A chord is no longer than its arc, a straight line no longer than the way along the axes, and at
// most the root of two times the larger of both.
double Distances::at_least(double straight) const {
  constexpr double kRoundings = 1e-12;  // of the formulas above, many times
  straight *= 1.0 - kRoundings;
  switch (formula_) {
    case Formula::plane:
      return straight - 1.0 / kMillion;
    case Formula::euc_2d:
    case Formula::euc_3d:
      return straight - 1.0;
    case Formula::ceil_2d:
      return straight;
    case Formula::man_2d:
      return straight - 1.0;
    case Formula::max_2d:
      return straight / std::numbers::sqrt2 - 1.0;
    case Formula::att:
      return straight / std::sqrt(10.0);
    case Formula::earth:
      return kEarth * straight - 1.0 / kMillion;
    case Formula::geo:
      return kGeoEarth * straight - 1.0;
  }
  return -std::numeric_limits<double>::infinity();
}

double length(const Distances& distances, const std::vector<Index>& tour) {
  double sum = 0.0;
  for (std::size_t k = 0; k < tour.size(); ++k)
    sum += distances(tour[k], tour[k + 1 == tour.size() ? 0 : k + 1]);
  return sum;
}

}  // namespace kiteknot::structures::tours
