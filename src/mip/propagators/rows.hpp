#pragma once
// Bound propagation over the rows of a store: linear, indicator or generated ones. Activities are
// kept and follow the trail, so that a bound that moves costs its column's entries, and a row is
// looked at only where the side that moved has a limit; of a long row only the entries that reach
// far enough. Source: Savelsbergh 1994, "Preprocessing and probing techniques for mixed integer
// programming problems"; activities along a trail: Achterberg 2007, chapter 7.

#include <span>

#include "mip/domain/row_activity.hpp"
#include "mip/problem/row_store.hpp"
#include "mip/propagators/propagator.hpp"

namespace kiteknot::mip {

/// Rows as a propagator meets them. All of it outlives the propagator; a store may grow.
struct RowSource {
  const RowStore* store = nullptr;
  const Sides* sides = nullptr;
  const std::vector<ConditionLiteral>* when = nullptr;  ///< by rows; null: all of them always hold
  Reason by;  ///< of whatever they conclude, but for the row
};

class RowPropagator final : public Propagator {
 public:
  RowPropagator(std::string_view name, const RowSource& rows, Domain& domain);
  [[nodiscard]] std::string_view name() const override { return name_; }
  [[nodiscard]] bool propagate(Domain& domain, const Allowance& allowance) override;
  void forget(Domain& domain) override;
  void check_invariants(const Domain& domain) const override;

 private:
  // One end of a row's range as it was: a bound that moves changes one only.
  struct Undo {
    std::size_t place : 63;  // on the trail
    std::size_t high : 1;
    Index row;
    Index infinite;
    double end, peak;
  };
  void remember(std::size_t place, Index row, bool high);
  void restore(const Undo& undo);
  [[nodiscard]] RowView view(Index i) const {
    return rows_.store->view(i, rows_.sides->lower[at(i)], rows_.sides->upper[at(i)]);
  }
  void take_new_rows(const Domain& domain);
  void follow_trail(Domain& domain, WorkCounter* work);
  void follow(const Domain::Step& step, std::size_t place, WorkCounter* work);
  void wake(Index i);
  [[nodiscard]] bool look_at(Index i, Domain& domain);
  [[nodiscard]] bool tighten_row(Index i, const RowView& row, Domain& domain);
  [[nodiscard]] float reach(const RowView& row, std::size_t k) const;
  [[nodiscard]] std::span<const Reach> by_reach(Index i, const RowView& row);

  std::string_view name_;
  RowSource rows_;
  const Problem* problem_;
  std::size_t reader_;
  std::vector<Activity> activity_;
  std::vector<Undo> undo_;
  std::vector<Index> blurred_;      // rows to be summed anew
  std::vector<std::size_t> since_;  // by rows: the trail's length when it was added
  std::vector<Index> queue_;
  std::int64_t unbooked_ = 0;  // work of putting rows in order
  std::vector<char> awake_;
  std::vector<std::vector<Index>> rows_of_;   // by conditions
  std::vector<float> widest_;                 // reach of a row; negative: not worked out
  std::vector<std::vector<Reach>> by_reach_;  // of long rows, once they were needed
};

}  // namespace kiteknot::mip
