// Rules get a price and fall away, but for choices of one out of several, which part the model into
// pieces that are solved at sight; the prices are moved along what the pieces break (Fisher 1981,
// "The Lagrangian relaxation method for solving integer programming problems"; steps after Held,
// Wolfe and Crowder 1974, "Validation of subgradient optimization"). Every point on the way is a
// bound; the one told is worked out again in fractions.

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "base/rational_sum.hpp"
#include "methods/walks/walk.hpp"

namespace kiteknot::methods {
namespace {

class Multipliers {
 public:
  explicit Multipliers(Walk& w) : w_(w), g_(w.ground), m_(w.ground.model()) {}

  void run() {
    part();
    price_.assign(rows_.size(), 0.0);
    cost_.resize(at(m_.num_decisions()));
    point_.resize(at(m_.num_decisions()));
    const std::vector<double> start = g_.values();
    build(w_, {Order::share});
    climb(w_);
    double theta = 2.0, best = -HUGE_VAL;
    std::vector<double> best_price = price_, excess(rows_.size());
    int idle = 0;
    for (std::int64_t step = 1; !w_.pace.over(); ++step) {
      const double bound = solve();
      g_.spend(1 + entries_ / 5);
      if (bound > best + Score::kNoise * (1.0 + std::abs(best))) {
        best = bound;
        best_price = price_;
        idle = 0;
      } else if (++idle >= 20) {
        theta *= 0.7;
        idle = 0;
        price_ = best_price;
      }
      double norm = 0.0;
      for (std::size_t k = 0; k < rows_.size(); ++k) {
        excess[k] = broken_by(k);
        norm += excess[k] * excess[k];
      }
      const double plan = w_.best.has_plan() ? w_.best.score().goal : best + std::abs(best) + 1.0;
      constexpr double kEnd = 1e-3, kAgain = 0.5;
      if (norm == 0.0) break;  // the pieces' point is a plan: nothing is better
      if (theta < kEnd) {      // near the best prices; plans near others may still be better
        theta = kAgain;
        price_ = best_price;
      }
      const double length = theta * std::max(plan - bound, 1e-6 * (1.0 + std::abs(plan))) / norm;
      for (std::size_t k = 0; k < rows_.size(); ++k)
        price_[k] = kept_sign(k, price_[k] + length * excess[k]);
      // A climb takes as long as many steps: only from where prices have moved on.
      constexpr std::int64_t kPlanEvery = 25;
      if (step % kPlanEvery == 0) plan_near(start);
    }
    solve();
    plan_near(start);
    tell(best_price);
  }

 private:
  // One side of a rule that has a price, or the equation: the sum is at least (at most) the limit.
  struct Row {
    Index sum = 0;
    double limit = 0.0;
    int sense = 0;  // 1: at least, -1: at most, 0: equal
  };
  struct Piece {
    std::vector<Index> of;
    bool forced = false;  // exactly one; else at most one
  };

  void part() {
    if (!m_.linear || m_.has_reals)
      throw UsageError("it prices sums of whole decisions, and not all rules are such");
    if (m_.goal < 0) throw UsageError("there is no goal for prices to work on");
    for (const DecisionRange& r : m_.ranges)
      if (!std::isfinite(r.lower) || !std::isfinite(r.upper) || r.or_zero)
        throw UsageError("it needs limits on both sides of every decision");
    piece_of_.assign(at(m_.num_decisions()), -1);
    for (const CompiledModel::Rule& r : m_.rules) {
      const Index sum = m_.args.of(r.root)[0];
      const CompiledModel::Figures& f = m_.figures[at(r.root)];
      const auto terms = m_.terms.of(sum);
      const bool choice =
          f.high == 1.0 && (f.low == 1.0 || f.low <= 0.0) && m_.figures[at(sum)].constant == 0.0 &&
          std::ranges::all_of(terms, [&](const WeightedNode& t) {
            return t.weight == 1.0 && m_.ranges[at(t.node)].binary() && piece_of_[at(t.node)] < 0;
          });
      if (choice && !terms.empty()) {
        Piece p{{}, f.low == 1.0};
        for (const WeightedNode& t : terms) {
          piece_of_[at(t.node)] = static_cast<Index>(pieces_.size());
          p.of.push_back(t.node);
        }
        pieces_.push_back(std::move(p));
        continue;
      }
      entries_ += static_cast<std::int64_t>(terms.size());
      if (f.low == f.high) {
        rows_.push_back({sum, f.low, 0});
        continue;
      }
      if (std::isfinite(f.low)) rows_.push_back({sum, f.low, 1});
      if (std::isfinite(f.high)) rows_.push_back({sum, f.high, -1});
    }
    // Figures that are whole numbers are the model's own: only then a bound is told.
    exact_ = m_.goal_step > 0.0 && std::ranges::all_of(m_.rules, [&](const auto& r) {
               return m_.figures[at(r.root)].step > 0.0;
             });
  }

  // "At least" has prices from 0 up, "at most" down.
  [[nodiscard]] double kept_sign(std::size_t k, double price) const {
    return rows_[k].sense > 0   ? std::max(0.0, price)
           : rows_[k].sense < 0 ? std::min(0.0, price)
                                : price;
  }
  [[nodiscard]] double broken_by(std::size_t k) const {
    double x = m_.figures[at(rows_[k].sum)].constant;
    for (const WeightedNode& t : m_.terms.of(rows_[k].sum)) x += t.weight * point_[at(t.node)];
    const double excess = rows_[k].limit - x;
    return price_[k] == 0.0 && excess * rows_[k].sense < 0.0 ? 0.0 : excess;
  }

  // The best point at these prices, and its value: each piece takes its cheapest.
  double solve() {
    std::ranges::fill(cost_, 0.0);
    double value = m_.figures[at(m_.goal)].constant;
    for (const WeightedNode& t : m_.terms.of(m_.goal)) cost_[at(t.node)] += t.weight;
    for (std::size_t k = 0; k < rows_.size(); ++k) {
      if (price_[k] == 0.0) continue;
      value += price_[k] * (rows_[k].limit - m_.figures[at(rows_[k].sum)].constant);
      for (const WeightedNode& t : m_.terms.of(rows_[k].sum))
        cost_[at(t.node)] -= price_[k] * t.weight;
    }
    for (Index d = 0; d < m_.num_decisions(); ++d) {
      if (piece_of_[at(d)] >= 0) {
        point_[at(d)] = 0.0;
        continue;
      }
      const DecisionRange& r = m_.ranges[at(d)];
      point_[at(d)] = cost_[at(d)] < 0.0 ? r.upper : r.lower;
      value += cost_[at(d)] * point_[at(d)];
    }
    for (const Piece& p : pieces_) {
      const Index best = cheapest(p);
      if (best < 0) continue;
      point_[at(best)] = 1.0;
      value += cost_[at(best)];
    }
    return value;
  }
  [[nodiscard]] Index cheapest(const Piece& p) const {
    Index best = -1;
    for (const Index d : p.of)
      if (best < 0 || cost_[at(d)] < cost_[at(best)]) best = d;
    return p.forced || cost_[at(best)] < 0.0 ? best : -1;
  }

  void plan_near(const std::vector<double>& start) {
    std::vector<double> from = start;
    for (Index d = 0; d < m_.num_decisions(); ++d)
      if (m_.ranges[at(d)].takes(point_[at(d)])) from[at(d)] = point_[at(d)];
    g_.take_all(from);
    build(w_, {Order::share});
    climb(w_);
  }

  // The value at these prices in fractions: prices are doubles, which fractions say exactly.
  void tell(const std::vector<double>& prices) {
    if (!exact_) return;
    std::vector<Rational> cost(at(m_.num_decisions()));
    RationalSum value;
    value += Rational(m_.figures[at(m_.goal)].constant);
    for (const WeightedNode& t : m_.terms.of(m_.goal)) cost[at(t.node)] += Rational(t.weight);
    for (std::size_t k = 0; k < rows_.size(); ++k) {
      if (prices[k] == 0.0) continue;
      // Few digits: products of long fractions take long, and any price gives a bound.
      const Rational price = shortened(prices[k]);
      value.add_product(price,
                        Rational(rows_[k].limit) - Rational(m_.figures[at(rows_[k].sum)].constant));
      for (const WeightedNode& t : m_.terms.of(rows_[k].sum))
        cost[at(t.node)] -= price * Rational(t.weight);
    }
    for (Index d = 0; d < m_.num_decisions(); ++d)
      if (piece_of_[at(d)] < 0)
        value.add_product(cost[at(d)], Rational(cost[at(d)].sign() < 0 ? m_.ranges[at(d)].upper
                                                                       : m_.ranges[at(d)].lower));
    for (const Piece& p : pieces_) {
      Rational least = cost[at(p.of.front())];
      for (const Index d : p.of) least = std::min(least, cost[at(d)]);
      if (p.forced || least.sign() < 0) value += least;
    }
    // The scaled goal moves in whole steps, so its bound is rounded up to one.
    const Rational bound = value.value().ceil() / Rational(m_.goal_scale);
    const Rational told = m_.maximizes ? -bound : bound;
    double as_double = told.to_double();  // the nearest one may lie on the wrong side
    if (m_.maximizes ? Rational(as_double) < told : Rational(as_double) > told)
      as_double = std::nextafter(as_double, m_.maximizes ? HUGE_VAL : -HUGE_VAL);
    w_.bound = as_double;
  }
  // Rounded to 20 binary digits behind the point: nearer than prices are ever found.
  static Rational shortened(double price) {
    constexpr double kUnits = 0x1p20;
    return Rational(std::round(price * kUnits)) / Rational(kUnits);
  }

  Walk& w_;
  Ground& g_;
  const CompiledModel& m_;
  std::vector<Row> rows_;
  std::vector<Piece> pieces_;
  std::vector<Index> piece_of_;  // by decision
  std::vector<double> price_;    // by row
  std::vector<double> cost_, point_;
  std::int64_t entries_ = 0;
  bool exact_ = false;
};

}  // namespace

void walk_multipliers(Walk& w) {
  Multipliers(w).run();
}

}  // namespace kiteknot::methods
