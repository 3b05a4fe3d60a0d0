#include "structures/tours/improve.hpp"

#include "base/random.hpp"
#include "structures/tours/local_search.hpp"

namespace kiteknot::structures::tours {
namespace {

// Three near segments of the tour change places; what it gets longer by.
double kick(const Distances& d, LocalSearch& search, Random& random) {
  constexpr Index kLongest = 30;  // stops of a segment
  ArrayTour& tour = search.tour();
  const Index n = tour.size(), longest = std::min<Index>(kLongest, (n - 2) / 3);
  const auto some = [&] { return static_cast<Index>(random.between(0, longest - 1)); };
  const Index a = tour.stop_at(static_cast<Index>(random.between(0, n - 1))), b = tour.next(a);
  const Index c = tour.ahead(b, some()), e = tour.next(c);
  const Index f = tour.ahead(e, some()), g = tour.next(f);
  // a  b..c  e..f  g  becomes  a  e..f  b..c  g
  const double longer = d(a, e) + d(f, b) + d(c, g) - d(a, b) - d(c, e) - d(f, g);
  tour.turn(b, f);
  tour.turn(f, e);
  tour.turn(c, b);
  for (const Index stop : {a, b, c, e, f, g}) search.wake(stop);
  return longer;
}

}  // namespace

Improved improve(const Distances& d, const Neighbours& near, std::vector<Index> tour,
                 const Moves& moves, const Interrupt& interrupt) {
  Improved result;
  if (tour.size() < 4) return {std::move(tour), 0.0, 0, 0};
  LocalSearch search(d, near, tour);
  for (const Index stop : tour) search.wake(stop);
  for (std::int64_t looks = 0; search.any_awake(); ++looks) {
    if (looks % 256 == 0 && interrupt.now()) break;
    const Index stop = search.take();
    const auto move = [&] {
      double gain = moves.exchange ? search.exchange(stop) : 0.0;
      if (gain == 0.0 && moves.shift) gain = search.shift(stop);
      if (gain == 0.0 && moves.swap) gain = search.swap(stop);
      return gain;
    };
    while (move() > 0.0) {
      ++result.moves;
      search.tour().forget_turns();
    }
  }
  result.tour = search.tour().order();
  result.length = length(d, result.tour);
  return result;
}

Improved improve_by_chains(const Distances& d, const Neighbours& near, std::vector<Index> tour,
                           const ChainOptions& options) {
  Improved result;
  const auto n = static_cast<Index>(tour.size());
  if (n < 8) return improve(d, near, std::move(tour), {}, options.interrupt);
  const Stopwatch clock;
  const auto over = [&] { return clock.seconds() >= options.seconds || options.interrupt.now(); };
  LocalSearch search(d, near, tour);
  Random random(options.seed);
  double now = length(d, tour);
  // What moves gain from the stops that wait.
  const auto settle = [&](bool keep) {
    double gained = 0.0;
    for (std::int64_t looks = 0; search.any_awake(); ++looks) {
      if (looks % 256 == 255 && over()) break;
      const Index stop = search.take();
      for (;;) {
        double gain = search.chain(stop);
        if (gain == 0.0) gain = search.shift(stop);
        if (gain == 0.0) break;
        gained += gain;
        ++result.moves;
        if (keep) search.tour().forget_turns();
      }
    }
    return gained;
  };
  if (options.progress) options.progress(clock.seconds(), now);
  for (const Index stop : tour) search.wake(stop);
  now -= settle(true);
  search.tour().forget_turns();
  const std::int64_t kicks = options.kicks < 0 ? n : options.kicks;
  constexpr std::int64_t kLook = 64;  // kicks between looks at the clock
  double told = 0.0;
  if (options.progress) options.progress(clock.seconds(), now);
  for (; result.kicks < kicks; ++result.kicks) {
    if (result.kicks % kLook == 0) {
      if (over()) break;
      constexpr double kOften = 1.1;
      if (options.progress && clock.seconds() > kOften * told) {
        told = clock.seconds();
        options.progress(told, now);
      }
    }
    const double longer = kick(d, search, random), gained = settle(false);
    if (longer <= gained) {
      now += longer - gained;
      search.tour().forget_turns();
    } else {
      search.tour().take_back_to(0);
      while (search.any_awake()) (void)search.take();
    }
  }
  result.tour = search.tour().order();
  result.length = length(d, result.tour);
  if (options.progress) options.progress(clock.seconds(), result.length);
  return result;
}

}  // namespace kiteknot::structures::tours
