#include "kiteknot/curve.hpp"

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/derived.hpp"

namespace kiteknot {
namespace {

// At a place where two pieces meet, the lower value counts, unless the curve's words say otherwise.
void settle_jumps(std::vector<CurvePiece>& pieces, bool right_counts) {
  for (std::size_t k = 0; k + 1 < pieces.size(); ++k) {
    const Rational left = pieces[k].at(pieces[k].to), right = pieces[k + 1].value;
    if (left == right) continue;
    const bool take_right = right_counts || right < left;
    pieces[k].owns_to = !take_right;
    pieces[k + 1].owns_from = take_right;
  }
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
  settle_jumps(pieces, true);  // "from 10" holds at 10
  return Curve(with(std::move(pieces)));
}

Curve Curve::through(std::vector<Point> points) {
  if (points.size() < 2) throw UsageError("a curve goes through two points at least");
  std::vector<CurvePiece> pieces;
  for (std::size_t k = 0; k + 1 < points.size(); ++k) {
    const Point &a = points[k], &b = points[k + 1];
    if (b.x < a.x)
      throw UsageError(fmt::format("the points of a curve stand in rising order; {} comes after {}",
                                   figure(b.x), figure(a.x)));
    if (b.x == a.x) continue;
    pieces.push_back({a.x, b.x, a.y, (b.y - a.y) / (b.x - a.x)});
  }
  if (pieces.empty()) throw UsageError("a curve goes through two points with different x at least");
  settle_jumps(pieces, false);
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
