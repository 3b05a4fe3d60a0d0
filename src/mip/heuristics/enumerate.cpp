#include "mip/heuristics/enumerate.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

#include "base/at.hpp"
#include "mip/problem/exact_sums.hpp"

namespace kiteknot::mip {
namespace {

constexpr std::size_t kMostOpenColumns = 60, kMostOpenRows = 80;
// Rows let through about one in so many of the points that prices let through (measured on packing
// with logic).
constexpr double kRowsCutOff = 8.0;

class Enumeration {
 public:
  Enumeration(const Problem& p, const Domain& domain, const NodePrices& prices,
              PointReceiver& receiver, std::int64_t most)
      : p_(p), domain_(domain), prices_(prices), receiver_(receiver), left_(most) {}

  bool run(WorkCounter& work) {
    const std::int64_t most = left_;
    if (receiver_.room() < 0.0) return true;
    // All sums here are plain.
    if (!choose_columns() || expected() > kRowsCutOff * static_cast<double>(most) ||
        !sums_are_exact(p_, reach_) || !choose_rows())
      return false;
    measure_rest();
    visit(0, spent_);
    work.add((most - left_) * static_cast<std::int64_t>(rows_.size() + 4));
    return left_ >= 0;
  }

 private:
  struct Column {
    Index index;
    double penalty;                   // of a step, rounded down
    double step;                      // +1 or -1
    int most;                         // steps that the domain allows
    double goal = 0.0;                // what a step adds to it
    std::size_t first = 0, last = 0;  // what it adds to rows: places in touches_
  };
  struct Touch {
    std::size_t row;
    double by;
  };

  // What a step away from the cheap side costs at least, and where each column starts. Columns that
  // the domain holds away from their cheap side have spent something already.
  bool choose_columns() {
    point_.resize(at(p_.num_columns()));
    reach_.resize(point_.size());
    for (Index j = 0; j < p_.num_columns(); ++j) {
      const Interval d = prices_.reduced[at(j)];
      const double low = domain_.lower(j), high = domain_.upper(j);
      const bool down = d.high < 0.0;  // best at its greatest value
      const double start = down ? high : low;
      const double away = down ? prices_.box->upper(j) - high : low - prices_.box->lower(j);
      const double penalty = d.low > 0.0 ? d.low : down ? -d.high : 0.0;
      if (!std::isfinite(start)) return false;
      if (penalty > 0.0 && away > 0.0) spent_ = add_down(spent_, multiply_down(penalty, away));
      point_[at(j)] = start;
      goal_ += p_.cost(j) * start;
      const bool at_hand = low < high && penalty <= receiver_.room();
      reach_[at(j)] = at_hand ? std::max(std::abs(low), std::abs(high)) : std::abs(start);
      if (!at_hand) continue;
      constexpr double kMostSteps = 1000.0;
      if (columns_.size() == kMostOpenColumns || high - low > kMostSteps) return false;
      const double step = down ? -1.0 : 1.0;
      columns_.push_back({j, penalty, step, static_cast<int>(high - low), p_.cost(j) * step});
    }
    std::stable_sort(columns_.begin(), columns_.end(),
                     [](const Column& a, const Column& b) { return a.penalty < b.penalty; });
    return true;
  }

  // About how many points the prices alone would let through, counted over prices rounded to a
  // share of the room. O(columns).
  [[nodiscard]] double expected() const {
    constexpr std::size_t kShares = 32;
    const double share = add_down(receiver_.room(), -spent_) / static_cast<double>(kShares);
    std::array<double, kShares + 1> points{};
    points[0] = 1.0;
    for (const Column& c : columns_) {
      if (c.penalty > share * static_cast<double>(kShares)) break;
      const auto price = share > 0.0 ? static_cast<std::size_t>(std::lround(c.penalty / share)) : 0;
      for (std::size_t k = kShares + 1; k-- > price;) points[k] += points[k - price];
    }
    return std::accumulate(points.begin(), points.end(), 0.0);
  }

  // The rows that the columns touch; the others do not change. Those that a fixed point breaks are
  // left to the propagation.
  bool choose_rows() {
    place_.assign(at(p_.num_rows()), -1);
    for (Column& c : columns_) {
      const auto rows = p_.columns().index(c.index);
      const auto values = p_.columns().value(c.index);
      c.first = touches_.size();
      for (std::size_t e = 0; e < rows.size(); ++e) {
        Index& place = place_[at(rows[e])];
        if (place < 0) {
          if (rows_.size() == kMostOpenRows) return false;
          place = static_cast<Index>(rows_.size());
          rows_.push_back(rows[e]);
        }
        touches_.push_back({at(place), values[e] * c.step});
      }
      c.last = touches_.size();
    }
    for (Index i = 0; i < p_.num_rows(); ++i) {
      double sum = 0.0;
      const auto columns = p_.rows().index(i);
      const auto values = p_.rows().value(i);
      for (std::size_t k = 0; k < columns.size(); ++k) sum += values[k] * point_[at(columns[k])];
      if (place_[at(i)] >= 0)
        activity_.push_back(sum);
      else if (sum < p_.row_lower(i) || sum > p_.row_upper(i))
        ++broken_for_good_;
    }
    // In the order of rows_, not of the problem.
    std::vector<double> ordered(rows_.size());
    std::size_t next = 0;
    for (Index i = 0; i < p_.num_rows(); ++i)
      if (place_[at(i)] >= 0) ordered[at(place_[at(i)])] = activity_[next++];
    activity_ = std::move(ordered);
    for (const Index i : rows_) {
      low_.push_back(p_.row_lower(i));
      high_.push_back(p_.row_upper(i));
    }
    for (std::size_t r = 0; r < rows_.size(); ++r) broken_ += broken(r);
    for (const Index i : receiver_.rows()) values_.push_back(value_of(i));
    return true;
  }
  // Of a row at the present point.
  [[nodiscard]] double value_of(Index i) const {
    if (place_[at(i)] >= 0) return activity_[at(place_[at(i)])];
    double sum = 0.0;  // a row that no column at hand touches
    for (std::size_t k = 0; k < p_.rows().index(i).size(); ++k)
      sum += p_.rows().value(i)[k] * point_[at(p_.rows().index(i)[k])];
    return sum;
  }

  // By how much the columns from k on can move each row, down and up.
  void measure_rest() {
    const std::size_t m = rows_.size();
    least_.assign((columns_.size() + 1) * m, 0.0);
    most_.assign((columns_.size() + 1) * m, 0.0);
    for (std::size_t k = columns_.size(); k-- > 0;) {
      for (std::size_t r = 0; r < m; ++r) {
        least_[k * m + r] = least_[(k + 1) * m + r];
        most_[k * m + r] = most_[(k + 1) * m + r];
      }
      const Column& c = columns_[k];
      for (std::size_t e = c.first; e < c.last; ++e) {
        const double by = touches_[e].by * c.most;
        (by < 0.0 ? least_ : most_)[k * m + touches_[e].row] += by;
      }
    }
  }

  [[nodiscard]] int broken(std::size_t r) const {
    return static_cast<int>(activity_[r] < low_[r]) | static_cast<int>(activity_[r] > high_[r]);
  }

  void step(const Column& c) {
    for (std::size_t e = c.first; e < c.last; ++e) {
      const std::size_t r = touches_[e].row;
      const int before = broken(r);
      activity_[r] += touches_[e].by;
      broken_ += broken(r) - before;
    }
    goal_ += c.goal;
    point_[at(c.index)] += c.step;
  }
  void step_back(const Column& c, int steps, int broken_before) {
    for (std::size_t e = c.first; e < c.last; ++e)
      activity_[touches_[e].row] -= touches_[e].by * steps;
    goal_ -= c.goal * steps;
    point_[at(c.index)] -= c.step * steps;
    broken_ = broken_before;
  }

  void offer() {
    for (std::size_t v = 0; v < values_.size(); ++v)
      if (const Index r = place_[at(receiver_.rows()[v])]; r >= 0) values_[v] = activity_[at(r)];
    receiver_.take(point_, goal_, values_);
  }

  // Whether the columns from `from` on that are not too dear can bring every row within its limits.
  [[nodiscard]] bool mendable(std::size_t from, double spent) const {
    const std::size_t m = rows_.size();
    const double left = add_up(receiver_.room(), -spent);
    const auto dearer = [](double room, const Column& c) { return room < c.penalty; };
    const auto end = std::upper_bound(columns_.begin() + static_cast<std::ptrdiff_t>(from),
                                      columns_.end(), left, dearer);
    const auto last = static_cast<std::size_t>(end - columns_.begin());
    for (std::size_t r = 0; r < m; ++r)
      if (activity_[r] + most_[from * m + r] - most_[last * m + r] < low_[r] ||
          activity_[r] + least_[from * m + r] - least_[last * m + r] > high_[r])
        return false;
    return true;
  }

  // The point at hand, and all that differ from it in columns from k on.
  void visit(std::size_t from, double spent) {
    if (--left_ < 0 || broken_for_good_ > 0) return;
    if (broken_ == 0) {
      if (goal_ < receiver_.below()) offer();
    } else if (!mendable(from, spent)) {
      return;
    }
    for (std::size_t k = from; k < columns_.size() && left_ >= 0; ++k) {
      const Column& c = columns_[k];
      double then = add_down(spent, c.penalty);
      if (then > receiver_.room()) break;  // the later ones cost more
      const int before = broken_;
      int taken = 0;
      for (; taken < c.most && then <= receiver_.room() && left_ >= 0; ++taken) {
        step(c);
        visit(k + 1, then);
        then = add_down(then, c.penalty);
      }
      step_back(c, taken, before);
    }
  }

  const Problem& p_;
  const Domain& domain_;
  const NodePrices& prices_;
  PointReceiver& receiver_;
  double spent_ = 0.0, goal_ = 0.0;
  std::int64_t left_;
  Index broken_for_good_ = 0;  // rows that no column at hand touches
  int broken_ = 0;             // of the others, at the present point
  std::vector<Column> columns_;
  std::vector<Touch> touches_;
  std::vector<double> point_, reach_;  // and the greatest size that each column takes
  std::vector<double> activity_, low_, high_;
  std::vector<Index> rows_, place_;
  std::vector<double> least_, most_;  // by column and row
  std::vector<double> values_;        // of the rows that the receiver asks for
};

}  // namespace

bool enumerate(const Problem& problem, const Domain& domain, const NodePrices& prices,
               PointReceiver& receiver, std::int64_t most, WorkCounter& work) {
  return problem.only_rows_over_integers() && problem.goal_step() > 0.0 &&
         Enumeration(problem, domain, prices, receiver, most).run(work);
}

}  // namespace kiteknot::mip
