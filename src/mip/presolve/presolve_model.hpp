#pragma once
// A problem that is being reduced. Columns and rows keep their numbers; what goes is marked, and
// the postsolve stack is written along. Every change is exact: what doubles cannot say is not done,
// so that a plan of the reduced problem, restored, is one of the problem as it came.
//
// Out of reach: columns that conditions or other kinds than linear rows speak of, or whose bounds
// no double says ("held": their bounds may move, they stay), and rows whose numbers no double says
// ("firm": they stay as they are, and hold their columns).

#include "mip/presolve/postsolve_stack.hpp"

namespace kiteknot::mip {

/// What a reduction leaves of the plans.
enum class ReductionStrength : std::uint8_t {
  a_best_plan,     ///< one of the best; any other may be lost
  all_best_plans,  ///< all of the best
  all_plans        ///< all, and columns follow each other by linear maps
};

class PresolveModel {
 public:
  struct Column {
    double lower = 0.0, upper = 0.0, cost = 0.0;
    bool integer = false, held = false, gone = false;
    bool outward = false;  ///< its bounds are wider than those that no double says
    bool inexact = false;  ///< doubles do not say its bounds, its cost or some row of it
    bool up_locked = false, down_locked = false;  ///< a kind other than linear rows may mind
    std::vector<Index> rows{};                    ///< some may be gone
    [[nodiscard]] bool fixed() const { return lower == upper; }
    [[nodiscard]] bool binary() const { return integer && lower == 0.0 && upper == 1.0; }
  };
  struct Row {
    std::vector<Entry> entries{};  ///< by rising column; none is gone or 0, unless the row is firm
    double lower = 0.0, upper = 0.0;
    bool firm = false, gone = false;
  };
  /// Throws nothing; a problem whose goal is not known exactly is not to be reduced.
  explicit PresolveModel(const Problem& problem);

  [[nodiscard]] Index num_columns() const noexcept { return static_cast<Index>(columns_.size()); }
  [[nodiscard]] Index num_rows() const noexcept { return static_cast<Index>(rows_.size()); }
  [[nodiscard]] const Column& column(Index j) const { return columns_[at(j)]; }
  [[nodiscard]] const Row& row(Index i) const { return rows_[at(i)]; }
  /// Rows that are there and have the column; firm ones too.
  [[nodiscard]] std::vector<Index> rows_of(Index j) const;
  [[nodiscard]] double entry(Index i, Index j) const;
  /// Whether a column may be taken out, or its entries changed.
  [[nodiscard]] bool free_to_go(Index j) const { return !column(j).held && !column(j).gone; }
  /// Of what was changed; rises with every change.
  [[nodiscard]] std::int64_t changes() const noexcept { return changes_; }
  [[nodiscard]] bool possible() const noexcept { return possible_; }
  void give_up() noexcept { possible_ = false; }  ///< no plan is left

  // Each returns whether something changed.
  /// Whole columns: to the next whole value inward. A column that is fixed so goes.
  bool raise_lower(Index j, double value);
  bool drop_upper(Index j, double value);
  bool fix(Index j, double value);
  void drop_row(Index i);
  bool set_limits(Index i, double lower, double upper);
  /// Of a row that is not firm.
  void set_entries(Index i, std::vector<Entry> entries);
  void add_row(Row row);
  void set_integer(Index j);
  /// Column j is `constant` plus the terms, in all rows and the goal; its bounds are the caller's
  /// care. False, and nothing changed, where some number would not be exact.
  bool substitute(Index j, const std::vector<Entry>& terms, double constant);
  /// Column k, which has the same entries and cost, goes into j.
  void join(Index j, Index k);

  /// What is left, and where its columns come from.
  struct Left {
    Problem problem;
    std::vector<Index> kept;   ///< by its columns
    std::vector<Index> place;  ///< by columns of the problem as it came; -1: gone
    std::vector<Index> rows;   ///< by its rows: those they come from; -1: a new one
  };
  [[nodiscard]] Left left() const;
  /// The same with the postsolve stack.
  struct Reduced {
    Problem problem;
    PostsolveStack postsolve;
    Rational constant;  ///< goal of the problem as it came = goal of this one + constant
    std::vector<Index> place, rows;  ///< as above
  };
  [[nodiscard]] Reduced finish() &&;

 private:
  /// Takes fixed columns out where every limit can say what is left.
  void settle_fixed(Index j);
  void remove_entry(Index i, Index j);

  const Problem& problem_;
  std::vector<Column> columns_;
  std::vector<Row> rows_;
  std::vector<Rational> known_costs_;  // where no double is; empty: they are
  Rational constant_ = 0;
  PostsolveStack postsolve_;
  std::int64_t changes_ = 0;
  bool possible_ = true;
};

}  // namespace kiteknot::mip
