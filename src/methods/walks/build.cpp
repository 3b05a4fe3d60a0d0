// Greedy building of a point, in several orders, and steps taken back.

#include <algorithm>
#include <cmath>
#include <queue>

#include "base/at.hpp"
#include "kiteknot/solve.hpp"
#include "methods/walks/walk.hpp"

namespace kiteknot::methods {
namespace {

// What a step does, and how good an order finds it: the larger the better.
struct Rated {
  double key = -HUGE_VAL;
  Move move;
};

// Steps are rated once and put in a queue; whoever comes up is rated again, and goes back where it
// has become worse than the next one (the lazy greedy of Minoux 1978, "Accelerated greedy
// algorithms for maximizing submodular set functions"; exact where what a step brings only falls).
class Builder {
 public:
  Builder(Walk& w, const Building& how) : w_(w), g_(w.ground), how_(how) {}

  void run() {
    if (how_.order == Order::prices) price();
    phase(true);
    phase(false);
    w_.best.offer(g_);
  }

 private:
  // What a unit of each decision costs beyond what the relaxation's prices pay for it.
  void price() {
    SolveOptions options = w_.options;
    constexpr double kAtMost = 0.5;  // of what is left
    options.seconds = kAtMost * w_.pace.seconds_left();
    const Result r = solve_relaxed(w_.model, options);
    if (r.relaxed.reduced_costs.size() != at(g_.model().num_decisions()))
      throw UsageError("the relaxation gave no prices");
    reduced_ = r.relaxed.reduced_costs;
    relaxed_ = r.relaxed.point;
    if (g_.model().maximizes)
      for (double& d : reduced_) d = -d;
  }

  [[nodiscard]] Rated rated(const Move& m, bool mending) {
    const Score now = g_.score(), then = g_.tried(m);
    const double mended = now.broken - then.broken, gained = now.goal - then.goal;
    Rated r{-HUGE_VAL, m};
    if (mending ? mended <= Score::kNoise : !then.clean()) return r;
    if (!mending && !better(then, now)) return r;
    const double by = m.to - g_.value(m.decision);
    switch (how_.order) {
      case Order::prices: {
        // What a step costs beyond what the prices pay for it; what nothing tells apart by that, by
        // the relaxed point, and a little by its true cost, so that no step is free.
        constexpr double kOfCost = 0.05, kOfPoint = 1e-6;
        const double cost = reduced_[at(m.decision)] * by;
        const double liked = kOfPoint * scale() * relaxed_[at(m.decision)] * (by > 0 ? 1.0 : -1.0);
        r.key = mending ? rate(mended, std::max(0.0, cost) + kOfCost * std::max(0.0, -gained) +
                                           kOfPoint * scale())
                        : -cost / std::max(std::abs(by), Score::kNoise) + liked;
        break;
      }
      case Order::share:
        r.key = mending ? rate(mended, -gained) : rate(gained, g_.share_taken(m));
        break;
      default:
        r.key = mending ? rate(mended, -gained) : gained;
    }
    return r;
  }
  // What is mended for what it costs; what costs nothing comes first.
  static double rate(double mended, double cost) {
    constexpr double kFree = 1e12;
    return cost > Score::kNoise ? mended / cost : kFree + mended - cost;
  }
  [[nodiscard]] double scale() {
    if (scale_ == 0.0) {
      scale_ = 1e-6;
      for (const double d : reduced_) scale_ = std::max(scale_, std::abs(d));
    }
    return scale_;
  }

  [[nodiscard]] Rated best_of(Index d, bool mending) {
    Rated best{-HUGE_VAL, {d, g_.value(d)}};
    g_.options(d, options_);
    const std::vector<double> options = options_;
    for (const double v : options) {
      const Rated r = rated({d, v}, mending);
      if (r.key > best.key) best = r;
    }
    return best;
  }

  void phase(bool mending) {
    const auto lower = [](const Rated& a, const Rated& b) {
      return a.key < b.key || (a.key == b.key && a.move.decision > b.move.decision);
    };
    std::priority_queue<Rated, std::vector<Rated>, decltype(lower)> queue(lower);
    // What has no use now may have one later: looked at again when a round has changed something.
    constexpr int kRounds = 4;
    for (int round = 0; round < kRounds; ++round) {
      if (mending && g_.score().clean()) return;
      for (const Index d : g_.movable()) {
        if (w_.pace.over()) return;
        if (const Rated r = best_of(d, mending); r.key > -HUGE_VAL) queue.push(r);
      }
      bool any = false;
      while (!queue.empty() && !w_.pace.over()) {
        if (mending && g_.score().clean()) return;
        const Rated old = queue.top();
        queue.pop();
        const Rated now = best_of(old.move.decision, mending);
        if (now.key == -HUGE_VAL) continue;
        if (!queue.empty() && now.key < loosened(queue.top().key)) {
          queue.push(now);
          continue;
        }
        if (how_.loose > 0.0 && !queue.empty() && queue.top().key >= loosened(now.key) &&
            w_.random.chance(0.5)) {
          aside_.push_back(now);  // the next one's turn, by lot
          continue;
        }
        g_.take(now.move);
        any = true;
        if (const Rated more = best_of(now.move.decision, mending); more.key > -HUGE_VAL)
          queue.push(more);
        for (const Rated& r : aside_) queue.push(r);
        aside_.clear();
      }
      for (const Rated& r : aside_) queue.push(r);
      aside_.clear();
      if (!any) return;
      while (!queue.empty()) queue.pop();
    }
  }
  // What lots may take for as good as the best.
  [[nodiscard]] double loosened(double key) const {
    return how_.loose == 0.0 ? key : key - how_.loose * std::abs(key);
  }

  Walk& w_;
  Ground& g_;
  Building how_;
  std::vector<double> reduced_, relaxed_, options_;
  std::vector<Rated> aside_;
  double scale_ = 0.0;
};

// Where reals are completed a point without a completion tells no way out: what the relaxed point
// chooses, by more and more of it; everything open; and if that is none either, any plan of the
// exact search's.
void first_plan(Walk& w) {
  Ground& g = w.ground;
  if (!w.start.empty()) {  // walks that begin again look for it once
    g.take_all(w.start);
    return;
  }
  SolveOptions rest = w.options;
  rest.seconds = 0.5 * w.pace.seconds_left();
  const std::vector<double> relaxed = solve_relaxed(w.model, rest).relaxed.point;
  constexpr double kAtLeast[] = {0.5, 0.2, 0.05, 1e-6, 0.0};
  for (const double least : kAtLeast) {
    std::vector<Move> moves;
    for (const Index d : g.movable()) {
      const DecisionRange& r = g.range(d);
      const double x = at(d) < relaxed.size() ? relaxed[at(d)] : r.upper;
      if (r.binary())
        moves.push_back({d, x >= least ? 1.0 : 0.0});
      else if (r.takes(std::ceil(x - 1e-6)))
        moves.push_back({d, std::ceil(x - 1e-6)});
    }
    if (!g.tried(moves).clean()) continue;
    g.take(moves);
    w.start = g.values();
    return;
  }
  Model any = w.model;
  any.forget_goals();
  SolveOptions options = w.options;
  constexpr std::int64_t kNodes = 2'000;
  options.nodes = std::min(options.nodes, kNodes);
  options.seconds = rest.seconds;
  const Result r = solve(any, options);
  if (!r.plan) return;
  std::vector<double> values;
  for (const Rational& v : r.plan->values()) values.push_back(v.to_double());
  g.take_all(values);
  w.start = std::move(values);
}

// Rules in which exactly, or at least, one of some binaries is chosen.
struct Choice {
  Index rule = 0;
  std::vector<Index> of;
};

std::vector<Choice> choices(const CompiledModel& m) {
  std::vector<Choice> all;
  for (Index r = 0; r < static_cast<Index>(m.rules.size()); ++r) {
    if (!m.rules[at(r)].over_sum) continue;
    const Index sum = m.sum_of(r);
    const double low = m.figures[at(m.rules[at(r)].root)].low - m.figures[at(sum)].constant;
    Choice c{r, {}};
    bool plain = true;
    for (const WeightedNode& t : m.terms.of(sum)) {
      plain = plain && t.node < m.num_decisions() && m.ranges[at(t.node)].binary() &&
              t.weight == low && low > 0.0;
      c.of.push_back(t.node);
    }
    if (plain && c.of.size() > 1) all.push_back(std::move(c));
  }
  return all;
}

}  // namespace

void build(Walk& w, const Building& how) {
  if (w.ground.rules() == nullptr && !w.ground.score().clean()) first_plan(w);
  Builder(w, how).run();
}

void take_back(Walk& w) {
  Ground& g = w.ground;
  if (g.rules() != nullptr && !g.score().clean()) climb(w, true);
  std::vector<double> options;
  for (bool any = true; any;) {
    any = false;
    // The latest decisions first is no order that a point knows; the dearest is.
    for (const Index d : g.movable()) {
      if (w.pace.over()) return;
      g.options(d, options);
      const std::vector<double> all = options;
      Move best{d, g.value(d)};
      Score score = g.score();
      for (const double v : all)
        if (const Score s = g.tried({d, v}); better(s, score)) {
          score = s;
          best.to = v;
        }
      if (best.to != g.value(d)) {
        g.take(best);
        any = true;
      }
    }
  }
  w.best.offer(g);
}

void walk_by_worth(Walk& w) {
  build(w, {Order::worth});
  take_back(w);
}

void walk_by_prices(Walk& w) {
  build(w, {Order::prices});
  take_back(w);
}

// The choice goes first that loses most where its best is gone (Martello and Toth 1981, "An
// algorithm for the generalized assignment problem").
void walk_by_regret(Walk& w) {
  Ground& g = w.ground;
  std::vector<Choice> open = choices(g.model());
  if (open.empty())
    throw UsageError(
        "there are no rules of the form 'one of these', whose second best it asks for");
  std::erase_if(open, [&](const Choice& c) {
    return std::ranges::any_of(c.of, [&](Index d) { return g.value(d) > 0.0; });
  });
  // What breaks more than the choice itself mends waits: only fits count.
  while (!open.empty() && !w.pace.over()) {
    std::size_t at_most = open.size();
    double most = -HUGE_VAL;
    Index pick = -1;
    const Score now = g.score();
    for (std::size_t k = 0; k < open.size(); ++k) {
      double best = HUGE_VAL, second = HUGE_VAL;
      Index d_best = -1;
      for (const Index d : open[k].of) {
        if (!g.range(d).can_move || g.value(d) > 0.0) continue;
        const Score s = g.tried(Move{d, 1.0});
        if (s.broken > now.broken - Score::kNoise) continue;
        const double cost = s.goal - now.goal;
        if (cost < best) {
          second = best;
          best = cost;
          d_best = d;
        } else {
          second = std::min(second, cost);
        }
      }
      constexpr double kLast = 1e15;  // one that has no other choice left goes first
      const double regret = d_best < 0 ? -HUGE_VAL : second == HUGE_VAL ? kLast : second - best;
      if (d_best >= 0 && regret > most) {
        most = regret;
        at_most = k;
        pick = d_best;
      }
    }
    if (pick < 0) break;
    g.take(Move{pick, 1.0});
    std::erase_if(open, [&](const Choice& c) {
      return c.rule == open[at_most].rule ||
             std::ranges::any_of(c.of, [&](Index d) { return g.value(d) > 0.0; });
    });
  }
  build(w, {Order::share});
  take_back(w);
}

}  // namespace kiteknot::methods
