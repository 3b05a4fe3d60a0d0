#pragma once
// Cuts from exclusions: literals of which every two exclude each other, though no single row says
// so of all of them, sum to 1 at most. Such sets are grown from one literal by the largest values,
// then by literals at 0 that still fit. Source: Padberg 1973, "On the facial structure of set
// packing polyhedra".

#include <optional>

#include "mip/separators/separator.hpp"
#include "mip/structures/conflict_graph.hpp"

namespace kiteknot::mip {

class CliqueCuts final : public Separator {
 public:
  [[nodiscard]] std::string_view name() const override { return "choices that exclude each other"; }
  [[nodiscard]] bool wants(const SeparationContext& where) const override {
    return !where.integral;
  }
  void look(const SeparationContext& where, std::vector<LinearRow>& found) override;

 private:
  void grow(Literal start, WorkCounter& work);
  void join(Literal l, WorkCounter& work);
  [[nodiscard]] LinearRow as_row() const;

  std::optional<ConflictGraph> conflict_graph_;
  std::vector<double> value_;  // by literals
  std::vector<std::pair<double, Literal>> starts_;
  std::vector<Literal> clique_, candidates_;
  std::vector<Index> excluded_by_, seen_;  // by literals: how many of the clique
  std::vector<Literal> touched_;
  Index stamp_ = 0;
};

}  // namespace kiteknot::mip
