#pragma once
// The rule that legs form a round trip: its names looked up, and stated in the model.

#include "formats/knot/resolver.hpp"

namespace kiteknot::formats::knot {

void bind_tour(const Statement& st, NameSource& names, Diagnostics& notes, Model& model);

}  // namespace kiteknot::formats::knot
