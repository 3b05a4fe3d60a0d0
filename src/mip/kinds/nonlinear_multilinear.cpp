#include "mip/kinds/nonlinear_multilinear.hpp"

#include <cmath>
#include <unordered_map>

#include "lp/simplex.hpp"

namespace kiteknot::mip {
namespace {

constexpr std::size_t kMostFactors = 5;

double corner(const Interval& x, std::size_t name, std::size_t k) {
  return (name >> k & 1) != 0 ? x.high : x.low;
}

}  // namespace

std::vector<Multilinear> multilinear(const std::vector<NonlinearTerm>& terms) {
  std::unordered_map<Index, std::vector<Index>> factors_of;  // values of products on both sides
  std::vector<Multilinear> found;
  for (const NonlinearTerm& t : terms) {  // each after those whose values it takes
    if (!t.product() || t.x == t.z) continue;
    std::vector<Index> factors;
    for (const Index j : {t.x, t.z}) {
      const auto inner = factors_of.find(j);
      if (inner == factors_of.end())
        factors.push_back(j);
      else
        factors.insert(factors.end(), inner->second.begin(), inner->second.end());
    }
    std::vector<Index> sorted = factors;
    std::ranges::sort(sorted);
    if (factors.size() > kMostFactors || std::ranges::adjacent_find(sorted) != sorted.end())
      factors = {t.x, t.z};
    if (factors.size() > 2) found.push_back({t.value, factors, t.above, t.below});
    if (t.above && t.below) factors_of.emplace(t.value, std::move(factors));
  }
  return found;
}

// With the box as the unit cube: weights of the corners that make up the point, at the least sum
// of products. The duals of the point's rows are the slopes.
std::vector<double> facet_slopes(std::span<const Interval> box, std::span<const double> point,
                                 bool above) {
  const std::size_t n = box.size();
  double largest = 1.0;
  for (const Interval& x : box) {
    if (!std::isfinite(x.low) || !std::isfinite(x.high)) return {};
    largest *= std::max(std::abs(x.low), std::abs(x.high));
  }
  if (!(largest > 0.0) || !std::isfinite(largest)) return {};
  lp::Program program;
  for (std::size_t k = 0; k < n; ++k) {
    const double width = box[k].high - box[k].low;
    const double place = width > 0.0 ? std::clamp((point[k] - box[k].low) / width, 0.0, 1.0) : 0.0;
    (void)program.add_row(place, place, {}, true);
  }
  (void)program.add_row(1.0, 1.0, {}, true);
  for (std::size_t name = 0; name < std::size_t{1} << n; ++name) {
    double product = (above ? 1.0 : -1.0) / largest;
    std::vector<lp::Entry> entries;
    for (std::size_t k = 0; k < n; ++k) {
      product *= corner(box[k], name, k);
      if ((name >> k & 1) != 0) entries.push_back({static_cast<Index>(k), 1.0});
    }
    entries.push_back({static_cast<Index>(n), 1.0});
    (void)program.add_column(product, 0.0, kInf, entries);
  }
  lp::Simplex simplex(std::move(program));
  if (simplex.solve({.rough = true}).status != lp::Status::optimal) return {};
  const std::vector<double> duals = simplex.row_duals();
  std::vector<double> slopes;
  for (std::size_t k = 0; k < n; ++k) {
    const double width = box[k].high - box[k].low;
    slopes.push_back(width > 0.0 ? (above ? 1.0 : -1.0) * largest * duals[k] / width : 0.0);
    if (!std::isfinite(slopes.back())) return {};
  }
  return slopes;
}

double facet_height(std::span<const double> slopes, std::span<const Interval> box, bool above) {
  double height = kInf;
  for (std::size_t name = 0; name < std::size_t{1} << box.size(); ++name) {
    Interval product{1.0, 1.0}, line{0.0, 0.0};
    for (std::size_t k = 0; k < box.size(); ++k) {
      const double x = corner(box[k], name, k);
      product = product * Interval{x, x};
      line = line + Interval{slopes[k], slopes[k]} * Interval{x, x};
    }
    height = std::min(
        height, above ? total_down(product.low, -line.high) : total_down(line.low, -product.high));
  }
  return above ? height : -height;
}

}  // namespace kiteknot::mip
