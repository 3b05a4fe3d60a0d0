// The last look at an answer: is it the solution of its own equations? Residuals are added up in
// twice the working precision (Ogita, Rump and Oishi 2005, "Accurate sum and dot product"), so that
// a step of iterative refinement (Wilkinson 1963) gains digits and does not go round in circles.

#include <algorithm>
#include <cmath>

#include "lp/basis_state.hpp"

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
double BasisState::refine_values() {
  double worst = 0.0;
  column.clear();
  for (Index i = 0; i < m; ++i) {
    DoubledSum sum;
    double scale = 1.0 + std::abs(x[at(n + i)]);
    const auto index = program.rows().index(i);
    const auto value = program.rows().value(i);
    for (std::size_t e = 0; e < index.size(); ++e) {
      sum.add_product(value[e], x[at(index[e])]);
      scale = std::max(scale, std::abs(value[e] * x[at(index[e])]));
    }
    sum.add(-x[at(n + i)]);
    const double residual = sum.value();
    if (residual == 0.0) continue;
    worst = std::max(worst, std::abs(residual) / scale);
    column.add(i, residual);
  }
  lu.ftran(column, 0.0);
  for (const Index i : column.list()) {
    x[at(basic[at(i)])] -= column[i];
    update_excess(i);
  }
  work.add(program.num_nonzeros() + lu.num_entries() + m);
  return worst;
}

}  // namespace kiteknot::lp
