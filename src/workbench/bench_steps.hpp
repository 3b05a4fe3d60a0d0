#pragma once
// What the steps do: each takes a state of the bench and leaves the next one, or says why not.

#include "workbench/step_reader.hpp"

namespace kiteknot::workbench {

class BenchSteps {
 public:
  explicit BenchSteps(const BenchState& state);
  /// Throws StepError where it cannot be done. Not for undo, redo and back_to.
  DeedKind take(const Step& step);
  /// Whether something is other than before.
  [[nodiscard]] bool is_change() const noexcept { return is_change_; }
  [[nodiscard]] BenchState state() && { return std::move(state_); }

 private:
  DeedKind bring_in(const Step& step);
  DeedKind take_out(const Step& step);
  DeedKind next(const Step& step);
  DeedKind to_the_end(const Step& step);
  DeedKind first_phase();
  DeedKind ratios(const Step& step) const;
  DeedKind cut(const Step& step);
  DeedKind all_the_way(const Step& step);
  DeedKind add(const Step& step);
  DeedKind drop(const Step& step);
  DeedKind branch(const Step& step);
  DeedKind go_to(const Step& step);
  DeedKind close(const Step& step);
  DeedKind prices() const;

  DeedKind one(TableauStep taken, StepRule rule);
  void finish_run(const TableauRun& run);
  [[nodiscard]] std::int32_t other_place(const Step& step) const;
  [[nodiscard]] std::int32_t basic_row(Tableau::Column column, std::size_t where,
                                       const char* what = "that could go out") const;
  [[nodiscard]] std::int32_t copy_number(const Step& step) const;
  void changed();

  BenchState state_;
  Tableau t_;  // of the copy at hand, while it is worked on
  bool is_change_ = false;
};

}  // namespace kiteknot::workbench
