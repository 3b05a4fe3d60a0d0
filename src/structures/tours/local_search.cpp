#include "structures/tours/local_search.hpp"

#include <algorithm>
#include <array>

namespace kiteknot::structures::tours {
namespace {

constexpr double kLeast = 1e-7;  // that a move has to gain: lengths are millionths

}  // namespace

LocalSearch::LocalSearch(const Distances& distances, const Neighbours& near,
                         std::vector<Index> tour)
    : d_(distances), near_(near), tour_(std::move(tour)), awake_(at(tour_.size()), 0) {}

void LocalSearch::wake(Index stop) {
  if (awake_[at(stop)]) return;
  awake_[at(stop)] = 1;
  queue_.push_back(stop);
}

Index LocalSearch::take() {
  const Index stop = queue_[next_++];
  awake_[at(stop)] = 0;
  if (next_ == queue_.size()) {
    queue_.clear();
    next_ = 0;
  } else if (next_ > 1'000'000 && 2 * next_ > queue_.size()) {
    queue_.erase(queue_.begin(), queue_.begin() + static_cast<std::ptrdiff_t>(next_));
    next_ = 0;
  }
  return stop;
}

// a -> b and c -> e become a -> c and b -> e, with what lies between b and c turned round.
double LocalSearch::exchange(Index a) {
  for (int side = 0; side < 2; ++side, tour_.mirror()) {
    const Index b = tour_.next(a);
    const double leg = d_(a, b);
    const std::span<const Index> near = near_.of(a);
    const std::span<const double> lengths = near_.lengths(a);
    for (std::size_t k = 0; k < near.size(); ++k) {
      const Index c = near[k];
      const double rest = leg - lengths[k];
      if (rest <= kLeast) break;
      const Index e = tour_.next(c);
      if (c == b || e == a) continue;
      const double gain = rest + d_(c, e) - d_(b, e);
      if (gain <= kLeast || too_far(b, c)) continue;
      tour_.turn(b, c);
      wake_both(a, b);
      wake_both(c, e);
      return gain;
    }
  }
  return 0.0;
}

// a  b..c  e..f  g  becomes  a  e..f  b..c  g: two segments change places, neither is turned round.
double LocalSearch::swap(Index a) {
  if (tour_.size() < 8) return 0.0;
  for (int side = 0; side < 2; ++side, tour_.mirror()) {
    const Index b = tour_.next(a);
    const std::span<const Index> near = near_.of(a), beside = near_.of(b);
    const std::span<const double> lengths = near_.lengths(a), back = near_.lengths(b);
    for (std::size_t k = 0; k < near.size(); ++k) {
      const Index e = near[k];
      const double rest = d_(a, b) - lengths[k];
      if (rest <= kLeast) break;
      if (e == b) continue;
      const Index c = tour_.previous(e);
      const double two = rest + d_(c, e);
      for (std::size_t m = 0; m < beside.size() && two - back[m] > kLeast; ++m) {
        const Index f = beside[m];
        if (f == a || tour_.stops_between(e, f) > tour_.stops_between(e, a)) continue;
        const Index g = tour_.next(f);
        const double gain = two - back[m] + d_(f, g) - d_(c, g);
        if (gain <= kLeast || too_far(b, f)) continue;
        tour_.turn(b, f);
        tour_.turn(f, e);
        tour_.turn(c, b);
        for (const Index stop : {a, b, c, e, f, g}) wake(stop);
        return gain;
      }
    }
  }
  return 0.0;
}

// Up to three stops from this one on, in either direction, are put next to a near stop.
double LocalSearch::shift(Index stop) {
  constexpr int kMostStops = 3;
  if (tour_.size() < 8) return 0.0;
  for (int side = 0; side < 2; ++side, tour_.mirror()) {
    Index last = stop;
    for (int many = 1; many <= kMostStops; ++many, last = tour_.next(last))
      if (const double gain = shift_segment(stop, last); gain > 0.0) return gain;
  }
  return 0.0;
}

double LocalSearch::shift_segment(Index first, Index last) {
  const Index p = tour_.previous(first), q = tour_.next(last);
  const double out = d_(p, first) + d_(last, q) - d_(p, q);
  const Index many = tour_.stops_between(first, last);
  const std::span<const Index> near = near_.of(first);
  const std::span<const double> lengths = near_.lengths(first);
  for (std::size_t k = 0; k < near.size(); ++k) {
    const Index c = near[k];
    if (out - lengths[k] <= kLeast) break;
    if (tour_.stops_between(first, c) <= many) continue;  // one of them
    // c -> first .. last -> e, or e -> last .. first -> c
    for (const bool after : {true, false}) {
      const Index e = after ? tour_.next(c) : tour_.previous(c);
      if (e == (after ? first : last)) continue;
      const double gain = out - lengths[k] - d_(last, e) + d_(c, e);
      if (gain <= kLeast || too_far(q, after ? c : e)) continue;
      const Index end = after ? c : e;  // p  first..last  q..end  becomes  p  q..end  and those
      tour_.turn(first, end);
      tour_.turn(end, q);
      if (after) tour_.turn(last, first);
      wake_both(p, q);
      wake_both(first, last);
      wake_both(c, e);
      return gain;
    }
  }
  return 0.0;
}

// base -> end is taken out; end gets a new leg to a near stop, the leg before that one goes, and so
// on. Closed where the sum was best.
double LocalSearch::chain(Index base) {
  if (tour_.size() < 8) return 0.0;
  for (int side = 0; side < 2; ++side, tour_.mirror()) {
    const std::size_t before = tour_.turns();
    double best = 0.0;
    std::size_t best_turns = before;
    const Index end = tour_.next(base);
    touched_.assign({base, end});
    added_.clear();
    (void)extend(base, end, d_(base, end), 0, best, best_turns);
    tour_.take_back_to(best_turns);
    if (best <= 0.0) continue;
    for (const Index stop : touched_) wake(stop);
    return best;
  }
  return 0.0;
}

// base -> end reads on from base; true where something better was found.
bool LocalSearch::extend(Index base, Index end, double gain, int depth, double& best,
                         std::size_t& best_turns) {
  constexpr int kDeepest = 30;
  constexpr std::array<std::size_t, 3> kBreadth = {5, 3, 1};
  struct Step {
    double value = 0.0;
    Index to = -1, new_end = -1;
  };
  std::array<Step, 5> steps;
  std::size_t many = 0;
  const std::size_t most = at(depth) < kBreadth.size() ? kBreadth[at(depth)] : 1;
  const std::span<const Index> near = near_.of(end);
  const std::span<const double> lengths = near_.lengths(end);
  for (std::size_t i = 0; i < near.size() && gain - lengths[i] > kLeast; ++i) {
    const Index to = near[i], new_end = tour_.previous(to);
    if (to == base || new_end == end || too_far(end, new_end) || is_added(new_end, to)) continue;
    const Step step{d_(new_end, to) - lengths[i], to, new_end};
    std::size_t k = many < most ? many++ : most;
    for (; k > 0 && steps[k - 1].value < step.value; --k)
      if (k < most) steps[k] = steps[k - 1];
    if (k < most) steps[k] = step;
  }
  for (std::size_t k = 0; k < many; ++k) {
    const Step& step = steps[k];
    const std::size_t turns = tour_.turns(), known = touched_.size();
    tour_.turn(end, step.new_end);
    touched_.push_back(step.to);
    touched_.push_back(step.new_end);
    added_.emplace_back(end, step.to);
    const double so_far = gain + step.value, closed = so_far - d_(step.new_end, base);
    const bool better = closed > best + kLeast;
    if (better) {
      best = closed;
      best_turns = tour_.turns();
    }
    const bool deeper =
        depth + 1 < kDeepest && extend(base, step.new_end, so_far, depth + 1, best, best_turns);
    if (better || deeper) return true;
    tour_.take_back_to(turns);
    touched_.resize(known);
    added_.pop_back();
  }
  return false;
}

}  // namespace kiteknot::structures::tours
