#include "mip/nonlinear/local_solver.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <Eigen/SparseCholesky>

#include "base/at.hpp"

namespace kiteknot::mip {
namespace {

using Vector = Eigen::VectorXd;
using Matrix = Eigen::SparseMatrix<double>;
using Triplets = std::vector<Eigen::Triplet<double>>;

// minimise c'v, g(v) = 0, l <= v <= u over the columns that move and a slack for each inequality.
class Conditions {
 public:
  Conditions(const LocalProgram& program, std::vector<double> start)
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

  [[nodiscard]] int size() const { return static_cast<int>(low_.size()); }
  [[nodiscard]] int equations() const { return static_cast<int>(slack_.size()); }
  [[nodiscard]] double low(int i) const { return low_[at(i)]; }
  [[nodiscard]] double high(int i) const { return high_[at(i)]; }
  [[nodiscard]] const std::vector<double>& costs() const { return cost_; }
  [[nodiscard]] Vector start() const {
    return Eigen::Map<const Vector>(start_.data(), static_cast<Eigen::Index>(start_.size()));
  }
  [[nodiscard]] const std::vector<double>& point_of(const Vector& v) {
    for (std::size_t j = 0; j < place_.size(); ++j)
      if (place_[j] >= 0) point_[j] = v[place_[j]];
    return point_;
  }

  // g(v), and its derivatives where they are wanted: `shift` before the rows of the equations.
  Vector values(const Vector& v, Triplets* jacobian, int shift) {
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

  // The second derivatives of y'g, lower triangle.
  void curvature(const Vector& y, Triplets& out) {
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

 private:
  int add(double low, double high, double start, double cost) {
    low_.push_back(low);
    high_.push_back(high);
    start_.push_back(start);
    cost_.push_back(cost);
    return static_cast<int>(low_.size()) - 1;
  }
  // Limits of an equation whose figure no double is lie a rounding apart: a barrier has no room
  // there.
  static bool sliver(const Interval& limits) {
    constexpr double kSliver = 1e-12;
    return std::isfinite(limits.low) &&
           limits.high - limits.low <= kSliver * (1.0 + std::abs(limits.low));
  }
  void add_slack(const Interval& limits, double value) {
    slack_.push_back(
        sliver(limits)
            ? -1
            : add(limits.low, limits.high,
                  std::clamp(std::isfinite(value) ? value : 0.0, limits.low, limits.high), 0.0));
  }
  double value_of(const RowView& row) const {
    double sum = 0.0;
    for (std::size_t k = 0; k < row.index.size(); ++k)
      sum += row.value[k] * point_[at(row.index[k])];
    return sum;
  }

  const LocalProgram& p_;
  std::vector<double> point_;
  std::vector<int> place_;                                 // by columns: among what moves; -1: held
  std::vector<std::pair<const RowView*, double>> linear_;  // with what brings its entries near 1
  struct Smooth {
    const SmoothRows* rows;
    Index k;
    double scale;
  };
  std::vector<Smooth> smooth_;
  std::vector<int> slack_;  // by equations; -1: none
  std::vector<double> low_, high_, start_, cost_;
};

class InteriorPoint {
 public:
  InteriorPoint(Conditions& c, WorkCounter& work)
      : c_(c), work_(work), n_(c.size()), m_(c.equations()), v_(c.start()), y_(Vector::Zero(m_)) {
    double largest = 1.0;
    for (const double cost : c.costs()) largest = std::max(largest, std::abs(cost));
    goal_ = Eigen::Map<const Vector>(c.costs().data(), n_) / largest;
    for (int i = 0; i < n_; ++i) v_[i] = inside(i, v_[i]);
    to_low_ = to_high_ = Vector::Zero(n_);
    for (int i = 0; i < n_; ++i) {
      if (std::isfinite(c.low(i))) to_low_[i] = mu_ / (v_[i] - c.low(i));
      if (std::isfinite(c.high(i))) to_high_[i] = mu_ / (c.high(i) - v_[i]);
    }
  }

  // True: it came to rest.
  bool run() {
    constexpr int kMost = 150;
    constexpr double kEnd = 1e-9, kNearly = 1e-7;
    for (int k = 0; k < kMost && !work_.interrupted(); ++k) {
      Triplets jacobian;
      const Vector g = c_.values(v_, &jacobian, n_);
      if (!g.allFinite()) return false;
      if (mu_ > kEnd && residual(g, jacobian, mu_) <= 10.0 * mu_) {
        mu_ = std::max(kEnd / 10.0, std::min(0.2 * mu_, std::pow(mu_, 1.5)));
        filter_.clear();
      }
      if (mu_ <= kEnd && residual(g, jacobian, mu_) <= 10.0 * kEnd) return true;
      if (step(g, jacobian)) continue;
      if (residual(g, jacobian, mu_) <= kNearly && mu_ <= kNearly)
        return true;  // as near as it gets
      if (!restore(g, std::move(jacobian))) return false;
    }
    return false;
  }

  [[nodiscard]] const Vector& values() const { return v_; }

  // The nearest point at which all equations hold, with what stands at a bound held there.
  void project() {
    for (int k = 0; k < 8; ++k) {
      Triplets entries;
      const Vector g = c_.values(v_, &entries, n_);
      if (!g.allFinite() || g.lpNorm<Eigen::Infinity>() < 1e-15) return;
      for (int i = 0; i < n_; ++i) {
        const double room = std::min(v_[i] - c_.low(i), c_.high(i) - v_[i]);
        entries.emplace_back(i, i, room < 1e-7 ? 1e8 : 1.0);
      }
      for (int e = 0; e < m_; ++e) entries.emplace_back(n_ + e, n_ + e, -1e-13);
      if (!factorise(entries)) return;
      Vector right = Vector::Zero(n_ + m_);
      right.tail(m_) = -g;
      const Vector move = solved(right, 1e-13);
      if (!move.allFinite()) return;
      Vector to = v_ + move.head(n_);
      for (int i = 0; i < n_; ++i) to[i] = std::clamp(to[i], c_.low(i), c_.high(i));
      const Vector after = c_.values(to, nullptr, n_);
      if (!after.allFinite() || after.lpNorm<Eigen::Infinity>() >= g.lpNorm<Eigen::Infinity>())
        return;
      v_ = to;
    }
  }

 private:
  double inside(int i, double value) const {
    constexpr double kShare = 1e-2;
    const double low = c_.low(i), high = c_.high(i), width = high - low;
    const double from_low = std::min(kShare * std::max(1.0, std::abs(low)), kShare * width);
    const double from_high = std::min(kShare * std::max(1.0, std::abs(high)), kShare * width);
    if (std::isfinite(low)) value = std::max(value, low + from_low);
    if (std::isfinite(high)) value = std::min(value, high - from_high);
    return value;
  }

  Vector times_transposed(const Triplets& jacobian, const Vector& y) const {
    Vector out = Vector::Zero(n_);
    for (const auto& t : jacobian) out[t.col()] += t.value() * y[t.row() - n_];
    return out;
  }

  double residual(const Vector& g, const Triplets& jacobian, double mu) const {
    const Vector slope = goal_ + times_transposed(jacobian, y_) - to_low_ + to_high_;
    double worst = g.lpNorm<Eigen::Infinity>();
    const double size = std::max(
        1.0, (y_.lpNorm<1>() + to_low_.lpNorm<1>() + to_high_.lpNorm<1>()) / (100.0 * (n_ + m_)));
    worst = std::max(worst, slope.lpNorm<Eigen::Infinity>() / size);
    for (int i = 0; i < n_; ++i) {
      if (std::isfinite(c_.low(i)))
        worst = std::max(worst, std::abs((v_[i] - c_.low(i)) * to_low_[i] - mu) / size);
      if (std::isfinite(c_.high(i)))
        worst = std::max(worst, std::abs((c_.high(i) - v_[i]) * to_high_[i] - mu) / size);
    }
    return worst;
  }

  bool factorise(const Triplets& entries) {
    matrix_.resize(n_ + m_, n_ + m_);
    matrix_.setFromTriplets(entries.begin(), entries.end());
    work_.add(20 * static_cast<std::int64_t>(entries.size()));
    solver_.compute(matrix_);
    return solver_.info() == Eigen::Success;
  }

  // With the equations as they are: what was taken off the diagonal of the factor is put back.
  Vector solved(const Vector& right, double taken) const {
    Vector x = solver_.solve(right);
    for (int k = 0; k < 3 && x.allFinite(); ++k) {
      Vector rest = right - matrix_.selfadjointView<Eigen::Lower>() * x;
      rest.tail(m_) -= taken * x.tail(m_);
      if (rest.lpNorm<Eigen::Infinity>() <= 1e-15 * (1.0 + right.lpNorm<Eigen::Infinity>())) break;
      const Vector more = solver_.solve(rest);
      if (!more.allFinite()) break;
      x += more;
    }
    return x;
  }

  // As many positive pivots as there are columns: the step goes down.
  bool right_inertia() const {
    const Vector d = solver_.vectorD();
    int positive = 0;
    for (Eigen::Index i = 0; i < d.size(); ++i) positive += d[i] > 0.0 ? 1 : 0;
    return positive == n_;
  }

  bool step(const Vector& g, const Triplets& jacobian) {
    Vector barrier = goal_, weight = Vector::Zero(n_);
    for (int i = 0; i < n_; ++i) {
      if (std::isfinite(c_.low(i))) {
        barrier[i] -= mu_ / (v_[i] - c_.low(i));
        weight[i] += to_low_[i] / (v_[i] - c_.low(i));
      }
      if (std::isfinite(c_.high(i))) {
        barrier[i] += mu_ / (c_.high(i) - v_[i]);
        weight[i] += to_high_[i] / (c_.high(i) - v_[i]);
      }
    }
    const Vector slope = barrier + times_transposed(jacobian, y_);
    Triplets entries = jacobian;
    c_.curvature(y_, entries);
    const std::size_t plain = entries.size();
    double more = 0.0;
    for (int tries = 0;; ++tries) {
      if (tries > 40) return false;
      entries.resize(plain);
      for (int i = 0; i < n_; ++i) entries.emplace_back(i, i, weight[i] + more);
      for (int e = 0; e < m_; ++e) entries.emplace_back(n_ + e, n_ + e, -kTaken);
      if (factorise(entries) && right_inertia()) break;
      more = more == 0.0 ? std::max(1e-6, last_more_ / 3.0) : 6.0 * more;
      if (more > 1e12) return false;
    }
    if (more > 0.0) last_more_ = more;
    Vector right(n_ + m_);
    right << -slope, -g;
    const Vector move = solved(right, kTaken);
    if (!move.allFinite()) return false;
    const Vector dv = move.head(n_), dy = move.tail(m_);
    return walk(g, slope, barrier, dv, dy);
  }

  // Where no step is one forward: nearer to the equations alone, away from the bounds.
  bool restore(const Vector& g, Triplets entries) {
    const double miss = g.lpNorm<1>();
    if (miss < 1e-9 || ++restored_ > kMostRestored) return false;
    for (int i = 0; i < n_; ++i) {
      const double room = std::min({1.0, v_[i] - c_.low(i), c_.high(i) - v_[i]});
      entries.emplace_back(i, i, 1.0 / (room * room));
    }
    for (int e = 0; e < m_; ++e) entries.emplace_back(n_ + e, n_ + e, -1e-10);
    if (!factorise(entries)) return false;
    Vector right = Vector::Zero(n_ + m_);
    right.tail(m_) = -g;
    const Vector move = solver_.solve(right);
    if (!move.allFinite()) return false;
    const Vector dv = move.head(n_);
    double by = reach(dv);
    for (int k = 0; k < 20; ++k, by *= 0.5) {
      const Vector to = v_ + by * dv;
      const Vector after = c_.values(to, nullptr, n_);
      if (!after.allFinite() || after.lpNorm<1>() > (1.0 - 0.1 * by) * miss) continue;
      v_ = to;
      y_.setZero();
      filter_.clear();
      for (int i = 0; i < n_; ++i) {
        if (std::isfinite(c_.low(i))) to_low_[i] = mu_ / (v_[i] - c_.low(i));
        if (std::isfinite(c_.high(i))) to_high_[i] = mu_ / (c_.high(i) - v_[i]);
      }
      return true;
    }
    return false;
  }

  // How far one may go towards a bound.
  double reach(const Vector& dv) const {
    const double keep = std::max(0.99, 1.0 - mu_);
    double most = 1.0;
    for (int i = 0; i < n_; ++i) {
      if (dv[i] < 0.0 && std::isfinite(c_.low(i)))
        most = std::min(most, -keep * (v_[i] - c_.low(i)) / dv[i]);
      if (dv[i] > 0.0 && std::isfinite(c_.high(i)))
        most = std::min(most, keep * (c_.high(i) - v_[i]) / dv[i]);
    }
    return most;
  }

  double barrier_goal(const Vector& v) const {
    double sum = goal_.dot(v);
    for (int i = 0; i < n_; ++i) {
      if (std::isfinite(c_.low(i))) sum -= mu_ * std::log(v[i] - c_.low(i));
      if (std::isfinite(c_.high(i))) sum -= mu_ * std::log(c_.high(i) - v[i]);
    }
    return sum;
  }

  // Misses and goal of a point that was left: a later one has to be better in one of them.
  struct Left {
    double miss, goal;
  };
  static constexpr double kMargin = 1e-5;
  bool passes(double miss, double goal) const {
    return std::ranges::all_of(filter_, [&](const Left& l) {
      return miss < (1.0 - kMargin) * l.miss || goal < l.goal - kMargin * l.miss;
    });
  }

  // Whether a step of this length to there is one forward; `down`: the slope of the goal.
  bool accepts(const Vector& to, const Vector& after, double miss, double goal, double down,
               double by) {
    if (!after.allFinite()) return false;
    const double miss_there = after.lpNorm<1>(), goal_there = barrier_goal(to);
    const double rounding = 1e-13 * (1.0 + std::abs(goal));
    if (!passes(miss_there, goal_there - rounding)) return false;
    const bool for_goal = down < 0.0 && by * std::pow(-down, 2.3) > std::pow(miss, 1.1);
    if (for_goal) return goal_there <= goal + 1e-4 * by * down + rounding;
    if (miss_there > (1.0 - kMargin) * miss && goal_there > goal - kMargin * miss + rounding)
      return false;
    filter_.push_back({miss, goal});
    return true;
  }

  bool walk(const Vector& g, const Vector& slope, const Vector& barrier, Vector dv,
            const Vector& dy) {
    const double miss = g.lpNorm<1>(), goal = barrier_goal(v_), down = barrier.dot(dv);
    double by = reach(dv);
    for (int k = 0;; ++k, by *= 0.5) {
      if (k > 30) return false;
      const Vector to = v_ + by * dv;
      const Vector after = c_.values(to, nullptr, n_);
      if (accepts(to, after, miss, goal, down, by)) break;
      if (k > 0 || !after.allFinite() || after.lpNorm<1>() < miss) continue;
      // A second-order correction: the equations as they are at the end of the step.
      Vector right(n_ + m_);
      right << -slope, -(by * g + after);
      const Vector move = solved(right, kTaken);
      if (!move.allFinite()) continue;
      const Vector bent = move.head(n_);
      const double length = reach(bent);
      const Vector there = v_ + length * bent;
      const Vector then = c_.values(there, nullptr, n_);
      if (accepts(there, then, miss, goal, down, by)) {
        dv = bent;
        by = length;
        break;
      }
    }
    const double keep = std::max(0.99, 1.0 - mu_);
    const Vector old = v_;
    v_ += by * dv;
    y_ += by * dy;
    // The bounds' multipliers follow, no further than mu times a constant from what mu asks.
    constexpr double kSpread = 1e10;
    for (int i = 0; i < n_; ++i) {
      const auto follow = [&](double& z, double room, double room_now, double d) {
        const double change = mu_ / room - z - z / room * d;
        z = std::max(z + by * change, (1.0 - keep) * z);
        z = std::clamp(z, mu_ / (kSpread * room_now), kSpread * mu_ / room_now);
      };
      if (std::isfinite(c_.low(i)))
        follow(to_low_[i], old[i] - c_.low(i), v_[i] - c_.low(i), dv[i]);
      if (std::isfinite(c_.high(i)))
        follow(to_high_[i], c_.high(i) - old[i], c_.high(i) - v_[i], -dv[i]);
    }
    return true;
  }

  static constexpr double kTaken = 1e-9;  // off the diagonal for the equations

  Conditions& c_;
  WorkCounter& work_;
  int n_, m_;
  Vector goal_, v_, y_, to_low_, to_high_;
  double mu_ = 0.1, last_more_ = 0.0;
  std::vector<Left> filter_;
  static constexpr int kMostRestored = 40;
  int restored_ = 0;
  Matrix matrix_;
  Eigen::SimplicialLDLT<Matrix, Eigen::Lower> solver_;
};

// What the point misses the worst constraint by, relative to its size.
double worst_miss(const LocalProgram& p, const std::vector<double>& x) {
  double worst = 0.0;
  const auto look = [&](double value, const Interval& limits, double size) {
    const double by = std::max(limits.low - value, value - limits.high);
    if (std::isnan(value)) worst = kInf;
    worst = std::max(worst, by / (1.0 + size));
  };
  for (const RowView& row : p.rows) {
    double sum = 0.0, size = 0.0;
    for (std::size_t k = 0; k < row.index.size(); ++k) {
      const double term = row.value[k] * x[at(row.index[k])];
      sum += term;
      size = std::max(size, std::abs(term));
    }
    look(sum, {row.lower, row.upper}, size);
  }
  for (const SmoothRows* rows : p.smooth)
    for (Index k = 0; k < rows->size(); ++k) {
      std::array<double, SmoothRows::kMostColumns> gradient{};
      const double value = rows->value(k, x, gradient);
      look(value, rows->limits(k), std::abs(x[at(rows->columns(k)[0])]));
    }
  return worst;
}

}  // namespace

std::optional<LocalEnd> local_optimum(const LocalProgram& program, std::vector<double> start,
                                      WorkCounter& work) {
  constexpr double kEnough = 1e-7;
  constexpr int kTries = 3;  // where it gets stuck at bounds it begins again from there
  LocalEnd end{std::move(start), false};
  for (int k = 0; k < kTries && !end.at_rest; ++k) {
    Conditions conditions(program, end.point);
    InteriorPoint method(conditions, work);
    end.at_rest = conditions.size() == 0 || method.run();
    if (conditions.size() > 0) method.project();
    end.point = conditions.point_of(method.values());
    if (work.interrupted()) break;
  }
  if (!(worst_miss(program, end.point) <= kEnough)) return std::nullopt;
  return end;
}

}  // namespace kiteknot::mip
