#pragma once
// Powers of two by which rows and columns are multiplied, so that their entries come near 1. They
// change no digit of any number, so that proofs made for the scaled program hold for the stated
// one. Sweeps of geometric means: Fourer 1982, "Solving staircase linear programs by the simplex
// method"; Curtis and Reid 1972, "On the automatic scaling of matrices for Gaussian elimination".

#include <span>
#include <vector>

#include "linalg/lines.hpp"

namespace kiteknot::lp {

/// 2^-e for the largest |value| in [2^e, 2^(e+1)); 1 for a row of zeros.
double row_scale(std::span<const double> value);

/// For each column that `free_to_scale` marks the power of two for its coefficients (1 elsewhere,
/// and where it would be between 1/8 and 8); the column's own unit becomes that much larger.
/// O(nnz).
std::vector<double> column_scales(const linalg::Lines& rows,
                                  const std::vector<char>& free_to_scale);

}  // namespace kiteknot::lp
