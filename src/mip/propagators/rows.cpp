#include "mip/propagators/rows.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "base/check.hpp"

namespace kiteknot::mip {
namespace {

// Whether a sum came down so far from its peak that the rounding up there shows.
bool lost_digits(double peak, double now, bool whole) {
  constexpr double kFar = 0x1p20, kWholeSums = 0x1p52;
  return whole ? peak > kWholeSums : peak > kFar * (1.0 + std::abs(now));
}

}  // namespace

RowPropagator::RowPropagator(std::string_view name, const RowSource& rows, Domain& domain)
    : name_(name), rows_(rows), problem_(&domain.problem()), reader_(domain.add_reader()) {
  rows_of_.resize(at(problem_->num_conditions()));
  take_new_rows(domain);
}

// Rows that the store has got since: looked at once, whatever moved.
void RowPropagator::take_new_rows(const Domain& domain) {
  for (auto i = static_cast<Index>(activity_.size()); i < rows_.store->num_rows(); ++i) {
    activity_.push_back(activity(view(i), domain));
    since_.push_back(domain.mark());
    awake_.push_back(0);
    widest_.push_back(-1.0F);
    by_reach_.emplace_back();
    if (rows_.when != nullptr) rows_of_[at((*rows_.when)[at(i)].condition)].push_back(i);
    wake(i);
  }
}

void RowPropagator::wake(Index i) {
  if (awake_[at(i)]) return;
  awake_[at(i)] = 1;
  queue_.push_back(i);
}

void RowPropagator::follow_trail(Domain& domain, WorkCounter* work) {
  domain.read_trail(
      reader_,
      [&](std::size_t kept) {
        for (; !undo_.empty() && undo_.back().place >= kept; undo_.pop_back())
          restore(undo_.back());
        // Rows that came further down know nothing of bounds up here.
        for (std::size_t i = since_.size(); i-- > 0 && since_[i] > kept;) {
          activity_[i] = activity(view(static_cast<Index>(i)), domain);
          since_[i] = domain.mark();
        }
      },
      [&](const Domain::Step& step, std::size_t place) { follow(step, place, work); });
  for (const Index i : blurred_) {
    for (const bool high : {false, true}) remember(domain.mark() - 1, i, high);
    activity_[at(i)] = activity(view(i), domain);
  }
  blurred_.clear();
}

void RowPropagator::follow(const Domain::Step& step, std::size_t place, WorkCounter* work) {
  const Index k = step.change.index;
  if (step.change.what == Change::What::condition) {
    for (const Index i : rows_of_[at(k)])
      if (work != nullptr) wake(i);
    return;
  }
  const bool lower = step.change.what == Change::What::lower;
  const auto index = rows_.store->columns().index(k);
  const auto value = rows_.store->columns().value(k);
  for (std::size_t e = 0; e < index.size(); ++e) {
    const Index i = index[e];
    // Rows that the store has got since are taken at their present activity.
    if (value[e] == 0.0 || at(i) >= since_.size() || place < since_[at(i)]) continue;
    Activity& range = activity_[at(i)];
    const Interval a = coefficient(value[e], rows_.store->exact(i));
    remember(place, i, lower != (a.low > 0.0));
    if (lower)
      follow_lower(range, a, step.before, step.change.value);
    else
      follow_upper(range, a, step.before, step.change.value);
    range.peak_low = std::max(range.peak_low, std::abs(range.low));
    range.peak_high = std::max(range.peak_high, std::abs(range.high));
    const bool whole = rows_.store->whole(i);
    if (lost_digits(range.peak_low, range.low, whole) ||
        lost_digits(range.peak_high, range.high, whole))
      blurred_.push_back(i);
    // The least value rose, or the greatest fell: only the limit on that side can say more.
    const bool least = lower == (value[e] > 0.0);
    if (work != nullptr && (least ? std::isfinite(rows_.sides->upper[at(i)])
                                  : std::isfinite(rows_.sides->lower[at(i)])))
      wake(i);
  }
  if (work != nullptr) work->add(2 * static_cast<std::int64_t>(index.size()) + 1);
}

void RowPropagator::remember(std::size_t place, Index row, bool high) {
  const Activity& range = activity_[at(row)];
  Undo undo{};
  undo.place = place & ~(std::size_t{1} << 63U);
  undo.high = high ? 1 : 0;
  undo.row = row;
  undo.infinite = high ? range.infinite_high : range.infinite_low;
  undo.end = high ? range.high : range.low;
  undo.peak = high ? range.peak_high : range.peak_low;
  undo_.push_back(undo);
}

void RowPropagator::restore(const Undo& undo) {
  Activity& range = activity_[at(undo.row)];
  const bool high = undo.high != 0;
  (high ? range.infinite_high : range.infinite_low) = undo.infinite;
  (high ? range.high : range.low) = undo.end;
  (high ? range.peak_high : range.peak_low) = undo.peak;
}

// How far an entry can move the row's value, rounded up.
float RowPropagator::reach(const RowView& row, std::size_t k) const {
  if (row.value[k] == 0.0) return 0.0F;
  constexpr double kUp = 1.0 + 1e-6, kFloat = 1e38;
  const Index j = row.index[k];
  const double most = std::abs(row.value[k]) * (problem_->upper(j) - problem_->lower(j));
  return static_cast<float>(std::clamp(most * kUp, 0.0, kFloat));
}

std::span<const Reach> RowPropagator::by_reach(Index i, const RowView& row) {
  constexpr std::size_t kLong = 12;
  if (row.index.size() < kLong) return {};
  std::vector<Reach>& order = by_reach_[at(i)];
  if (order.empty()) {
    for (std::size_t k = 0; k < row.index.size(); ++k)
      order.push_back({reach(row, k), static_cast<Index>(k)});
    std::stable_sort(order.begin(), order.end(),
                     [](const Reach& a, const Reach& b) { return a.most > b.most; });
    constexpr std::int64_t kSorting = 16;  // units an entry
    unbooked_ += kSorting * static_cast<std::int64_t>(row.index.size());
  }
  return order;
}

// Most rows have more room than any of their entries reaches.
bool RowPropagator::tighten_row(Index i, const RowView& row, Domain& domain) {
  const Activity& range = activity_[at(i)];
  if (out_of_reach(row, range)) return false;
  float& widest = widest_[at(i)];
  if (widest < 0.0F) {
    widest = 0.0F;
    for (std::size_t k = 0; k < row.index.size(); ++k) widest = std::max(widest, reach(row, k));
  }
  if (static_cast<double>(widest) < room(row, range)) return true;
  const Activity before = range;
  return tighten(row, before, domain, by_reach(i, row));
}

bool RowPropagator::look_at(Index i, Domain& domain) {
  const RowView row = view(i);
  Reason reason = rows_.by;
  reason.place = i;
  domain.because(reason);
  if (rows_.when == nullptr) return tighten_row(i, row, domain);
  const ConditionLiteral when = (*rows_.when)[at(i)];
  if (domain.fails(when)) return true;
  if (domain.holds(when)) return tighten_row(i, row, domain);
  return !out_of_reach(row, activity_[at(i)]) || domain.settle(when, false);
}

bool RowPropagator::propagate(Domain& domain, const Allowance& allowance) {
  follow_trail(domain, &allowance.work);
  take_new_rows(domain);
  for (std::size_t next = 0; next < queue_.size(); ++next) {
    if (allowance.spent()) break;
    const Index i = queue_[next];
    awake_[at(i)] = 0;
    allowance.work.add(4 + std::exchange(unbooked_, 0));
    const std::size_t before = domain.mark();
    if (!look_at(i, domain)) return false;
    if (domain.mark() != before)
      allowance.work.add(static_cast<std::int64_t>(rows_.store->rows().size(i)));
    follow_trail(domain, &allowance.work);
  }
  for (const Index i : queue_) awake_[at(i)] = 0;
  queue_.clear();
  return true;
}

void RowPropagator::forget(Domain& domain) {
  follow_trail(domain, nullptr);
  for (const Index i : queue_) awake_[at(i)] = 0;
  queue_.clear();
}

void RowPropagator::check_invariants(const Domain& domain) const {
  for (std::size_t i = 0; i < activity_.size(); ++i) {
    const Activity fresh = activity(view(static_cast<Index>(i)), domain);
    const Activity& kept = activity_[i];
    KITEKNOT_CHECK(
        fresh.infinite_low == kept.infinite_low && fresh.infinite_high == kept.infinite_high,
        "a row knows its unbounded terms");
    double size = 1.0 + std::abs(fresh.low) + std::abs(fresh.high);
    const RowView row = view(static_cast<Index>(i));
    for (std::size_t k = 0; k < row.index.size(); ++k)
      for (const double end : {domain.lower(row.index[k]), domain.upper(row.index[k])})
        if (std::isfinite(end)) size += std::abs(row.value[k] * end);
    size *= 1e-6;
    KITEKNOT_CHECK(
        std::abs(fresh.low - kept.low) <= size && std::abs(fresh.high - kept.high) <= size,
        "a row's activity follows its columns");
  }
}

}  // namespace kiteknot::mip
