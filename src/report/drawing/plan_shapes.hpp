#pragma once
// Which picture fits a family of decisions: told by the tables that it is over.

#include "kiteknot/draw.hpp"
#include "model/model_data.hpp"

namespace kiteknot::report {

/// Where the rows of a table lie, if it says so: columns x and y, or lat and lon.
struct Places {
  std::vector<double> x, y;  ///< by rows
  double stretch = 1.0;      ///< of x: degrees of longitude are shorter than those of latitude
};
std::optional<Places> places_of(const TableData& table);

/// The tables that name the two ends of each member: of a family over two tables, over the pairs of
/// one, or over a table whose key has two references.
struct Ends {
  std::shared_ptr<const TableData> from, to;
  std::vector<std::pair<Index, Index>> rows;  ///< by members
};
std::optional<Ends> ends_of(const Family& family);

/// Which shapes the family can be drawn in, the best first; never empty.
std::vector<PlanShape> shapes_of(const Family& family);
std::string_view word(PlanShape shape);
/// The family that a picture says most about: a map before a grid, before steps, before bars; of
/// equals the largest.
const Family& main_family(const ModelData& model, const Plan& plan);

}  // namespace kiteknot::report
