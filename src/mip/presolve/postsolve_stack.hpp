#pragma once
// From a point of a reduced problem to the point of the problem as it came, and forth, in
// fractions: what was taken out is put back in the opposite order.

#include <optional>
#include <span>
#include <variant>
#include <vector>

#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

class PostsolveStack {
 public:
  explicit PostsolveStack(Index num_columns = 0) : num_columns_(num_columns) {}

  /// The column has this value.
  void fixed(Index column, double value) {
    steps_.push_back(Fixed{column, Rational::exactly(value)});
  }
  /// The column is constant + sum of factors times the others.
  struct Term {
    Index column = -1;
    Rational factor{};
  };
  void follows(Index column, Rational constant, std::vector<Term> terms) {
    steps_.push_back(Follows{column, std::move(constant), std::move(terms)});
  }
  /// What `into` stands for from here on is its own value and that of `column`, each within its
  /// bounds.
  struct Ends {
    double lower = 0.0, upper = 0.0;
  };
  void joined(Index into, Ends own, Index column, Ends ends) {
    steps_.push_back(Joined{into, own, column, ends});
  }
  /// By columns of the reduced problem: those of the problem as it came.
  void keep(std::vector<Index> kept) { kept_ = std::move(kept); }

  [[nodiscard]] Index num_columns() const noexcept { return num_columns_; }
  [[nodiscard]] const std::vector<Index>& kept() const noexcept { return kept_; }
  [[nodiscard]] std::vector<Rational> restore(std::span<const Rational> reduced) const;
  [[nodiscard]] std::vector<double> restore(std::span<const double> reduced) const;
  /// A direction in which the reduced problem has no end, over all columns.
  [[nodiscard]] std::vector<Rational> restore_ray(std::span<const Rational> reduced) const;
  /// The point of the reduced problem that stands for this one; nothing where none does.
  [[nodiscard]] std::optional<std::vector<Rational>> reduce(std::span<const Rational> point) const;
  /// A row over the problem as it came, over the reduced one. Throws where columns were joined:
  /// such a problem has no generated rows.
  [[nodiscard]] LinearRow reduce(const LinearRow& row) const;

 private:
  struct Fixed {
    Index column;
    Rational value;
  };
  struct Follows {
    Index column;
    Rational constant;
    std::vector<Term> terms;
  };
  struct Joined {
    Index into;
    Ends own;
    Index column;
    Ends ends;
  };
  template <class Number>
  [[nodiscard]] std::vector<Number> restored(std::span<const Number> reduced) const;

  Index num_columns_;
  std::vector<Index> kept_;
  std::vector<std::variant<Fixed, Follows, Joined>> steps_;
};

}  // namespace kiteknot::mip
