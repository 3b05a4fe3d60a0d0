#pragma once

#include "base/random.hpp"
#include "mip/heuristics/heuristic.hpp"

namespace kiteknot::mip {

/// A plan built without a relaxation. All columns begin where the goal wants them; while that
/// breaks a linear row, the column is moved that mends most for what it costs, with what it breaks
/// elsewhere at the prices of those rows, and what follows is propagated. A move that conflicts is
/// excluded; where that conflicts too the plan is begun again, with rows that could not be mended
/// first and prices blurred by lot. What other kinds ask is met by fixing the whole columns that
/// are left, the lowest first. Sources: Chvatal 1979, "A greedy heuristic for the set-covering
/// problem"; Berthold and Hendel 2015, "Shift-and-propagate"; the order of rows by weights:
/// Boussemart and others 2004, "Boosting systematic search by weighting constraints".
class Construction {
 public:
  /// `problem` outlives it. O(nonzeros).
  Construction(const Problem& problem, std::uint64_t seed);

  /// What an attempt works on; the domain is left as it was found.
  struct Site {
    Domain& domain;
    Propagation& propagation;
    WorkCounter& work;
    const Interrupt& interrupt;
    std::int64_t until = 0;            ///< units of `work`
    std::span<const double> wishes;    ///< where columns begin; empty: where the goal wants them
    std::span<const double> prices{};  ///< of a column's rise; empty: its cost
    double blur = 0.0;                 ///< of prices, in the first attempt
  };
  /// Attempts until one succeeds or the work is spent. Whole columns have whole values; real ones
  /// are a start.
  [[nodiscard]] std::optional<std::vector<double>> build(const Site& site);

 private:
  struct Move {
    Index column = -1;
    double to = 0.0;
    double score = 0.0;
  };
  void rate_rows();
  bool attempt(const Site& site);
  bool mend_one(const Site& site);
  bool fix_next(const Site& site);
  void begin(const Site& site);
  void list_open(const Domain& domain);
  void follow(const Domain& domain);
  void go_back(Domain& domain, std::size_t mark);
  void place(const Domain& domain, Index j);
  [[nodiscard]] double missing(Index i) const;  // below: positive; above: negative
  void update(Index i);
  Index choose_row(const Site& site);
  void list_moves(const Site& site, Index row);
  [[nodiscard]] std::optional<Move> move_of(const Domain& domain, Index j, double entry,
                                            double need);
  bool go(const Site& site, const Move& move);
  bool conclude(const Site& site, Index j, double low, double high);

  const Problem& p_;
  Random random_;
  double blur_ = 0.0;               // of scores, by attempt
  double least_ = 0.0;              // price of any move
  double pressure_ = 0.0;           // price of all the room of a row, by attempt
  std::span<const double> prices_;  // as the site has them
  std::vector<double> wish_, x_, value_;
  std::vector<double> raise_price_, drop_price_, weight_;  // by rows, per unit of their value
  std::vector<double> bulk_;                               // by rows
  std::vector<Index> broken_, place_of_;                   // rows; -1: not broken
  std::vector<std::pair<double, Index>> drawn_;
  std::vector<Move> moves_;
  std::vector<std::pair<double, Index>> open_;  // a heap of whole columns, the lowest first
  std::size_t read_ = 0;                        // of the trail
};

/// Plans built at the root, from the goal's wishes and from the relaxed point by turns; below it
/// now and then where a search has none.
class FirstPlans final : public Heuristic {
 public:
  static constexpr std::string_view kName = "a greedy construction";
  [[nodiscard]] std::string_view name() const override { return kName; }
  [[nodiscard]] bool wants(const NodeView& node) const override;
  [[nodiscard]] std::optional<std::vector<double>> look(const NodeView& node) override;

 private:
  std::optional<Construction> build_;
  std::int64_t work_ = 0;
};

}  // namespace kiteknot::mip
