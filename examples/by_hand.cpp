// Simplex and cutting planes by hand: pivots with their ratios, a cut derived from a row, and what
// whole numbers cost, all in fractions.
#include <iostream>

#include "kiteknot/kiteknot.hpp"

namespace kk = kiteknot;

int main() {
  kk::Model model{"Kites for the children's hour"};
  const auto box = model.integer("box", {}, kk::from(0)),
             delta = model.integer("delta", {}, kk::from(0)),
             sled = model.integer("sled", {}, kk::from(0));
  model.maximize("joy",
                 kk::Expression(3) * box + kk::Expression(9) * delta + kk::Expression(7) * sled);
  model.rule("spars", kk::Expression(4) * box + delta + kk::Expression(2) * sled <= 11);
  model.rule("cord",
             kk::Expression(4) * box + kk::Expression(3) * delta + kk::Expression(2) * sled <= 16);

  kk::Tableau tableau(model);
  for (int place; (place = kk::next_place(tableau, kk::StepRule::largest)) >= 0;) {
    const auto step = kk::bring_in(tableau, place);
    if (!step) break;  // no end
    std::cout << tableau.column(step->entering).name << " came in: joy " << step->goal_after.text()
              << "\n";
  }
  while (!tableau.is_whole()) {
    const int row = kk::fractional_rows(tableau).front();
    const kk::TableauCut cut = kk::derive_cut(tableau, row, kk::TableauCut::Kind::fractional);
    kk::append(tableau, cut);
    (void)kk::run(tableau, kk::StepRule::largest);
    std::cout << cut.name << " from the row of " << tableau.column(cut.source).name << ": joy "
              << tableau.goal_value().text() << "\n";
  }
  std::cout << kk::tableau_page(tableau);
}
