#include "mip/nonlinear/local_solver.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <span>

#include <Eigen/SparseCholesky>

#include "mip/nonlinear/local_conditions.hpp"

namespace kiteknot::mip {
namespace {

using Vector = LocalConditions::Vector;
using Matrix = Eigen::SparseMatrix<double>;
using Triplets = LocalConditions::Triplets;

class InteriorPoint {
 public:
  InteriorPoint(LocalConditions& c, WorkCounter& work)
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

  // What a barrier keeps a little away from the bound that holds it stands at that bound, and the
  // equations are met again; not where they then cannot be.
  void settle() {
    if (work_.interrupted()) return;
    const Vector before = v_;
    for (int i = 0; i < n_; ++i) {
      const auto holds = [&](double room, double multiplier) {
        return room < kAtBound * std::max(1.0, std::abs(v_[i])) && multiplier > room;
      };
      if (holds(v_[i] - c_.low(i), to_low_[i]))
        v_[i] = c_.low(i);
      else if (holds(c_.high(i) - v_[i], to_high_[i]))
        v_[i] = c_.high(i);
    }
    project();
    if (c_.values(v_, nullptr, n_).lpNorm<Eigen::Infinity>() <= kMet) return;
    v_ = before;
    project();
  }

 private:
  static constexpr double kAtBound = 1e-5, kMet = 1e-12;

  // The nearest point at which all equations hold, with what stands at a bound held there.
  void project() {
    for (int k = 0; k < 8 && !work_.interrupted(); ++k) {
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
    if (!same_places()) {
      solver_.analyzePattern(matrix_);
      factor_work_ = 0;
    }
    solver_.factorize(matrix_);
    if (factor_work_ == 0) factor_work_ = work_of_factor();
    work_.add(20 * static_cast<std::int64_t>(entries.size()) + factor_work_);
    return solver_.info() == Eigen::Success;
  }

  // Whether the matrix has its entries where the last one had them: then one ordering serves both.
  bool same_places() {
    const auto outer = std::span(matrix_.outerIndexPtr(), at(n_ + m_) + 1);
    const auto inner = std::span(matrix_.innerIndexPtr(), at(matrix_.nonZeros()));
    if (std::ranges::equal(outer, outer_) && std::ranges::equal(inner, inner_)) return true;
    outer_.assign(outer.begin(), outer.end());
    inner_.assign(inner.begin(), inner.end());
    return false;
  }

  // Multiplications, four of which cost what one look at the memory does.
  std::int64_t work_of_factor() const {
    const Matrix& lower = solver_.matrixL().nestedExpression();
    std::int64_t work = 0;
    for (Eigen::Index j = 0; j < lower.outerSize(); ++j) {
      const std::int64_t length = lower.outerIndexPtr()[j + 1] - lower.outerIndexPtr()[j];
      work += length * length / 4 + length;
    }
    return work;
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
      if (work_.interrupted()) return false;
      if (more == 0.0)
        more = std::max(1e-6, last_more_ / 3.0);
      else
        more *= last_more_ == 0.0 ? 40.0 : 6.0;
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
    if (miss < 1e-9 || ++restored_ > kMostRestored || work_.interrupted()) return false;
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

  LocalConditions& c_;
  WorkCounter& work_;
  int n_, m_;
  Vector goal_, v_, y_, to_low_, to_high_;
  double mu_ = 0.1, last_more_ = 0.0;
  std::vector<Left> filter_;
  static constexpr int kMostRestored = 40;
  int restored_ = 0;
  Matrix matrix_;
  std::vector<int> outer_, inner_;  // where its entries are
  std::int64_t factor_work_ = 0;    // 0: not known yet
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
    LocalConditions conditions(program, end.point);
    InteriorPoint method(conditions, work);
    end.at_rest = conditions.size() == 0 || method.run();
    if (conditions.size() > 0) method.settle();
    end.point = conditions.point_of(method.values());
    if (work.interrupted()) break;
  }
  if (!(worst_miss(program, end.point) <= kEnough)) return std::nullopt;
  return end;
}

}  // namespace kiteknot::mip
