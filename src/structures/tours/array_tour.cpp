#include "structures/tours/array_tour.hpp"

namespace kiteknot::structures::tours {

ArrayTour::ArrayTour(std::vector<Index> order) : order_(std::move(order)), place_(order_.size()) {
  for (std::size_t k = 0; k < order_.size(); ++k) place_[at(order_[k])] = static_cast<Index>(k);
}

void ArrayTour::turn(Index from, Index to) {
  const Index inside = stops_between(from, to), n = size();
  const Index first = mirrored_ ? place_[at(to)] : place_[at(from)];
  const Index last = mirrored_ ? place_[at(from)] : place_[at(to)];
  if (2 * inside <= n) {
    turn_places(first, last, inside);
  } else {  // the rest is turned instead, and the whole is read backwards
    turn_places(last + 1 == n ? 0 : last + 1, first == 0 ? n - 1 : first - 1, n - inside);
    mirrored_ = !mirrored_;
  }
  turned_.push_back({from, to, mirrored_});
}

void ArrayTour::turn_places(Index first, Index last, Index count) {
  const Index n = size();
  for (Index k = count / 2; k > 0; --k) {
    const Index a = order_[at(first)], b = order_[at(last)];
    order_[at(first)] = b;
    place_[at(b)] = first;
    order_[at(last)] = a;
    place_[at(a)] = last;
    first = first + 1 == n ? 0 : first + 1;
    last = last == 0 ? n - 1 : last - 1;
  }
}

void ArrayTour::take_back_to(std::size_t turns) {
  while (turned_.size() > turns) {
    const Turned last = turned_.back();
    mirrored_ = last.mirrored;  // the way that the path was read then
    turned_.pop_back();
    turn(last.to, last.from);
    turned_.pop_back();
  }
}

}  // namespace kiteknot::structures::tours
