#pragma once
// Moves that shorten a tour, from stops that wait to be looked at. Lengths of tours are not kept:
// every move tells what it gains.

#include <algorithm>
#include <vector>

#include "structures/tours/array_tour.hpp"
#include "structures/tours/neighbours.hpp"

namespace kiteknot::structures::tours {

class LocalSearch {
 public:
  LocalSearch(const Distances& distances, const Neighbours& near, std::vector<Index> tour);

  [[nodiscard]] ArrayTour& tour() noexcept { return tour_; }
  /// The stop is looked at again.
  void wake(Index stop);
  [[nodiscard]] bool any_awake() const noexcept { return next_ < queue_.size(); }
  /// The stop that has waited longest.
  Index take();
  /// What the tour gets shorter by where one move from the stop pays; 0: none does.
  double exchange(Index stop);
  double shift(Index stop);
  double swap(Index stop);
  double chain(Index stop);

 private:
  bool extend(Index base, Index end, double gain, int depth, double& best, std::size_t& best_turns);
  void wake_both(Index a, Index b) {
    wake(a);
    wake(b);
  }
  double shift_segment(Index first, Index last);
  double put_between(Index first, Index last, Index c, bool after);
  [[nodiscard]] bool is_added(Index a, Index b) const {
    return std::any_of(added_.begin(), added_.end(), [&](const auto& leg) {
      return (leg.first == a && leg.second == b) || (leg.first == b && leg.second == a);
    });
  }
  [[nodiscard]] bool too_far(Index from, Index to) const {
    return tour_.cost_of_turning(from, to) > kMostMoved;
  }

  const Distances& d_;
  const Neighbours& near_;
  ArrayTour tour_;
  static constexpr Index kMostMoved = 25'000;  // stops by a turning: more cost more than it brings
  std::vector<Index> queue_;
  std::size_t next_ = 0;
  std::vector<char> awake_;
  std::vector<Index> touched_;                  // ends of the legs that a chain takes out
  std::vector<std::pair<Index, Index>> added_;  // legs of a chain, which stay
};

}  // namespace kiteknot::structures::tours
