#pragma once
// How long legs are: from coordinates by one of the usual formulas, or from a matrix. Plain arrays;
// no model.

#include <vector>

#include "base/at.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::structures::tours {

using linalg::Index;

/// How coordinates become a length. The first two are rounded to a millionth, so that lengths are
/// decimals that can be added up exactly; the others are those of the TSPLIB format (Reinelt 1991,
/// "TSPLIB: a traveling salesman problem library"), whole numbers.
enum class Formula {
  plane,    ///< straight lines
  earth,    ///< great circles between latitudes x and longitudes y in degrees; kilometres
  euc_2d,   ///< straight, to the nearest whole number
  euc_3d,   ///< the same in space
  ceil_2d,  ///< straight, rounded up
  man_2d,   ///< along the axes
  max_2d,   ///< the larger of both ways
  geo,      ///< great circles; degrees and minutes as DDD.MM
  att       ///< straight over the root of ten, rounded up in its own way
};

struct Places {
  std::vector<double> x, y, z;  ///< z: of euc_3d only
};

class Distances {
 public:
  Distances(Formula formula, Places places);
  /// From row to column; `size` x `size`, row by row.
  Distances(Index size, std::vector<double> matrix);

  [[nodiscard]] Index size() const noexcept { return size_; }
  [[nodiscard]] double operator()(Index from, Index to) const;
  /// Whether every leg is as long there as back.
  [[nodiscard]] bool symmetric() const noexcept { return symmetric_; }
  /// Of coordinates: rounded to a millionth, and not whole.
  [[nodiscard]] bool in_millionths() const noexcept {
    return has_places() && (formula_ == Formula::plane || formula_ == Formula::earth);
  }
  /// Points in space whose straight distances are in the order of lengths, or nearly so: to find
  /// near stops by. Nothing for a matrix.
  [[nodiscard]] bool has_places() const noexcept { return matrix_.empty(); }
  [[nodiscard]] const Places& in_space() const noexcept { return space_; }
  /// No leg between points so far apart in space is shorter.
  [[nodiscard]] double at_least(double straight) const;

 private:
  [[nodiscard]] double by_formula(std::size_t i, std::size_t j) const;
  Index size_ = 0;
  Formula formula_ = Formula::plane;
  Places places_, space_;  // geo and earth: places_ in radians
  std::vector<double> matrix_;
  bool symmetric_ = true;
};

/// The length of the round trip.
double length(const Distances& distances, const std::vector<Index>& tour);

}  // namespace kiteknot::structures::tours
