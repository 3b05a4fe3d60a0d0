#include "mip/enumerate.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::mip {
namespace {

constexpr std::size_t kMostColumns = 60, kMostRows = 80;

std::size_t at(Index i) {
  return static_cast<std::size_t>(i);
}

class Enumeration {
 public:
  Enumeration(const Problem& p, const Domain& domain, const NodeBound& node, double best,
              std::int64_t most)
      : p_(p), domain_(domain), node_(node), best_(best), left_(most) {}

  Enumerated run(WorkCounter& work) {
    Enumerated out;
    const std::int64_t most = left_;
    room_ = add_up(step_up(best_ - p_.goal_step()), -node_.bound);
    if (room_ < 0.0) return {true, std::nullopt};
    if (!choose_columns() || !choose_rows()) return out;
    measure_rest();
    visit(0, spent_);
    work.add((most - left_) * static_cast<std::int64_t>(rows_.size() + 4));
    out.complete = left_ >= 0;
    if (found_) out.better = std::move(found_);
    return out;
  }

 private:
  struct Column {
    Index index;
    double penalty;  // of a step, rounded down
    double step;     // +1 or -1
    int most;        // steps that the domain allows
  };

  // What a step away from the cheap side costs at least, and where each column starts. Columns that
  // the domain holds away from their cheap side have spent something already.
  bool choose_columns() {
    point_.resize(at(p_.num_columns()));
    for (Index j = 0; j < p_.num_columns(); ++j) {
      const Interval d = node_.reduced[at(j)];
      const double low = domain_.lower(j), high = domain_.upper(j);
      const bool down = d.high < 0.0;  // best at its greatest value
      const double start = down ? high : low;
      const double away = down ? node_.box->upper(j) - high : low - node_.box->lower(j);
      const double penalty = d.low > 0.0 ? d.low : down ? -d.high : 0.0;
      if (!std::isfinite(start) || !whole(p_.cost(j))) return false;
      if (penalty > 0.0 && away > 0.0) spent_ = add_down(spent_, multiply_down(penalty, away));
      point_[at(j)] = start;
      goal_ += p_.cost(j) * start;
      if (low == high || penalty > room_) continue;
      constexpr double kMostSteps = 1000.0;
      if (columns_.size() == kMostColumns || high - low > kMostSteps) return false;
      columns_.push_back({j, penalty, down ? -1.0 : 1.0, static_cast<int>(high - low)});
    }
    std::stable_sort(columns_.begin(), columns_.end(),
                     [](const Column& a, const Column& b) { return a.penalty < b.penalty; });
    return true;
  }

  // The rows that the columns touch; the others do not change. Those that a fixed point breaks are
  // left to the propagation.
  bool choose_rows() {
    place_.assign(at(p_.num_rows()), -1);
    for (const Column& c : columns_)
      for (const Index i : p_.columns().index(c.index)) {
        if (place_[at(i)] >= 0) continue;
        if (rows_.size() == kMostRows) return false;
        place_[at(i)] = static_cast<Index>(rows_.size());
        rows_.push_back(i);
      }
    for (Index i = 0; i < p_.num_rows(); ++i) {
      if (!p_.row_exact(i)) return false;
      double sum = 0.0;
      const auto columns = p_.rows().index(i);
      const auto values = p_.rows().value(i);
      for (std::size_t k = 0; k < columns.size(); ++k) {
        if (!whole(values[k])) return false;
        sum += values[k] * point_[at(columns[k])];
      }
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
    return true;
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
      const auto rows = p_.columns().index(c.index);
      const auto values = p_.columns().value(c.index);
      for (std::size_t e = 0; e < rows.size(); ++e) {
        const double by = values[e] * c.step * c.most;
        (by < 0.0 ? least_ : most_)[k * m + at(place_[at(rows[e])])] += by;
      }
    }
  }

  void move(const Column& c, double steps) {
    const auto rows = p_.columns().index(c.index);
    const auto values = p_.columns().value(c.index);
    for (std::size_t e = 0; e < rows.size(); ++e)
      activity_[at(place_[at(rows[e])])] += values[e] * c.step * steps;
    goal_ += p_.cost(c.index) * c.step * steps;
    point_[at(c.index)] += c.step * steps;
  }

  // The point at hand, and all that differ from it in columns from k on.
  void visit(std::size_t from, double spent) {
    if (--left_ < 0 || broken_for_good_ > 0) return;
    const std::size_t m = rows_.size();
    bool met = true;
    for (std::size_t r = 0; r < m; ++r) {
      const double low = p_.row_lower(rows_[r]), high = p_.row_upper(rows_[r]);
      const double a = activity_[r];
      if (a + most_[from * m + r] < low || a + least_[from * m + r] > high) return;
      met = met && a >= low && a <= high;
    }
    if (met && goal_ < best_) {
      best_ = goal_;
      room_ = add_up(step_up(best_ - p_.goal_step()), -node_.bound);
      found_ = point_;
    }
    for (std::size_t k = from; k < columns_.size() && left_ >= 0; ++k) {
      const Column& c = columns_[k];
      double then = add_down(spent, c.penalty);
      if (then > room_) break;  // the later ones cost more
      int taken = 0;
      while (taken < c.most && then <= room_ && left_ >= 0) {
        move(c, 1.0);
        ++taken;
        visit(k + 1, then);
        then = add_down(then, c.penalty);
      }
      if (taken > 0) move(c, -taken);
    }
  }

  const Problem& p_;
  const Domain& domain_;
  const NodeBound& node_;
  double best_, room_ = 0.0, spent_ = 0.0, goal_ = 0.0;
  std::int64_t left_;
  Index broken_for_good_ = 0;
  std::vector<Column> columns_;
  std::vector<double> point_, activity_;
  std::vector<Index> rows_, place_;
  std::vector<double> least_, most_;  // by column and row
  std::optional<std::vector<double>> found_;
};

}  // namespace

Enumerated enumerate(const Problem& problem, const Domain& domain, const NodeBound& node,
                     double best, std::int64_t most, WorkCounter& work) {
  if (problem.num_integers() < problem.num_columns() || !problem.conditional_rows().empty() ||
      !problem.ordered_sets().empty() || problem.generator() != nullptr || !problem.cost_exact() ||
      problem.goal_step() <= 0.0)
    return {};
  return Enumeration(problem, domain, node, best, most).run(work);
}

}  // namespace kiteknot::mip
