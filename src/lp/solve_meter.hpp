#pragma once
// What one solve is asked for and how far it may go: options, limits, and where its time went.

#include <chrono>
#include <cstdint>
#include <limits>
#include <string>

#include "base/tolerances.hpp"
#include "base/work.hpp"

namespace kiteknot::lp {

enum class Status {
  optimal,     ///< within the tolerances; safe_bound() says what is certain
  infeasible,  ///< proven: farkas() passed proves_infeasible(), or is empty and the proof was
               ///< rational or took ends that rows imply
  unbounded,   ///< proven: ray() passed proves_unbounded() (given a plan at all), doubles as they
               ///< are
  cutoff,      ///< the safe bound has reached the cutoff
  limit,       ///< a limit on pivots, time or work, or the stop switch; bound is valid
  undecided    ///< the arithmetic did not suffice; reason says where
};

/// Seconds by part, added up over solves that are asked to measure.
struct Parts {
  double pricing = 0.0, ftran = 0.0, btran = 0.0, ratio_test = 0.0, update = 0.0, factor = 0.0;
};

enum class Path { choose, dual, primal };

struct SimplexOptions {
  Tolerances tolerances{};
  Path path = Path::choose;  ///< where the start allows either; both end at the same answer
  Parts* parts = nullptr;    ///< not null: measure, at the price of a look at the clock a step
  std::int64_t max_pivots = std::numeric_limits<std::int64_t>::max();
  std::int64_t max_work = std::numeric_limits<std::int64_t>::max();  ///< units of this call
  double cutoff =
      std::numeric_limits<double>::infinity();  ///< stop once the safe bound is above it
  /// Values and duals are looked at anew and in full only where the safe bound does not meet the
  /// objective: for a node that is divided anyway.
  bool quick = false;
  /// Values and duals are not looked at anew at all: for somebody who only wants to know roughly
  /// how far the goal moves. Proofs (infeasible, bound()) hold as ever.
  bool rough = false;
  int exact_pivots = 200;  ///< at most, where no basis settles; 0: undecided at once
  Interrupt interrupt{};
};

struct [[nodiscard]] Report {
  Status status = Status::undecided;
  double objective = 0.0;  ///< c'x of the last basic solution
  std::int64_t pivots = 0;
  std::string reason;  ///< for undecided
};

class SolveMeter {
 public:
  void begin(const SimplexOptions& options, const WorkCounter& work);
  /// All work so far was told otherwise (WorkCounter::settle).
  void settle(const WorkCounter& work) noexcept { work_at_look_ = work.units(); }
  /// Of this solve.
  [[nodiscard]] std::int64_t spent_pivots() const noexcept { return pivots - pivots_at_start_; }
  [[nodiscard]] bool over_limit(const SimplexOptions& options, const WorkCounter& work);
  /// Far more pivots than any program of this size should take: it goes round in circles.
  [[nodiscard]] bool exhausted(std::int64_t variables);

  /// Adds the seconds until its end to one of the parts, if somebody measures.
  class Timed {
   public:
    Timed(Parts* parts, double Parts::*part) : to_(parts == nullptr ? nullptr : &(parts->*part)) {
      if (to_ != nullptr) start_ = std::chrono::steady_clock::now();
    }
    ~Timed() {
      if (to_ != nullptr)
        *to_ += std::chrono::duration<double>(std::chrono::steady_clock::now() - start_).count();
    }
    Timed(const Timed&) = delete;
    Timed& operator=(const Timed&) = delete;

   private:
    double* to_;
    std::chrono::steady_clock::time_point start_{};
  };
  [[nodiscard]] Timed timed(double Parts::*part) const { return Timed(parts, part); }

  std::int64_t pivots = 0;  ///< of all solves
  int stalled = 0;          ///< pivots without progress
  std::string reason;       ///< why nothing can be decided
  Interrupt interrupt{};    ///< of the last solve
  Parts* parts = nullptr;

 private:
  std::int64_t pivots_at_start_ = 0, work_at_start_ = 0, work_at_look_ = 0;
};

}  // namespace kiteknot::lp
