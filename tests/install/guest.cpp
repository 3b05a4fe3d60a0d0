// The smallest program of another project.
#include "kiteknot/kiteknot.hpp"

int main() {
  kiteknot::Model model{"Guest"};
  const auto x = model.integer("x", {}, kiteknot::between(0, 10));
  model.maximize("reach", 3 * kiteknot::Expression(x));
  model.rule("short", 2 * kiteknot::Expression(x) <= 7);
  return kiteknot::solve(model).goal() == kiteknot::Rational(9) ? 0 : 1;
}
