#include "report/drawing/plan_shapes.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/at.hpp"
#include "base/check.hpp"

namespace kiteknot::report {
namespace {

std::optional<std::vector<double>> column(const TableData& t, std::string_view name) {
  std::vector<double> out;
  if (const auto made = t.computed.find(name); made != t.computed.end()) {
    for (const Rational& v : made->second) out.push_back(v.to_double());
    return out;
  }
  const Index c = t.column(name);
  if (c < 0) return std::nullopt;
  for (Index r = 0; r < t.num_rows(); ++r) {
    const auto value = t.figure(r, c);
    if (!value || !value->is_finite()) return std::nullopt;
    out.push_back(value->to_double());
  }
  return out;
}

int rank(PlanShape shape) {
  switch (shape) {
    case PlanShape::map:
      return 3;
    case PlanShape::grid:
      return 2;
    case PlanShape::steps:
      return 1;
    default:
      return 0;
  }
}

}  // namespace

std::optional<Places> places_of(const TableData& t) {
  Places p;
  if (t.num_rows() == 0) return std::nullopt;
  if (auto x = column(t, "x"), y = column(t, "y"); x && y) {
    p.x = std::move(*x);
    p.y = std::move(*y);
    return p;
  }
  auto lon = column(t, "lon"), lat = column(t, "lat");
  if (!lon || !lat) return std::nullopt;
  double middle = 0.0;
  for (const double v : *lat) middle += v / static_cast<double>(lat->size());
  constexpr double kHalfTurn = 180.0;
  p.stretch = std::max(0.05, std::cos(middle * std::numbers::pi / kHalfTurn));
  p.x = std::move(*lon);
  p.y = std::move(*lat);
  return p;
}

std::optional<Ends> ends_of(const Family& f) {
  Ends ends;
  const std::vector<Table>& tables = f.index.tables;
  if (tables.size() == 2) {
    ends.from = std::shared_ptr<const TableData>(&tables[0].data(), [](const TableData*) {});
    ends.to = std::shared_ptr<const TableData>(&tables[1].data(), [](const TableData*) {});
    for (Index i = 0; i < f.index.count; ++i) {
      const std::vector<Row> rows = f.index.rows(i);
      ends.rows.emplace_back(rows[0].index(), rows[1].index());
    }
    return ends;
  }
  if (tables.size() != 1) return std::nullopt;
  const TableData& t = tables[0].data();
  if (t.key.size() != 2) return std::nullopt;
  const auto from = t.tables.find(t.key[0]), to = t.tables.find(t.key[1]);
  if (from == t.tables.end() || to == t.tables.end()) return std::nullopt;
  ends.from = from->second;
  ends.to = to->second;
  const std::vector<Index>&a = t.references.at(t.key[0]), &b = t.references.at(t.key[1]);
  for (Index i = 0; i < f.index.count; ++i) {
    const Index row = f.index.rows(i)[0].index();
    ends.rows.emplace_back(a[at(row)], b[at(row)]);
  }
  return ends;
}

std::vector<PlanShape> shapes_of(const Family& f) {
  std::vector<PlanShape> out;
  if (const auto ends = ends_of(f)) {
    if (places_of(*ends->from) && places_of(*ends->to)) out.push_back(PlanShape::map);
    out.push_back(PlanShape::grid);
  }
  if (f.index.tables.size() == 1) {
    const TableData& t = f.index.tables[0].data();
    if (places_of(t) && f.binary) out.push_back(PlanShape::map);
    if (!t.before.empty()) out.push_back(PlanShape::steps);
  }
  out.push_back(PlanShape::bars);
  return out;
}

std::string_view word(PlanShape shape) {
  switch (shape) {
    case PlanShape::grid:
      return "grid";
    case PlanShape::steps:
      return "steps";
    case PlanShape::map:
      return "map";
    case PlanShape::times:
      return "times";
    default:
      return "bars";
  }
}

const Family& main_family(const ModelData& m, const Plan& plan) {
  const Family* best = nullptr;
  std::pair<int, Index> best_rank{-1, 0};
  for (const auto& f : m.families) {
    const bool some = [&] {
      for (Index i = 0; i < f->index.count; ++i)
        if (!plan[f->first + i].is_zero()) return true;
      return false;
    }();
    const std::pair<int, Index> own{some ? rank(shapes_of(*f)[0]) : -1, f->index.count};
    if (best != nullptr && own <= best_rank) continue;
    best = f.get();
    best_rank = own;
  }
  KITEKNOT_CHECK(best != nullptr, "a model with decisions has a family");
  return *best;
}

}  // namespace kiteknot::report
