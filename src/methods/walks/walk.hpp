#pragma once
// What a walk is given: the ground, how long it may go, where better points are told, and lots.

#include <algorithm>
#include <cmath>
#include <functional>
#include <string>
#include <vector>

#include "methods/walks/ground.hpp"

namespace kiteknot::methods {

/// How far a walk has come: by the clock where the user has set one, by scores looked at otherwise,
/// so that without a clock the same seed takes the same steps.
class Pace {
 public:
  Pace(const Interrupt& interrupt, const Ground& ground, std::int64_t most_looks)
      : interrupt_(interrupt), ground_(ground), most_looks_(most_looks) {}
  /// Whether it has to end now.
  [[nodiscard]] bool over();
  /// How much of its time is gone, from 0 to 1.
  [[nodiscard]] double share();
  /// Ends it: nothing better can be.
  void end() noexcept { over_ = true; }
  [[nodiscard]] bool timed() const noexcept {
    return interrupt_.clock != nullptr && interrupt_.seconds < 1e9;
  }
  [[nodiscard]] const Interrupt& interrupt() const noexcept { return interrupt_; }
  /// Infinite without a clock.
  [[nodiscard]] double seconds_left() const {
    return timed() ? std::max(0.0, interrupt_.seconds - interrupt_.clock->seconds()) : HUGE_VAL;
  }

 private:
  const Interrupt& interrupt_;
  const Ground& ground_;
  std::int64_t most_looks_, looked_at_ = -1;
  bool over_ = false;
  double share_ = 0.0;
};

/// The best point so far, and when each was found.
class BestPoint {
 public:
  /// Hears of each better one; true: that is good enough.
  using Told = std::function<bool(double seconds, double goal)>;
  BestPoint(const CompiledModel& model, const Stopwatch& clock, Pace& pace, Told told)
      : model_(model), clock_(clock), pace_(pace), told_(std::move(told)) {}

  /// Notes the ground's point where it is better than all before; whether it is.
  bool offer(const Ground& ground);
  [[nodiscard]] const std::vector<double>& values() const noexcept { return values_; }
  [[nodiscard]] const Score& score() const noexcept { return score_; }
  [[nodiscard]] bool has_plan() const noexcept { return !values_.empty() && score_.clean(); }

 private:
  const CompiledModel& model_;
  const Stopwatch& clock_;
  Pace& pace_;
  Told told_;
  std::vector<double> values_;
  Score score_{HUGE_VAL, HUGE_VAL};
};

struct Walk {
  const Model& model;
  const SolveOptions& options;
  Ground& ground;
  Pace& pace;
  BestPoint& best;
  Random& random;
  /// A place among so many, drawn.
  [[nodiscard]] std::size_t lot(std::size_t n) const {
    return static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(n) - 1));
  }
  std::string note{};             // one sentence, where there is more to say
  std::vector<double> start{};    // a point with a completion, once it was looked for
  std::optional<double> bound{};  // proven, as the user states the goal
};

/// A way of walking. `walk` goes from the ground's first point until it is done or the pace is
/// over; it throws UsageError for what it cannot take.
struct WalkWay {
  std::string name, about, source;
  void (*walk)(Walk&) = nullptr;
  std::int64_t most_looks = 0;  // where no clock is set
  bool draws = false;           // its seed matters
  bool reals = true;            // it takes models with real decisions
};

// build.cpp
enum class Order {
  worth,   ///< what the goal gains
  share,   ///< the same for the share of room that it takes, over all rules
  prices,  ///< what it gains beyond the relaxation's prices
};
struct Building {
  Order order = Order::share;
  double loose = 0.0;  // how far from the best step a step drawn by lot may be, from 0 to 1
};
/// From the ground's point: steps that mend rules for what they cost, then steps that improve the
/// goal and break nothing, each the best by its order.
void build(Walk& w, const Building& how);
/// Steps back that improve: where rules are broken still, those that make room for what they need;
/// then what a later step has made needless, and what it left room for.
void take_back(Walk& w);

// climb.cpp
/// Moves of one decision, and of several where what one breaks the next ones mend, as long as one
/// is better; with `only_mend` until no rule is broken. False where the pace was over before.
bool climb(Walk& w, bool only_mend = false);
/// The moves, and further ones that mend what they break, `depth` at most: the best score that was
/// met on the way, and the moves up to there. The ground comes back as it was.
struct Chain {
  Score score;
  std::vector<Move> moves;
};
Chain chain(Walk& w, const Move& first, int depth);

void walk_by_worth(Walk& w);
void walk_by_prices(Walk& w);
void walk_by_regret(Walk& w);
void walk_climb(Walk& w);
void walk_many_climbs(Walk& w);
void walk_tabu(Walk& w);
void walk_annealing(Walk& w);
void walk_breeding(Walk& w);
void walk_violations(Walk& w);
void walk_ruin(Walk& w);
void walk_multipliers(Walk& w);

const std::vector<WalkWay>& walk_ways();

}  // namespace kiteknot::methods
