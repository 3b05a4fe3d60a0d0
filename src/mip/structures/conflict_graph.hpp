#pragma once
// Which binary columns exclude each other: cliques of literals of which at most one can hold,
// found in the rows. In a row that leaves room r above its least value, literals that raise it by
// w_1 >= w_2 >= ... exclude each other while w_k + w_(k+1) > r. Source: Atamtuerk, Nemhauser and
// Savelsbergh 2000, "Conflict graphs in solving integer programming problems".

#include <vector>

#include "base/work.hpp"
#include "mip/domain/domain.hpp"
#include "mip/structures/implications.hpp"

namespace kiteknot::mip {

class ConflictGraph {
 public:
  ConflictGraph() = default;
  /// What holds within the domain. O(entries of rows, sorted; at most a few times as many
  /// literals).
  /// `implied`: what else is known of pairs.
  ConflictGraph(const Domain& domain, const Implications& implied, WorkCounter& work);

  [[nodiscard]] std::size_t num_cliques() const noexcept { return starts_.size() - 1; }
  [[nodiscard]] std::span<const Literal> clique(std::size_t k) const {
    return std::span<const Literal>(literals_).subspan(starts_[k], starts_[k + 1] - starts_[k]);
  }
  /// The cliques that a literal is in.
  [[nodiscard]] std::span<const Index> cliques_of(Literal l) const { return of_[at(l)]; }
  /// Calls visit for every literal that this one excludes, by the rows; some more than once.
  template <class Visit>
  void each_excluded(Literal l, const Visit& visit) const {
    for (const Index k : of_[at(l)])
      for (const Literal other : clique(static_cast<std::size_t>(k)))
        if (other != l) visit(other);
  }

 private:
  void add_row(const RowView& row, const Domain& domain, bool upper);
  void add_clique(std::size_t prefix, Literal extra);
  void add_implied(const Domain& domain, const Implications& implied);

  struct Item {
    double raise = 0.0;  // rounded down
    Literal literal = 0;
  };
  std::vector<Item> items_;
  std::vector<std::size_t> starts_ = {0};
  std::vector<Literal> literals_;
  std::vector<std::vector<Index>> of_;
};

}  // namespace kiteknot::mip
