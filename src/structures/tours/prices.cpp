#include "structures/tours/prices.hpp"

#include <cmath>

namespace kiteknot::structures::tours {

TourPrices::TourPrices(Index stops, std::span<const double> of_stops, std::span<const StopRow> rows,
                       std::span<const double> of_rows)
    : price_(at(stops), 0), inside_(at(stops)) {
  const auto whole = [](double v) {
    return static_cast<std::int64_t>(std::llround(v * static_cast<double>(kFine)));
  };
  for (std::size_t i = 0; i < at(stops); ++i) {
    price_[i] = whole(of_stops[i]);
    constant_ += 2 * price_[i];
  }
  std::int32_t name = 0;
  for (std::size_t k = 0; k < rows.size(); ++k) {
    const std::int64_t price = whole(std::max(0.0, of_rows[k]));
    if (price == 0) continue;
    constant_ += price * rows[k].at_least;
    for (const std::vector<Index>& set : rows[k].sets) {
      for (const Index stop : set) {
        price_[at(stop)] += price;
        inside_[at(stop)].push_back({name, price});
      }
      ++name;
    }
  }
}

// Sets that have both stops do not part them.
std::int64_t TourPrices::shared(const Leg& leg, std::int64_t r) const {
  const std::vector<Inside>&p = inside_[at(leg.a)], &q = inside_[at(leg.b)];
  for (std::size_t i = 0, j = 0; i < p.size() && j < q.size();)
    if (p[i].set == q[j].set) {
      r += 2 * p[i].price;
      ++i;
      ++j;
    } else if (p[i].set < q[j].set) {
      ++i;
    } else {
      ++j;
    }
  return r;
}

}  // namespace kiteknot::structures::tours
