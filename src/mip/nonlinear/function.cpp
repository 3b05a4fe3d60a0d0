#include "mip/nonlinear/function.hpp"

#include <cstdlib>

#include "base/check.hpp"

namespace kiteknot::mip {
namespace {

constexpr Interval kNothing{kInf, -kInf};

Interval reciprocal(const Interval& x) {
  return divided({1.0, 1.0}, x);
}

// All v >= 0 with v^n in y, for y cut at 0.
Interval whole_root(const Interval& y, int n) {
  if (y.high < 0.0) return kNothing;
  const auto at = [&](double v, bool up) {
    if (v <= 0.0) return 0.0;
    if (std::isinf(v)) return v;
    double r = std::pow(v, 1.0 / n);
    // A guess, walked outward until its power says so for certain.
    for (int steps = 0; steps < 100 && (up ? power_down(r, n) < v : power_up(r, n) > v); ++steps)
      r = up ? r * (1.0 + 0x1p-50) + std::numeric_limits<double>::min()
             : std::max(0.0, r * (1.0 - 0x1p-50));
    const double near = std::round(r);  // whole roots of whole numbers stay whole
    if (near != r && std::abs(near - r) <= 0x1p-45 * r &&
        (up ? power_down(near, n) >= v : power_up(near, n) <= v))
      r = up ? std::min(r, near) : std::max(r, near);
    if (up ? power_down(r, n) < v : power_up(r, n) > v) return up ? kInf : 0.0;
    return r;
  };
  return {at(y.low, false), at(y.high, true)};
}

}  // namespace

UnaryFunction UnaryFunction::whole_power(int n) {
  KITEKNOT_CHECK(n != 0, "a power of 0 is a figure");
  return {Kind::whole_power, n, static_cast<double>(n)};
}
UnaryFunction UnaryFunction::real_power(double p) {
  return {Kind::real_power, 0, p};
}
UnaryFunction UnaryFunction::exponential() {
  return {Kind::exponential, 0, 0.0};
}
UnaryFunction UnaryFunction::logarithm() {
  return {Kind::logarithm, 0, 0.0};
}

Interval UnaryFunction::domain() const {
  const bool half = kind_ == Kind::logarithm || kind_ == Kind::real_power;
  return {half ? 0.0 : -kInf, kInf};
}

Interval UnaryFunction::values(const Interval& range) const {
  const Interval x = intersection(range, domain());
  if (is_empty(x)) return kNothing;
  switch (kind_) {
    case Kind::whole_power:
      return n_ > 0 ? kiteknot::power(x, n_) : reciprocal(kiteknot::power(x, -n_));
    case Kind::real_power:
      return p_ > 0.0 ? kiteknot::real_power(x, p_) : reciprocal(kiteknot::real_power(x, -p_));
    case Kind::exponential:
      return kiteknot::exponential(x);
    case Kind::logarithm:
      return kiteknot::logarithm(x);
  }
  return kWholeLine;
}

Interval UnaryFunction::slopes(const Interval& range) const {
  const Interval x = intersection(range, domain());
  if (is_empty(x)) return kNothing;
  switch (kind_) {
    case Kind::whole_power: {
      const Interval n{p_, p_};
      if (n_ == 1) return {1.0, 1.0};
      return n_ > 0 ? n * kiteknot::power(x, n_ - 1) : n * reciprocal(kiteknot::power(x, 1 - n_));
    }
    case Kind::real_power: {
      // p - 1 is exact or known as well as p is.
      const double q = p_ - 1.0;
      const Interval p{step_down(p_), step_up(p_)};
      return p * (q > 0.0 ? kiteknot::real_power(x, q) : reciprocal(kiteknot::real_power(x, -q)));
    }
    case Kind::exponential:
      return kiteknot::exponential(x);
    case Kind::logarithm:
      return reciprocal(x);
  }
  return kWholeLine;
}

Interval UnaryFunction::preimage(const Interval& y, const Interval& range) const {
  const Interval x = intersection(range, domain());
  if (is_empty(x) || is_empty(y)) return kNothing;
  switch (kind_) {
    case Kind::whole_power: {
      const int n = std::abs(n_);
      // What the n-th power itself lies in.
      const Interval powers = n_ > 0 ? y : divided({1.0, 1.0}, y);
      if (n % 2 != 0) {
        const Interval up = whole_root(powers, n), down = whole_root(-powers, n);
        Interval out = kNothing;
        if (powers.high >= 0.0) out = hull(out, {powers.low > 0.0 ? up.low : 0.0, up.high});
        if (powers.low <= 0.0) out = hull(out, {-down.high, powers.high < 0.0 ? -down.low : 0.0});
        return intersection(out, x);
      }
      const Interval root = whole_root(powers, n);
      if (is_empty(root)) return kNothing;
      return hull(intersection(root, x), intersection(-root, x));
    }
    case Kind::real_power: {
      const Interval powers = p_ > 0.0 ? y : divided({1.0, 1.0}, y);
      if (powers.high < 0.0) return kNothing;
      // The exponent 1 / p is rounded: real_power allows for half a unit of it.
      const Interval cut{std::max(0.0, powers.low), powers.high};
      if (p_ == 0.5) return intersection(kiteknot::power(cut, 2), x);
      return intersection(kiteknot::real_power(cut, 1.0 / std::abs(p_)), x);
    }
    case Kind::exponential:
      return intersection(kiteknot::logarithm(y), x);
    case Kind::logarithm:
      return intersection(kiteknot::exponential(y), x);
  }
  return x;
}

UnaryFunction::Bend UnaryFunction::bend(const Interval& x) const {
  switch (kind_) {
    case Kind::whole_power:
      if (n_ % 2 == 0 || n_ == 1) return Bend::convex;
      if (x.low >= 0.0) return Bend::convex;
      return x.high <= 0.0 ? Bend::concave : Bend::both;
    case Kind::real_power:
      return p_ > 1.0 || p_ < 0.0 ? Bend::convex : Bend::concave;
    case Kind::exponential:
      return Bend::convex;
    case Kind::logarithm:
      return Bend::concave;
  }
  return Bend::both;
}

// Nearly where the slope is this, within the range; its nearer end where it is nowhere.
double UnaryFunction::where_slope_is(double slope, const Interval& x) const {
  double t = std::numeric_limits<double>::quiet_NaN();
  switch (kind_) {
    case Kind::whole_power: {
      const double ratio = slope / p_;  // = t^(n - 1)
      const int m = n_ - 1;
      if (m == 0) break;
      if (m == 1) {
        t = ratio;
      } else if (m % 2 != 0) {
        t = std::copysign(std::pow(std::abs(ratio), 1.0 / m), ratio);
      } else if (ratio >= 0.0) {
        t = std::pow(ratio, 1.0 / m);
        if (x.high <= 0.0) t = -t;
      }
      break;
    }
    case Kind::real_power:
      if (slope / p_ >= 0.0) t = std::pow(slope / p_, 1.0 / (p_ - 1.0));
      break;
    case Kind::exponential:
      if (slope > 0.0) t = std::log(slope);
      break;
    case Kind::logarithm:
      if (slope > 0.0) t = 1.0 / slope;
      break;
  }
  if (std::isfinite(t)) return std::clamp(t, x.low, x.high);
  if (!std::isfinite(x.low)) return std::isfinite(x.high) ? x.high : 0.0;
  if (!std::isfinite(x.high)) return x.low;
  return std::abs(this->slope(x.low) - slope) <= std::abs(this->slope(x.high) - slope) ? x.low
                                                                                       : x.high;
}

// The least of f(x) - slope x over the range, rounded down; with `above` of slope x - f(x).
double UnaryFunction::height(double slope, const Interval& range, bool above) const {
  const Interval x = intersection(range, domain());
  if (is_empty(x) || !std::isfinite(slope)) return -kInf;
  const double sign = above ? -1.0 : 1.0;
  const auto gap_at = [&](double t) {  // sign (f(t) - slope t), rounded down
    if (std::isinf(t)) return -kInf;
    const Interval f = values({t, t}), line{product_down(slope, t), product_up(slope, t)};
    return above ? total_down(line.low, -f.high) : total_down(f.low, -line.high);
  };
  const auto piece = [&](const Interval& part, bool convex) {
    if (!convex) return std::min(gap_at(part.low), gap_at(part.high));
    const double t = where_slope_is(slope, part);
    const double there = gap_at(t);
    if (!(there > -kInf)) return -kInf;
    const Interval d = slopes({t, t});
    // sign (f'(t) - slope) (x - t) over the part
    const Interval tilt{total_down(d.low, -slope), total_up(d.high, -slope)};
    const Interval way{total_down(part.low, -t), total_up(part.high, -t)};
    const Interval least = (sign > 0.0 ? tilt : -tilt) * way;
    return total_down(there, least.low);
  };
  const Bend how = bend(x);
  if (how != Bend::both) return piece(x, (how == Bend::convex) != above);
  return std::min(piece({x.low, 0.0}, above), piece({0.0, x.high}, !above));
}

double UnaryFunction::height_below(double slope, const Interval& x) const {
  return height(slope, x, false);
}
double UnaryFunction::height_above(double slope, const Interval& x) const {
  return -height(slope, x, true);
}

std::vector<double> UnaryFunction::good_slopes(const Interval& range, bool above) const {
  const Interval x = intersection(range, domain());
  if (is_empty(x)) return {};
  std::vector<double> good;
  const Bend how = bend(x);
  const auto add = [&](double s) {
    if (std::isfinite(s) && std::abs(s) < 1e12 &&
        std::find(good.begin(), good.end(), s) == good.end())
      good.push_back(s);
  };
  if (std::isfinite(x.low) && std::isfinite(x.high) && x.low < x.high)
    add((value(x.high) - value(x.low)) / (x.high - x.low));
  if (how == Bend::both || (how == Bend::convex) != above) {
    for (const double end : {x.low, x.high})
      if (std::isfinite(end)) add(slope(end));
    if (good.empty()) add(slope(0.0));  // a range without ends
  }
  return good;
}

double UnaryFunction::value(double x) const {
  switch (kind_) {
    case Kind::whole_power:
      return std::pow(x, n_);
    case Kind::real_power:
      return std::pow(std::max(x, 0.0), p_);
    case Kind::exponential:
      return std::exp(x);
    case Kind::logarithm:
      return std::log(x);
  }
  return 0.0;
}

double UnaryFunction::slope(double x) const {
  switch (kind_) {
    case Kind::whole_power:
      return n_ * std::pow(x, n_ - 1);
    case Kind::real_power:
      return p_ * std::pow(std::max(x, 0.0), p_ - 1.0);
    case Kind::exponential:
      return std::exp(x);
    case Kind::logarithm:
      return 1.0 / x;
  }
  return 0.0;
}

double UnaryFunction::curvature(double x) const {
  switch (kind_) {
    case Kind::whole_power:
      return n_ == 1 ? 0.0 : n_ * (n_ - 1.0) * std::pow(x, n_ - 2);
    case Kind::real_power:
      return p_ * (p_ - 1.0) * std::pow(std::max(x, 0.0), p_ - 2.0);
    case Kind::exponential:
      return std::exp(x);
    case Kind::logarithm:
      return -1.0 / (x * x);
  }
  return 0.0;
}

}  // namespace kiteknot::mip
