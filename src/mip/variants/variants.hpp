#pragma once
// What problems that share a root differ in, and the best point of each.

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstdint>

#include "mip/heuristics/point_receiver.hpp"
#include "mip/problem/problem.hpp"
#include "mip/variants/shared_root.hpp"

namespace kiteknot::mip::shared {

inline constexpr std::size_t kMost = 64;  // problems at one root

using Set = std::uint64_t;  // of problems
using Each = std::array<double, kMost>;

inline Set only(std::size_t k) {
  return Set{1} << k;
}
template <class F>
void for_each(Set set, const F& f) {
  for (; set != 0; set &= set - 1) f(static_cast<std::size_t>(std::countr_zero(set)));
}

// The limits of all problems, and the best point of each.
class Variants {
 public:
  Variants(const Problem& base, std::span<const LimitChanges> changes) : count_(changes.size()) {
    for (const LimitChanges& c : changes)
      for (const RowLimits& r : c) rows_.push_back(r.row);
    std::sort(rows_.begin(), rows_.end());
    rows_.erase(std::unique(rows_.begin(), rows_.end()), rows_.end());
    for (const LimitChanges& c : changes) {
      for (const Index i : rows_) {
        low_.push_back(base.row_lower(i));
        high_.push_back(base.row_upper(i));
      }
      for (const RowLimits& r : c) {
        const auto v = static_cast<std::size_t>(
            std::lower_bound(rows_.begin(), rows_.end(), r.row) - rows_.begin());
        low_[low_.size() - rows_.size() + v] = std::ceil(r.lower);  // rows take whole values
        high_[high_.size() - rows_.size() + v] = std::floor(r.upper);
      }
    }
    best_.fill(kInf);
    point_.resize(count_);
    for (std::size_t k = 0; k < count_; ++k)
      for (std::size_t j = 0; j < count_; ++j)
        if (within(j, k)) narrower_[k] |= only(j);
  }

  [[nodiscard]] std::size_t count() const { return count_; }
  [[nodiscard]] const std::vector<Index>& rows() const { return rows_; }
  [[nodiscard]] double low(std::size_t k, std::size_t v) const {
    return low_[k * rows_.size() + v];
  }
  [[nodiscard]] double high(std::size_t k, std::size_t v) const {
    return high_[k * rows_.size() + v];
  }
  /// Those that have no plan where k has none.
  [[nodiscard]] Set narrower(std::size_t k) const { return narrower_[k]; }
  [[nodiscard]] double best(std::size_t k) const { return best_[k]; }
  [[nodiscard]] const std::vector<double>& point(std::size_t k) const { return point_[k]; }
  [[nodiscard]] bool possible(std::size_t k) const {
    for (std::size_t v = 0; v < rows_.size(); ++v)
      if (low(k, v) > high(k, v)) return false;
    return true;
  }

  /// A point of all other rows, with the values of the varied ones.
  void offer(Set to, std::span<const double> point, double goal, std::span<const double> values) {
    for_each(to, [&](std::size_t k) {
      if (goal >= best_[k]) return;
      for (std::size_t v = 0; v < rows_.size(); ++v)
        if (values[v] < low(k, v) || values[v] > high(k, v)) return;
      best_[k] = goal;
      point_[k].assign(point.begin(), point.end());
    });
  }

 private:
  [[nodiscard]] bool within(std::size_t j, std::size_t k) const {
    for (std::size_t v = 0; v < rows_.size(); ++v)
      if (low(j, v) < low(k, v) || high(j, v) > high(k, v)) return false;
    return true;
  }
  std::size_t count_;
  std::vector<Index> rows_;         // whose limits differ, rising
  std::vector<double> low_, high_;  // by problem and row
  std::vector<std::vector<double>> point_;
  Each best_{};
  std::array<Set, kMost> narrower_{};
};

// Points for some of the problems, at a node that bounds each of them.
class PointsForMany final : public PointReceiver {
 public:
  PointsForMany(Variants& variants, Set set, double step, const Each& bounds)
      : variants_(variants), set_(set), step_(step), bounds_(bounds) {
    rows_ = variants.rows();
    look();
  }
  void take(std::span<const double> point, double goal, std::span<const double> values) override {
    variants_.offer(set_, point, goal, values);
    look();
  }

 private:
  void look() {
    below_ = room_ = -kInf;
    for_each(set_, [&](std::size_t k) {
      below_ = std::max(below_, variants_.best(k));
      room_ = std::max(room_, Cutoff{variants_.best(k), step_}.room(bounds_[k]));
    });
  }
  Variants& variants_;
  Set set_;
  double step_;
  const Each& bounds_;
};

}  // namespace kiteknot::mip::shared
