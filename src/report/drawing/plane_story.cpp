#include <cmath>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "report/drawing/plane_scene.hpp"

namespace kiteknot {
namespace {

using report::Drawing;
using report::PlaneMark;
using report::PlaneRow;
using report::PlaneScene;

// One small plane of a story.
struct PlaneRound {
  std::string title, below;
  std::vector<PlaneRow> added;
  std::optional<std::pair<Rational, Rational>> point;
  bool whole = false;
};

class StoryPlanes {
 public:
  StoryPlanes(const Workbench& bench, const PlaneAsked& asked, const Plan& held)
      : bench_(bench), asked_(asked), held_(held) {}

  std::vector<PlaneRound> rounds() {
    const BenchState& first = bench_.first();
    add(first, first, "At first");
    for (const Deed& deed : bench_.story()) {
      if (deed.number == 0) continue;
      if (const auto* all = std::get_if<deeds::CutAllTheWay>(&deed.what)) {
        every_cut(*deed.before, *deed.after, *all);
        continue;
      }
      const BenchState& s = *deed.after;
      if (s.copy().empty || s.tableau().is_optimal()) add(*deed.before, s, "");
    }
    return std::move(rounds_);
  }

 private:
  [[nodiscard]] PlaneRow row_of(const Tableau& t, const std::string& name,
                                const TableauSum& sum) const {
    PlaneRow row;
    row.kind = PlaneRow::Kind::added;
    row.name = name;
    Rational limit = sum.limit;
    for (const auto& [column, c] : sum.terms) {
      if (column == asked_.x.id)
        row.a = c.to_double();
      else if (column == asked_.y.id)
        row.b = c.to_double();
      else if (column < t.num_decisions())
        limit -= c * held_[column];
    }
    row.low = sum.at_least ? limit.to_double() : -HUGE_VAL;
    row.high = sum.at_least ? HUGE_VAL : limit.to_double();
    return row;
  }

  [[nodiscard]] std::vector<PlaneRow> added(const BenchState& s) const {
    const Tableau& t = s.tableau();
    std::vector<PlaneRow> out;
    for (const TableauRow& r : t.stated())
      if ((r.from == TableauRow::From::cut || r.from == TableauRow::From::own ||
           r.from == TableauRow::From::branch) &&
          !t.column(r.room).gone)
        out.push_back(row_of(t, r.name, {r.terms, r.sign < 0, r.limit}));
    if (!t.options().limits_as_rows)
      for (std::int32_t k = s.at; k > 1; k = s.copies[at(k - 1)].parent) {
        const BranchCopy& copy = s.copies[at(k - 1)];
        out.push_back(
            row_of(t, copy.condition, {{{copy.column, Rational(1)}}, !copy.at_most, copy.limit}));
      }
    std::erase_if(out, [](const PlaneRow& r) { return r.a == 0.0 && r.b == 0.0; });
    return out;
  }

  void add(const BenchState& before, const BenchState& s, const std::string& title) {
    const Tableau& t = s.tableau();
    PlaneRound round;
    round.added = added(s);
    round.title = title;
    if (round.title.empty() && s.at > 1) {
      round.title = fmt::format("Copy {}: {}", s.at, s.copy().condition);
    } else if (round.title.empty()) {
      std::vector<std::string> names;
      for (const TableauRow& r : t.stated())
        if ((r.from == TableauRow::From::cut || r.from == TableauRow::From::own) &&
            !t.column(r.room).gone)
          names.push_back(r.name);
      round.title = names.empty() ? "The relaxed best" : "With " + listed(names, 3);
    }
    if (s.copy().empty) {
      round.below = "no plan is left";
    } else {
      round.point = std::pair{t.value(asked_.x.id), t.value(asked_.y.id)};
      round.whole = t.is_feasible() && t.is_whole();
      round.below = told(t, t.goal_value(), *round.point);
    }
    (void)before;
    push(std::move(round));
  }

  void every_cut(const BenchState& before, const BenchState& after,
                 const deeds::CutAllTheWay& all) {
    const Tableau& t = after.tableau();
    std::vector<PlaneRow> rows = added(before);
    for (const CutRound& r : all.run.rounds) {
      rows.push_back(row_of(t, r.cut.name, r.cut.in_decisions));
      PlaneRound round;
      round.title = "With " + r.cut.name;
      round.added = rows;
      const bool possible = r.steps.end == TableauRun::End::optimal;
      if (possible) {
        round.point = std::pair{r.point[at(asked_.x.id)], r.point[at(asked_.y.id)]};
        round.whole = &r == &all.run.rounds.back() && all.run.end == CutRun::End::whole;
        round.below = told(t, r.after, *round.point);
      } else {
        round.below = "no plan is left";
      }
      push(std::move(round));
    }
  }

  [[nodiscard]] std::string told(const Tableau& t, const Rational& goal,
                                 const std::pair<Rational, Rational>& p) const {
    return fmt::format("{} {} at ({}, {})", t.goal_name(), fraction(goal), fraction(p.first),
                       fraction(p.second));
  }

  void push(PlaneRound round) {
    if (!rounds_.empty() && rounds_.back().title == round.title &&
        rounds_.back().below == round.below && rounds_.back().added.size() == round.added.size())
      return;
    rounds_.push_back(std::move(round));
  }

  const Workbench& bench_;
  const PlaneAsked& asked_;
  const Plan& held_;
  std::vector<PlaneRound> rounds_;
};

}  // namespace

std::string plane_story_figure(const Workbench& bench, const PlaneAsked& asked,
                               const DrawOptions& options) {
  const Model& model = bench.tableau().model();
  const Plan held = bench.state().best ? *bench.state().best : Plan(model);
  report::PlaneOf plane(model, asked, held);
  PlaneScene scene = plane.scene();
  std::vector<PlaneRound> rounds = StoryPlanes(bench, asked, plane.held()).rounds();
  constexpr std::size_t kMost = 12;
  std::size_t left_out = 0;
  if (rounds.size() > kMost) {
    left_out = rounds.size() - kMost;
    rounds.erase(rounds.begin() + kMost / 2,
                 rounds.begin() + kMost / 2 + static_cast<std::ptrdiff_t>(left_out));
  }
  PlaneScene all = scene;  // one window for all of them
  for (const PlaneRound& r : rounds)
    if (r.point)
      all.marks.push_back(
          {r.point->first.to_double(), r.point->second.to_double(), "", PlaneMark::Kind::relaxed});
  const report::PlaneWindow window = report::window_of(all);
  const report::Ground& g = report::ground(options.dark);
  Drawing d = report::sheet(
      model.title(),
      fmt::format("{} across, {} up{}; what was added is dashed{}", scene.x_name, scene.y_name,
                  plane.others(),
                  left_out > 0 ? fmt::format("; {} rounds in between are left out", left_out) : ""),
      g);
  const std::size_t count = rounds.size();
  const std::size_t across = count <= 2 ? count : count <= 4 ? 2 : count <= 9 ? 3 : 4;
  const std::size_t up = (count + across - 1) / across;
  const double width = (report::kSheetWidth - 60.0) / static_cast<double>(across),
               height = (report::kSheetHeight - 100.0) / static_cast<double>(up);
  for (std::size_t k = 0; k < count; ++k) {
    const PlaneRound& r = rounds[k];
    const std::size_t row = k / across;
    const double left = 40.0 + width * static_cast<double>(k % across),
                 top = 92.0 + height * static_cast<double>(row);
    d.text({left + 30.0, top + 16.0},
           report::fitted(fmt::format("{}. {}", k + 1, r.title), 13.5, width - 50.0), 13.5, g.ink,
           Drawing::Side::left, true);
    d.text({left + 30.0, top + 33.0}, report::fitted(r.below, 12.5, width - 50.0), 12.5, g.soft);
    PlaneScene one = scene;
    one.rows.insert(one.rows.end(), r.added.begin(), r.added.end());
    if (r.point)
      one.marks.push_back({r.point->first.to_double(), r.point->second.to_double(), "",
                           r.whole ? PlaneMark::Kind::whole : PlaneMark::Kind::relaxed});
    report::draw_plane(d, {left + 30.0, top + 42.0, width - 50.0, height - 76.0}, one, window,
                       {true}, g);
  }
  return std::move(d).finish();
}

}  // namespace kiteknot
