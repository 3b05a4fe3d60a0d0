#pragma once
// Cuts from single rows over binary columns: literals that do not fit together (a cover) cannot
// all hold, and every other literal is lifted in, the largest values first, by what it displaces:
// with A(z) the least weight at which coefficients sum to z, one of weight w gets
// (|C| - 1) - max {z : A(z) <= room - w}. All of it in whole numbers. Sources: Balas 1975, "Facets
// of the knapsack polytope"; Zemel 1989, "Easily computable facets of the knapsack polytope"; Gu,
// Nemhauser and Savelsbergh 1998, "Lifted cover inequalities for 0-1 integer programs".

#include "mip/separators/separator.hpp"
#include "mip/structures/conflict_graph.hpp"

namespace kiteknot::mip {

class LiftedCovers final : public Separator {
 public:
  [[nodiscard]] std::string_view name() const override { return "choices that do not fit"; }
  [[nodiscard]] bool wants(const SeparationContext& where) const override {
    return !where.integral;
  }
  void look(const SeparationContext& where, std::vector<LinearRow>& found) override;

 private:
  struct Item {
    Literal literal = 0;
    double weight = 0.0;  // whole
    double value = 0.0;   // of the literal at the point
    double coefficient = 0.0;
  };
  bool list_items(const RowView& row, const SeparationContext& where, bool upper);
  bool find_cover();
  void lift(WorkCounter& work);
  [[nodiscard]] LinearRow as_row() const;

  std::vector<Item> items_, others_, cover_;
  std::vector<double> least_;  // weight by sum of coefficients
  double room_ = 0.0;
};

}  // namespace kiteknot::mip
