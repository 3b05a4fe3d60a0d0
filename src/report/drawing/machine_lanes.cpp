#include "report/drawing/machine_lanes.hpp"

#include <algorithm>
#include <set>

#include "base/at.hpp"
#include "model/internals.hpp"
#include "model/lowering.hpp"
#include "report/drawing/plan_pictures.hpp"

namespace kiteknot::report {
namespace {

mip::Precedences precedences_in(const Model& model) {
  WorkCounter work;
  try {
    return mip::find_precedences(lower(*Internals::of(model)).problem, work);
  } catch (const UsageError&) {  // no rows say it
    return {};
  }
}

bool has(const Family& f, Index decision) {
  return decision >= f.first && decision < f.first + f.index.count;
}

// Members of the family on each machine; what is alone there has no turns to take.
std::vector<Lane> lanes_in(const mip::Precedences& found, const Family& f) {
  std::vector<Lane> lanes;
  for (const mip::MachineTasks& m : found.machines) {
    Lane lane;
    for (std::size_t a = 0; a < m.size(); ++a)
      if (has(f, m.begin[a])) lane.tasks.push_back({m.begin[a] - f.first, m.takes[a], {}});
    if (lane.tasks.size() > 1) lanes.push_back(std::move(lane));
  }
  return lanes;
}

// The column whose texts tell lanes apart: one for each lane, and no two the same.
bool names_lanes(const std::vector<Lane>& lanes, const TableData& t, Index column,
                 const auto& row_of) {
  std::set<std::string_view> names;
  for (const Lane& lane : lanes) {
    const std::string_view own = t.cell(row_of(lane.tasks[0]), column);
    for (const Lane::Task& task : lane.tasks)
      if (t.cell(row_of(task), column) != own) return false;
    if (own.empty() || !names.insert(own).second) return false;
  }
  return true;
}

// The column whose texts tell the tasks of every lane apart.
bool names_tasks(const std::vector<Lane>& lanes, const TableData& t, Index column,
                 const auto& row_of) {
  for (const Lane& lane : lanes) {
    std::set<std::string_view> names;
    for (const Lane::Task& task : lane.tasks) {
      const std::string_view own = t.cell(row_of(task), column);
      if (own.empty() || !names.insert(own).second) return false;
    }
  }
  return true;
}

std::size_t longest(const TableData& t, Index column) {
  std::size_t length = 0;
  for (Index r = 0; r < t.num_rows(); ++r) length = std::max(length, t.cell(r, column).size());
  return length;
}

// Texts only: a figure that happens to differ from task to task names none.
bool holds_texts(const TableData& t, Index column) {
  for (Index r = 0; r < t.num_rows(); ++r)
    if (Rational::parse(t.cell(r, column))) return false;
  return true;
}

void name_by_table(std::vector<Lane>& lanes, const Family& f) {
  const TableData& t = f.index.tables[0].data();
  const auto row_of = [&](const Lane::Task& task) { return f.index.rows(task.member)[0].index(); };
  Index label = -1;
  for (Index c = 0; c < static_cast<Index>(t.columns.size()); ++c) {
    if (!holds_texts(t, c)) continue;
    if (lanes[0].name.empty() && names_lanes(lanes, t, c, row_of))
      for (Lane& lane : lanes) lane.name = t.cell(row_of(lane.tasks[0]), c);
    else if (names_tasks(lanes, t, c, row_of) && (label < 0 || longest(t, c) < longest(t, label)))
      label = c;
  }
  for (Lane& lane : lanes)
    for (Lane::Task& task : lane.tasks)
      task.label = label < 0 ? row_name(t, row_of(task)) : std::string(t.cell(row_of(task), label));
}

}  // namespace

MachineLanes::MachineLanes(const Model& model) : m_(model.data()), found_(precedences_in(model)) {}

std::vector<Lane> MachineLanes::of(const Family& family) const {
  std::vector<Lane> lanes = lanes_in(found_, family);
  if (lanes.empty()) return lanes;
  if (family.index.tables.size() == 1) {
    name_by_table(lanes, family);
  } else {
    for (Lane& lane : lanes)
      for (Lane::Task& task : lane.tasks) task.label = m_.decision_name(family.first + task.member);
  }
  return lanes;
}

const Family* MachineLanes::main_family() const {
  const Family* best = nullptr;
  std::size_t most = 0;
  for (const auto& f : m_.families) {
    if (found_.machines.empty()) break;
    std::size_t tasks = 0;
    for (const Lane& lane : lanes_in(found_, *f)) tasks += lane.tasks.size();
    if (tasks <= most) continue;
    best = f.get();
    most = tasks;
  }
  return best;
}

}  // namespace kiteknot::report
