#pragma once
// A plan as tables with a column for every key: what is written, and what is read back.

#include <string>
#include <vector>

#include "kiteknot/plan.hpp"
#include "model/model_data.hpp"

namespace kiteknot::formats {

/// Decisions without keys stand together, under this name where tables have names.
inline constexpr const char* kSingles = "single decisions";

/// The columns that hold the keys of a family's members, as its tables call them; a name that is
/// there twice (or means something else in a plan) gets a number behind it.
std::vector<std::string> key_columns(const Family& family);

/// Rows of cells, headings first.
using PlanTable = std::vector<std::vector<std::string>>;

/// One table of all decisions that are not 0: decision, a column for each name of a key, value.
PlanTable one_table(const ModelData& model, const Plan& plan);
/// Of one family those that are not 0: its keys, value, and with `data` the columns of the rows
/// that the keys name ("shift.length"), as they are written there. With `formats`, columns of
/// figures are plain figures, and it tells how each column writes its own, as a spreadsheet would
/// ("0%",
/// "#,##0.00 \"€\""; empty: any way).
PlanTable family_table(const Family& family, const Plan& plan, bool data,
                       std::vector<std::string>* formats = nullptr);
/// The decisions without keys: decision, value, zeros among them. Empty where there are none.
PlanTable single_table(const ModelData& model, const Plan& plan);
/// The members of a family with two keys, first keys down and second ones across, in the order of
/// the tables that the keys come from.
struct Grid {
  std::vector<std::string> down, across;
  std::vector<Index> members;  ///< row by row; -1: there is none
  [[nodiscard]] Index at(std::size_t row, std::size_t column) const {
    return members[row * across.size() + column];
  }
};
Grid grid_of(const Family& family);

/// A family with two keys: a row for each first key, a column for each second one; empty cells
/// where there is no decision.
PlanTable grid_table(const Family& family, const Plan& plan);
/// Whether it has two keys, so that a grid can show it.
bool fits_a_grid(const Family& family);

/// CSV text.
std::string csv_of(const PlanTable& table);

}  // namespace kiteknot::formats
