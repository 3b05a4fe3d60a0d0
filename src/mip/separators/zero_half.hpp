#pragma once
// Cuts from halves: whole rows added up so that, with columns measured from their nearer ends, few
// coefficients are odd and the right side is; half of the sum is rounded. Which rows: elimination
// modulo 2, columns with the largest distances first, each by the row with the least slack.
// Sources: Caprara and Fischetti 1996, "{0, 1/2}-Chvatal-Gomory cuts"; Koster, Zymolka and Kutschka
// 2009, "Algorithms to separate {0, 1/2}-Chvatal-Gomory cuts".

#include "mip/separators/rounding_choice.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {

class ZeroHalfCuts final : public Separator {
 public:
  [[nodiscard]] std::string_view name() const override { return "halves of whole rows, rounded"; }
  [[nodiscard]] bool wants(const SeparationContext& where) const override {
    return !where.integral;
  }
  void look(const SeparationContext& where, std::vector<LinearRow>& found) override;

 private:
  /// A sum of rows, modulo 2.
  struct Parity {
    std::vector<std::uint64_t> odd;  // columns between their ends
    std::vector<Index> rows;         // of the relaxation, in rising order
    double slack = 0.0;
    bool right = false;
    bool used = false;  // to clear a column
  };
  void list_columns(const SeparationContext& where);
  void list_rows(const SeparationContext& where, const SumVariables& variables);
  void add(const Parity& from, Parity& to, WorkCounter& work);
  [[nodiscard]] double odd_distance(const Parity& sum, double most) const;
  bool round(const SeparationContext& where, const SumVariables& variables, const Parity& sum,
             std::vector<LinearRow>& found);

  std::vector<std::pair<double, Index>> columns_;  // distance from the nearer end, largest first
  std::vector<Index> place_;                       // by columns: in columns_, or -1
  std::vector<char> odd_end_;                      // by columns: the nearer end is odd
  std::vector<Parity> sums_;
  std::vector<Index> both_;
  RowCombination combination_;
  RoundingChoice choice_;
  SafeRounding rounding_;
};

}  // namespace kiteknot::mip
