#pragma once
// The relaxation of a shortest round trip over all legs, worked on with few of them: two legs at
// every stop, rows by sets of stops as points break them, and legs as prices ask for them. Sources:
// Dantzig, Fulkerson and Johnson 1954, "Solution of a large-scale traveling-salesman problem";
// Padberg and Rinaldi 1991, "A branch-and-cut algorithm for the resolution of large-scale symmetric
// traveling salesman problems" (legs by prices). Bounds are exact: see prices.hpp.

#include <array>

#include "base/work.hpp"
#include "lp/simplex.hpp"
#include "structures/tours/cuts/separation.hpp"
#include "structures/tours/prices.hpp"

namespace kiteknot::structures::tours {

class TourRelaxation {
 public:
  /// `legs`: to begin with; `sure`: that every tour has. `lengths` outlive it.
  TourRelaxation(const WholeLengths& lengths, std::vector<Leg> legs, std::vector<Leg> sure = {});

  /// Two legs at every stop, and the rules that were added; then bound() holds.
  bool solve_degrees(const Interrupt& interrupt);
  /// Rows and legs until neither moves the bound, or it has reached `upper`, in units. False:
  /// stopped(); bound() holds all the same.
  bool tighten(std::int64_t upper, const Interrupt& interrupt);

  /// A rule that every tour is to meet, before the next call.
  void add_rule(StopRow row) { add_row(std::move(row)); }
  /// Why it ended before its end.
  enum class Why { nothing, interrupted, no_tour, arithmetic };
  [[nodiscard]] Why stopped() const noexcept { return why_; }

  /// No tour is shorter; in units.
  [[nodiscard]] std::int64_t bound() const noexcept { return bound_; }
  [[nodiscard]] double value() const noexcept { return value_; }  ///< of the relaxation, in units
  [[nodiscard]] const std::vector<Leg>& legs() const noexcept { return legs_; }
  [[nodiscard]] std::span<const double> values() const { return lp_.column_values(); }
  /// Rows that the basis rests on, and where it stands for a program over these legs (sorted)
  /// with rows for stops first and then these.
  struct Start {
    std::vector<StopRow> rows;
    lp::Basis basis;
  };
  [[nodiscard]] Start start_for(std::span<const Leg> legs) const;
  /// Sets of its rows with about three legs out at the point, where a tour has two or at least
  /// four: the nearest to three first.
  [[nodiscard]] std::vector<std::vector<Index>> undecided_sets(std::size_t most) const;
  [[nodiscard]] std::int64_t rows_found(RowKind kind) const {
    return found_[static_cast<std::size_t>(kind)];
  }
  [[nodiscard]] int rounds() const noexcept { return rounds_; }

  /// All legs that a tour shorter than `upper` may use, and those that it must, by what they cost
  /// at the present prices.
  struct Worth {
    std::vector<Leg> legs;
    std::vector<char> sure;  ///< by legs
  };
  [[nodiscard]] Worth worth_keeping(std::int64_t upper) const;

 private:
  void add_leg(const Leg& leg);
  void add_row(StopRow row);
  [[nodiscard]] bool is_sure(const Leg& leg) const;
  void drop_slack_rows();
  bool solve(const Interrupt& interrupt);
  bool add_all_legs();
  /// Legs that the prices ask for come in; how many. The bound is taken in.
  std::size_t price();

  const WholeLengths& lengths_;
  std::vector<Leg> sure_;  // sorted
  Why why_ = Why::nothing;
  double scale_ = 1.0;  // of costs: a power of two
  TourSeparation separation_;
  LegCounts counts_;
  lp::Simplex lp_;
  std::vector<Leg> legs_;
  std::vector<StopRow> rows_;   // beside those of stops
  std::vector<int> slack_for_;  // rounds
  std::array<std::int64_t, 3> found_{};
  TourPrices prices_;
  std::int64_t bound_ = 0, negative_ = 0;
  double value_ = 0.0;
  int rounds_ = 0;
};

}  // namespace kiteknot::structures::tours
