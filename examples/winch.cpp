// A winch that is no sum: a whole number of turns and layers, a listed cord, a real drum. The
// proven best beside what local search ends at.
#include <iostream>

#include "kiteknot/methods.hpp"
#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

int main() {
  kk::Model model{"Winch of the great kite"};
  const double pull = 1200, length = 50;
  const auto turns = model.integer("turns", {}, kk::between(4, 40));
  const auto layers = model.integer("layers", {}, kk::between(1, 6));
  const auto cord = model.one_of("cord", {}, {2, 2.5, 3, 4, 5, 6});
  const auto radius = model.real("radius", {}, kk::between(15, 120));
  const auto width = model.real("width", {}, kk::between(30, 400));

  model.minimize("mass", 0.00004 * power(radius, 2) * width + 0.006 * length * power(cord, 2) +
                             0.004 * kk::Expression(width));
  model.rule("strong", 40 * power(cord, 2) * sqrt(layers) >= pull);
  model.rule("holds", 2 * 3.14159 * kk::Expression(turns) * layers *
                              (radius + kk::Expression(layers) * cord / 2) >=
                          1000 * length);
  model.rule("fits", kk::Expression(turns) * cord <= width);
  model.rule("bends", radius >= 6 * kk::Expression(cord));
  model.rule("stiff", power(radius, 3) >= 0.1 * pull * kk::Expression(width));

  const kk::Result best = kk::solve(model);
  std::cout.precision(5);
  std::cout << "mass " << best.goal().to_double() << " with " << best[turns].text() << " turns in "
            << best[layers].text() << " layers of " << best[cord].text()
            << " mm, proven to a gap of " << *best.goals[0].gap << "\n";
  for (const kk::MethodAnswer& a : kk::method("local").run(model, {}, nullptr))
    if (a.report && a.report->feasible)
      std::cout << "local search: mass " << a.report->goal->to_double() << "\n";
}
