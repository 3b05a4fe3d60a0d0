// A curve of a model: its pieces, where it jumps and which value counts there, and what the plan
// makes of it.

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/draw.hpp"
#include "model/curve_uses.hpp"
#include "model/evaluation.hpp"
#include "report/drawing/plane_scene.hpp"

namespace kiteknot {
namespace {

using report::Area;
using report::Drawing;
using report::Spot;

std::shared_ptr<const CurveData> curve_named(const ModelData& m, const std::string& name) {
  std::vector<std::string> known;
  std::shared_ptr<const CurveData> found;
  const auto see = [&](const std::shared_ptr<const CurveData>& c) {
    if (c->name == name) found = c;
    if (std::find(known.begin(), known.end(), c->name) == known.end()) known.push_back(c->name);
  };
  for (const auto& c : m.curves) see(c);
  each_curve_use(m, [&](const Derived& use) { see(use.curve); });
  if (found) return found;
  throw UsageError(known.empty() ? fmt::format("{} has no curves", m.title)
                                 : fmt::format("no curve '{}'{}; there {} {}", name,
                                               nearest_hint(name, known),
                                               known.size() == 1 ? "is" : "are", listed(known)));
}

class CurveDrawer {
 public:
  CurveDrawer(const ModelData& m, const std::string& name, const Plan* plan,
              const report::Ground& g)
      : m_(m), g_(g), curve_(curve_named(m, name)), d_(report::sheet(m.title, below(name), g)) {
    pieces_ = CurvesNow().pieces(*curve_, m.number_values());
    if (plan != nullptr) see_uses(*plan);
    // An endless piece is shown as far again as the rest is wide, and to the farthest use.
    low_x_ = pieces_.front().from.is_finite() ? pieces_.front().from.to_double() : 0.0;
    high_x_ = pieces_.back().to.is_finite() ? pieces_.back().to.to_double() : HUGE_VAL;
    if (std::isinf(high_x_)) {
      high_x_ = pieces_.back().from.is_finite() ? pieces_.back().from.to_double() : low_x_;
      high_x_ += std::max(0.3 * (high_x_ - low_x_), 1.0);
      for (const Use& u : uses_) high_x_ = std::max(high_x_, u.x.to_double());
    }
    for (const CurvePiece& p : pieces_)
      for (const double x : {start(p), end(p)}) {
        low_y_ = std::min(low_y_, y_on(p, x));
        high_y_ = std::max(high_y_, y_on(p, x));
      }
    if (!(high_y_ > low_y_)) high_y_ = low_y_ + 1.0;
    if (!(high_x_ > low_x_)) high_x_ = low_x_ + 1.0;
  }

  std::string draw() {
    axes();
    lines();
    ends();
    used();
    return std::move(d_).finish();
  }

 private:
  struct Use {
    Rational x, y;
    std::string words;
  };

  static std::string below(const std::string& name) {
    return fmt::format(
        "curve {}; at a jump the full dot counts; marked is what the plan makes of it", name);
  }

  void see_uses(const Plan& plan) {
    const Evaluation at(m_, plan.values(), true);
    each_curve_use(m_, [&](const Derived& use) {
      if (use.curve != curve_) return;
      const Rational x = at.value(use.args[0]);
      if (x < pieces_.front().from || x > pieces_.back().to) return;
      const auto known =
          std::find_if(uses_.begin(), uses_.end(), [&](const Use& u) { return u.x == x; });
      if (known != uses_.end()) return;
      const Rational y = value_at(*curve_, pieces_, x);
      uses_.push_back({x, y, fmt::format("{} at {}", figure(y), figure(x))});
    });
  }

  [[nodiscard]] double start(const CurvePiece& p) const {
    return p.from.is_finite() ? p.from.to_double() : low_x_;
  }
  [[nodiscard]] double end(const CurvePiece& p) const {
    return p.to.is_finite() ? p.to.to_double() : high_x_;
  }
  static double y_on(const CurvePiece& p, double x) {
    return p.value.to_double() +
           p.slope.to_double() * (x - (p.from.is_finite() ? p.from.to_double() : x));
  }
  [[nodiscard]] Spot spot(double x, double y) const {
    return {kArea.left + (x - low_x_) / (high_x_ - low_x_) * kArea.width,
            kArea.top + kArea.height - (y - low_y_) / (high_y_ - low_y_) * kArea.height};
  }

  void axes() {
    d_.line({kArea.left - 14.0, kArea.top}, {kArea.left - 14.0, kArea.top + kArea.height}, g_.soft,
            1.0);
    const double floor = kArea.top + kArea.height + 14.0;
    d_.line({kArea.left, floor}, {kArea.left + kArea.width, floor}, g_.soft, 1.0);
    // Its own corners are what is worth a figure.
    double last = -HUGE_VAL;
    for (const CurvePiece& p : pieces_)
      for (const double x : {start(p), end(p)}) {
        const std::string words = figure(x);
        const double at = spot(x, 0).x, half = 0.5 * report::width_of_words(words, 13.0);
        if (at - half < last + 8.0) continue;
        d_.line({at, floor}, {at, floor + 6.0}, g_.soft, 1.0);
        d_.text({at, floor + 22.0}, words, 13.0, g_.soft, Drawing::Side::middle);
        last = at + half;
      }
    std::vector<double> heights;
    for (const CurvePiece& p : pieces_)
      for (const double x : {start(p), end(p)}) heights.push_back(y_on(p, x));
    std::sort(heights.begin(), heights.end());
    double taken = HUGE_VAL;
    for (const double y : heights) {
      const double at = spot(low_x_, y).y;
      if (at > taken - 18.0) continue;
      d_.text({kArea.left - 22.0, at + 4.5}, report::brief_figure(y), 13.0, g_.soft,
              Drawing::Side::right);
      taken = at;
    }
  }

  void lines() {
    for (std::size_t k = 0; k < pieces_.size(); ++k) {
      const CurvePiece& p = pieces_[k];
      if (p.from == p.to) continue;
      d_.line(spot(start(p), y_on(p, start(p))), spot(end(p), y_on(p, end(p))), g_.first, 2.6);
    }
    for (std::size_t k = 0; k + 1 < pieces_.size(); ++k) {  // jumps
      const double x = end(pieces_[k]), left = y_on(pieces_[k], x),
                   right = y_on(pieces_[k + 1], start(pieces_[k + 1]));
      if (left != right) d_.dashes(spot(x, left), spot(x, right), g_.soft, 1.2, true);
    }
  }

  void ends() {
    for (const CurvePiece& p : pieces_) {
      if (p.from == p.to) {
        d_.dot(spot(start(p), p.value.to_double()), 4.5, g_.first, g_.first);
        continue;
      }
      d_.dot(spot(start(p), y_on(p, start(p))), 4.5, p.owns_from ? g_.first : g_.paper, g_.first);
      if (p.to.is_finite())
        d_.dot(spot(end(p), y_on(p, end(p))), 4.5, p.owns_to ? g_.first : g_.paper, g_.first);
    }
    // What counts at a corner lies over what does not.
    for (const CurvePiece& p : pieces_) {
      if (p.owns_from) d_.dot(spot(start(p), y_on(p, start(p))), 4.5, g_.first, g_.first);
      if (p.to.is_finite() && p.owns_to)
        d_.dot(spot(end(p), y_on(p, end(p))), 4.5, g_.first, g_.first);
    }
  }

  void used() {
    constexpr double kMark = 8.0;
    report::Labels labels({kArea.left, kArea.top - 30.0, kArea.width + 40.0, kArea.height + 30.0});
    for (const CurvePiece& p : pieces_)
      labels.keep_clear_of(spot(start(p), y_on(p, start(p))), spot(end(p), y_on(p, end(p))));
    for (const Use& u : uses_) labels.keep_mark(spot(u.x.to_double(), u.y.to_double()), kMark);
    for (const Use& u : uses_) {
      const Spot at = spot(u.x.to_double(), u.y.to_double());
      d_.dot(at, kMark, "none", g_.second);
      d_.dot(at, kMark - 1.5, "none", g_.second);
      labels.place(d_, at, kMark, u.words, 13.5, true, true);
    }
  }

  static constexpr Area kArea{120.0, 120.0, 1080.0, 580.0};
  const ModelData& m_;
  const report::Ground& g_;
  std::shared_ptr<const CurveData> curve_;
  Drawing d_;
  std::vector<CurvePiece> pieces_;
  std::vector<Use> uses_;
  double low_x_ = 0.0, high_x_ = 0.0, low_y_ = HUGE_VAL, high_y_ = -HUGE_VAL;
};

}  // namespace

std::string curve_figure(const Model& model, const std::string& curve, const Plan* plan,
                         const DrawOptions& options) {
  if (plan != nullptr) need_plan_of(model.data(), *plan);
  return CurveDrawer(model.data(), curve, plan, report::ground(options.dark)).draw();
}

}  // namespace kiteknot
