// Forrest and Tomlin's update. Column r of U is replaced by the spike a (the entering column after
// L and the row etas); row r is eliminated by the later rows and moves, with its column, to the
// end:
//   1. multipliers: mu' U_after = u_r', by rows, in pivot order     2. eta: row r -= sum mu_j row j
//   3. diagonal: a_r - sum mu_j a_j                                 4. column r := a without a_r

#include <algorithm>
#include <cmath>
#include <numeric>

#include "base/at.hpp"
#include "linalg/lu.hpp"

namespace kiteknot::linalg {
namespace {
constexpr double kSmallestDiagonal = 1e-11;
constexpr double kDisagreement = 1e-6;  // of the diagonal found in two ways, relative
}  // namespace

bool Lu::replace(Index r, double pivot) {
  ++num_updates_;
  // 1. and 2.
  more_places_.assign(u_rows_.index(r).begin(), u_rows_.index(r).end());
  for (std::size_t k = 0; k < more_places_.size(); ++k) {
    work_[at(more_places_[k])] = u_rows_.value(r)[k];
    u_columns_.erase(more_places_[k], r);
  }
  u_rows_.clear_line(r);
  // Rows after r hold nothing in column r, so the search stays among them.
  Eta eta{r, static_cast<Offset>(eta_index_.size()), 0};
  starts_.assign(more_places_.begin(), more_places_.end());
  reach_rows(starts_);
  for (const Index j : places_) {
    const double multiplier = work_[at(j)] / diag_[at(j)];
    work_[at(j)] = 0.0;
    if (multiplier == 0.0) continue;
    eta_index_.push_back(j);
    eta_value_.push_back(multiplier);
    const auto index = u_rows_.index(j);
    const auto entry = u_rows_.value(j);
    for (std::size_t e = 0; e < index.size(); ++e) work_[at(index[e])] -= multiplier * entry[e];
  }
  eta.end = static_cast<Offset>(eta_index_.size());

  // 3.
  for (std::size_t k = 0; k < spike_index_.size(); ++k)
    work_[at(spike_index_[k])] = spike_value_[k];
  double diagonal = work_[at(r)];
  for (Offset e = eta.begin; e < eta.end; ++e)
    diagonal -= eta_value_[static_cast<std::size_t>(e)] *
                work_[at(eta_index_[static_cast<std::size_t>(e)])];
  for (const Index i : spike_index_) work_[at(i)] = 0.0;
  const double expected = pivot * diag_[at(r)];
  if (!(std::abs(diagonal) >= kSmallestDiagonal) ||
      std::abs(diagonal - expected) >
          kDisagreement * std::max(std::abs(diagonal), std::abs(expected)))
    return false;

  // 4.
  for (const Index i : u_columns_.index(r)) u_rows_.erase(i, r);
  u_columns_.clear_line(r);
  for (std::size_t k = 0; k < spike_index_.size(); ++k) {
    if (spike_index_[k] == r) continue;
    u_columns_.push(r, spike_index_[k], spike_value_[k]);
    u_rows_.push(spike_index_[k], r, spike_value_[k]);
  }
  diag_[at(r)] = diagonal;
  if (eta.end > eta.begin) etas_.push_back(eta);
  order_[at(position_[at(r)])] = -1;
  position_[at(r)] = static_cast<Index>(order_.size());
  order_.push_back(r);
  return true;
}

// [B 0; a -I] = [L 0; 0 I] R [U 0; a -I]: the new rows come first in the order of U, where their
// entries all lead to later pivots, and need nothing in L.
void Lu::add_rows(std::span<const ColumnView> lines) {
  const auto count = static_cast<Index>(lines.size());
  u_rows_.add_lines(count);
  u_columns_.add_lines(count);
  for (Index k = 0; k < count; ++k) {
    const ColumnView& line = lines[at(k)];
    for (std::size_t e = 0; e < line.index.size(); ++e) {
      if (line.value[e] == 0.0) continue;
      u_rows_.push(m_ + k, line.index[e], line.value[e]);
      u_columns_.push(line.index[e], m_ + k, line.value[e]);
      ++factor_entries_;
    }
    pivot_row_.push_back(m_ + k);
    ++factor_entries_;
    diag_.push_back(-1.0);
    l_line_.push_back(-1);
    l_rows_.start.push_back(l_rows_.start.back());
  }
  std::vector<Index> fresh(lines.size());
  std::iota(fresh.begin(), fresh.end(), m_);
  order_.insert(order_.begin(), fresh.begin(), fresh.end());
  m_ += count;
  position_.assign(static_cast<std::size_t>(m_), 0);
  for (std::size_t k = 0; k < order_.size(); ++k)
    if (order_[k] >= 0) position_[at(order_[k])] = static_cast<Index>(k);
  work_.resize(static_cast<std::size_t>(m_), 0.0);
  mark_.resize(static_cast<std::size_t>(m_), 0);
}

}  // namespace kiteknot::linalg
