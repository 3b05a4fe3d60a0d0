#pragma once
// Wide tables, with a column for each day, read as long ones, with a row for each day.

#include "kiteknot/table.hpp"
#include "model/table_data.hpp"

namespace kiteknot::formats {

/// Makes `data` long and adds the new key to the options, as they say; nothing where they do not.
/// Complaints go to `notes`: a heading that names no row of its table, no column left to turn.
void make_long(TableData& data, TableOptions& options, Diagnostics& notes);

}  // namespace kiteknot::formats
