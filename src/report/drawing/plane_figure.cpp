#include <algorithm>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "report/drawing/plane_scene.hpp"

namespace kiteknot {
namespace {

using report::Area;
using report::Drawing;
using report::PlaneScene;

void legend(Drawing& d, const PlaneScene& s, const report::Ground& g) {
  double x = 90.0;
  const double y = report::kSheetHeight - 22.0;
  const auto say = [&](const std::string& words) {
    d.text({x, y + 5.0}, words, 13.5, g.soft);
    x += report::width_of_words(words, 13.5) + 26.0;
  };
  d.box({x, y - 7.0, 22.0, 13.0}, g.shade, g.first);
  x += 28.0;
  say(s.only_rows ? "what all rules leave" : "where all rules hold");
  if (s.x_whole && s.y_whole) {
    d.dot({x, y}, 4.0, g.ink);
    x += 10.0;
    say("whole plans");
    d.dot({x, y}, 4.0, g.paper, g.soft);
    x += 10.0;
    say("whole, but not allowed");
  } else if (s.x_whole || s.y_whole) {
    d.line({x, y - 7.0}, {x, y + 7.0}, g.faint, 1.5);
    x += 10.0;
    say((s.x_whole ? s.x_name : s.y_name) + " is whole here");
  }
  if (std::ranges::any_of(s.marks, [](const report::PlaneMark& m) {
        return m.kind == report::PlaneMark::Kind::rounded;
      })) {
    constexpr double kArm = 5.0;
    d.line({x - kArm, y - kArm}, {x + kArm, y + kArm}, g.bad, 2.2);
    d.line({x - kArm, y + kArm}, {x + kArm, y - kArm}, g.bad, 2.2);
    x += 11.0;
    say("rounded");
  }
  if (!s.curves.empty()) {
    d.line({x, y}, {x + 26.0, y}, g.first, 2.0);
    x += 34.0;
    say("edge of a rule");
  }
  if (s.goal_at) {
    d.dashes({x, y}, {x + 26.0, y}, g.good, 1.2, true);
    x += 34.0;
    say("all with one " + report::fitted(s.goal, 13.5, 200.0));
  }
  if (s.goal_x != 0.0 || s.goal_y != 0.0) {
    d.dashes({x, y}, {x + 26.0, y}, g.good, 1.8, true);
    x += 34.0;
    say("all with this " + report::fitted(s.goal, 13.5, 200.0));
  }
}

}  // namespace

std::string plane_figure(const Result& result, const PlaneAsked& asked,
                         const DrawOptions& options) {
  const Model& model = result.model();
  if (!result.has_plan() && model.num_decisions() > 2 + static_cast<std::int32_t>(asked.at.size()))
    throw UsageError("there is no plan to hold the other decisions at");
  report::PlaneOf plane(model, asked, result.has_plan() ? *result.plan : Plan(model));
  PlaneScene scene = plane.scene();
  plane.add_marks(scene);
  const report::Ground& g = report::ground(options.dark);
  Drawing d = report::sheet(
      model.title(), fmt::format("{} across, {} up{}", scene.x_name, scene.y_name, plane.others()),
      g);
  const Area area{90.0, 112.0, report::kSheetWidth - 130.0, report::kSheetHeight - 202.0};
  report::draw_plane(d, area, scene, report::window_of(scene), {}, g);
  d.text({area.left + area.width, area.top + area.height + 42.0},
         report::fitted(scene.x_name, 15.0, 500.0), 15.0, g.ink, Drawing::Side::right, true);
  d.text({90.0, 104.0}, report::fitted(scene.y_name, 15.0, 500.0), 15.0, g.ink, Drawing::Side::left,
         true);
  legend(d, scene, g);
  return std::move(d).finish();
}

}  // namespace kiteknot
