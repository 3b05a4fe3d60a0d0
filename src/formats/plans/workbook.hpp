#pragma once
// Tables as a workbook with a sheet for each (xlsx, by libxlsxwriter).

#include "formats/plans/plan_tables.hpp"

namespace kiteknot::formats {

/// A name that a sheet can have: at most 31 letters, none of []:*?/\, and not one of `taken`
/// (whatever their case).
std::string sheet_name(const std::string& name, const std::vector<std::string>& taken);

struct Sheet {
  std::string name;
  PlanTable table;
  std::vector<std::string> formats{};  ///< of the columns' figures; empty: any way
};
/// Keys stay texts; in the column "value" and those behind it figures are figures. Throws
/// OutputError that names the file.
void write_workbook(const std::string& path, const std::vector<Sheet>& sheets);

}  // namespace kiteknot::formats
