#include "kiteknot/curve.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/derived.hpp"
#include "model/number_node.hpp"

namespace kiteknot {
namespace {

// Where two pieces meet at different values, the right one counts.
void give_jumps_to_the_right(std::vector<CurvePiece>& pieces) {
  for (std::size_t k = 0; k + 1 < pieces.size(); ++k)
    pieces[k].owns_to = pieces[k].at(pieces[k].to) == pieces[k + 1].value;
}

using Pieces = std::vector<CurvePiece>;

// What its figures come to.
using Figure = std::function<Rational(const Expression&)>;

Pieces tier_pieces(const std::vector<Curve::Tier>& tiers, const Expression& stated_once,
                   const Figure& figure_of) {
  Pieces pieces;
  const Rational once = figure_of(stated_once);
  Rational x = 0, y = once;
  if (!once.is_zero()) pieces.push_back({0, 0, 0, 0});
  for (const Curve::Tier& t : tiers) {
    const std::optional<Rational> width =
        t.width ? std::optional(figure_of(*t.width)) : std::nullopt;
    if (width && width->sign() <= 0)
      throw UsageError(fmt::format("a tier is {} units wide", figure(*width)));
    const Rational end = width ? x + *width : Rational::infinity(), rate = figure_of(t.rate);
    pieces.push_back({x, end, y, rate});
    if (!width) break;
    y += rate * *width;
    x = end;
  }
  if (!once.is_zero()) pieces[1].owns_from = false;  // nothing taken, nothing charged
  return pieces;
}

Pieces step_pieces(const std::vector<Curve::Step>& steps, const Figure& figure_of) {
  Pieces pieces;
  if (!figure_of(steps[0].from).is_zero())
    throw UsageError("the first rate of a curve for all units counts from 0");
  for (std::size_t k = 0; k < steps.size(); ++k) {
    const bool last = k + 1 == steps.size();
    const Rational from = figure_of(steps[k].from), rate = figure_of(steps[k].rate);
    const Rational to = last ? Rational::infinity() : figure_of(steps[k + 1].from);
    if (to <= from)
      throw UsageError(fmt::format("the rates of a curve stand in rising order; {} comes after {}",
                                   figure(to), figure(from)));
    pieces.push_back({from, to, rate * from, rate});
  }
  give_jumps_to_the_right(pieces);  // "from 10" holds at 10
  return pieces;
}

Pieces line_pieces(const std::vector<Curve::Point>& stated, const Figure& figure_of) {
  struct Spot {
    Rational x, y;
  };
  std::vector<Spot> points;
  for (const Curve::Point& p : stated) points.push_back({figure_of(p.x), figure_of(p.y)});
  Pieces pieces;
  for (std::size_t k = 0; k < points.size();) {
    // All points over one x: lines come in at the first and go out from the last, the least counts.
    std::size_t last = k;
    Rational counts = points[k].y;
    for (; last + 1 < points.size() && points[last + 1].x == points[k].x; ++last)
      counts = std::min(counts, points[last + 1].y);
    const Spot &in = points[k], &out = points[last];
    const bool first_x = k == 0, last_x = last + 1 == points.size();
    const bool own_in = !first_x && in.y == counts, own_out = !last_x && out.y == counts;
    if (!first_x) pieces.back().owns_to = own_in;
    if (!own_in && !own_out) pieces.push_back({in.x, in.x, counts, 0});
    if (last_x) break;
    const Spot& next = points[last + 1];
    if (next.x < out.x)
      throw UsageError(fmt::format("the points of a curve stand in rising order; {} comes after {}",
                                   figure(next.x), figure(out.x)));
    pieces.push_back({out.x, next.x, out.y, (next.y - out.y) / (next.x - out.x)});
    pieces.back().owns_from = own_out;
    k = last + 1;
  }
  if (points.front().x == points.back().x)
    throw UsageError("a curve goes through two points with different x at least");
  return pieces;
}

// Its pieces at once where figures alone make it, else how they come from numbers.
template <class Make>
std::shared_ptr<CurveData> curve_of(CurveData::Shape shape,
                                    const std::vector<const Expression*>& figures, Make make) {
  auto data = std::make_shared<CurveData>();
  data->shape = shape;
  for (const Expression* e : figures) {
    if (e->has_decisions())
      throw UsageError("a curve is made of figures and numbers; a decision stands in one");
    if (!e->is_constant()) data->figures.push_back(*e);
  }
  if (data->figures.empty()) {
    data->pieces = make([](const Expression& e) { return e.constant(); });
  } else {
    data->made = [make = std::move(make)](const std::vector<Rational>& numbers) {
      return make([&](const Expression& e) { return evaluate(e, numbers); });
    };
  }
  return data;
}

const Pieces& stated_pieces(const CurveData& curve) {
  if (curve.pieces.empty())
    throw UsageError("numbers stand in this curve: a model states it before it is used");
  return curve.pieces;
}

}  // namespace

Curve::Curve(std::shared_ptr<const CurveData> data) : data_(std::move(data)) {
  if (!data_) throw UsageError("a curve was made of nothing");
}

Curve Curve::tiers(std::vector<Tier> tiers, const Expression& once) {
  if (tiers.empty()) throw UsageError("a curve of tiers needs at least one");
  std::vector<const Expression*> figures = {&once};
  for (std::size_t k = 0; k < tiers.size(); ++k) {
    if (!tiers[k].width && k + 1 < tiers.size())
      throw UsageError("only the last tier may have no width");
    figures.push_back(&tiers[k].rate);
    if (tiers[k].width) figures.push_back(&*tiers[k].width);
  }
  return Curve(curve_of(CurveData::Shape::tiers, figures, [tiers, once](const Figure& figure_of) {
    return tier_pieces(tiers, once, figure_of);
  }));
}

Curve Curve::all_units(std::vector<Step> steps) {
  if (steps.empty()) throw UsageError("a curve for all units needs a rate at least");
  std::vector<const Expression*> figures;
  for (const Step& s : steps) figures.insert(figures.end(), {&s.rate, &s.from});
  return Curve(curve_of(CurveData::Shape::all_units, figures, [steps](const Figure& figure_of) {
    return step_pieces(steps, figure_of);
  }));
}

Curve Curve::through(std::vector<Point> points) {
  if (points.size() < 2) throw UsageError("a curve goes through two points at least");
  std::vector<const Expression*> figures;
  for (const Point& p : points) figures.insert(figures.end(), {&p.x, &p.y});
  return Curve(curve_of(CurveData::Shape::through, figures, [points](const Figure& figure_of) {
    return line_pieces(points, figure_of);
  }));
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
  return stated_pieces(*data_).front().from;
}
Rational Curve::to() const {
  return stated_pieces(*data_).back().to;
}

Rational Curve::at(const Rational& x) const {
  return value_at(*data_, stated_pieces(*data_), x);
}

Rational value_at(const CurveData& curve, const std::vector<CurvePiece>& pieces,
                  const Rational& x) {
  for (const CurvePiece& p : pieces)
    if ((x > p.from || (x == p.from && p.owns_from)) && (x < p.to || (x == p.to && p.owns_to)))
      return p.at(x);
  throw UsageError(fmt::format("{}({}) is not stated: the curve goes from {} to {}",
                               curve.name.empty() ? "the curve" : curve.name, figure(x),
                               figure(pieces.front().from), figure(pieces.back().to)));
}

std::vector<CurvePiece> CurvesNow::made(const CurveData& curve,
                                        const std::vector<Rational>& numbers) {
  try {
    return curve.made ? curve.made(numbers) : curve.pieces;
  } catch (const UsageError& e) {
    throw UsageError(fmt::format("as its numbers stand, {} is no curve: {}",
                                 curve.name.empty() ? "a curve" : curve.name, e.what()));
  }
}

Expression Curve::operator()(const Expression& argument) const {
  const Pieces& pieces = stated_pieces(*data_);
  if (argument.is_constant() && !data_->made) return value_at(*data_, pieces, argument.constant());
  return Expression(
      std::make_shared<Derived>(Derived{Derived::Kind::curve, {argument}, data_, {}, {}}));
}

}  // namespace kiteknot
