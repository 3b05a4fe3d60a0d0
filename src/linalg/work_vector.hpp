#pragma once
// A dense array with the list of its nonzero places: sparse to walk, direct to address.

#include <span>
#include <vector>

#include "base/at.hpp"
#include "linalg/lines.hpp"

namespace kiteknot::linalg {

class WorkVector {
 public:
  /// Sets the length and clears.
  void reset(Index length) {
    value_.assign(static_cast<std::size_t>(length), 0.0);
    listed_.assign(static_cast<std::size_t>(length), 0);
    list_.clear();
  }
  [[nodiscard]] Index length() const noexcept { return static_cast<Index>(value_.size()); }
  /// Cost: the number of listed places.
  void clear() {
    for (Index i : list_) {
      value_[at(i)] = 0.0;
      listed_[at(i)] = 0;
    }
    list_.clear();
  }
  void add(Index i, double v) {
    if (!listed_[at(i)]) {
      listed_[at(i)] = 1;
      list_.push_back(i);
    }
    value_[at(i)] += v;
  }
  double operator[](Index i) const { return value_[at(i)]; }
  /// Places that may be nonzero; every other place is 0.
  [[nodiscard]] std::span<const Index> list() const noexcept { return list_; }
  [[nodiscard]] std::span<double> values() noexcept { return value_; }
  [[nodiscard]] std::span<const double> values() const noexcept { return value_; }
  /// Lists anew among the given places, which hold every nonzero; the others are 0. O(places).
  void relist(std::span<const Index> places, double drop) {
    for (Index i : list_) listed_[at(i)] = 0;
    list_.clear();
    for (Index i : places) {
      const double v = value_[at(i)];
      if (v > drop || v < -drop) {
        listed_[at(i)] = 1;
        list_.push_back(i);
      } else {
        value_[at(i)] = 0.0;
      }
    }
  }
  /// Lists anew after a kernel wrote to values(); entries up to `drop` become 0. O(length).
  void relist(double drop) {
    list_.clear();
    for (std::size_t i = 0; i < value_.size(); ++i) {
      const bool keep = value_[i] > drop || value_[i] < -drop;
      listed_[i] = keep;
      if (keep)
        list_.push_back(static_cast<Index>(i));
      else
        value_[i] = 0.0;
    }
  }

 private:
  std::vector<double> value_;
  std::vector<char> listed_;
  std::vector<Index> list_;
};

}  // namespace kiteknot::linalg
