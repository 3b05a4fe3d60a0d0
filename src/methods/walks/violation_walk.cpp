// From rule to rule: a broken one is drawn, and the move of one of its decisions taken that leaves
// least broken; rules that stay broken weigh more and more (Selman, Kautz and Cohen 1994, "Noise
// strategies for improving local search", for clauses; weights after Thornton 2005, "Clause
// weighting local search for SAT"). A plan that was found makes a better one a rule.

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "methods/walks/walk.hpp"

namespace kiteknot::methods {
namespace {

constexpr double kNoise = 0.05;  // of moves that are drawn and not chosen

class ViolationWalk {
 public:
  explicit ViolationWalk(Walk& w) : w_(w), g_(w.ground), s_(*w.ground.rules()) {}

  void run() {
    std::vector<Move> candidates;
    for (std::int64_t step = 1; !w_.pace.over(); ++step) {
      if (s_.broken_rules().empty() && over_limit(s_.score()) <= 0.0) {
        w_.best.offer(g_);
        if (s_.model().goal < 0) return;
        aim();
        continue;
      }
      candidates = moves();
      if (candidates.empty()) continue;
      const double now = cost(s_.score());
      Move best = candidates[w_.lot(candidates.size())];
      double least = HUGE_VAL;
      if (!w_.random.chance(kNoise))
        for (const Move& m : candidates) {
          if (m.decision == last_ && m.to == last_value_) continue;  // not straight back
          const double there = cost(g_.tried(m));
          if (there < least) {
            least = there;
            best = m;
          }
        }
      if (least >= now) heavier();
      last_ = best.decision;
      last_value_ = g_.value(best.decision);
      g_.take(best);
      s_.keep();
      constexpr std::int64_t kFresh = 10'000;
      if (step % kFresh == 0) s_.refresh();
      if (s_.broken_rules().empty()) w_.best.offer(g_);
    }
  }

 private:
  [[nodiscard]] double over_limit(const Score& s) const { return s.goal - limit_; }
  [[nodiscard]] double cost(const Score& s) const {
    return s.broken + goal_weight_ * std::max(0.0, over_limit(s));
  }
  // The next plan has to be better by a step at least, and by a share that is worth a walk.
  void aim() {
    constexpr double kShare = 1e-4;
    const double best = w_.best.score().goal;
    limit_ = best - std::max({s_.model().goal_step, kShare * std::abs(best), Score::kNoise});
    if (goal_weight_ == 0.0) {
      double usual = 0.0;
      for (const WeightedNode& t : s_.model().terms.of(s_.model().goal))
        usual +=
            std::abs(t.weight) / static_cast<double>(s_.model().terms.of(s_.model().goal).size());
      goal_weight_ = usual > 0.0 ? 1.0 / usual : 1.0;
    }
  }
  void heavier() {
    for (const Index r : s_.broken_rules()) s_.set_weight(r, s_.weight(r) + 1.0);
    if (over_limit(s_.score()) > 0.0) goal_weight_ *= 1.0 + 1.0 / 64.0;
    constexpr double kTooHeavy = 1e6;
    if (s_.score().broken < kTooHeavy) return;
    for (Index r = 0; r < static_cast<Index>(s_.model().rules.size()); ++r)
      s_.set_weight(r, std::max(1.0, s_.weight(r) * 0.1));
    goal_weight_ *= 0.1;
    s_.refresh();
  }
  std::vector<Move> moves() {
    constexpr std::size_t kMost = 60;
    std::vector<Move> all;
    std::vector<double> options;
    const auto& broken = s_.broken_rules();
    const bool of_goal = broken.empty() || (over_limit(s_.score()) > 0.0 && w_.random.chance(0.2));
    if (of_goal) {
      for (std::size_t k = 0; k < kMost; ++k) {
        const Index d = g_.movable()[w_.lot(g_.movable().size())];
        g_.options(d, options);
        for (const double v : options) all.push_back({d, v});
      }
      return all;
    }
    const Index r = broken[w_.lot(broken.size())];
    const auto& under = s_.model().decisions_under(r);
    if (under.empty()) return all;
    const std::size_t first = w_.lot(under.size()), n = std::min(under.size(), kMost);
    const std::size_t stride = under.size() / n;
    for (std::size_t k = 0; k < n; ++k) {
      const Index d = under[(first + k * stride) % under.size()];
      if (s_.model().rules[at(r)].over_sum) {
        if (const double v = g_.mending(r, d); v != g_.value(d)) all.push_back({d, v});
      } else {
        g_.options(d, options);
        for (const double v : options) all.push_back({d, v});
      }
    }
    return all;
  }

  Walk& w_;
  Ground& g_;
  Standing& s_;
  double limit_ = HUGE_VAL, goal_weight_ = 0.0;
  Index last_ = -1;
  double last_value_ = 0.0;
};

}  // namespace

void walk_violations(Walk& w) {
  if (w.ground.rules() == nullptr)
    throw UsageError("it walks from rule to rule over whole decisions, and some here are amounts");
  ViolationWalk(w).run();
}

}  // namespace kiteknot::methods
