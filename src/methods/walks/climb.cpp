// Local search: moves of one decision, and chains of moves in which each mends what the one before
// has broken (ejection chains: Glover 1996, "Ejection chains, reference structures and alternating
// path methods for traveling salesman problems").

#include <algorithm>

#include "base/at.hpp"
#include "methods/walks/walk.hpp"

namespace kiteknot::methods {
namespace {

constexpr std::size_t kSample = 48;  // decisions of a rule that are looked at for mending it

// A rule that the point breaks and that was kept before, or else any.
Index rule_to_mend(Walk& w, const Standing& s) {
  const auto& broken = s.broken_rules();
  return broken[w.lot(broken.size())];
}

// The best single move for a rule, but for decisions that have moved already.
std::optional<Move> best_mending(Walk& w, Standing& s, Index rule, std::span<const Move> moved,
                                 Score& score) {
  const std::vector<Index>& under = s.model().decisions_under(rule);
  if (under.empty()) return {};
  const bool over_sum = s.model().rules[at(rule)].over_sum;
  const std::size_t n = under.size(), looks = std::min(n, kSample);
  const auto first = w.lot(n);
  // Spread over the rule: neighbours in it are often alike.
  const std::size_t stride = n / looks;
  std::optional<Move> best;
  std::vector<double> options;
  for (std::size_t k = 0; k < looks; ++k) {
    const Index d = under[(first + k * stride) % n];
    if (std::ranges::any_of(moved, [d](const Move& m) { return m.decision == d; })) continue;
    options.clear();
    if (over_sum) {
      if (const double v = w.ground.mending(rule, d); v != w.ground.value(d)) options.push_back(v);
    } else {
      w.ground.options(d, options);
    }
    for (const double v : options) {
      const Score there = w.ground.tried(Move{d, v});
      if (!best || better(there, score)) {
        score = there;
        best = Move{d, v};
      }
    }
  }
  return best;
}

}  // namespace

Chain chain(Walk& w, const Move& first, int depth) {
  Chain c{w.ground.tried(first), {first}};
  Standing* s = w.ground.rules();
  const Score before = w.ground.score();
  if (s == nullptr || depth <= 1 || c.score.broken <= before.broken + Score::kNoise) return c;
  const std::size_t mark = s->mark();
  std::vector<Move> moves{first};
  w.ground.take(first);
  while (static_cast<int>(moves.size()) < depth && !s->broken_rules().empty()) {
    Score there;
    const std::optional<Move> next = best_mending(w, *s, rule_to_mend(w, *s), moves, there);
    if (!next) break;
    moves.push_back(*next);
    w.ground.take(*next);
    if (better(there, c.score)) c = {there, moves};
    if (there.broken <= before.broken + Score::kNoise) break;
  }
  s->undo_to(mark);
  return c;
}

bool climb(Walk& w, bool only_mend) {
  constexpr int kDepth = 4;
  Ground& g = w.ground;
  std::vector<Index> order = g.movable();
  std::vector<double> options;
  std::size_t still = 0;  // decisions since the last better move
  for (std::size_t k = order.size(); still < order.size(); ++k, ++still) {
    if (w.pace.over()) return false;
    if (only_mend && g.score().clean()) break;
    if (k >= order.size()) {
      for (std::size_t i = order.size(); i > 1; --i) std::swap(order[i - 1], order[w.lot(i)]);
      k = 0;
    }
    const Index d = order[k];
    g.options(d, options);
    const std::vector<double> all = options;
    for (const double v : all) {
      const Chain c = chain(w, {d, v}, kDepth);
      if (!better(c.score, g.score())) continue;
      g.take(c.moves);
      if (Standing* s = g.rules()) s->keep();
      still = 0;
      break;
    }
    // Real decisions follow by themselves; another decision beside this one changes place with it.
    if (g.rules() == nullptr && g.value(d) > g.range(d).lower) {
      const Score now = g.score();
      for (const Index other : order) {
        if (other == d || !g.range(other).binary() || g.value(other) > 0.0) continue;
        if (w.pace.over()) return false;
        const Move swap[] = {{d, g.range(d).lower}, {other, 1.0}};
        if (!better(g.tried(swap), now)) continue;
        g.take(swap);
        still = 0;
        break;
      }
    }
  }
  if (Standing* s = g.rules()) s->refresh();
  w.best.offer(g);
  return true;
}

void walk_climb(Walk& w) {
  build(w, {Order::share});
  climb(w);
  w.best.offer(w.ground);
}

// Feo and Resende 1995, "Greedy randomized adaptive search procedures".
void walk_many_climbs(Walk& w) {
  const std::vector<double> start = w.ground.values();
  const double loose[] = {0.0, 0.1, 0.2, 0.4};
  for (std::size_t k = 0; !w.pace.over(); ++k) {
    w.ground.take_all(start);
    build(w, {Order::share, loose[k % 4]});
    climb(w);
    w.best.offer(w.ground);
  }
}

}  // namespace kiteknot::methods
