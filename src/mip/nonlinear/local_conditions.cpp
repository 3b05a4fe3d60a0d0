#include "mip/nonlinear/local_conditions.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace kiteknot::mip {
namespace {

// Limits of an equation whose figure no double is lie a rounding apart: a barrier has no room
// there.
bool sliver(const Interval& limits) {
  constexpr double kSliver = 1e-12;
  return std::isfinite(limits.low) &&
         limits.high - limits.low <= kSliver * (1.0 + std::abs(limits.low));
}

}  // namespace

LocalConditions::LocalConditions(const LocalProgram& program, std::vector<double> start)
    : p_(program), point_(std::move(start)), place_(program.lower.size(), -1) {
  for (std::size_t j = 0; j < p_.lower.size(); ++j) {
    point_[j] = std::clamp(std::isfinite(point_[j]) ? point_[j] : 0.0, p_.lower[j], p_.upper[j]);
    if (!sliver({p_.lower[j], p_.upper[j]}))
      place_[j] = add(p_.lower[j], p_.upper[j], point_[j], p_.cost[j]);
  }
  for (const RowView& row : p_.rows) {
    bool moves = false;
    for (const Index j : row.index) moves = moves || place_[at(j)] >= 0;
    if (moves && (std::isfinite(row.lower) || std::isfinite(row.upper))) {
      double largest = 0.0;
      for (const double a : row.value) largest = std::max(largest, std::abs(a));
      const double scale = 1.0 / largest;
      linear_.push_back({&row, scale});
      add_slack({scale * row.lower, scale * row.upper}, scale * value_of(row));
    }
  }
  for (const SmoothRows* rows : p_.smooth)
    for (Index k = 0; k < rows->size(); ++k) {
      bool moves = false;
      for (const Index j : rows->columns(k)) moves = moves || place_[at(j)] >= 0;
      if (!moves) continue;
      std::array<double, SmoothRows::kMostColumns> gradient{};
      const double value = rows->value(k, point_, gradient);
      double largest = 1.0;
      for (const double d : gradient)
        if (std::isfinite(d)) largest = std::max(largest, std::abs(d));
      const double scale = 1.0 / largest;
      smooth_.push_back({rows, k, scale});
      const Interval limits = rows->limits(k);
      add_slack({scale * limits.low, scale * limits.high}, scale * value);
    }
}

int LocalConditions::add(double low, double high, double start, double cost) {
  low_.push_back(low);
  high_.push_back(high);
  start_.push_back(start);
  cost_.push_back(cost);
  return static_cast<int>(low_.size()) - 1;
}

void LocalConditions::add_slack(const Interval& limits, double value) {
  slack_.push_back(
      sliver(limits)
          ? -1
          : add(limits.low, limits.high,
                std::clamp(std::isfinite(value) ? value : 0.0, limits.low, limits.high), 0.0));
}

double LocalConditions::value_of(const RowView& row) const {
  double sum = 0.0;
  for (std::size_t k = 0; k < row.index.size(); ++k) sum += row.value[k] * point_[at(row.index[k])];
  return sum;
}

const std::vector<double>& LocalConditions::point_of(const Vector& v) {
  for (std::size_t j = 0; j < place_.size(); ++j)
    if (place_[j] >= 0) point_[j] = v[place_[j]];
  return point_;
}

LocalConditions::Vector LocalConditions::values(const Vector& v, Triplets* jacobian, int shift) {
  (void)point_of(v);
  Vector g(equations());
  int e = 0;
  const auto slack = [&](Interval limits) {
    const int s = slack_[at(e)];
    if (s < 0) {
      g[e] -= 0.5 * (limits.low + limits.high);
      return;
    }
    g[e] -= v[s];
    if (jacobian != nullptr) jacobian->emplace_back(shift + e, s, -1.0);
  };
  for (const auto& [row, scale] : linear_) {
    g[e] = scale * value_of(*row);
    if (jacobian != nullptr)
      for (std::size_t k = 0; k < row->index.size(); ++k)
        if (const int i = place_[at(row->index[k])]; i >= 0)
          jacobian->emplace_back(shift + e, i, scale * row->value[k]);
    slack({scale * row->lower, scale * row->upper});
    ++e;
  }
  for (const auto& [rows, k, scale] : smooth_) {
    std::array<double, SmoothRows::kMostColumns> gradient{};
    g[e] = scale * rows->value(k, point_, gradient);
    const auto columns = rows->columns(k);
    if (jacobian != nullptr)
      for (std::size_t c = 0; c < columns.size(); ++c)
        if (const int i = place_[at(columns[c])]; i >= 0)
          jacobian->emplace_back(shift + e, i, scale * gradient[c]);
    const Interval limits = rows->limits(k);
    slack({scale * limits.low, scale * limits.high});
    ++e;
  }
  return g;
}

void LocalConditions::curvature(const Vector& y, Triplets& out) {
  int e = static_cast<int>(linear_.size());
  for (const auto& [rows, k, scale] : smooth_) {
    const auto columns = rows->columns(k);
    const std::size_t n = columns.size();
    std::array<double, SmoothRows::kMostColumns * SmoothRows::kMostColumns> square{};
    rows->curvature(k, point_, scale * y[e++], square);
    for (std::size_t a = 0; a < n; ++a)
      for (std::size_t b = 0; b < n; ++b) {
        const int i = place_[at(columns[a])], j = place_[at(columns[b])];
        if (i >= j && j >= 0) out.emplace_back(i, j, square[n * a + b]);
      }
  }
}

}  // namespace kiteknot::mip
