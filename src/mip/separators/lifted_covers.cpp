#include "mip/separators/lifted_covers.hpp"

#include <algorithm>
#include <cmath>

#include "base/interval.hpp"

namespace kiteknot::mip {

void LiftedCovers::look(const SeparationContext& where, std::vector<LinearRow>& found) {
  constexpr double kLeastOver = 1e-3;
  const Problem& p = where.domain.problem();
  for (Index i = 0; i < p.num_rows() && !where.work.interrupted(); ++i) {
    const RowView row = p.row(i);
    for (const bool upper : {false, true}) {
      if (std::isinf(upper ? row.upper : row.lower)) continue;
      where.work.add(static_cast<std::int64_t>(row.index.size()));
      if (!list_items(row, where, upper) || !find_cover()) continue;
      lift(where.work);
      double sum = 0.0;
      for (const Item& item : cover_) sum += item.coefficient * item.value;
      for (const Item& item : others_) sum += item.coefficient * item.value;
      if (sum > static_cast<double>(cover_.size()) - 1.0 + kLeastOver) found.push_back(as_row());
    }
  }
}

// The row as sum of weights of literals <= room, what is no free binary column at its least.
// False where the figures are not whole, or no sum of them in whole numbers.
bool LiftedCovers::list_items(const RowView& row, const SeparationContext& where, bool upper) {
  constexpr double kFraction = 1e-6;
  items_.clear();
  if (!row.exact) return false;
  const Domain& domain = where.domain;
  room_ = upper ? row.upper : -row.lower;
  double size = std::abs(room_);
  bool between = false;
  for (std::size_t k = 0; k < row.index.size(); ++k) {
    const Index j = row.index[k];
    const double a = upper ? row.value[k] : -row.value[k];
    if (a == 0.0) continue;
    const double end = a > 0.0 ? domain.lower(j) : domain.upper(j);
    if (!kiteknot::whole(a) || !kiteknot::whole(end)) return false;
    room_ -= a * end;
    size += std::abs(a * end) + std::abs(a);
    if (!domain.problem().integer(j) || domain.lower(j) != 0.0 || domain.upper(j) != 1.0) continue;
    const double x = std::clamp(where.point[at(j)], 0.0, 1.0);
    items_.push_back({2 * j + (a > 0.0 ? 0 : 1), std::abs(a), a > 0.0 ? x : 1.0 - x, 0.0});
    between = between || std::min(x, 1.0 - x) > kFraction;
  }
  room_ = std::floor(room_);  // sums of the weights are whole
  return between && size < 0x1p52 && room_ >= 0.0;
}

// Literals by what they lack of 1 for their weight, until they do not fit; then those that are not
// needed go, the ones that lack most first.
bool LiftedCovers::find_cover() {
  std::sort(items_.begin(), items_.end(), [](const Item& a, const Item& b) {
    const double lacks_a = (1.0 - a.value) * b.weight, lacks_b = (1.0 - b.value) * a.weight;
    return lacks_a != lacks_b ? lacks_a < lacks_b : a.literal < b.literal;
  });
  cover_.clear();
  others_.clear();
  double weight = 0.0;
  for (const Item& item : items_) {
    if (weight > room_ || item.weight > room_) {
      others_.push_back(item);
      continue;
    }
    weight += item.weight;
    cover_.push_back(item);
  }
  if (!(weight > room_)) return false;
  std::stable_sort(cover_.begin(), cover_.end(),
                   [](const Item& a, const Item& b) { return a.value < b.value; });
  std::size_t kept = 0;
  for (const Item& item : cover_) {
    if (weight - item.weight > room_) {
      weight -= item.weight;
      others_.push_back(item);
    } else {
      cover_[kept++] = item;
    }
  }
  cover_.resize(kept);
  return cover_.size() >= 2;
}

void LiftedCovers::lift(WorkCounter& work) {
  constexpr std::int64_t kMostWork = 5'000'000;
  const std::size_t most = cover_.size() - 1;  // the right side
  for (Item& item : cover_) item.coefficient = 1.0;
  least_.assign(most + 1, 0.0);
  std::sort(cover_.begin(), cover_.end(),
            [](const Item& a, const Item& b) { return a.weight < b.weight; });
  for (std::size_t z = 1; z <= most; ++z) least_[z] = least_[z - 1] + cover_[z - 1].weight;
  std::stable_sort(others_.begin(), others_.end(),
                   [](const Item& a, const Item& b) { return a.value > b.value; });
  std::int64_t spent = 0;
  for (Item& item : others_) {
    item.coefficient = 0.0;
    if (item.weight > room_ || spent > kMostWork) continue;
    // The greatest z that still fits beside it.
    const auto fits = std::upper_bound(least_.begin(), least_.end(), room_ - item.weight);
    const auto z = static_cast<std::size_t>(fits - least_.begin()) - 1;
    const std::size_t by = most - z;
    if (by == 0) continue;
    item.coefficient = static_cast<double>(by);
    spent += static_cast<std::int64_t>(most);
    for (std::size_t to = most; to >= by; --to)
      least_[to] = std::min(least_[to], least_[to - by] + item.weight);
    // A sum of z or more costs no more than one of z + 1.
    for (std::size_t to = most; to-- > 0;) least_[to] = std::min(least_[to], least_[to + 1]);
  }
  work.add(spent);
}

LinearRow LiftedCovers::as_row() const {
  LinearRow row{{}, -kInf, static_cast<double>(cover_.size()) - 1.0, true};
  const auto take = [&](const Item& item) {
    if (item.coefficient == 0.0) return;
    const double sign = is_no(item.literal) ? -1.0 : 1.0;
    row.entries.push_back({column_of(item.literal), sign * item.coefficient});
    if (is_no(item.literal)) row.upper -= item.coefficient;
  };
  std::for_each(cover_.begin(), cover_.end(), take);
  std::for_each(others_.begin(), others_.end(), take);
  std::sort(row.entries.begin(), row.entries.end(),
            [](const Entry& a, const Entry& b) { return a.index < b.index; });
  return row;
}

}  // namespace kiteknot::mip
