// Best moves with a memory that forbids going back (Glover 1989, "Tabu search, part I"), through
// points that break rules as long as that pays (oscillation: Gendreau, Hertz and Laporte 1994, "A
// tabu search heuristic for the vehicle routing problem").

#include <algorithm>
#include <array>
#include <cmath>
#include <compare>
#include <unordered_map>
#include <utility>

#include "base/at.hpp"
#include "methods/walks/penalty.hpp"
#include "methods/walks/walk.hpp"

namespace kiteknot::methods {
namespace {

constexpr std::size_t kChains = 16;
constexpr int kDepth = 4;
constexpr std::size_t kOutward = 4;  // steps for the goal in a row, at most

// Of rules that ask for exactly one of some binary decisions: which it is. Another one comes in its
// place in one move.
class Choices {
 public:
  explicit Choices(Ground& g) {
    const Standing* s = g.rules();
    if (s == nullptr) return;
    const CompiledModel& m = s->model();
    group_.assign(at(m.num_decisions()), -1);
    std::vector<Index> at_one;
    for (Index r = 0; r < static_cast<Index>(m.rules.size()); ++r) {
      if (!m.rules[at(r)].over_sum) continue;
      const auto terms = m.terms.of(m.sum_of(r));
      const CompiledModel::Figures& f = m.figures[at(m.rules[at(r)].root)];
      const double constant = m.figures[at(m.sum_of(r))].constant;
      const bool one =
          terms.size() > 1 && f.low == f.high && std::ranges::all_of(terms, [&](const auto& t) {
            return t.node < m.num_decisions() && m.ranges[at(t.node)].binary() &&
                   m.ranges[at(t.node)].can_move && group_[at(t.node)] < 0 &&
                   t.weight == f.low - constant;
          });
      if (!one) continue;
      for (const WeightedNode& t : terms) {
        group_[at(t.node)] = static_cast<Index>(taken_.size());
        if (g.value(t.node) > 0.0) at_one.push_back(t.node);
      }
      taken_.push_back(-1);
    }
    for (const Index d : at_one) taken_[at(group_[at(d)])] = d;
  }
  /// The moves that a move is, with what it takes the place of; none: it is done by another's.
  [[nodiscard]] std::span<const Move> together(const Move& m) {
    moves_[0] = m;
    const Index group = group_.empty() ? -1 : group_[at(m.decision)];
    if (group < 0) return std::span(moves_).first(1);
    if (m.to == 0.0) return {};
    if (taken_[at(group)] < 0) return std::span(moves_).first(1);
    moves_[1] = {taken_[at(group)], 0.0};
    return std::span(moves_);
  }
  void moved(const Move& m) {
    const Index group = group_.empty() ? -1 : group_[at(m.decision)];
    if (group < 0) return;
    if (m.to > 0.0)
      taken_[at(group)] = m.decision;
    else if (taken_[at(group)] == m.decision)
      taken_[at(group)] = -1;
  }

 private:
  std::vector<Index> group_;  // by decision; -1: it is in none
  std::vector<Index> taken_;  // by group
  std::array<Move, 2> moves_;
};

class Tabu {
 public:
  explicit Tabu(Walk& w)
      : w_(w),
        g_(w.ground),
        all_(w.ground.movable()),
        // Small models are looked at whole, large ones by lot; of completed points only a few.
        sample_(std::min<std::size_t>(all_.size(), g_.rules() != nullptr ? 400 : 40)),
        shortest_(std::min<std::int64_t>(3 + static_cast<std::int64_t>(all_.size()) / 50, 12)),
        penalty_(w),
        choices_(w.ground) {}

  void run() {
    for (; !w_.pace.over(); ++step_) {
      // Steps of chains take as long as many single ones: they are made as often as they pay.
      const bool chains =
          g_.rules() != nullptr && step_ % chains_every_ == 1 && g_.score().clean() && chain_step();
      if (chains) {
        if (since_ == 0) chains_every_ = std::max<std::int64_t>(kOften, chains_every_ / 2);
        continue;
      }
      single_step();
      if (since_ == 0) chains_every_ = std::min(kSeldom, chains_every_ + 1);
      constexpr std::int64_t kTurn = 300;
      if (step_ % kTurn == 0) next_turn();
    }
  }

 private:
  // Whichever has gained more in its last turn is next; every fifth turn is the other's.
  void next_turn() {
    const Score best = w_.best.score();
    gained_[by_penalty_] = best.clean() == before_.clean() ? before_.goal - best.goal : HUGE_VAL;
    before_ = best;
    constexpr std::int64_t kOther = 5;
    const bool penalty_gains = gained_[1] > gained_[0];
    by_penalty_ = ++turns_ % kOther == 0 ? !penalty_gains : penalty_gains;
  }

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
    for (const Move& m : moves) choices_.moved(m);
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
  [[nodiscard]] std::vector<Index> looked_at(bool all) {
    const std::size_t n = all_.size();
    if (all) return all_;
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

  // How a step is chosen, the lower rank first, of these the lower cost.
  struct Rank {
    int rank = 3;
    double cost = HUGE_VAL;
    auto operator<=>(const Rank&) const = default;
  };
  // A better plan first. By turns, each as long as it pays: what costs least, broken rules paid
  // for; or on a plan what improves the goal and breaks nothing; else some steps for the goal,
  // whatever they break; then back, for the least that mending costs.
  [[nodiscard]] Rank rank_of(const Score& now, const Score& there) const {
    const double gain = now.goal - there.goal, more = there.broken - now.broken;
    const bool gains = better({0.0, there.goal}, {0.0, now.goal});
    if (by_penalty_) return {2, penalty_.cost(there)};
    if (now.clean() && there.clean() && gains) return {0, -gain};
    if (outward_ > 0)
      return gains ? Rank{1, std::max(more, 0.0) / gain} : Rank{2, penalty_.cost(there)};
    if (more < -Score::kNoise) return {1, gain / more};
    return {2, penalty_.cost(there)};
  }

  void single_step() {
    const Score now = g_.score();
    // What a plan can gain for nothing is not left to lot.
    const bool arrived = !by_penalty_ && now.clean() && outward_ == 0 && g_.rules() != nullptr;
    if (now.clean() && outward_ == 0) outward_ = 1 + static_cast<int>(w_.lot(kOutward));
    std::vector<Move> best;
    Rank least;
    for (const Index d : looked_at(arrived)) {
      if (w_.pace.over() || least.rank < 0) break;
      g_.options(d, options_);
      for (const double v : options_) {
        const std::span<const Move> moves = choices_.together({d, v});
        if (moves.empty()) continue;
        const Score there = g_.tried(moves);
        const bool new_best = is_new_best(there);
        if ((held(d) && !new_best) || there.goal == HUGE_VAL) continue;
        const Rank rank = new_best ? Rank{-1, 0.0} : rank_of(now, there);
        if (rank < least) {
          least = rank;
          best.assign(moves.begin(), moves.end());
        }
      }
    }
    if (best.empty()) {  // everything is forbidden
      forbidden_.clear();
      return;
    }
    if (least.rank > 0 && outward_ > 0) --outward_;
    if (least.rank == 0) outward_ = 0;  // perhaps there is more
    take(best);
    penalty_.stood(g_.score().clean());
    const auto lost = 200 + 5 * static_cast<std::int64_t>(sample_);
    if (since_ > lost && w_.best.has_plan()) begin_again(lost);
  }

  // Lost for long: from the best point, another way.
  void begin_again(std::int64_t lost) {
    g_.take_all(w_.best.values());
    choices_ = Choices(g_);
    forbidden_.clear();
    since_ = 0;
    for (int k = 0; k < 3; ++k)
      if (const auto m = drawn(all_[w_.lot(all_.size())])) {
        const auto moves = choices_.together(*m);
        g_.take(moves);
        for (const Move& moved : moves) {
          choices_.moved(moved);
          forbidden_[moved.decision] = step_ + lost / 4;
        }
      }
  }

  Walk& w_;
  Ground& g_;
  const std::vector<Index>& all_;
  std::size_t sample_;
  std::int64_t shortest_;  // a decision is held for so many steps, up to twice as many
  Penalty penalty_;
  Choices choices_;
  std::unordered_map<Index, std::int64_t> forbidden_;  // until which step
  std::vector<double> options_;
  static constexpr std::int64_t kOften = 2, kSeldom = 16;
  std::int64_t chains_every_ = 4;
  bool by_penalty_ = false;                           // how steps are chosen
  std::array<double, 2> gained_{HUGE_VAL, HUGE_VAL};  // by that, in the last turn
  Score before_{HUGE_VAL, HUGE_VAL};
  std::int64_t turns_ = 0;
  int outward_ = 0;                    // steps for the goal that are still to go
  std::int64_t step_ = 0, since_ = 0;  // steps, and those without a better point
};

}  // namespace

void walk_tabu(Walk& w) {
  build(w, {Order::share});
  climb(w);
  Tabu(w).run();
}

}  // namespace kiteknot::methods
