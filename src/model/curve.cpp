#include "kiteknot/curve.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/derived.hpp"

namespace kiteknot {
namespace {

// Where two pieces meet at different values, the right one counts.
void give_jumps_to_the_right(std::vector<CurvePiece>& pieces) {
  for (std::size_t k = 0; k + 1 < pieces.size(); ++k)
    pieces[k].owns_to = pieces[k].at(pieces[k].to) == pieces[k + 1].value;
}

std::shared_ptr<CurveData> with(std::vector<CurvePiece> pieces) {
  auto data = std::make_shared<CurveData>();
  data->pieces = std::move(pieces);
  return data;
}

}  // namespace

Curve Curve::tiers(std::vector<Tier> tiers, const Rational& once) {
  if (tiers.empty()) throw UsageError("a curve of tiers needs at least one");
  std::vector<CurvePiece> pieces;
  Rational x = 0, y = once;
  if (!once.is_zero()) pieces.push_back({0, 0, 0, 0});
  for (std::size_t k = 0; k < tiers.size(); ++k) {
    const Tier& t = tiers[k];
    const bool last = k + 1 == tiers.size();
    if (!t.width && !last) throw UsageError("only the last tier may have no width");
    if (t.width && t.width->sign() <= 0)
      throw UsageError(fmt::format("a tier is {} units wide", figure(*t.width)));
    const Rational end = t.width ? x + *t.width : Rational::infinity();
    pieces.push_back({x, end, y, t.rate});
    if (!t.width) break;
    y += t.rate * *t.width;
    x = end;
  }
  if (!once.is_zero()) pieces[1].owns_from = false;  // nothing taken, nothing charged
  return Curve(with(std::move(pieces)));
}

Curve Curve::all_units(std::vector<Step> steps) {
  if (steps.empty() || !steps[0].from.is_zero())
    throw UsageError("the first rate of a curve for all units counts from 0");
  std::vector<CurvePiece> pieces;
  for (std::size_t k = 0; k < steps.size(); ++k) {
    const bool last = k + 1 == steps.size();
    if (!last && steps[k + 1].from <= steps[k].from)
      throw UsageError(fmt::format("the rates of a curve stand in rising order; {} comes after {}",
                                   figure(steps[k + 1].from), figure(steps[k].from)));
    pieces.push_back({steps[k].from, last ? Rational::infinity() : steps[k + 1].from,
                      steps[k].rate * steps[k].from, steps[k].rate});
  }
  give_jumps_to_the_right(pieces);  // "from 10" holds at 10
  return Curve(with(std::move(pieces)));
}

Curve Curve::through(std::vector<Point> points) {
  if (points.size() < 2) throw UsageError("a curve goes through two points at least");
  std::vector<CurvePiece> pieces;
  for (std::size_t k = 0; k < points.size();) {
    // All points over one x: lines come in at the first and go out from the last, the least counts.
    std::size_t last = k;
    Rational counts = points[k].y;
    for (; last + 1 < points.size() && points[last + 1].x == points[k].x; ++last)
      counts = std::min(counts, points[last + 1].y);
    const Point &in = points[k], &out = points[last];
    const bool first_x = k == 0, last_x = last + 1 == points.size();
    const bool own_in = !first_x && in.y == counts, own_out = !last_x && out.y == counts;
    if (!first_x) pieces.back().owns_to = own_in;
    if (!own_in && !own_out) pieces.push_back({in.x, in.x, counts, 0});
    if (last_x) break;
    const Point& next = points[last + 1];
    if (next.x < out.x)
      throw UsageError(fmt::format("the points of a curve stand in rising order; {} comes after {}",
                                   figure(next.x), figure(out.x)));
    pieces.push_back({out.x, next.x, out.y, (next.y - out.y) / (next.x - out.x)});
    pieces.back().owns_from = own_out;
    k = last + 1;
  }
  if (points.front().x == points.back().x)
    throw UsageError("a curve goes through two points with different x at least");
  return Curve(with(std::move(pieces)));
}

Curve Curve::named(std::string name) const {
  auto data = std::make_shared<CurveData>(*data_);
  data->name = std::move(name);
  return Curve(std::move(data));
}

const std::string& Curve::name() const noexcept {
  return data_->name;
}
Rational Curve::from() const {
  return data_->pieces.front().from;
}
Rational Curve::to() const {
  return data_->pieces.back().to;
}

Rational Curve::at(const Rational& x) const {
  for (const CurvePiece& p : data_->pieces)
    if ((x > p.from || (x == p.from && p.owns_from)) && (x < p.to || (x == p.to && p.owns_to)))
      return p.at(x);
  throw UsageError(fmt::format("{}({}) is not stated: the curve goes from {} to {}",
                               name().empty() ? "the curve" : name(), figure(x), figure(from()),
                               figure(to())));
}

Expression Curve::operator()(const Expression& argument) const {
  if (argument.is_constant()) return at(argument.constant());
  return Expression(
      std::make_shared<Derived>(Derived{Derived::Kind::curve, {argument}, data_, {}, {}}));
}

}  // namespace kiteknot
