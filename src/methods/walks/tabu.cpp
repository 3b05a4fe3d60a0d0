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
namespace {

constexpr std::size_t kChains = 16;
constexpr int kDepth = 4;

class Tabu {
 public:
  explicit Tabu(Walk& w)
      : w_(w),
        g_(w.ground),
        all_(w.ground.movable()),
        // Small models are looked at whole, large ones by lot; of completed points only a few.
        sample_(std::min<std::size_t>(all_.size(), g_.rules() != nullptr ? 400 : 40)),
        shortest_(std::min<std::int64_t>(3 + static_cast<std::int64_t>(all_.size()) / 50, 12)),
        penalty_(w) {}

  void run() {
    for (; !w_.pace.over(); ++step_) {
      // Every other step is one of chains, of few decisions, as each takes as long as many moves.
      if (g_.rules() != nullptr && step_ % 2 == 1 && g_.score().clean() && chain_step()) continue;
      single_step();
    }
  }

 private:
  [[nodiscard]] bool held(Index d) const {
    const auto f = forbidden_.find(d);
    return f != forbidden_.end() && f->second > step_;
  }
  [[nodiscard]] bool is_new_best(const Score& s) const {
    return s.clean() && better({0.0, s.goal}, w_.best.score());
  }
  // Where the walk goes to; what moved stays for a while.
  void take(std::span<const Move> moves) {
    g_.take(moves);
    if (Standing* s = g_.rules()) {
      s->keep();
      constexpr std::int64_t kFresh = 10'000;
      if (step_ % kFresh == kFresh - 1) s->refresh();
    }
    for (const Move& m : moves)
      forbidden_[m.decision] = step_ + shortest_ + w_.random.between(0, shortest_);
    since_ = w_.best.offer(g_) ? 0 : since_ + 1;
  }
  [[nodiscard]] std::optional<Move> drawn(Index d) {
    g_.options(d, options_);
    if (options_.empty()) return {};
    return Move{d, options_[w_.lot(options_.size())]};
  }

  // Of some drawn moves those that the goal likes best, whatever they break: that is mended.
  bool chain_step() {
    std::vector<std::pair<double, Move>> first;
    for (std::size_t k = 0; k < std::min(all_.size(), 4 * kChains) && !w_.pace.over(); ++k)
      if (const auto m = drawn(all_[w_.lot(all_.size())]))
        first.emplace_back(g_.tried(*m).goal, *m);
    std::ranges::stable_sort(first, {}, [](const auto& x) { return x.first; });
    first.resize(std::min(first.size(), kChains));
    Chain best;
    double least = HUGE_VAL;
    for (const auto& [goal, move] : first) {
      if (w_.pace.over()) break;
      const Chain c = chain(w_, move, kDepth);
      const bool forbidden =
          std::ranges::any_of(c.moves, [&](const Move& m) { return held(m.decision); });
      if (forbidden && !is_new_best(c.score)) continue;
      if (const double cost = penalty_.cost(c.score); cost < least) {
        least = cost;
        best = c;
      }
    }
    if (least == HUGE_VAL) return false;
    take(best.moves);
    return true;
  }

  // A sample of all decisions, and of a rule that is broken some more: what mends it is not left to
  // lot.
  [[nodiscard]] std::vector<Index> looked_at() {
    const std::size_t n = all_.size();
    std::vector<Index> some;
    const std::size_t from = sample_ < n ? w_.lot(n) : 0,
                      stride = std::max<std::size_t>(1, n / sample_);
    for (std::size_t k = 0; k < sample_; ++k) some.push_back(all_[(from + k * stride) % n]);
    const Standing* s = g_.rules();
    if (s == nullptr || sample_ == n || s->broken_rules().empty()) return some;
    const auto& broken = s->broken_rules();
    const auto& under = s->model().decisions_under(broken[w_.lot(broken.size())]);
    constexpr std::size_t kOfRule = 100;
    for (std::size_t k = 0; k < std::min(under.size(), kOfRule); ++k)
      some.push_back(under[w_.lot(under.size())]);
    return some;
  }

  void single_step() {
    Move best;
    double least = HUGE_VAL;
    for (const Index d : looked_at()) {
      if (w_.pace.over() || least == -HUGE_VAL) break;
      g_.options(d, options_);
      for (const double v : options_) {
        const Score there = g_.tried(Move{d, v});
        const bool new_best = is_new_best(there);
        if (held(d) && !new_best) continue;
        const double cost = new_best ? -HUGE_VAL : penalty_.cost(there);
        if (cost < least) {
          least = cost;
          best = {d, v};
        }
      }
    }
    if (least == HUGE_VAL) {  // everything is forbidden
      forbidden_.clear();
      return;
    }
    take(std::span(&best, 1));
    penalty_.stood(g_.score().clean());
    const auto lost = 200 + 5 * static_cast<std::int64_t>(sample_);
    if (since_ > lost && w_.best.has_plan()) begin_again(lost);
  }

  // Lost for long: from the best point, another way.
  void begin_again(std::int64_t lost) {
    g_.take_all(w_.best.values());
    forbidden_.clear();
    since_ = 0;
    for (int k = 0; k < 3; ++k)
      if (const auto m = drawn(all_[w_.lot(all_.size())])) {
        g_.take(*m);
        forbidden_[m->decision] = step_ + lost / 4;
      }
  }

  Walk& w_;
  Ground& g_;
  const std::vector<Index>& all_;
  std::size_t sample_;
  std::int64_t shortest_;  // a decision is held for so many steps, up to twice as many
  Penalty penalty_;
  std::unordered_map<Index, std::int64_t> forbidden_;  // until which step
  std::vector<double> options_;
  std::int64_t step_ = 0, since_ = 0;  // steps, and those without a better point
};

}  // namespace

void walk_tabu(Walk& w) {
  build(w, {Order::share});
  climb(w);
  Tabu(w).run();
}

}  // namespace kiteknot::methods
