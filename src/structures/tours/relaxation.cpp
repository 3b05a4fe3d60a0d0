#include "structures/tours/relaxation.hpp"

#include <algorithm>
#include <cmath>

namespace kiteknot::structures::tours {

TourRelaxation::TourRelaxation(const WholeLengths& lengths, std::vector<Leg> legs,
                               std::vector<Leg> sure)
    : lengths_(lengths),
      sure_(std::move(sure)),
      separation_(lengths.size()),
      counts_(lengths.size()) {
  constexpr double kLongest = 1000.0;  // what prices are compared with is 1e-9
  while (static_cast<double>(lengths.longest()) * scale_ > kLongest) scale_ *= 0.5;
  for (Index i = 0; i < lengths.size(); ++i) lp_.add_row(2.0, 2.0, {}, true);
  std::sort(sure_.begin(), sure_.end());
  legs.insert(legs.end(), sure_.begin(), sure_.end());
  std::sort(legs.begin(), legs.end());
  legs.erase(std::unique(legs.begin(), legs.end()), legs.end());
  for (const Leg& leg : legs) add_leg(leg);
}

bool TourRelaxation::is_sure(const Leg& leg) const {
  return std::binary_search(sure_.begin(), sure_.end(), leg);
}

void TourRelaxation::add_leg(const Leg& leg) {
  std::vector<lp::Entry> entries{{leg.a, 1.0}, {leg.b, 1.0}};
  for (std::size_t k = 0; k < rows_.size(); ++k) {
    double times = 0.0;
    for (const std::vector<Index>& set : rows_[k].sets)
      if (std::binary_search(set.begin(), set.end(), leg.a) !=
          std::binary_search(set.begin(), set.end(), leg.b))
        times += 1.0;
    if (times > 0.0) entries.push_back({lengths_.size() + static_cast<Index>(k), times});
  }
  lp_.add_column(static_cast<double>(lengths_(leg)) * scale_, is_sure(leg) ? 1.0 : 0.0, 1.0,
                 entries);
  legs_.push_back(leg);
}

void TourRelaxation::add_row(StopRow row) {
  std::vector<lp::Entry> entries;
  counts_.each(row, legs_, [&](Index k, Index times) {
    entries.push_back({k, static_cast<double>(times)});
  });
  lp_.add_row(row.at_least, std::numeric_limits<double>::infinity(), entries, true);
  ++found_[static_cast<std::size_t>(kind_of(row))];
  rows_.push_back(std::move(row));
  slack_for_.push_back(0);
}

bool TourRelaxation::solve(const Interrupt& interrupt) {
  lp::Report report = lp_.solve({.interrupt = interrupt});
  // That there is no point may be for want of legs.
  if (report.status == lp::Status::infeasible && add_all_legs())
    report = lp_.solve({.interrupt = interrupt});
  if (report.status != lp::Status::optimal) {
    why_ = report.status == lp::Status::limit        ? Why::interrupted
           : report.status == lp::Status::infeasible ? Why::no_tour
                                                     : Why::arithmetic;
    return false;
  }
  value_ = report.objective / scale_;
  return true;
}

// False: they were all there.
bool TourRelaxation::add_all_legs() {
  std::vector<Leg> known = legs_;
  std::sort(known.begin(), known.end());
  const std::size_t before = legs_.size();
  for (Index a = 0; a < lengths_.size(); ++a)
    for (Index b = a + 1; b < lengths_.size(); ++b)
      if (lengths_(a, b) < WholeLengths::kNever &&
          !std::binary_search(known.begin(), known.end(), Leg{a, b}))
        add_leg({a, b});
  return legs_.size() > before;
}

bool TourRelaxation::solve_degrees(const Interrupt& interrupt) {
  do {
    if (!solve(interrupt)) return false;
  } while (price() > 0);
  return true;
}

std::size_t TourRelaxation::price() {
  constexpr std::size_t kMost = 2000;  // at once
  std::vector<double> duals = lp_.row_duals();
  for (double& y : duals) y /= scale_;
  const auto n = at(lengths_.size());
  prices_ =
      TourPrices(lengths_.size(), std::span(duals).first(n), rows_, std::span(duals).subspan(n));
  std::vector<std::pair<std::int64_t, Leg>> wanted;
  std::vector<Leg> known = legs_;
  std::sort(known.begin(), known.end());
  negative_ = 0;  // of sure legs: whatever they cost
  for (const Leg& leg : sure_) negative_ += prices_.reduced(lengths_, leg);
  prices_.each_up_to(lengths_, -1, [&](const Leg& leg, std::int64_t r) {
    if (!is_sure(leg)) negative_ += r;
    if (!std::binary_search(known.begin(), known.end(), leg)) wanted.emplace_back(r, leg);
  });
  const std::int64_t fine = prices_.bound(negative_);
  // Rounded up, as tours are whole; lengths are not below 0, so neither is a tour.
  const auto up = [](std::int64_t v) {
    return v >= 0 ? (v + TourPrices::kFine - 1) / TourPrices::kFine : 0;
  };
  bound_ = std::max(bound_, up(fine));
  std::sort(wanted.begin(), wanted.end());
  // What rounding makes of a price of 0 is none.
  std::erase_if(wanted, [](const auto& w) { return w.first >= -2; });
  if (wanted.size() > kMost) wanted.resize(kMost);
  for (const auto& [unused, leg] : wanted) add_leg(leg);
  return wanted.size();
}

bool TourRelaxation::tighten(std::int64_t upper, const Interrupt& interrupt) {
  constexpr std::size_t kMostRows = 150;
  constexpr double kMargin = 1e-3;
  constexpr int kStalls = 12;
  constexpr double kLeast = 0.002;  // of what is open, by a round
  double before = value_;
  int stalls = 0;
  while (bound_ < upper) {
    if (interrupt.now()) {
      why_ = Why::interrupted;
      return false;
    }
    ++rounds_;
    std::vector<StopRow> rows;
    if (stalls < kStalls) rows = separation_.look(legs_, values(), kMargin, kMostRows);
    if (rows.empty()) {
      if (price() == 0) return true;
      if (!solve(interrupt)) return false;
      stalls = 0;
      continue;
    }
    for (StopRow& row : rows) add_row(std::move(row));
    if (!solve(interrupt)) return false;
    drop_slack_rows();
    const double open = static_cast<double>(upper) - before;
    stalls = value_ - before > kLeast * open ? 0 : stalls + 1;
    before = std::max(before, value_);
    if (rounds_ % 8 == 0 && price() > 0 && !solve(interrupt)) return false;
  }
  return true;
}

// Rows that were slack for long leave; where a point breaks them they are found again.
void TourRelaxation::drop_slack_rows() {
  constexpr int kOld = 8;
  const auto n = at(lengths_.size());
  const std::vector<double> duals = lp_.row_duals();
  std::size_t old = 0;
  for (std::size_t k = 0; k < rows_.size(); ++k) {
    slack_for_[k] = duals[n + k] == 0.0 ? slack_for_[k] + 1 : 0;
    if (slack_for_[k] > kOld) ++old;
  }
  constexpr std::size_t kFew = 50;
  if (old < std::max(kFew, rows_.size() / 5)) return;
  std::vector<char> gone(n + rows_.size(), 0);
  std::size_t kept = 0;
  for (std::size_t k = 0; k < rows_.size(); ++k) {
    if (slack_for_[k] > kOld) {
      gone[n + k] = 1;
      continue;
    }
    if (kept != k) {
      rows_[kept] = std::move(rows_[k]);
      slack_for_[kept] = slack_for_[k];
    }
    ++kept;
  }
  rows_.resize(kept);
  slack_for_.resize(kept);
  lp_.remove_rows(gone);
  (void)lp_.solve();
}

TourRelaxation::Start TourRelaxation::start_for(std::span<const Leg> legs) const {
  const lp::Basis own = lp_.basis();
  const auto n = at(lengths_.size());
  Start start;
  start.basis.columns.assign(legs.size(), lp::VariableStatus::at_lower);
  for (std::size_t k = 0; k < legs_.size(); ++k) {
    const auto it = std::lower_bound(legs.begin(), legs.end(), legs_[k]);
    if (it != legs.end() && *it == legs_[k])
      start.basis.columns[static_cast<std::size_t>(it - legs.begin())] = own.columns[k];
  }
  start.basis.rows.assign(own.rows.begin(), own.rows.begin() + static_cast<std::ptrdiff_t>(n));
  for (std::size_t k = 0; k < rows_.size(); ++k)
    if (own.rows[n + k] != lp::VariableStatus::basic) {
      start.rows.push_back(rows_[k]);
      start.basis.rows.push_back(own.rows[n + k]);
    }
  return start;
}

std::vector<std::vector<Index>> TourRelaxation::undecided_sets(std::size_t most) const {
  constexpr double kNear = 0.7;
  std::vector<std::vector<Index>> sets;
  for (const StopRow& row : rows_)
    for (const std::vector<Index>& set : row.sets)
      // Of two stops it would say what their leg says.
      if (set.size() > 2 && set.size() + 2 < at(lengths_.size())) sets.push_back(set);
  std::sort(sets.begin(), sets.end());
  sets.erase(std::unique(sets.begin(), sets.end()), sets.end());
  const Support support(lengths_.size(), legs_, values());
  std::vector<std::pair<double, std::size_t>> order;
  std::vector<char> inside(at(lengths_.size()), 0);
  for (std::size_t k = 0; k < sets.size(); ++k) {
    const double off = std::abs(support.legs_out(sets[k], inside) - 3.0);
    if (off < kNear) order.emplace_back(off, k);
  }
  std::sort(order.begin(), order.end());
  std::vector<std::vector<Index>> chosen;
  for (std::size_t k = 0; k < std::min(most, order.size()); ++k)
    chosen.push_back(std::move(sets[order[k].second]));
  return chosen;
}

TourRelaxation::Worth TourRelaxation::worth_keeping(std::int64_t upper) const {
  Worth worth;
  const std::int64_t room = TourPrices::kFine * (upper - 1) - prices_.bound(negative_);
  for (const Leg& leg : sure_) worth.legs.push_back(leg);
  prices_.each_up_to(lengths_, room, [&](const Leg& leg, std::int64_t) {
    if (!is_sure(leg) && lengths_(leg) < WholeLengths::kNever) worth.legs.push_back(leg);
  });
  std::sort(worth.legs.begin(), worth.legs.end());
  for (const Leg& leg : worth.legs)
    worth.sure.push_back(is_sure(leg) || -prices_.reduced(lengths_, leg) > room ? 1 : 0);
  return worth;
}

}  // namespace kiteknot::structures::tours
