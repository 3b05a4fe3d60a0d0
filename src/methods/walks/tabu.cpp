// Best moves with a memory that forbids going back (Glover 1989, "Tabu search, part I"), through
// points that break rules as long as that pays (oscillation: Gendreau, Hertz and Laporte 1994, "A
// tabu search heuristic for the vehicle routing problem").

#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "base/at.hpp"
#include "methods/walks/penalty.hpp"
#include "methods/walks/walk.hpp"

namespace kiteknot::methods {

void walk_tabu(Walk& w) {
  Ground& g = w.ground;
  build(w, {Order::share});
  climb(w);
  const std::vector<Index>& all = g.movable();
  const auto n = static_cast<std::int64_t>(all.size());
  // Small models are looked at whole, large ones by lot; of completed points only a few.
  const std::int64_t wide = g.rules() != nullptr ? 400 : 40;
  const std::int64_t sample = std::min(n, wide);
  const std::int64_t shortest = std::min<std::int64_t>(3 + n / 50, 12);
  constexpr std::int64_t kChains = 16;
  constexpr int kDepth = 4;
  Penalty penalty(w);
  std::unordered_map<Index, std::int64_t> forbidden;  // until which step
  std::vector<double> options;
  std::int64_t since = 0;  // steps without a better point
  for (std::int64_t step = 0; !w.pace.over(); ++step) {
    // Every other step is one of chains, of few decisions, as each takes as long as many moves.
    if (g.rules() != nullptr && step % 2 == 1 && g.score().clean()) {
      Chain best;
      double least = HUGE_VAL;
      // Of some drawn moves those that the goal likes best, whatever they break: that is mended.
      std::vector<std::pair<double, Move>> drawn;
      for (std::int64_t k = 0; k < std::min(n, 4 * kChains) && !w.pace.over(); ++k) {
        const Index d = all[static_cast<std::size_t>(w.random.between(0, n - 1))];
        g.options(d, options);
        if (options.empty()) continue;
        const Move m{d, options[static_cast<std::size_t>(
                            w.random.between(0, static_cast<std::int64_t>(options.size()) - 1))]};
        drawn.emplace_back(g.tried(m).goal, m);
      }
      std::ranges::stable_sort(drawn, {}, [](const auto& x) { return x.first; });
      drawn.resize(std::min(drawn.size(), static_cast<std::size_t>(kChains)));
      for (const auto& [goal, first] : drawn) {
        if (w.pace.over()) break;
        const Chain c = chain(w, first, kDepth);
        const bool new_best = c.score.clean() && better({0.0, c.score.goal}, w.best.score());
        const auto held_at = [&](const Move& m) {
          const auto f = forbidden.find(m.decision);
          return f != forbidden.end() && f->second > step;
        };
        if (!new_best && std::ranges::any_of(c.moves, held_at)) continue;
        const double cost = penalty.cost(c.score);
        if (cost < least) {
          least = cost;
          best = c;
        }
      }
      if (least < HUGE_VAL) {
        g.take(best.moves);
        g.rules()->keep();
        for (const Move& m : best.moves)
          forbidden[m.decision] = step + shortest + w.random.between(0, shortest);
        since = w.best.offer(g) ? 0 : since + 1;
        continue;
      }
    }
    Move best;
    double best_cost = HUGE_VAL;
    const std::int64_t from = sample < n ? w.random.between(0, n - 1) : 0;
    const std::int64_t stride = std::max<std::int64_t>(1, n / sample);
    // Of what a point breaks the one that mends it is not left to lot.
    std::vector<Index> also;
    if (Standing* s = g.rules(); s != nullptr && sample < n && !s->broken_rules().empty()) {
      const auto& broken = s->broken_rules();
      const Index r = broken[static_cast<std::size_t>(
          w.random.between(0, static_cast<std::int64_t>(broken.size()) - 1))];
      const auto& under = s->model().decisions_under(r);
      constexpr std::size_t kOfRule = 100;
      for (std::size_t k = 0; k < std::min(under.size(), kOfRule); ++k)
        also.push_back(under[static_cast<std::size_t>(
            w.random.between(0, static_cast<std::int64_t>(under.size()) - 1))]);
    }
    const std::int64_t looks = sample + static_cast<std::int64_t>(also.size());
    for (std::int64_t k = 0; k < looks; ++k) {
      if (w.pace.over()) break;
      const Index d = k < sample ? all[static_cast<std::size_t>((from + k * stride) % n)]
                                 : also[static_cast<std::size_t>(k - sample)];
      const auto held = forbidden.find(d);
      const bool held_now = held != forbidden.end() && held->second > step;
      g.options(d, options);
      const std::vector<double> values = options;
      for (const double v : values) {
        const Score there = g.tried(Move{d, v});
        const bool new_best = there.clean() && better({0.0, there.goal}, w.best.score());
        if (held_now && !new_best) continue;
        const double cost = new_best ? -HUGE_VAL : penalty.cost(there);
        if (cost < best_cost) {
          best_cost = cost;
          best = {d, v};
        }
        if (new_best) break;
      }
      if (best_cost == -HUGE_VAL) break;
    }
    if (best_cost == HUGE_VAL) {  // everything is forbidden
      forbidden.clear();
      continue;
    }
    g.take(best);
    if (Standing* s = g.rules()) {
      s->keep();
      constexpr std::int64_t kFresh = 10'000;
      if (step % kFresh == kFresh - 1) s->refresh();
    }
    forbidden[best.decision] = step + shortest + w.random.between(0, shortest);
    penalty.stood(g.score().clean());
    since = w.best.offer(g) ? 0 : since + 1;
    // Lost for long: from the best point again, another way.
    const std::int64_t lost = 200 + 5 * sample;
    if (since > lost && w.best.has_plan()) {
      g.take_all(w.best.values());
      forbidden.clear();
      since = 0;
      for (std::int64_t k = 0; k < 3; ++k) {
        const Index d = all[static_cast<std::size_t>(w.random.between(0, n - 1))];
        g.options(d, options);
        if (options.empty()) continue;
        g.take(Move{d, options[static_cast<std::size_t>(
                           w.random.between(0, static_cast<std::int64_t>(options.size()) - 1))]});
        forbidden[d] = step + lost / 4;
      }
    }
  }
}

}  // namespace kiteknot::methods
