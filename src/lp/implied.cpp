#include "lp/implied.hpp"

#include <algorithm>
#include <cmath>

#include "base/infinity.hpp"
#include "base/interval.hpp"
#include "lp/proof.hpp"

namespace kiteknot::lp {
namespace {

// The least and the largest sum of a row's terms, its infinite ones counted.
struct Activity {
  double low = 0.0, high = 0.0;
  int no_low = 0, no_high = 0;
};

// The largest value of t / c for c in the interval (of one sign), rounded up.
double largest_quotient(double t, const Interval& c) {
  return std::max(divide_up(t, c.low), divide_up(t, c.high));
}
double least_quotient(double t, const Interval& c) {
  return std::min(divide_down(t, c.low), divide_down(t, c.high));
}

}  // namespace

double ImpliedEnds::lower(const Program& program, Index j) const {
  return std::isinf(program.lower(j)) ? lower_[at(j)] : program.lower(j);
}

double ImpliedEnds::upper(const Program& program, Index j) const {
  return std::isinf(program.upper(j)) ? upper_[at(j)] : program.upper(j);
}

bool ImpliedEnds::still_hold(const Program& program, double reach) const {
  if (!(reach <= goal_limit_)) return false;
  const Index n = program.num_columns(), m = program.num_rows();
  if (from_low_.size() != at(n) + at(m) || lower_.size() != at(n)) return false;
  for (Index j = 0; j < n; ++j)
    if (program.lower(j) < from_low_[at(j)] || program.upper(j) > from_high_[at(j)]) return false;
  for (Index i = 0; i < m; ++i)
    if (program.row_lower(i) < from_low_[at(n + i)] || program.row_upper(i) > from_high_[at(n + i)])
      return false;
  return true;
}

bool ImpliedEnds::all_there(const Program& program) const {
  for (Index j = 0; j < program.num_columns(); ++j)
    if (program.columns().size(j) > 0 && (std::isinf(lower_[at(j)]) || std::isinf(upper_[at(j)])))
      return false;
  return true;
}

void ImpliedEnds::update(const Program& program, double reach, WorkCounter& work) {
  const Index n = program.num_columns(), m = program.num_rows();
  work.add(n + m);
  if (still_hold(program, reach)) return;
  from_low_.clear();
  from_high_.clear();
  for (Index j = 0; j < n; ++j) {
    from_low_.push_back(program.lower(j));
    from_high_.push_back(program.upper(j));
  }
  lower_ = from_low_;
  upper_ = from_high_;
  std::vector<Index> rows;
  for (Index i = 0; i < m; ++i) {
    from_low_.push_back(program.row_lower(i));
    from_high_.push_back(program.row_upper(i));
    rows.push_back(i);
  }
  goal_limit_ = kInf;
  look_at_rows(program, std::move(rows), work);
  if (std::isfinite(reach) && !all_there(program)) look_at_goal(program, reach, work);
}

// Rows again once another of their columns has got an end; not more often than a few times all.
void ImpliedEnds::look_at_rows(const Program& program, std::vector<Index> rows, WorkCounter& work) {
  std::vector<Index> found;
  std::vector<char> waiting(at(program.num_rows()), 0);
  for (const Index i : rows) waiting[at(i)] = 1;
  constexpr Offset kTimes = 20;
  Offset left = kTimes * (program.num_nonzeros() + program.num_rows());
  for (std::size_t next = 0; next < rows.size() && left > 0; ++next) {
    const Index i = rows[next];
    waiting[at(i)] = 0;
    const Offset cost = 1 + static_cast<Offset>(program.rows().index(i).size());
    left -= cost;
    work.add(cost);
    found.clear();
    if (!look_at({program.rows().index(i), program.rows().value(i), program.row_exact(i),
                  program.row_lower(i), program.row_upper(i)},
                 found))
      continue;
    for (const Index j : found)
      for (const Index other : program.columns().index(j))
        if (!waiting[at(other)]) {
          waiting[at(other)] = 1;
          rows.push_back(other);
        }
  }
}

// Generous, so that it need not move with every goal, and that bounds stay far below it.
void ImpliedEnds::look_at_goal(const Program& program, double reach, WorkCounter& work) {
  constexpr double kGenerous = 100.0;
  std::vector<Index> index, found, rows;
  std::vector<double> value;
  for (Index j = 0; j < program.num_columns(); ++j)
    if (program.cost(j) != 0.0) {
      index.push_back(j);
      value.push_back(program.cost(j));
    }
  work.add(program.num_columns());
  const double limit = reach + kGenerous * std::max(1.0, std::abs(reach));
  if (!look_at({index, value, program.cost_exact(), -kInf, limit}, found)) return;
  goal_limit_ = limit;
  for (const Index j : found)
    for (const Index i : program.columns().index(j)) rows.push_back(i);
  std::ranges::sort(rows);
  rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
  look_at_rows(program, std::move(rows), work);
}

// Fills ends that are missing; `found` names their columns.
bool ImpliedEnds::look_at(const Sum& of, std::vector<Index>& found) {
  const auto index = of.index;
  const auto value = of.value;
  const bool exact = of.exact;
  const double low_limit = of.low, high_limit = of.high;
  Activity sum;
  for (std::size_t k = 0; k < index.size(); ++k) {
    if (value[k] == 0.0) continue;
    const Interval c = coefficient(value[k], exact);
    const double low = least_product(c, lower_[at(index[k])], upper_[at(index[k])]);
    const double high =
        -least_product({-c.high, -c.low}, lower_[at(index[k])], upper_[at(index[k])]);
    if (std::isinf(low))
      ++sum.no_low;
    else
      sum.low = add_down(sum.low, low);
    if (std::isinf(high))
      ++sum.no_high;
    else
      sum.high = add_up(sum.high, high);
  }
  const bool from_above = std::isfinite(high_limit) && sum.no_low <= 1;
  const bool from_below = std::isfinite(low_limit) && sum.no_high <= 1;
  if (!from_above && !from_below) return false;
  for (std::size_t k = 0; k < index.size(); ++k) {
    const Index j = index[k];
    double &lower = lower_[at(j)], &upper = upper_[at(j)];
    if (value[k] == 0.0 || (std::isfinite(lower) && std::isfinite(upper))) continue;
    const Interval c = coefficient(value[k], exact);
    const double low = least_product(c, lower, upper);
    const double high = -least_product({-c.high, -c.low}, lower, upper);
    double new_lower = lower, new_upper = upper;
    // The other terms' least sum: without this one's, rounded down.
    const auto others = [](double all, int infinite, double own) {
      return std::isinf(own) ? (infinite == 1 ? all : -kInf)
                             : (infinite == 0 ? add_down(all, -own) : -kInf);
    };
    if (from_above) {
      const double rest = others(sum.low, sum.no_low, low);
      if (rest > -kInf) {  // c x <= room
        const double room = add_up(high_limit, -rest);
        if (c.low > 0.0)
          new_upper = std::min(new_upper, largest_quotient(room, c));
        else
          new_lower = std::max(new_lower, least_quotient(room, c));
      }
    }
    if (from_below) {
      const double rest = -others(-sum.high, sum.no_high, -high);
      if (rest < kInf) {  // c x >= need
        const double need = add_down(low_limit, -rest);
        if (c.low > 0.0)
          new_lower = std::max(new_lower, least_quotient(need, c));
        else
          new_upper = std::min(new_upper, largest_quotient(need, c));
      }
    }
    // Own bounds stay what they are; only missing ends count. The sums above stay valid.
    bool any = false;
    if (std::isinf(lower) && std::isfinite(new_lower)) {
      lower = new_lower;
      any = true;
    }
    if (std::isinf(upper) && std::isfinite(new_upper)) {
      upper = new_upper;
      any = true;
    }
    if (any) found.push_back(j);
  }
  return !found.empty();
}

}  // namespace kiteknot::lp
