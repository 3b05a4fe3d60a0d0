#pragma once
// Figures of a model's answer as SVG of 1280 x 800: the plane of two decisions, the tree of a
// search, its best plan and bound over time, and the plan itself in the shape that its tables
// suggest. Pure functions; nothing is written here.

#include "kiteknot/result.hpp"
#include "kiteknot/saved.hpp"
#include "kiteknot/trials.hpp"
#include "kiteknot/workbench.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

struct DrawOptions {
  bool dark = false;  ///< for a dark ground
};

/// Two decisions, and values that others are held at; those not named stand as in the plan.
struct PlaneAsked {
  Decision x, y;
  std::vector<std::pair<Decision, Rational>> at{};
};

/// Rules as lines with their names, what all rules leave, whole points inside and outside, the
/// goal's direction, the relaxed and the whole optimum and the roundings between. Where rules are
/// conditions or curves the region is what holds at each point. UsageError for one decision twice,
/// and where the result has no plan to hold the others at.
std::string plane_figure(const Result& result, const PlaneAsked& asked,
                         const DrawOptions& options = {});
/// One small plane a round: the first tableau, then every step that added a cut or a branch, or
/// moved the point; of many the first and last ones, twelve at most.
std::string plane_story_figure(const Workbench& bench, const PlaneAsked& asked,
                               const DrawOptions& options = {});

/// The branches that were recorded (SolveOptions::record_branches), each with what was decided, its
/// bound and why it was closed; of many the way to the best plan and the top, the rest counted.
/// UsageError where none were.
std::string tree_figure(const Result& result, const DrawOptions& options = {});
/// The same branches as a DOT graph.
std::string tree_dot(const Result& result);

/// Best plan and bound of one run over time.
struct ProgressRun {
  std::string name;  ///< over its picture
  std::string goal;
  Sense sense = Sense::minimize;
  bool proven = false;
  double seconds = 0.0;
  std::vector<Progress> progress;
};
/// The steps of one search, named in the figure's key.
ProgressRun progress_of(const Result& result, const std::string& name);
/// UsageError where the document says nothing about how it went.
ProgressRun progress_of(const SavedAnswer& answer, const std::string& name);
/// Up to six runs on one page, all with one scale of time and, where the goal is the same, of
/// values. UsageError for none, and where no run has a plan and a bound to show.
std::string progress_figure(const std::vector<ProgressRun>& runs, const DrawOptions& options = {});

/// A curve of the model, by name: its pieces, its jumps and the value that counts there, and, with
/// a plan, what it is used at. UsageError with the nearest name for one that is not there.
std::string curve_figure(const Model& model, const std::string& curve, const Plan* plan = nullptr,
                         const DrawOptions& options = {});

enum class PlanShape { by_tables, grid, bars, steps, map, times };
/// What a family of decisions comes to. `family` empty: the one that says most. A family of two
/// keys is a grid, one over an ordered table steps, one between places with x and y a map, one of
/// begins that rules keep apart in pairs bars over time, any other bars against its data; `shape`
/// says otherwise. UsageError where a shape does not fit, with those that do.
std::string plan_figure(const Model& model, const Plan& plan, const std::string& family = {},
                        PlanShape shape = PlanShape::by_tables, const DrawOptions& options = {});

/// A comparison over time: of one case the value of every way with the bound, of several the
/// distance from the best in their middle. These three throw UsageError where no way found a plan.
std::string trials_time_figure(const Trials& trials, const DrawOptions& options = {});
/// How far every way ended from the best, one dot for each case; the nearest way first.
std::string trials_distance_figure(const Trials& trials, const DrawOptions& options = {});
/// The share of cases that each way has brought within this of the best, over time.
std::string trials_share_figure(const Trials& trials, double within = 0.01,
                                const DrawOptions& options = {});

}  // namespace kiteknot
#pragma GCC visibility pop
