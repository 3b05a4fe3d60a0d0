#include "structures/tours/insertion.hpp"

#include <algorithm>
#include <queue>

#include "base/infinity.hpp"
#include "structures/tours/build.hpp"
#include "structures/tours/point_tree.hpp"

namespace kiteknot::structures::tours {
namespace {

struct Place {
  double more = kInf;  // how much longer the tour gets
  Index after = -1;
};

// A round trip that grows.
class Ring {
 public:
  explicit Ring(const Distances& d) : d_(d), next_(at(d.size()), -1), prev_(next_) {
    next_[0] = prev_[0] = 0;
  }
  [[nodiscard]] bool has(Index j) const { return next_[at(j)] >= 0; }
  [[nodiscard]] Index next(Index i) const { return next_[at(i)]; }
  [[nodiscard]] Index prev(Index i) const { return prev_[at(i)]; }
  [[nodiscard]] double more_after(Index j, Index i) const {
    return d_(i, j) + d_(j, next(i)) - d_(i, next(i));
  }
  void put(Index j, Index after) {
    const Index then = next(after);
    next_[at(j)] = then;
    prev_[at(j)] = after;
    next_[at(after)] = prev_[at(then)] = j;
  }
  /// All stops, those that are not on it at the end: along a curve where they have places.
  [[nodiscard]] std::vector<Index> tour() const {
    std::vector<Index> tour{0};
    for (Index i = next(0); i != 0; i = next(i)) tour.push_back(i);
    if (static_cast<Index>(tour.size()) < d_.size())
      for (const Index j : by_curve(d_))
        if (!has(j)) tour.push_back(j);
    return tour;
  }

 private:
  const Distances& d_;
  std::vector<Index> next_, prev_;  // -1: not on it
};

// Every stop against every leg.
std::vector<Index> among_all(const Distances& d, Insert which, const Interrupt& interrupt) {
  const Index n = d.size();
  Ring ring(d);
  std::vector<double> away(at(n), kInf);  // from the tour
  std::vector<Place> best(at(n));         // where each stop lengthens the tour least
  const auto look_everywhere = [&](Index j) {
    best[at(j)] = {};
    Index i = 0;
    do {
      const double more = ring.more_after(j, i);
      if (best[at(j)].after < 0 || more < best[at(j)].more) best[at(j)] = {more, i};
      i = ring.next(i);
    } while (i != 0);
  };
  for (Index j = 1; j < n; ++j) {
    away[at(j)] = std::min(d(0, j), d(j, 0));
    if (which == Insert::cheapest) best[at(j)] = {ring.more_after(j, 0), 0};
  }
  for (Index count = 1; count < n && !interrupt.now(); ++count) {
    Index chosen = -1;
    for (Index j = 1; j < n; ++j) {
      if (ring.has(j)) continue;
      const bool better = chosen < 0                  ? true
                          : which == Insert::nearest  ? away[at(j)] < away[at(chosen)]
                          : which == Insert::farthest ? away[at(j)] > away[at(chosen)]
                                                      : best[at(j)].more < best[at(chosen)].more;
      if (better) chosen = j;
    }
    if (which != Insert::cheapest) look_everywhere(chosen);
    const Index after = best[at(chosen)].after;
    ring.put(chosen, after);
    for (Index j = 1; j < n; ++j) {
      if (ring.has(j)) continue;
      away[at(j)] = std::min({away[at(j)], d(chosen, j), d(j, chosen)});
      if (which != Insert::cheapest) continue;
      if (best[at(j)].after == after) {
        look_everywhere(j);  // that leg is gone
        continue;
      }
      for (const Index i : {after, chosen}) {
        const double more = ring.more_after(j, i);
        if (more < best[at(j)].more) best[at(j)] = {more, i};
      }
    }
  }
  return ring.tour();
}

// The same by what is near, in space.
class AmongNear {
 public:
  AmongNear(const Distances& d, Insert which)
      : d_(d), which_(which), ring_(d), on_(d.in_space()), off_(d.in_space()) {
    for (Index j = 1; j < d.size(); ++j) on_.remove(j);
    off_.remove(0);
    stamp_.assign(at(d.size()), 0);
    if (which == Insert::farthest)
      for (Index j = 1; j < d.size(); ++j) queue_.push({-d(0, j), j, -1, -1, 0});
    else
      look_around(0);
  }

  std::vector<Index> run(const Interrupt& interrupt) {
    constexpr Index kBetweenLooks = 64;
    for (Index count = 1; count < d_.size(); ++count) {
      if (count % kBetweenLooks == 0 && interrupt.now()) break;
      const auto [stop, after] = choose();
      const Index then = ring_.next(after);
      ring_.put(stop, after);
      on_.put_back(stop);
      off_.remove(stop);
      if (which_ == Insert::farthest) continue;
      look_around(stop);
      if (which_ != Insert::cheapest) continue;
      look_around(after);  // one of their legs is another
      if (then != after) look_around(then);
    }
    return ring_.tour();
  }

 private:
  // What could come next. Of the farthest the distance of a stop, turned round, that it is no
  // farther than; else of a stop on the tour what it could bring in, no dearer than it is now.
  struct Entry {
    double rank;
    Index stop, by, after;
    int stamp;
    [[nodiscard]] bool operator>(const Entry& o) const {
      return rank != o.rank ? rank > o.rank : stop > o.stop;
    }
  };

  std::pair<Index, Index> choose() {
    for (;;) {
      const Entry top = queue_.top();
      queue_.pop();
      if (which_ == Insert::farthest) {
        const double now = d_(on_.nearest(top.stop), top.stop);
        if (now < -top.rank) {  // something came nearer since
          queue_.push({-now, top.stop, -1, -1, 0});
          continue;
        }
        return {top.stop, place(top.stop)};
      }
      if (top.stamp != stamp_[at(top.by)]) continue;
      if (ring_.has(top.stop)) {
        look_around(top.by);
        continue;
      }
      if (which_ == Insert::nearest) {
        look_around(top.by);
        return {top.stop, place(top.stop)};
      }
      return {top.stop, top.after};
    }
  }

  // The best leg next to the nearest stops on the tour.
  Index place(Index j) const {
    constexpr std::size_t kStops = 12;
    Place best;
    for (const Index i : on_.nearest(j, kStops))
      for (const Index from : {ring_.prev(i), i})
        if (const double more = ring_.more_after(j, from); best.after < 0 || more < best.more)
          best = {more, from};
    return best.after;
  }

  // What a stop on the tour could bring in.
  void look_around(Index i) {
    ++stamp_[at(i)];
    if (which_ == Insert::nearest) {
      const Index j = off_.nearest(i);
      if (j >= 0) queue_.push({d_(i, j), j, i, -1, stamp_[at(i)]});
      return;
    }
    constexpr std::size_t kStops = 5;
    Place best;
    Index stop = -1;
    for (const Index j : off_.nearest(i, kStops))
      for (const Index from : {ring_.prev(i), i})
        if (const double more = ring_.more_after(j, from); stop < 0 || more < best.more) {
          best = {more, from};
          stop = j;
        }
    if (stop >= 0) queue_.push({best.more, stop, i, best.after, stamp_[at(i)]});
  }

  const Distances& d_;
  Insert which_;
  Ring ring_;
  PointTree on_, off_;      // stops on the tour and others
  std::vector<int> stamp_;  // by stops on the tour: which entry counts
  std::priority_queue<Entry, std::vector<Entry>, std::greater<>> queue_;
};

}  // namespace

std::vector<Index> by_insertion(const Distances& d, Insert which, const Interrupt& interrupt) {
  if (d.size() == 0) return {};
  if (d.size() > kAllLegsLookedAt && d.has_places()) return AmongNear(d, which).run(interrupt);
  return among_all(d, which, interrupt);
}

}  // namespace kiteknot::structures::tours
