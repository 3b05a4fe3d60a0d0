#pragma once
// Yes-or-no columns with one of their values, and what follows from it.

#include <vector>

#include "linalg/lines.hpp"

namespace kiteknot::mip {

using linalg::Index;

/// A binary column and one of its two values: 2 j for x_j = 1, 2 j + 1 for x_j = 0.
using Literal = Index;
inline Index column_of(Literal l) {
  return l / 2;
}
inline bool is_no(Literal l) {
  return (l & 1) != 0;
}
inline Literal opposite(Literal l) {
  return l ^ 1;
}

/// Where the literal holds, the column has this bound.
struct Implication {
  Literal when = 0;
  Index column = 0;
  bool upper = false;
  double bound = 0.0;
};
using Implications = std::vector<Implication>;

}  // namespace kiteknot::mip
