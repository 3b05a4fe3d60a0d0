#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/drawing/plan_pictures.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

const Family& family_named(const Model& model, const std::string& name) {
  need_decisions(model, name);
  for (const auto& f : model.data().families)
    if (f->name == name) return *f;
  throw UsageError("no decisions '" + name + "' in the model");
}

}  // namespace

std::string plan_figure(const Model& model, const Plan& plan, const std::string& name,
                        PlanShape shape, const DrawOptions& options) {
  const ModelData& m = model.data();
  need_plan_of(m, plan);
  if (m.num_decisions == 0) throw UsageError("the model has no decisions to draw");
  const Family* family = name.empty() ? &report::main_family(m, plan) : &family_named(model, name);
  if (name.empty() && shape != PlanShape::by_tables) {  // the largest that can be drawn so
    const Family* best = nullptr;
    for (const auto& f : m.families) {
      const std::vector<PlanShape> fit = report::shapes_of(*f);
      if (std::find(fit.begin(), fit.end(), shape) == fit.end()) continue;
      if (best == nullptr || f->index.count > best->index.count) best = f.get();
    }
    if (best != nullptr) family = best;
  }
  const report::MachineLanes machines(model);
  if (const Family* timed = name.empty() ? machines.main_family() : nullptr;
      timed != nullptr && (shape == PlanShape::by_tables || shape == PlanShape::times))
    family = timed;
  std::vector<PlanShape> fit = report::shapes_of(*family);
  const std::vector<report::Lane> lanes = machines.of(*family);
  if (!lanes.empty()) fit.insert(fit.begin(), PlanShape::times);
  if (shape != PlanShape::by_tables && std::find(fit.begin(), fit.end(), shape) == fit.end()) {
    std::vector<std::string> words;
    for (const PlanShape s : fit) words.emplace_back(report::word(s));
    throw UsageError(fmt::format("{} cannot be drawn as {}; what fits its tables: {}", family->name,
                                 report::word(shape), listed(words)));
  }
  const PlanShape chosen = shape == PlanShape::by_tables ? fit[0] : shape;
  const report::Ground& g = report::ground(options.dark);
  // What a picture shows is known once it is drawn: the sheet comes last, around it.
  const report::Area area{50.0, 104.0, report::kSheetWidth - 100.0, report::kSheetHeight - 144.0};
  const auto draw = [&](report::Drawing& d) {
    const report::PlanPicture picture{d, area, g, m, plan, *family};
    switch (chosen) {
      case PlanShape::grid:
        return report::draw_grid(picture);
      case PlanShape::steps:
        return report::draw_steps(picture);
      case PlanShape::map:
        return report::draw_plan_map(picture);
      case PlanShape::times:
        return report::draw_times(picture, lanes);
      default:
        return report::draw_bars(picture);
    }
  };
  report::Drawing trial(1.0, 1.0, g);
  const std::string how = draw(trial);
  report::Drawing d = report::sheet(family->index.tables.empty()
                                        ? model.title()
                                        : fmt::format("{}: {}", model.title(), family->name),
                                    how, g);
  (void)draw(d);
  return std::move(d).finish();
}

}  // namespace kiteknot
