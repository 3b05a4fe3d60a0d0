// The last look at an answer: is it the solution of its own equations? Residuals are added up in
// twice the working precision (Ogita, Rump and Oishi 2005, "Accurate sum and dot product"), so that
// a step of iterative refinement (Wilkinson 1963) gains digits and does not go round in circles.

#include <algorithm>
#include <cmath>

#include "lp/simplex.hpp"

namespace kiteknot::lp {
namespace {

// A sum of products, as if computed in twice the precision and rounded once.
class DoubledSum {
 public:
  void add_product(double a, double b) {
    const double product = a * b;
    add(product);
    rest_ += std::fma(a, b, -product);
  }
  void add(double v) {
    const double sum = sum_ + v;
    const double part = sum - sum_;
    rest_ += (sum_ - (sum - part)) + (v - part);
    sum_ = sum;
  }
  [[nodiscard]] double value() const { return sum_ + rest_; }

 private:
  double sum_ = 0.0, rest_ = 0.0;
};

}  // namespace

// One step of B dx_B = -(A x - r). Returns the largest residual before it, relative to 1 + the
// largest term of its row.
double Simplex::refine_values() {
  double worst = 0.0;
  column_.clear();
  for (Index i = 0; i < m_; ++i) {
    DoubledSum sum;
    double scale = 1.0 + std::abs(x_[at(n_ + i)]);
    const auto index = program_.rows().index(i);
    const auto value = program_.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e) {
      sum.add_product(value[e], x_[at(index[e])]);
      scale = std::max(scale, std::abs(value[e] * x_[at(index[e])]));
    }
    sum.add(-x_[at(n_ + i)]);
    const double residual = sum.value();
    if (residual == 0.0) continue;
    worst = std::max(worst, std::abs(residual) / scale);
    column_.add(i, residual);
  }
  lu_.ftran(column_, 0.0);
  for (const Index i : column_.list()) {
    x_[at(basic_[at(i)])] -= column_[i];
    update_excess(i);
  }
  work_.add(program_.num_nonzeros() + lu_.num_entries() + m_);
  return worst;
}

// Values and duals from scratch with the factor as it is, refined; true where they solve their
// equations and lie within the tolerances.
bool Simplex::settled(const SimplexOptions& options) {
  const double primal = options.tolerances.feasibility;
  const double dual = dual_tolerance_;
  compute_values();
  compute_duals();
  end_goal_.reset();
  constexpr int kSteps = 3;
  constexpr double kGood = 1e-12;  // of the residual, below which another step gains nothing
  double residual = refine_values();
  for (int step = 1; step < kSteps && residual > kGood; ++step) residual = refine_values();
  if (residual > primal || dual_residual_ > dual) return false;
  for (Index k = 0; k < n_ + m_; ++k)
    if (infeasibility(k) > primal * (1.0 + std::abs(x_[at(k)])) || dual_infeasible(k, 10.0 * dual))
      return false;
  return true;
}

}  // namespace kiteknot::lp
