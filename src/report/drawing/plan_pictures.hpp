#pragma once
// The pictures of a plan, each drawn into an area; they answer what the picture shows.

#include "report/drawing/machine_lanes.hpp"
#include "report/drawing/plan_shapes.hpp"
#include "report/drawing/plane_scene.hpp"

namespace kiteknot::report {

struct PlanPicture {
  Drawing& drawing;
  Area area;
  const Ground& ground;
  const ModelData& m;
  const Plan& plan;
  const Family& family;
  [[nodiscard]] const Rational& value(Index member) const { return plan[family.first + member]; }
};

std::string draw_grid(const PlanPicture& p);
std::string draw_bars(const PlanPicture& p);
std::string draw_steps(const PlanPicture& p);
std::string draw_plan_map(const PlanPicture& p);
std::string draw_times(const PlanPicture& p, const std::vector<Lane>& lanes);

/// The key of a row in one text.
std::string row_name(const TableData& table, Index row);

}  // namespace kiteknot::report
