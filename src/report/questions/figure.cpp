#include "kiteknot/figure.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <tuple>

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/model_data.hpp"
#include "report/drawing/drawing.hpp"

namespace kiteknot {
namespace {

using namespace report::colours;

std::string quoted(const std::string& text) {
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') out += '\\';
    out += c;
  }
  return out + "\"";
}

double real(const Rational& v) {
  return v.to_double();
}

// Room around the values, so that no mark touches the frame.
std::string range(const char* axis, double low, double high) {
  const double room = high > low ? (high - low) * 0.07 : std::max(std::abs(high) * 0.05, 1.0);
  return fmt::format("set {}range [{}:{}]\n", axis, low - room, high + room);
}

std::string paper(const std::string& file, const std::string& as, const std::string& title,
                  const std::string& below) {
  const std::string& ending = as.empty() ? file : as;
  std::string terminal;
  if (ending.ends_with(".svg"))
    terminal = "svg size 1280,800 dynamic font \"DejaVu Sans,17\"";
  else if (ending.ends_with(".png"))
    terminal = "pngcairo size 1280,800 font \"DejaVu Sans,13\"";
  else
    throw UsageError("a figure's file ends in .svg or .png");
  return fmt::format(
      "set terminal {0} noenhanced background rgb \"{1}\"\n"
      "set output {2}\n"
      "set encoding utf8\n"
      "set lmargin 12\nset rmargin 6\nset tmargin 6\nset bmargin 5\n"
      "set border 3 lc rgb \"{3}\" lw 1.2\n"
      "set tics nomirror out textcolor rgb \"{3}\"\n"
      "set grid ytics lt 1 lc rgb \"{4}\" lw 0.7\n"
      "set label 90 {5} at graph 0, graph 1.115 left textcolor rgb \"{3}\" font \",{7}\"\n"
      "set label 91 {6} at graph 0, graph 1.05 left textcolor rgb \"{3}\"\n"
      "unset key\n",
      terminal, kPaper, quoted(file), kInk, kFaint, quoted(title), quoted(below),
      ending.ends_with(".svg") ? 24 : 18);
}

// A label for every point with room for one: above the line and away from it, the ends first.
std::string labels(const std::vector<std::pair<double, double>>& points, double low, double high,
                   bool rising) {
  struct Box {
    double x, y, width;
  };
  constexpr double kWidth = 1080.0, kHeight = 570.0, kLetter = 10.0, kLine = 26.0;  // pixels, about
  const double across = std::max(points.back().first - points.front().first, 1e-300);
  const double up = std::max(high - low, 1e-300);
  std::vector<Box> placed;
  std::string text;
  const auto place = [&](std::size_t k) {
    const auto& [x, y] = points[k];
    const bool last = k + 1 == points.size(), first = k == 0;
    const std::string name = fmt::format("{} at {}", figure(y), figure(x));
    const bool to_left = rising ? !first : last, below = rising ? first : last;
    const double width = kLetter * static_cast<double>(name.size());
    const double px = (x - points.front().first) / across * kWidth;
    const Box box{to_left ? px - width : px, (y - low) / up * kHeight + (below ? -kLine : kLine),
                  width};
    for (const Box& b : placed)
      if (box.x < b.x + b.width && b.x < box.x + box.width && std::abs(box.y - b.y) < kLine) return;
    placed.push_back(box);
    text += fmt::format("set label {} {} at {}, {} {} offset {}, {} textcolor rgb \"{}\"\n",
                        placed.size(), quoted(name), x, y, to_left ? "right" : "left",
                        to_left ? -0.6 : 0.6, below ? -1.0 : 0.9, kInk);
  };
  place(0);
  if (points.size() > 1) place(points.size() - 1);
  for (std::size_t k = 1; k + 1 < points.size(); ++k) place(k);
  return text;
}

std::string axes(const std::string& x, const std::string& y) {
  return fmt::format(
      "set xlabel {} textcolor rgb \"{}\"\nset ylabel {} textcolor rgb \"{}\"\n"
      "set format x \"%'.10g\"\nset format y \"%'.10g\"\n",
      quoted(x), kInk, quoted(y), kInk);
}

std::string table(const std::string& name, const std::vector<std::pair<double, double>>& points) {
  std::string text = name + " << EOD\n";
  for (const auto& [x, y] : points) text += fmt::format("{} {}\n", x, y);
  return text + "EOD\n";
}

// Dots for what was solved, rings where the plan changes, bars up to where better plans may exist,
// bands where there is no plan to show.
class SweepFigure {
 public:
  SweepFigure(const ModelData& m, const Variation& v) : m_(m), v_(v) {
    for (const Variant& one : v.variants) {
      const double x = real(one.at);
      values_.emplace_back(x, one.goal ? "" : word_of(one.outcome));
      if (!one.goal) continue;
      const double y = real(*one.goal);
      points_.emplace_back(x, y);
      heights_.push_back(y);
      const bool open = one.outcome == Outcome::unproven || one.outcome == Outcome::accepted;
      if (!open || !one.bound || !std::isfinite(*one.bound)) continue;
      bars_.push_back({x, y, *one.bound});
      heights_.push_back(*one.bound);
    }
    std::sort(points_.begin(), points_.end());
    std::sort(values_.begin(), values_.end());
    if (heights_.empty()) heights_ = {0.0, 1.0};
    for (const Step& s : v.steps)
      if (s.goal_before && s.goal_after)
        rings_.emplace_back(real(s.last_old ? s.before : s.after),
                            real(s.last_old ? *s.goal_before : *s.goal_after));
  }

  std::string program(const std::string& file, const std::string& as) const {
    const std::string& goal = m_.first_goal().name;
    std::string text =
        paper(file, as, fmt::format("{}: {} over {}", m_.title, goal, v_.varied), below());
    text += axes(v_.varied, goal);
    text += range("x", values_.front().first, values_.back().first);
    const auto [low, high] = std::ranges::minmax(heights_);
    text += range("y", low, high);
    text += bands();
    text += table("$rings", rings_) + line() + table("$points", points_);
    text += "$bars << EOD\n";
    for (const auto& [x, from, to] : bars_)
      text += fmt::format("{} {} {} {}\n", x, from, std::min(from, to), std::max(from, to));
    text += "EOD\n";
    // Where changes were not looked for, nothing is known between the dots.
    text += fmt::format("plot $line using 1:2 with lines {} lc rgb \"{}\"",
                        v_.all_steps ? "lt 1 lw 2.2" : "dt 3 lw 1.2", kBlue);
    if (!bars_.empty())
      text +=
          fmt::format(", $bars using 1:2:3:4 with yerrorbars ps 0 lt 1 lw 1.6 lc rgb \"{}\"", kRed);
    text += fmt::format(", $points using 1:2 with points pt 7 ps 1.1 lc rgb \"{}\"", kBlue);
    if (!rings_.empty())
      text += fmt::format(", $rings using 1:2 with points pt 6 ps 1.9 lw 2 lc rgb \"{}\"", kRed);
    return text + "\n";
  }

 private:
  struct Bar {
    double x, from, to;
  };
  using Points = std::vector<std::pair<double, double>>;

  static std::string word_of(Outcome outcome) {
    return outcome == Outcome::infeasible  ? "no plan"
           : outcome == Outcome::unbounded ? "no end"
                                           : "not known";
  }
  std::string below() const {
    return fmt::format("the best {} {}for every value; a dot for each that was solved{}{}{}",
                       m_.first_goal().name, bars_.empty() ? "" : "found ",
                       v_.all_steps ? "" : ", dotted where nothing was asked",
                       rings_.empty() ? "" : ", a ring where the plan changes",
                       bars_.empty() ? "" : ", a bar to where better ones may be");
  }
  // Through the dots and both sides of every change; broken where the best jumps there.
  std::string line() const {
    Points line = points_;
    std::vector<std::pair<double, double>> jumps;  // between these
    for (const Step& s : v_.steps)
      if (s.goal_before && s.goal_after) {
        line.emplace_back(real(s.before), real(*s.goal_before));
        line.emplace_back(real(s.after), real(*s.goal_after));
        if (!s.tie) jumps.emplace_back(std::minmax(real(s.before), real(s.after)));
      }
    std::sort(line.begin(), line.end());
    line.erase(std::unique(line.begin(), line.end()), line.end());
    std::string text = "$line << EOD\n";
    for (std::size_t k = 0; k < line.size(); ++k) {
      const bool broken = k > 0 && std::ranges::any_of(jumps, [&](const auto& j) {
                            return line[k - 1].first <= j.first && line[k].first >= j.second;
                          });
      text += fmt::format("{}{} {}\n", broken ? "\n" : "", line[k].first, line[k].second);
    }
    return text + "EOD\n";
  }
  // Of sand, from the last value with a plan (known exactly where a step tells it, else half way)
  // to the next one.
  std::string bands() const {
    std::string text;
    int object = 0;
    for (std::size_t k = 0; k < values_.size();) {
      std::size_t end = k + 1;
      while (end < values_.size() && values_[end].second == values_[k].second) ++end;
      if (const std::string& word = values_[k].second; !word.empty()) {
        ++object;
        const double from = edge(k), to = edge(end);
        text += fmt::format(
            "set object {} rectangle from {}, graph 0 to {}, graph 1 fc rgb \"{}\" "
            "fs solid noborder behind\n"
            "set label {} \"{}\" at {}, graph 0.5 center rotate textcolor rgb \"{}\"\n",
            object, from, to, kSand, 100 + object, word, from + (to - from) / 2, kInk);
      }
      k = end;
    }
    return text;
  }
  // Between the value before k and k.
  double edge(std::size_t k) const {
    const double first = values_.front().first, last = values_.back().first;
    const double half =
        values_.size() > 1 ? (last - first) / (2.0 * static_cast<double>(values_.size() - 1)) : 0.5;
    if (k == 0) return first - half;
    if (k == values_.size()) return last + half;
    const double left = values_[k - 1].first, right = values_[k].first;
    for (const Step& s : v_.steps)
      if (s.goal_before.has_value() != s.goal_after.has_value() && real(s.before) >= left &&
          real(s.after) <= right)
        return real(s.goal_before ? s.before : s.after);
    return left + (right - left) / 2;
  }

  const ModelData& m_;
  const Variation& v_;
  Points points_, rings_;
  std::vector<Bar> bars_;
  std::vector<std::pair<double, std::string>> values_;  // rising, and why there is nothing to show
  std::vector<double> heights_;
};

}  // namespace

std::string sweep_figure(const Model& model, const Variation& v, const std::string& file,
                         const std::string& as) {
  if (v.kind != Variation::Kind::sweep || v.variants.empty() || model.data().goals.empty())
    throw UsageError("there is a figure of a sweep over a number, for a model with a goal");
  return SweepFigure(model.data(), v).program(file, as);
}

std::string trade_figure(const Model& model, const TradeOff& t, const std::string& file,
                         const std::string& as) {
  if (t.points.empty()) throw UsageError("there are no points to draw");
  std::string text =
      paper(file, as, fmt::format("{}: {} against {}", model.title(), t.first.name, t.second.name),
            t.all ? "no plan betters a dot in both, and there are no other dots"
                  : "no plan betters a dot in both; between the dots there may be more");
  text += axes(t.second.name, t.first.name);
  std::vector<std::pair<double, double>> points;
  for (const TradePoint& p : t.points) points.emplace_back(real(p.second), real(p.first));
  std::sort(points.begin(), points.end());
  double low = points[0].second, high = low;
  for (const auto& [x, y] : points) low = std::min(low, y), high = std::max(high, y);
  text += range("x", points.front().first, points.back().first);
  text += range("y", low, high);
  text += "$points << EOD\n";
  for (const auto& [x, y] : points) text += fmt::format("{} {}\n", x, y);
  text += "EOD\n";
  const bool rising = points.size() > 1 && points.back().second > points.front().second;
  text += labels(points, low, high, rising);
  text += fmt::format(
      "plot $points using 1:2 with {} lt 1 lw 2 lc rgb \"{}\", "
      "$points using 1:2 with points pt 7 ps 1.6 lc rgb \"{}\"\n",
      t.second.sense == Sense::minimize ? "steps" : "fsteps", kBlue, kRed);
  return text;
}

namespace {

// Of an axis by powers of ten, in the unit that a reader would say.
std::string time_ticks() {
  std::string ticks;
  for (int power = -5; power <= 5; ++power) {
    const bool short_times = power < -1;
    ticks += fmt::format("{}\"{} {}\" 1e{}", ticks.empty() ? "" : ", ",
                         rough(std::pow(10.0, short_times ? power + 3 : power)),
                         short_times ? "ms" : "s", power);
  }
  return ticks;
}

}  // namespace

std::string tour_progress_figure(const Stops& stops, const std::vector<TourAnswer>& answers,
                                 const std::string& file, const std::string& as) {
  constexpr double kSoonest = 1e-5;  // seconds: a log axis has no 0
  double soonest = std::numeric_limits<double>::infinity();
  std::vector<std::tuple<double, double, std::string, std::size_t>> ends;  // of the ways
  std::string plots, tables;
  double low = std::numeric_limits<double>::infinity(), high = -low, latest = kSoonest;
  std::size_t number = 0;
  for (const TourAnswer& a : answers) {
    std::vector<std::pair<double, double>> steps;
    for (const TourProgress& p : a.progress)
      if (p.length > 0.0) steps.emplace_back(std::max(kSoonest, p.seconds), p.length);
    if (a.order.empty()) continue;
    const bool goes_on = !steps.empty();  // others are a dot: they come to their end at once
    steps.emplace_back(std::max(kSoonest, a.seconds), a.length.to_double());
    ends.emplace_back(steps.back().first, steps.back().second, a.way, number);
    for (const auto& [when, length] : steps) {
      soonest = std::min(soonest, when);
      low = std::min(low, length);
      high = std::max(high, length);
      latest = std::max(latest, when);
    }
    tables += table(fmt::format("$way{}", number), steps);
    plots += fmt::format("{}$way{} using 1:2 with {} lc rgb \"{}\"", number == 0 ? "plot " : ", ",
                         number, goes_on ? "steps lt 1 lw 2.4" : "points pt 7 ps 1.5",
                         of_number(number));
    if (goes_on)
      plots += fmt::format(", $way{} using 1:2 every ::{} with points pt 7 ps 1.1 lc rgb \"{}\"",
                           number, steps.size() - 1, of_number(number));
    tables +=
        fmt::format("set label {} {} at graph 1.02, graph {} left textcolor rgb \"{}\"\n",
                    number + 1, quoted(fmt::format("{}: {}", a.way, rough(a.length.to_double()))),
                    0.95 - 0.06 * static_cast<double>(number), of_number(number));
    ++number;
  }
  if (number == 0) throw UsageError("none of these ways has a tour to draw");
  // Names beside the ends, as far as there is room; the list at the side has all.
  constexpr double kWide = 800.0, kHigh = 570.0, kLetter = 10.0, kLine = 22.0;  // pixels, about
  const double across = std::log(4.0 * latest / soonest),
               up = std::max(1.14 * (high - low), 1e-300);
  std::vector<std::array<double, 3>> placed;  // x, y, width
  std::string names;
  for (const auto& [when, length, way, k] : ends) {
    const double x = std::log(2.0 * when / soonest) / across * kWide,
                 y = (length - low) / up * kHigh,
                 width = kLetter * static_cast<double>(way.size() + 2);
    const bool meets = std::ranges::any_of(placed, [&](const auto& p) {
      return x < p[0] + p[2] && p[0] < x + width && std::abs(y - p[1]) < kLine;
    });
    if (meets || x + width > kWide) continue;
    placed.push_back({x, y, width});
    names += fmt::format("set label {} {} at {}, {} left offset 1, 0 textcolor rgb \"{}\"\n",
                         50 + k, quoted(way), when, length, of_number(k));
  }
  const std::string title = stops.title().empty() ? "The round trip" : stops.title();
  return paper(file, as, title + ": length against time",
               "lines are ways that get better as they go on, dots ways that come to their end") +
         "set rmargin 30\n" + axes("time", "length") + range("y", low, high) +
         fmt::format("set logscale x\nset xtics ({})\nset xrange [{}:{}]\n", time_ticks(),
                     0.5 * soonest, 2.0 * latest) +
         names + tables + plots + "\n";
}

}  // namespace kiteknot
