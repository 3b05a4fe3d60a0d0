#include <cmath>

#include "base/exact_double.hpp"
#include "mip/presolve/reduction.hpp"

namespace kiteknot::mip {
namespace {

class WholeDifferences {
 public:
  explicit WholeDifferences(PresolveModel& model) : model_(model), fits_(at(model.num_columns())) {}

  void look(const PresolveBudget& budget) {
    for (Index j = 0; j < model_.num_columns(); ++j) {
      if (!is_real(j)) continue;
      fits_[at(j)] = may_be(j) ? 1 : 0;
      if (fits_[at(j)] == 0) open_.push_back(j);
    }
    if (!goal_gains()) return;
    for (Index i = 0; i < model_.num_rows(); ++i) {
      if (budget.spent()) return;
      if (model_.row(i).gone) continue;
      budget.work.add(static_cast<std::int64_t>(model_.row(i).entries.size()));
      if (!row_fits(model_.row(i))) give_up(i);
    }
    while (!open_.empty()) {  // a column that may be in between takes its neighbours along
      if (budget.spent()) return;
      const Index j = open_.back();
      open_.pop_back();
      for (const Index i : model_.rows_of(j)) {
        budget.work.add(static_cast<std::int64_t>(model_.row(i).entries.size()));
        give_up(i);
      }
    }
    if (!goal_gains()) return;
    for (Index j = 0; j < model_.num_columns(); ++j)
      if (fits_[at(j)] != 0) model_.set_integer(j);
  }

 private:
  [[nodiscard]] bool is_real(Index j) const {
    return !model_.column(j).gone && !model_.column(j).integer;
  }
  [[nodiscard]] bool may_be(Index j) const {
    const PresolveModel::Column& c = model_.column(j);
    const auto whole_or_open = [](double v) { return std::isinf(v) || whole(v); };
    return !c.held && !c.inexact && !c.outward && whole_or_open(c.lower) && whole_or_open(c.upper);
  }

  // The goal moves in steps then, and does not so far.
  [[nodiscard]] bool goal_gains() const {
    bool gains = false;
    for (Index j = 0; j < model_.num_columns(); ++j) {
      if (model_.column(j).cost == 0.0 || !is_real(j)) continue;
      if (fits_[at(j)] == 0) return false;
      gains = true;
    }
    return gains;
  }

  // One real column, or the difference of two, and whole multiples of its entry.
  [[nodiscard]] bool row_fits(const PresolveModel::Row& row) const {
    double a = 0.0, b = 0.0;
    for (const Entry& e : row.entries) {
      if (model_.column(e.index).integer) continue;
      if (b != 0.0) return false;
      (a == 0.0 ? a : b) = e.value;
    }
    if (a == 0.0) return true;
    if (row.firm || (b != 0.0 && b != -a)) return false;
    const auto multiple = [&](double v) {
      const auto q = exact_quotient(v, a);
      return q && whole(*q);
    };
    for (const Entry& e : row.entries)
      if (!multiple(e.value)) return false;
    return (std::isinf(row.lower) || multiple(row.lower)) &&
           (std::isinf(row.upper) || multiple(row.upper));
  }

  // Of the row's columns none is known to be whole.
  void give_up(Index i) {
    for (const Entry& e : model_.row(i).entries) {
      char& fits = fits_[at(e.index)];
      if (fits != 0) open_.push_back(e.index);
      fits = 0;
    }
  }

  PresolveModel& model_;
  std::vector<char> fits_;  // by columns: real ones that may be whole
  std::vector<Index> open_;
};

}  // namespace

void find_whole_differences(PresolveModel& model, const PresolveBudget& budget) {
  WholeDifferences(model).look(budget);
}

}  // namespace kiteknot::mip
