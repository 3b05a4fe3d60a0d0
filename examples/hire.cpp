// Curves: lamps get cheaper with their number at one lender and dearer at the other.
#include <iostream>

#include "kiteknot/study.hpp"

namespace kk = kiteknot;

int main() {
  kk::Model model{"Lamps for the night glow"};
  // 9 each for the first six, 7 each for eight more, then 5; and 40 once.
  const auto harbour = model.curve("harbour", kk::Curve::tiers({{9, 6}, {7, 8}, {5}}, 40));
  const auto club = model.curve("club", kk::Curve::tiers({{6, 8}, {8, 6}, {11}}));
  const auto need = model.number("need", 12);
  const auto a = model.integer("from_harbour", {}, kk::between(0, 40));
  const auto b = model.integer("from_club", {}, kk::between(0, 40));
  model.minimize("cost", harbour(a) + club(b));
  model.rule("enough", a + b >= need);

  kk::Study study{model};
  for (const int lamps : {12, 20, 28}) {
    const kk::Result best = study.set(need, lamps).solve();
    std::cout << lamps << " lamps: cost " << best.goal() << ", harbour " << best[a] << ", club "
              << best[b] << "\n";
  }
}
