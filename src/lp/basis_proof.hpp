#pragma once
// What the present basis proves: bounds on the goal, infeasibility, a goal without an end. Every
// sum that a proof rests on is rounded outward, bounded by a radius, or exact.

#include "base/interval.hpp"
#include "lp/basis_state.hpp"
#include "lp/implied.hpp"
#include "lp/proof.hpp"

namespace kiteknot::lp {

class BasisProof {
 public:
  /// The state outlives it.
  explicit BasisProof(BasisState& state) : s_(state) {}

  /// A solve begins: nothing is proven of it yet.
  void begin();
  [[nodiscard]] std::vector<double> row_duals();
  [[nodiscard]] double bound(std::vector<Interval>* reduced = nullptr);
  [[nodiscard]] double sharp_bound(std::vector<Interval>* reduced = nullptr);
  /// What the last bound() was sure of: of x with a greater goal it says nothing but that, and its
  /// enclosures do not hold for them.
  [[nodiscard]] double holds_to() const noexcept { return holds_to_; }
  /// In plain arithmetic, less radius().
  [[nodiscard]] double quick_bound(std::vector<Interval>* reduced = nullptr);
  [[nodiscard]] double radius() const noexcept { return radius_; }
  /// Whether the safe bound tells the same as the point; where it is not finite, nothing can be
  /// told.
  [[nodiscard]] bool bound_meets_objective();
  /// Whether the state's rho holds multipliers that prove infeasibility; they are kept then.
  bool proves_farkas();
  /// The direction in which the entering variable moves the columns, confirmed.
  bool store_ray(Index entering, double direction);
  void set_ray(std::vector<double> ray) { ray_ = std::move(ray); }
  [[nodiscard]] std::span<const double> farkas() const noexcept { return farkas_; }
  [[nodiscard]] std::span<const double> ray() const noexcept { return ray_; }
  /// Rows or columns were removed.
  void forget_implied() {
    ends_.forget();
    row_ends_.forget();
  }
  /// A cost has changed.
  void forget_goal() { ends_.forget_goal(); }

 private:
  void bound_outward();
  void load_row_duals();

  BasisState& s_;
  std::vector<double> farkas_, ray_;
  std::vector<double> multipliers_;  // of the rows, in use by row_duals() and bound()
  std::int64_t known_at_ = -1;       // version of the state whose bound is known
  double bound_ = 0.0, radius_ = 0.0;
  std::optional<double> ended_bound_;  // the same with ends that rows imply
  double holds_to_ = std::numeric_limits<double>::infinity();
  bool exact_bound_had_ = false;
  ImpliedEnds ends_, row_ends_;  // with the goal, and of rows alone
  std::vector<Interval> bound_reduced_;
  bool reduced_there_ = false;  // and not handed over
  PlainProof plain_;
};

}  // namespace kiteknot::lp
