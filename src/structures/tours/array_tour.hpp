#pragma once
// A round trip as an array of stops. A path is turned round in place, or the rest of the tour
// instead where that is shorter: then the array is read backwards. Turnings can be taken back.

#include <algorithm>
#include <vector>

#include "structures/tours/distances.hpp"

namespace kiteknot::structures::tours {

class ArrayTour {
 public:
  explicit ArrayTour(std::vector<Index> order);
  [[nodiscard]] Index size() const noexcept { return static_cast<Index>(order_.size()); }
  [[nodiscard]] Index next(Index stop) const {
    return mirrored_ ? before(place_[at(stop)]) : after(place_[at(stop)]);
  }
  [[nodiscard]] Index previous(Index stop) const {
    return mirrored_ ? after(place_[at(stop)]) : before(place_[at(stop)]);
  }
  /// Stops on the way from one to another, both counted.
  [[nodiscard]] Index stops_between(Index from, Index to) const {
    const Index by =
        mirrored_ ? place_[at(from)] - place_[at(to)] : place_[at(to)] - place_[at(from)];
    return (by < 0 ? by + size() : by) + 1;
  }
  /// How many stops move when the path from one to another is turned round.
  [[nodiscard]] Index cost_of_turning(Index from, Index to) const {
    const Index inside = stops_between(from, to);
    return std::min(inside, size() - inside);
  }
  /// The path from one stop to another is gone the other way round.
  void turn(Index from, Index to);
  /// How many turnings there were, and back to when there were so many.
  [[nodiscard]] std::size_t turns() const noexcept { return turned_.size(); }
  void take_back_to(std::size_t turns);
  /// They are not to be taken back any more.
  void forget_turns() noexcept { turned_.clear(); }
  /// The same tour read from one end of the array or the other: next becomes previous.
  void mirror() noexcept { mirrored_ = !mirrored_; }
  [[nodiscard]] const std::vector<Index>& order() const noexcept { return order_; }
  [[nodiscard]] Index stop_at(Index place) const { return order_[at(place)]; }
  /// The stop so many legs on; fewer than there are stops.
  [[nodiscard]] Index ahead(Index stop, Index legs) const {
    Index place = place_[at(stop)] + (mirrored_ ? -legs : legs);
    if (place < 0) place += size();
    if (place >= size()) place -= size();
    return order_[at(place)];
  }

 private:
  [[nodiscard]] Index after(Index place) const {
    return order_[at(place + 1 == size() ? 0 : place + 1)];
  }
  [[nodiscard]] Index before(Index place) const {
    return order_[at(place == 0 ? size() - 1 : place - 1)];
  }
  void turn_places(Index first, Index last, Index count);
  std::vector<Index> order_, place_;
  struct Turned {
    Index from, to;
    bool mirrored;  // afterwards
  };
  std::vector<Turned> turned_;
  bool mirrored_ = false;
};

}  // namespace kiteknot::structures::tours
