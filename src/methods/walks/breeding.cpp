// Plans crossed, mended and improved (Chu and Beasley 1998, "A genetic algorithm for the
// multidimensional knapsack problem").

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "methods/walks/walk.hpp"

namespace kiteknot::methods {
namespace {

struct Member {
  std::vector<double> values;
  Score score;
};

}  // namespace

void walk_breeding(Walk& w) {
  Ground& g = w.ground;
  const std::vector<double> start = g.values();
  const std::size_t most = g.rules() != nullptr ? 40 : 12;
  std::vector<Member> all;
  const auto join = [&] {
    Member m{g.values(), g.score()};
    w.best.offer(g);
    if (std::ranges::any_of(all, [&](const Member& o) { return o.values == m.values; })) return;
    if (all.size() < most) {
      all.push_back(std::move(m));
      return;
    }
    const auto worst = std::ranges::max_element(
        all, [](const Member& a, const Member& b) { return better(a.score, b.score); });
    if (better(m.score, worst->score)) *worst = std::move(m);
  };
  // Lots may give the same plan again and again where there are few.
  for (std::size_t k = 0; k < 2 * most && all.size() < most && !w.pace.over(); ++k) {
    g.take_all(start);
    build(w, {Order::share, k == 0 ? 0.0 : 0.5});
    if (k == 0) climb(w);
    join();
  }
  const auto parent = [&]() -> const Member& {  // the better one of two
    const Member &a = all[w.lot(all.size())], &b = all[w.lot(all.size())];
    return better(b.score, a.score) ? b : a;
  };
  std::vector<double> options;
  while (!w.pace.over() && all.size() > 1) {
    const Member &a = parent(), &b = parent();
    std::vector<double> child = a.values;
    for (const Index d : g.movable())
      if (w.random.chance(0.5)) child[at(d)] = b.values[at(d)];
    g.take_all(child);
    for (int k = 0; k < 2; ++k) {  // two decisions by lot
      const Index d = g.movable()[w.lot(g.movable().size())];
      g.options(d, options);
      if (!options.empty()) g.take(Move{d, options[w.lot(options.size())]});
    }
    if (Standing* s = g.rules()) s->refresh();
    build(w, {Order::share, 0.0});
    constexpr double kClimbs = 0.2;
    if (w.random.chance(kClimbs))
      climb(w);
    else
      take_back(w);
    join();
  }
}

}  // namespace kiteknot::methods
