#include "mip/heuristics/exchange.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>

#include "base/at.hpp"

namespace kiteknot::mip {
namespace {

class Exchange {
 public:
  Exchange(const Problem& problem, std::vector<double> point, std::int64_t most_work)
      : p_(problem), x_(std::move(point)), value_(at(problem.num_rows()), 0.0), left_(most_work) {
    for (Index i = 0; i < p_.num_rows(); ++i) broken_ += missing(i, 0.0) > 0.0 ? 1 : 0;
    for (Index j = 0; j < p_.num_columns(); ++j) {
      if (x_[at(j)] != 0.0) shift(j, x_[at(j)]);
      if (p_.lower(j) < p_.upper(j)) free_.push_back(j);
    }
  }

  bool mend() {
    while (broken_ > 0) {
      Index best = -1;
      double best_step = 0.0, best_price = 0.0;
      for (const Index j : free_)
        for (const double step : {-1.0, 1.0}) {
          if (!in_bounds(j, step)) continue;
          const double less = -change_of_missing(j, step);
          if (less <= 0.0) continue;
          const double price = (p_.cost(j) * step) / less;
          if (best < 0 || price < best_price) best = j, best_step = step, best_price = price;
        }
      if (best < 0 || left_ < 0) return false;
      move(best, best_step);
    }
    return true;
  }

  void improve() {
    bool better = true;
    while (better && left_ > 0) {
      better = false;
      for (const Index j : free_)
        for (const double step : {-1.0, 1.0}) better = improve_with(j, step) || better;
    }
  }

  // Every combination of two values a column, in the order of a Gray code.
  void enumerate(std::span<const Index> core, std::span<const double> steps,
                 PointReceiver& receiver) {
    double goal = 0.0;
    for (Index j = 0; j < p_.num_columns(); ++j) goal += p_.cost(j) * x_[at(j)];
    std::vector<double> values(receiver.rows().size());
    std::uint64_t moved = 0;
    const auto look = [&] {
      if (broken_ > 0 || goal >= receiver.below()) return;
      for (std::size_t v = 0; v < values.size(); ++v) values[v] = value_[at(receiver.rows()[v])];
      receiver.take(x_, goal, values);
    };
    look();
    for (std::uint64_t k = 1; k < (std::uint64_t{1} << core.size()); ++k) {
      const auto c = static_cast<std::size_t>(std::countr_zero(k));  // the bit that turns
      const double step = (moved >> c & 1U) != 0 ? -steps[c] : steps[c];
      moved ^= std::uint64_t{1} << c;
      goal += p_.cost(core[c]) * step;
      move(core[c], step);
      look();
    }
  }

  std::vector<double> take() { return std::move(x_); }
  [[nodiscard]] std::int64_t left() const { return left_; }

 private:
  [[nodiscard]] bool in_bounds(Index j, double step) const {
    const double v = x_[at(j)] + step;
    return v >= p_.lower(j) && v <= p_.upper(j);
  }
  void shift(Index j, double by) {
    const auto rows = p_.columns().index(j);
    const auto values = p_.columns().value(j);
    for (std::size_t k = 0; k < rows.size(); ++k) {
      double& v = value_[at(rows[k])];
      broken_ -= missing(rows[k], v) > 0.0 ? 1 : 0;
      v += values[k] * by;
      broken_ += missing(rows[k], v) > 0.0 ? 1 : 0;
    }
    left_ -= static_cast<std::int64_t>(rows.size()) + 1;
  }
  void move(Index j, double step) {
    x_[at(j)] += step;
    shift(j, step);
  }
  [[nodiscard]] double missing(Index i, double value) const {
    return std::max({0.0, p_.row_lower(i) - value, value - p_.row_upper(i)});
  }
  double change_of_missing(Index j, double step) {
    double change = 0.0;
    const auto rows = p_.columns().index(j);
    const auto values = p_.columns().value(j);
    for (std::size_t k = 0; k < rows.size(); ++k) {
      const double v = value_[at(rows[k])];
      change += missing(rows[k], v + values[k] * step) - missing(rows[k], v);
    }
    left_ -= static_cast<std::int64_t>(rows.size()) + 1;
    return change;
  }
  // Whether the move leaves no row broken.
  bool possible(Index j, double step) {
    const auto rows = p_.columns().index(j);
    const auto values = p_.columns().value(j);
    left_ -= static_cast<std::int64_t>(rows.size()) + 1;
    Index mended = 0;
    for (std::size_t k = 0; k < rows.size(); ++k) {
      const double v = value_[at(rows[k])];
      if (missing(rows[k], v + values[k] * step) > 0.0) return false;
      mended += missing(rows[k], v) > 0.0 ? 1 : 0;
    }
    return mended == broken_;
  }

  // One move, or one with a second that makes up for it, where together they lower the goal.
  bool improve_with(Index j, double step) {
    if (left_ < 0 || !in_bounds(j, step)) return false;
    const double gain = -p_.cost(j) * step;
    if (gain > 0.0 && possible(j, step)) {
      move(j, step);
      return true;
    }
    if (gain <= 0.0) return false;  // the pair is found from its gaining side
    move(j, step);
    // The second one makes up for every row that broke, so it is in the shortest of them.
    Index shortest = -1;
    for (const Index i : p_.columns().index(j))
      if (missing(i, value_[at(i)]) > 0.0 &&
          (shortest < 0 || p_.rows().index(i).size() < p_.rows().index(shortest).size()))
        shortest = i;
    if (shortest >= 0)
      for (const Index k : p_.rows().index(shortest))
        for (const double other : {-1.0, 1.0}) {
          if (k == j || gain - p_.cost(k) * other <= 0.0 || !in_bounds(k, other)) continue;
          if (left_ > 0 && possible(k, other)) {
            move(k, other);
            return true;
          }
        }
    move(j, -step);
    return false;
  }

  const Problem& p_;
  std::vector<double> x_, value_;
  std::vector<Index> free_;
  Index broken_ = 0;  // rows outside their limits
  std::int64_t left_;
};

}  // namespace

void best_in_core(const Problem& problem, std::span<const double> point,
                  std::span<const double> reduced_costs, PointReceiver& receiver,
                  WorkCounter& work) {
  if (!problem.only_rows_over_integers()) return;
  constexpr std::size_t kLargest = 10;
  std::vector<Index> order;
  std::vector<double> rounded(point.begin(), point.end());
  for (Index j = 0; j < problem.num_columns(); ++j) {
    rounded[at(j)] = std::round(point[at(j)]);
    if (problem.lower(j) < problem.upper(j)) order.push_back(j);
  }
  const std::size_t size = std::min(kLargest, order.size());
  std::partial_sort(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(size), order.end(),
                    [&](Index a, Index b) {
                      const double da = std::abs(reduced_costs[at(a)]),
                                   db = std::abs(reduced_costs[at(b)]);
                      return da != db ? da < db : a < b;
                    });
  order.resize(size);
  std::vector<double> steps;
  for (const Index j : order) {  // to the other side of the point, or into the bounds
    double step = point[at(j)] > rounded[at(j)] ? 1.0 : -1.0;
    if (rounded[at(j)] + step < problem.lower(j) || rounded[at(j)] + step > problem.upper(j))
      step = -step;
    steps.push_back(step);
  }
  Exchange e(problem, std::move(rounded), 0);
  e.enumerate(order, steps, receiver);
  work.add(-e.left());
}

std::optional<std::vector<double>> exchange(const Problem& problem, std::vector<double> point,
                                            std::int64_t most_work, WorkCounter& work) {
  if (!problem.only_rows_over_integers()) return std::nullopt;
  Exchange e(problem, std::move(point), most_work);
  const bool mended = e.mend();
  if (mended) e.improve();
  work.add(most_work - e.left());
  if (!mended) return std::nullopt;
  return e.take();
}

}  // namespace kiteknot::mip
