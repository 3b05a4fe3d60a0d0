#pragma once
// Wide tables, with a column for each day, read as long ones, with a row for each day.

#include "data/table_data.hpp"
#include "kiteknot/table.hpp"

namespace kiteknot::data {

/// Makes `data` long and adds the new key to the options, as they say; nothing where they do not.
/// Complaints go to `notes`: a heading that names no row of its table, no column left to turn.
void make_long(TableData& data, TableOptions& options, Diagnostics& notes);

}  // namespace kiteknot::data
