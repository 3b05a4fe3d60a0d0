#include "model/curve_figures.hpp"

#include <fmt/format.h>

#include "base/text.hpp"

namespace kiteknot {
namespace {

using Pieces = std::vector<CurvePiece>;

// The same places with other values. Where two pieces meet at different values, the right one
// counts, as it does for rates; a point by itself keeps its own.
Curve over(Pieces pieces) {
  for (std::size_t k = 0; k + 1 < pieces.size(); ++k)
    if (pieces[k].from != pieces[k].to)
      pieces[k].owns_to = pieces[k].at(pieces[k].to) == pieces[k + 1].value;
  auto data = std::make_shared<CurveData>();
  data->pieces = std::move(pieces);
  return Curve(std::move(data));
}

void of_tiers(const Pieces& pieces, std::vector<CurveFigure>& out) {
  const bool once = pieces[0].from == pieces[0].to;
  if (once) {
    Pieces one = pieces;
    for (std::size_t k = 0; k < one.size(); ++k) {
      one[k].value = k == 0 ? 0 : 1;
      one[k].slope = 0;
    }
    out.push_back({"what is charged once", pieces[1].value, over(std::move(one))});
  }
  for (std::size_t j = once ? 1 : 0; j < pieces.size(); ++j) {
    Pieces rate = pieces;
    for (std::size_t k = 0; k < rate.size(); ++k) {
      rate[k].value = k <= j ? Rational(0) : pieces[j].to - pieces[j].from;
      rate[k].slope = k == j ? 1 : 0;
    }
    out.push_back(
        {fmt::format("rate {}", j + (once ? 0 : 1)), pieces[j].slope, over(std::move(rate))});
  }
}

void of_all_units(const Pieces& pieces, std::vector<CurveFigure>& out) {
  for (std::size_t j = 0; j < pieces.size(); ++j) {
    Pieces rate = pieces;
    for (std::size_t k = 0; k < rate.size(); ++k) {
      rate[k].value = k == j ? pieces[k].from : Rational(0);
      rate[k].slope = k == j ? 1 : 0;
    }
    out.push_back({fmt::format("rate {}", j + 1), pieces[j].slope, over(std::move(rate))});
  }
}

void of_points(const Pieces& pieces, std::vector<CurveFigure>& out) {
  for (std::size_t k = 0; k < pieces.size(); ++k) {
    const bool last = k + 1 == pieces.size();
    if (pieces[k].from == pieces[k].to ||
        (!last &&
         (pieces[k + 1].from != pieces[k].to || pieces[k + 1].value != pieces[k].at(pieces[k].to))))
      return;  // a jump
  }
  for (std::size_t corner = 0; corner <= pieces.size(); ++corner) {
    Pieces hat = pieces;
    for (std::size_t k = 0; k < hat.size(); ++k) {
      const Rational width = pieces[k].to - pieces[k].from;
      hat[k].value = k == corner ? 1 : 0;
      hat[k].slope = k == corner       ? Rational(-1) / width
                     : k + 1 == corner ? Rational(1) / width
                                       : Rational(0);
    }
    const bool end = corner == pieces.size();
    const Rational x = end ? pieces.back().to : pieces[corner].from;
    out.push_back({fmt::format("the value at {}", figure(x)),
                   end ? pieces.back().at(x) : pieces[corner].value, over(std::move(hat))});
  }
}

}  // namespace

std::vector<CurveFigure> curve_figures(const CurveData& curve, const Pieces& pieces) {
  std::vector<CurveFigure> out;
  switch (curve.shape) {
    case CurveData::Shape::tiers:
      of_tiers(pieces, out);
      break;
    case CurveData::Shape::all_units:
      of_all_units(pieces, out);
      break;
    case CurveData::Shape::through:
      of_points(pieces, out);
      break;
  }
  return out;
}

}  // namespace kiteknot
