#pragma once
// A tour rule as rows: as many legs at every stop as its visits ask for, and a generator of the
// rules by sets of stops, which are too many to be stated.

#include "mip/problem/generator.hpp"
#include "model/lowering_builder.hpp"
#include "model/tours/tour_rule.hpp"

namespace kiteknot {

/// The degree rows; what it returns adds the others (null: there are none). It takes whole columns
/// within the limits of the legs for granted, and states them where the model let go of them.
std::shared_ptr<mip::RowGenerator> lower_tour(const ModelData& model, const TourRule& rule,
                                              Builder& builder);

/// Asks several, one after the other.
class JoinedGenerators final : public mip::RowGenerator {
 public:
  explicit JoinedGenerators(std::vector<std::shared_ptr<mip::RowGenerator>> all)
      : all_(std::move(all)) {}
  [[nodiscard]] bool wants_fractions() const override;
  std::vector<mip::LinearRow> look(std::span<const double> point, bool integral) override;
  [[nodiscard]] std::shared_ptr<mip::RowGenerator> twin() const override;
  [[nodiscard]] bool mark(Mark& mark) const override;

 private:
  std::vector<std::shared_ptr<mip::RowGenerator>> all_;
};

}  // namespace kiteknot
