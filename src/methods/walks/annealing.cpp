// Moves drawn by lot, worse ones taken with a chance that falls (Kirkpatrick, Gelatt and Vecchi
// 1983, "Optimization by simulated annealing").

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "methods/walks/penalty.hpp"
#include "methods/walks/walk.hpp"

namespace kiteknot::methods {

Penalty::Penalty(Walk& w) {
  Ground& g = w.ground;
  const auto n = static_cast<std::int64_t>(g.movable().size());
  double goal = 0.0, broken = 0.0;
  int goals = 0, breaks = 0;
  std::vector<double> options;
  const int samples = g.rules() != nullptr ? 200 : 10;
  for (int k = 0; k < samples && !w.pace.over(); ++k) {
    const Index d = g.movable()[w.lot(at(n))];
    g.options(d, options);
    if (options.empty()) continue;
    const Score now = g.score(), s = g.tried(Move{d, options.front()});
    if (s.goal == HUGE_VAL || now.goal == HUGE_VAL) continue;
    if (s.goal != now.goal) {
      goal += std::abs(s.goal - now.goal);
      ++goals;
    }
    if (std::abs(s.broken - now.broken) > Score::kNoise) {
      broken += std::abs(s.broken - now.broken);
      ++breaks;
    }
  }
  usual_ = goals > 0 ? goal / goals : 1.0;
  rate_ = breaks > 0 ? usual_ / (broken / breaks) : usual_;
  constexpr double kRange = 1e6;
  least_ = rate_ / kRange;
  most_ = rate_ * kRange;
}

void Penalty::stood(bool clean) noexcept {
  constexpr int kInARow = 6;
  constexpr double kBy = 1.3;
  (clean ? broken_ : clean_) = 0;
  if (++(clean ? clean_ : broken_) < kInARow) return;
  clean_ = broken_ = 0;
  rate_ = std::clamp(clean ? rate_ / kBy : rate_ * kBy, least_, most_);
}

void walk_annealing(Walk& w) {
  Ground& g = w.ground;
  build(w, {Order::share});
  const auto n = static_cast<std::int64_t>(g.movable().size());
  Penalty penalty(w);
  const double hot = 0.5 * penalty.usual_change(), cold = hot * 1e-3;
  std::vector<double> options;
  std::int64_t since_kept = 0;
  double now = penalty.cost(g.score());
  std::int64_t steps = 0;
  while (!w.pace.over()) {
    const double heat = hot * std::pow(cold / hot, w.pace.share());
    const Index d = g.movable()[w.lot(at(n))];
    g.options(d, options);
    if (options.empty()) {
      constexpr std::int64_t kNone = 1'000'000;  // nothing can move at all
      if (++steps > kNone) break;
      continue;
    }
    const Move m{d, options[w.lot(options.size())]};
    std::vector<Move> moves{m};
    Score there = g.tried(m);
    // Most moves that break something are mended at once: what two rules hold together moves in
    // chains only.
    constexpr double kMended = 0.9;
    constexpr int kDepth = 4;
    if (g.rules() != nullptr && there.broken > g.score().broken + Score::kNoise &&
        w.random.chance(kMended)) {
      const Chain c = chain(w, m, kDepth);
      there = c.score;
      moves = c.moves;
    }
    const double cost = penalty.cost(there);
    const double worse = cost - now;
    if (worse > 0.0 && !w.random.chance(std::exp(-worse / heat))) continue;
    g.take(moves);
    if (Standing* s = g.rules()) {
      s->keep();
      constexpr std::int64_t kFresh = 20'000;
      if (++since_kept % kFresh == 0) s->refresh();
    }
    penalty.stood(g.score().clean());
    now = penalty.cost(g.score());
    if (g.score().clean()) w.best.offer(g);
  }
}

}  // namespace kiteknot::methods
