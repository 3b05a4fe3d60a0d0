// Linear rows: in the relaxation from the start; propagated by activity.

#include <cmath>

#include "mip/kinds.hpp"
#include "mip/relaxation.hpp"

namespace kiteknot::mip {

LinearRows::LinearRows(const Problem& problem)
    : problem_(&problem), marked_(static_cast<std::size_t>(problem.num_rows()), 0) {}

RowView LinearRows::view(Index i) const {
  return {problem_->rows().index(i), problem_->rows().value(i), problem_->row_lower(i),
          problem_->row_upper(i), problem_->row_exact(i)};
}

bool LinearRows::check(const Domain&, std::span<const double> point) const {
  for (Index i = 0; i < problem_->num_rows(); ++i)
    if (row_violation(view(i), point) > 0.0) return false;
  return true;
}

bool LinearRows::propagate(Domain& domain, std::span<const Index> touched, WorkCounter& work) {
  std::vector<Index> queue;
  for (const Index j : touched) {
    if (j < 0) continue;
    for (const Index i : problem_->columns().index(j)) {
      if (marked_[static_cast<std::size_t>(i)]) continue;
      marked_[static_cast<std::size_t>(i)] = 1;
      queue.push_back(i);
    }
  }
  for (const Index i : queue) marked_[static_cast<std::size_t>(i)] = 0;
  if (!looked_at_empty_rows_) {  // rows without entries are touched by nothing
    for (Index i = 0; i < problem_->num_rows(); ++i)
      if (problem_->rows().size(i) == 0) queue.push_back(i);
    looked_at_empty_rows_ = true;
  }
  for (const Index i : queue) {
    const RowView row = view(i);
    work.add(2 * static_cast<std::int64_t>(row.index.size()));
    if (!tighten(row, domain)) return false;
    if (work.interrupted()) return true;
  }
  return true;
}

void LinearRows::start(Relaxation& relaxation) {
  const auto& known = problem_->known_rows();
  for (Index i = 0; i < problem_->num_rows(); ++i) {
    const auto it = known.find(i);
    relaxation.add(view(i), it == known.end() ? nullptr : &it->second);
  }
}

}  // namespace kiteknot::mip
