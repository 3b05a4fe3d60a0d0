#include "lp/exact_pivots.hpp"

#include <algorithm>

#include "base/at.hpp"

namespace kiteknot::lp {
namespace {

// Variables are columns first, then the rows' logicals, as in Simplex.
class ExactPrimal {
 public:
  ExactPrimal(const Program& program, Basis basis, const ExactPivots& how)
      : p_(program), n_(program.num_columns()), m_(program.num_rows()), how_(how) {
    end_.basis = at_own_bounds(program, std::move(basis));
    for (Index k = 0; k < n_ + m_; ++k) {
      low_.push_back(k < n_ ? p_.exact_lower(k) : p_.exact_row_lower(k - n_));
      high_.push_back(k < n_ ? p_.exact_upper(k) : p_.exact_row_upper(k - n_));
    }
    for (Index j = 0; j < n_; ++j) cost_.push_back(p_.exact_cost(j));
  }

  std::optional<ExactEnd> run() {
    while (true) {
      if (how_.limits.interrupt.now() || end_.pivots >= how_.most) {
        end_.status = Status::limit;
        return std::move(end_);
      }
      if (!locate()) return std::nullopt;
      const bool phase_one = infeasible_;
      const auto d =
          exact_reduced_costs(p_, end_.basis, phase_one ? gradient() : cost_, how_.limits);
      if (!d) return std::nullopt;
      const Index q = entering(*d);
      if (q < 0) {
        end_.status = phase_one ? Status::infeasible : Status::optimal;
        return std::move(end_);
      }
      const bool upward = (*d)[at(q)].sign() < 0;
      auto moves = exact_direction(p_, end_.basis, q, upward, how_.limits);
      if (!moves) return std::nullopt;
      for (Index i = 0; i < m_; ++i) moves->push_back(row_sum(i, *moves));
      const Step step = ratio_test(q, upward, *moves);
      if (!step.bounded) {  // never in phase 1: the sum of infeasibilities ends at 0
        end_.status = Status::unbounded;
        moves->resize(at(n_));
        end_.ray = std::move(*moves);
        return std::move(end_);
      }
      take(q, upward, step);
    }
  }

 private:
  struct Step {
    bool bounded = false, to_upper = false;
    Rational length;
    Index leaving = -1;  // -1: the entering variable reaches its own other bound
  };

  VariableStatus& place(Index k) {
    return k < n_ ? end_.basis.columns[at(k)] : end_.basis.rows[at(k - n_)];
  }

  Rational row_sum(Index i, const std::vector<Rational>& x) const {
    Rational sum = 0;
    const auto index = p_.rows().index(i);
    for (std::size_t e = 0; e < index.size(); ++e)
      if (!x[at(index[e])].is_zero()) sum += p_.exact_value(i, e) * x[at(index[e])];
    return sum;
  }

  // value_ and where it is out of bounds.
  bool locate() {
    auto x = exact_values(p_, end_.basis, how_.limits);
    if (!x) return false;
    end_.x = *x;
    value_ = std::move(*x);
    for (Index i = 0; i < m_; ++i) value_.push_back(row_sum(i, end_.x));
    side_.assign(at(n_ + m_), 0);
    infeasible_ = false;
    for (Index k = 0; k < n_ + m_; ++k) {
      if (place(k) != VariableStatus::basic) continue;
      side_[at(k)] = value_[at(k)] < low_[at(k)] ? -1 : value_[at(k)] > high_[at(k)] ? 1 : 0;
      infeasible_ = infeasible_ || side_[at(k)] != 0;
    }
    return true;
  }

  // Of the sum of infeasibilities, by columns: a row's logical is a'x.
  std::vector<Rational> gradient() const {
    std::vector<Rational> g(at(n_));
    for (Index j = 0; j < n_; ++j) g[at(j)] = side_[at(j)];
    for (Index i = 0; i < m_; ++i) {
      if (side_[at(n_ + i)] == 0) continue;
      const auto index = p_.rows().index(i);
      for (std::size_t e = 0; e < index.size(); ++e)
        g[at(index[e])] += Rational(side_[at(n_ + i)]) * p_.exact_value(i, e);
    }
    return g;
  }

  // The largest reduced cost; the first one after a while without progress.
  Index entering(const std::vector<Rational>& d) {
    Index best = -1;
    for (Index k = 0; k < n_ + m_; ++k) {
      const VariableStatus p = place(k);
      const int sign = d[at(k)].sign();
      if (p == VariableStatus::basic || low_[at(k)] == high_[at(k)] || sign == 0 ||
          (p == VariableStatus::at_lower && sign > 0) ||
          (p == VariableStatus::at_upper && sign < 0))
        continue;
      if (stalled_ > kPatience) return k;
      if (best < 0 || d[at(k)].abs() > d[at(best)].abs()) best = k;
    }
    return best;
  }

  // Every basic variable may go as far as the next of its bounds; one that is out of bounds as far
  // as the bound that it misses, and no matter how far away from it.
  Step ratio_test(Index q, bool upward, const std::vector<Rational>& moves) {
    Step best;
    const auto offer = [&](Rational length, Index leaving, bool to_upper) {
      if (best.bounded && (length > best.length ||
                           (length == best.length && (best.leaving < 0 || leaving > best.leaving))))
        return;
      best = {true, to_upper, std::move(length), leaving};
    };
    if (low_[at(q)].is_finite() && high_[at(q)].is_finite())
      offer(high_[at(q)] - low_[at(q)], -1, upward);
    for (Index k = 0; k < n_ + m_; ++k) {
      if (place(k) != VariableStatus::basic || moves[at(k)].is_zero()) continue;
      const bool up = moves[at(k)].sign() > 0;
      if ((up && side_[at(k)] > 0) || (!up && side_[at(k)] < 0)) continue;
      const bool to_upper = up ? side_[at(k)] == 0 : side_[at(k)] > 0;
      const Rational& end = to_upper ? high_[at(k)] : low_[at(k)];
      if (end.is_finite()) offer((end - value_[at(k)]) / moves[at(k)], k, to_upper);
    }
    return best;
  }

  void take(Index q, bool upward, const Step& step) {
    ++end_.pivots;
    stalled_ = step.length.is_zero() ? stalled_ + 1 : 0;
    if (step.leaving < 0) {
      place(q) = upward ? VariableStatus::at_upper : VariableStatus::at_lower;
      return;
    }
    place(q) = VariableStatus::basic;
    place(step.leaving) = step.to_upper ? VariableStatus::at_upper : VariableStatus::at_lower;
  }

  static constexpr int kPatience = 20;  // pivots
  const Program& p_;
  Index n_, m_;
  const ExactPivots& how_;
  ExactEnd end_;
  std::vector<Rational> low_, high_, cost_, value_;
  std::vector<int> side_;  // of basic variables: -1 below, 1 above their bounds
  bool infeasible_ = false;
  int stalled_ = 0;
};

}  // namespace

std::optional<ExactEnd> exact_pivots(const Program& program, Basis start, const ExactPivots& how) {
  if (!program.cost_known()) return std::nullopt;
  for (Index i = 0; i < program.num_rows(); ++i)
    if (!program.row_known(i)) return std::nullopt;
  return ExactPrimal(program, std::move(start), how).run();
}

}  // namespace kiteknot::lp
