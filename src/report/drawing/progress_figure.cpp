#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/drawing/plane_scene.hpp"
#include "report/drawing/search_lines.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

using report::Area;
using report::Drawing;
using report::SearchLines;

constexpr std::size_t kMostRuns = 6;

// The runs below each other with one scale of time; one of values where their goals are the same.
class ProgressDrawer {
 public:
  ProgressDrawer(const std::vector<ProgressRun>& runs, const report::Ground& g)
      : runs_(runs), g_(g), d_(report::sheet(title(runs), below(runs), g)) {
    for (const ProgressRun& run : runs) {
      lines_.push_back(report::search_lines(run.progress, run.seconds));
      const SearchLines& lines = lines_.back();
      some_ = some_ || lines.some();
      end_ = std::max(end_, lines.end);
      if (lines.plans.empty() && lines.bounds.empty()) continue;
      first_ = std::min(first_, lines.first);
      low_ = std::min(low_, lines.low);
      high_ = std::max(high_, lines.high);
    }
    constexpr double kDecades = 30.0;  // from here on each step of the axis is ten times the last
    first_ = std::max(first_, 1e-6 * end_);
    log_ = end_ / first_ > kDecades;
    one_goal_ = std::all_of(runs.begin(), runs.end(),
                            [&](const ProgressRun& r) { return r.goal == runs[0].goal; });
  }

  std::string draw() {
    if (!some_)
      throw UsageError(
          "there is nothing to draw over time: no run has both a plan and a bound that moved");
    const double height = (kBottom - kTop) / static_cast<double>(runs_.size());
    for (std::size_t k = 0; k < runs_.size(); ++k)
      panel(k,
            {kLeft, kTop + static_cast<double>(k) * height + 26.0, kRight - kLeft, height - 44.0});
    time_axis();
    legend();
    return std::move(d_).finish();
  }

 private:
  static constexpr double kLeft = 130.0, kRight = 1220.0, kTop = 92.0, kBottom = 726.0;
  static std::string title(const std::vector<ProgressRun>& runs) {
    return runs.size() == 1 ? runs[0].name : "Best plan and bound over time";
  }
  static std::string below(const std::vector<ProgressRun>& runs) {
    return runs.size() == 1 ? "Best plan and what is still possible over time"
                            : "One scale of time for all; each run under its name";
  }

  [[nodiscard]] double x(double t) const {
    const double at =
        log_ ? std::log(std::max(t, first_) / first_) / std::log(end_ / first_) : t / end_;
    return kLeft + at * (kRight - kLeft);
  }

  void panel(std::size_t k, const Area& area) {
    const ProgressRun& run = runs_[k];
    const SearchLines& lines = lines_[k];
    double low = one_goal_ ? low_ : lines.low, high = one_goal_ ? high_ : lines.high;
    const std::string beyond = cut_axis(run, lines, low, high);
    if (!(low < high)) {
      const double room = std::max(1.0, 0.05 * std::abs(low));
      low = std::isfinite(low) ? low - room : 0.0;
      high = low + 2.0 * room;
    }
    const double room = 0.08 * (high - low);
    const report::Scale fx = [&](double t) { return x(t); };
    const report::Scale fy = [&](double value) {
      const double v = std::clamp(value, low - room, high + room);
      return area.top + area.height - (v - low + room) / (high - low + 2.0 * room) * area.height;
    };
    if (lines.some()) d_.shape(report::open_path(lines, fx, fy), "none", 0.0, g_.shade);
    d_.line({area.left, area.top}, {area.left, area.top + area.height}, g_.soft, 1.0);
    d_.line({area.left, area.top + area.height}, {area.left + area.width, area.top + area.height},
            g_.soft, 1.0);
    for (const double v : {low, high})
      d_.text({area.left - 8.0, fy(v) + 4.5}, report::brief_figure(v), 13.0, g_.soft,
              Drawing::Side::right);
    report::Labels labels({area.left + 2.0, area.top, area.width - 4.0, area.height});
    if (!lines.bounds.empty())
      d_.shape(report::step_path(lines.bounds, lines.end, fx, fy), g_.second, 2.2);
    if (!lines.plans.empty())
      d_.shape(report::step_path(lines.plans, lines.end, fx, fy), g_.first, 2.6);
    keep_clear(labels, lines.bounds, lines.end, fx, fy);
    keep_clear(labels, lines.plans, lines.end, fx, fy);
    if (!beyond.empty())
      d_.text({area.left + area.width, area.top - 8.0}, beyond, 13.0, g_.soft,
              Drawing::Side::right);
    for (const auto& p : lines.plans) {
      if (p.value < low - room || p.value > high + room) continue;
      const report::Spot at{fx(p.time), fy(p.value)};
      d_.dot(at, 4.0, g_.first, g_.paper);
      labels.keep_mark(at, 4.0);
    }
    // The last plan first, then from the left; whatever has no room stays a dot.
    for (std::size_t n = 0; n < lines.plans.size(); ++n) {
      const auto& p = lines.plans[n == 0 ? lines.plans.size() - 1 : n - 1];
      if (p.value < low - room || p.value > high + room) continue;
      const std::string by = p.found_by.empty() ? "" : " " + p.found_by;
      labels.place(d_, {fx(p.time), fy(p.value)}, 5.0, figure(p.value) + by, 12.5, n == 0, n == 0);
    }
    name_over(run, lines,
              {area.left, area.top,
               area.width - (beyond.empty() ? 0.0 : report::width_of_words(beyond, 13.0) + 24.0),
               area.height});
  }

  // Early plans far from all that comes later would flatten it: the scale ends before them, and a
  // line says so.
  static std::string cut_axis(const ProgressRun& run, const SearchLines& lines, double& low,
                              double& high) {
    constexpr double kFar = 3.0, kRoom = 0.15;  // times the second half of the plans, with bounds
    if (lines.plans.size() < 3 || lines.bounds.empty()) return {};
    const bool up = run.sense == Sense::minimize;  // early plans lie above
    double least = HUGE_VAL, most = -HUGE_VAL;
    const auto keep = [&](double v) {
      least = std::min(least, v);
      most = std::max(most, v);
    };
    for (std::size_t k = lines.plans.size() / 2; k < lines.plans.size(); ++k)
      keep(lines.plans[k].value);
    for (const auto& b : lines.bounds) keep(b.value);
    const double width = most - least;
    if (!(width > 0.0)) return {};
    for (std::size_t k = lines.plans.size() / 2;
         k-- > 0;) {  // early ones, as long as they are near
      const double v = lines.plans[k].value;
      if ((up ? v - least : most - v) > kFar * width) break;
      keep(v);
    }
    const double end = up ? most + kRoom * (most - least) : least - kRoom * (most - least);
    std::size_t beyond = 0;
    for (const auto& p : lines.plans) beyond += up ? p.value > end : p.value < end;
    if (beyond == 0) return {};
    (up ? high : low) = end;
    const std::string first = figure(lines.plans.front().value);
    return beyond == 1 ? fmt::format("the scale is cut: an early plan, {}, lies beyond", first)
                       : fmt::format("the scale is cut: {}, the first {}, lie beyond",
                                     counted(beyond, "early plan"), first);
  }

  // Of an axis: told apart also below what a duration says.
  static std::string tick_words(double t) {
    if (t <= 0.0) return "0 s";
    if (t < 1e-3) return fmt::format("{:.3g} ms", 1e3 * t);
    return duration(t);
  }

  void name_over(const ProgressRun& run, const SearchLines& lines, const Area& area) {
    std::string words = runs_.size() == 1 ? run.goal : fmt::format("{}: {}", run.name, run.goal);
    if (lines.plans.empty()) {
      words += ", no plan";
    } else {
      words += " " + figure(lines.plans.back().value);
      words += run.proven ? ", proven"
               : lines.bounds.empty()
                   ? ""
                   : fmt::format(", nothing {} {} can exist",
                                 run.sense == Sense::maximize ? "above" : "below",
                                 figure(lines.bounds.back().value));
    }
    words += (run.proven ? " after " : "; stopped after ") + duration(lines.end);
    d_.text({area.left, area.top - 8.0}, report::fitted(words, 14.0, area.width), 14.0, g_.ink,
            Drawing::Side::left, runs_.size() > 1);
  }

  static void keep_clear(report::Labels& labels, const std::vector<report::LinePoint>& line,
                         double end, const report::Scale& x, const report::Scale& y) {
    constexpr std::size_t kMost = 400;
    for (std::size_t k = 0; k < line.size() && k < kMost; ++k) {
      const double until = k + 1 < line.size() ? line[k + 1].time : end;
      labels.keep_clear_of({x(line[k].time), y(line[k].value)}, {x(until), y(line[k].value)});
    }
  }

  void time_axis() {
    const double y = kBottom + 10.0;
    double last = -HUGE_VAL;  // where the words before end
    const auto tick = [&](double t) {
      const std::string words = tick_words(t);
      const double half = 0.5 * report::width_of_words(words, 13.0);
      const double at = std::clamp(x(t), kLeft + half, kRight - half);
      if (at - half < last + 10.0) return;
      d_.line({x(t), kBottom - 18.0}, {x(t), kBottom - 12.0}, g_.soft, 1.0);
      d_.text({at, y}, words, 13.0, g_.soft, Drawing::Side::middle);
      last = at + half;
    };
    if (log_) {
      const int last_power = static_cast<int>(std::floor(std::log10(end_)));
      for (int power = static_cast<int>(std::ceil(std::log10(first_))); power <= last_power;
           ++power)
        tick(std::pow(10.0, power));
    } else {
      constexpr int kTicks = 5;
      for (int k = 0; k <= kTicks; ++k) tick(end_ * k / kTicks);
    }
  }

  void legend() {
    double at = kLeft;
    const double y = 770.0;
    const auto say = [&](const std::string& words) {
      d_.text({at, y + 4.5}, words, 13.5, g_.soft);
      at += report::width_of_words(words, 13.5) + 26.0;
    };
    d_.line({at, y}, {at + 26.0, y}, g_.first, 2.6);
    d_.dot({at + 13.0, y}, 4.0, g_.first, g_.paper);
    at += 34.0;
    say("best plan, and who found it");
    d_.line({at, y}, {at + 26.0, y}, g_.second, 2.2);
    at += 34.0;
    say("nothing better can exist");
    d_.box({at, y - 7.0, 24.0, 14.0}, g_.shade);
    at += 32.0;
    say(log_ ? "still possible; each step of the time axis is ten times the last"
             : "still possible");
  }

  const std::vector<ProgressRun>& runs_;
  const report::Ground& g_;
  Drawing d_;
  std::vector<SearchLines> lines_;
  bool some_ = false, log_ = false, one_goal_ = true;
  double low_ = HUGE_VAL, high_ = -HUGE_VAL, first_ = HUGE_VAL, end_ = 1e-9;
};

}  // namespace

ProgressRun progress_of(const Result& r, const std::string& name) {
  ProgressRun run;
  run.name = name;
  if (!r.goals.empty()) {
    run.goal = r.goals[0].name;
    run.sense = r.goals[0].sense;
  }
  run.proven = r.outcome == Outcome::optimal;
  run.seconds = r.search.seconds;
  run.progress = r.search.progress;
  return run;
}

ProgressRun progress_of(const SavedAnswer& a, const std::string& name) {
  if (a.progress.empty()) throw UsageError(a.named + " says nothing about how the search went");
  ProgressRun run;
  run.name = name;
  if (!a.goals.empty()) {
    run.goal = a.goals[0].name;
    run.sense = a.goals[0].sense == "maximize" ? Sense::maximize : Sense::minimize;
  }
  run.proven = a.outcome == "optimal";
  run.seconds = a.seconds;
  run.progress = a.progress;
  return run;
}

std::string progress_figure(const std::vector<ProgressRun>& runs, const DrawOptions& options) {
  if (runs.empty()) throw UsageError("there is no run to draw");
  if (runs.size() > kMostRuns)
    throw UsageError(fmt::format("at most {} runs go on one page, not {}", kMostRuns, runs.size()));
  return ProgressDrawer(runs, report::ground(options.dark)).draw();
}

}  // namespace kiteknot
