#pragma once
// Curves from their words.

#include "formats/knot/resolver.hpp"
#include "kiteknot/curve.hpp"

namespace kiteknot::formats::knot {

/// The curve that a statement states; throws Failure or UsageError where it is none.
Curve make_curve(const Statement& st, NameSource& names, Diagnostics& notes,
                 const ModelData& model);

}  // namespace kiteknot::formats::knot
