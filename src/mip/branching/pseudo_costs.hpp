#pragma once
// Which fractional column to branch on: pseudo-costs, the average rise of the relaxed goal per unit
// of distance, learned from every child that was solved; columns without history take the average
// of the others. Source: Benichou, Gauthier, Girodet, Hentges, Ribiere, Vincent 1971, "Experiments
// in mixed-integer linear programming"; the product score is from Achterberg, Koch, Martin 2005,
// "Branching rules revisited".

#include <span>
#include <utility>
#include <vector>

#include "mip/domain/domain.hpp"

namespace kiteknot::mip {

/// A child was solved: the relaxed goal rose by `rise` (at least 0) over `distance`.
struct PseudoCostObservation {
  Index column = -1;
  bool up = false;
  double distance = 0.0, rise = 0.0;
};

class PseudoCosts {
 public:
  explicit PseudoCosts(Index num_columns);
  [[nodiscard]] Index num_columns() const noexcept { return static_cast<Index>(down_.size()); }
  void learn(const PseudoCostObservation& observation);
  /// From here on observations are kept for whoever takes them, to be told to others.
  void keep_observations() noexcept { keeping_ = true; }
  [[nodiscard]] std::vector<PseudoCostObservation> take_observations() {
    return std::exchange(kept_, {});
  }
  /// What others learned.
  void learn_from(std::span<const PseudoCostObservation> observations);
  /// The best column to branch on among those whose value is not integral, or -1.
  [[nodiscard]] Index choose(const Domain& domain, std::span<const double> point) const;
  /// The best of these, whose values are not integral; -1: none. In rising order, the first of
  /// equals.
  [[nodiscard]] Index choose(std::span<const Index> fractional,
                             std::span<const double> point) const;
  /// How often a side was learned from.
  [[nodiscard]] std::int64_t count(Index column, bool up) const {
    return (up ? up_ : down_)[at(column)].count;
  }
  /// The column stood in a conflict that was learned: what was lately at fault counts most.
  void add_conflict(Index column);
  /// How much, as a share of the column most at fault; 0 to 1.
  [[nodiscard]] double conflict_share(Index column) const {
    return most_conflict_score_ > 0.0 ? conflict_score_[at(column)] / most_conflict_score_ : 0.0;
  }
  /// Branching on it moved so many bounds.
  void infer(Index column, std::int64_t steps);
  /// The product of what both sides are expected to raise the goal by, and something more where the
  /// column has stood in conflicts, or moves many bounds.
  [[nodiscard]] double score(Index column, double fraction) const;
  /// What the goal is expected to rise by per unit of the way.
  [[nodiscard]] double rise(Index column, bool up) const {
    return up ? rate(up_[at(column)], all_up_) : rate(down_[at(column)], all_down_);
  }
  /// What was learned of these columns only, and the same spread out again over all.
  [[nodiscard]] PseudoCosts of(std::span<const Index> columns) const;
  [[nodiscard]] PseudoCosts spread(std::span<const Index> columns, Index num_columns) const;
  /// base/pack.hpp.
  template <class Archive>
  friend void archive(Archive& a, PseudoCosts& c) {
    a(c.down_, c.up_, c.conflict_score_, c.moved_, c.most_conflict_score_, c.next_conflict_score_,
      c.most_moved_, c.all_down_, c.all_up_);
  }
  /// Whether the upper child of a column with this fraction should be looked at first.
  [[nodiscard]] static bool up_first(double fraction) { return fraction > 0.5; }

 private:
  struct Side {
    double sum = 0.0;
    std::int64_t count = 0;
    template <class Archive>
    friend void archive(Archive& a, Side& s) {
      a(s.sum, s.count);
    }
  };
  void book(const PseudoCostObservation& observation);
  [[nodiscard]] double hints(Index column) const;
  [[nodiscard]] double rate(const Side& own, const Side& all) const;
  std::vector<Side> down_, up_;
  std::vector<double> conflict_score_;
  std::vector<Side> moved_;
  double most_conflict_score_ = 0.0, next_conflict_score_ = 1.0, most_moved_ = 1.0;
  Side all_down_, all_up_;
  bool keeping_ = false;
  std::vector<PseudoCostObservation> kept_;
};

}  // namespace kiteknot::mip
