#pragma once
// Tables from their words: read from a file or a block, or combined from others.

#include "formats/knot/binder.hpp"
#include "formats/knot/resolver.hpp"

namespace kiteknot::formats::knot {

/// The table that a statement states, with a scenario's changes to it made; throws Failure where it
/// is none. Diagnostics of its rows go to the notes.
Table make_table(const Statement& st, const BindSource& source,
                 const std::vector<const ScenarioChange*>& changes, NameSource& names,
                 Diagnostics& notes, const Tag& model);

}  // namespace kiteknot::formats::knot
