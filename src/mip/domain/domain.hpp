#pragma once
// What is still possible at a node: bounds of columns and states of conditions, with a trail to go
// back, in which every change knows its reason. A column that stands for a condition and the
// condition move together.
//
// Whoever keeps figures that follow from the domain (activities, the relaxation's bounds) reads the
// trail with a cursor of its own: what it has read and is gone again is told first, then what is
// new. So nobody has to look at all columns to find out what moved.

#include <cstdint>
#include <vector>

#include "base/at.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

enum class State : std::int8_t { open, holds, fails };

/// One step of a branching or a propagation.
struct Change {
  enum class What : std::uint8_t { lower, upper, condition };
  What what = What::lower;
  Index index = 0;     ///< a column or a condition
  double value = 0.0;  ///< the new bound; for a condition 1: holds, 0: fails
};

/// Why the domain changed.
struct Reason {
  enum class By : std::uint8_t {
    decision,          ///< a branching, or a bound tried out
    condition,         ///< the column and its condition say the same
    constraint,        ///< one of the problem
    generated_row,     ///< a row of the pool
    probing,           ///< the other value, or either, says so
    root,              ///< found out there, by another worker
    strong_branching,  ///< the other child was seen to hold nothing better
    conflict,          ///< a learned one
    orbit,             ///< symmetries of the problem say so, of one best plan
    reduced_cost       ///< nothing better than the best plan is left beyond
  };
  By by = By::decision;
  std::uint8_t kind = 0;  ///< of a constraint: its kind's place in the register
  Index place = -1;       ///< which constraint, row or conflict
  Reason() = default;
  Reason(By why, Index which = -1) : by(why), place(which) {}
  static Reason of(std::uint8_t kind, Index which = -1) {
    Reason reason(By::constraint, which);
    reason.kind = kind;
    return reason;
  }
  friend bool operator==(const Reason&, const Reason&) = default;
};

class Domain {
 public:
  struct Step {
    Change change;
    double before = 0.0;  ///< of a bound
    Reason reason;
  };

  explicit Domain(const Problem& problem);

  [[nodiscard]] const Problem& problem() const noexcept { return *problem_; }
  [[nodiscard]] double lower(Index j) const { return lower_[at(j)]; }
  [[nodiscard]] double upper(Index j) const { return upper_[at(j)]; }
  [[nodiscard]] bool fixed(Index j) const { return lower_[at(j)] == upper_[at(j)]; }
  [[nodiscard]] State state(Index c) const { return state_[at(c)]; }
  [[nodiscard]] bool holds(ConditionLiteral l) const {
    return state(l.condition) == (l.holds ? State::holds : State::fails);
  }
  [[nodiscard]] bool fails(ConditionLiteral l) const {
    return state(l.condition) == (l.holds ? State::fails : State::holds);
  }

  /// Each returns false where nothing is left possible. Weaker bounds than the present ones are
  /// no-ops.
  [[nodiscard]] bool raise_lower(Index j, double value);
  [[nodiscard]] bool drop_upper(Index j, double value);
  [[nodiscard]] bool settle(Index condition, bool holds);
  [[nodiscard]] bool settle(ConditionLiteral l, bool is_true) {
    return settle(l.condition, l.holds == is_true);
  }
  [[nodiscard]] bool apply(const Change& change);
  /// The reason of all changes until another one is given.
  void because(Reason reason) noexcept { reason_ = reason; }
  [[nodiscard]] const Reason& reason() const noexcept { return reason_; }

  [[nodiscard]] std::size_t mark() const noexcept { return trail_.size(); }
  [[nodiscard]] const std::vector<Step>& trail() const noexcept { return trail_; }
  /// Takes back everything since the mark.
  void undo_to(std::size_t mark);
  /// Whether a change since the mark excludes the point or settles a condition.
  [[nodiscard]] bool cuts_off(std::span<const double> point, std::size_t mark) const;
  /// Bounds in order, whole for integer columns; a condition and its column say the same.
  void check_invariants() const;

  /// A reader of the trail that starts with what is there now.
  [[nodiscard]] std::size_t add_reader();
  /// `gone(n)`: of what was read, only the first n steps are still there; then read(step, place)
  /// for every step that is new, in order.
  template <class Gone, class Read>
  void read_trail(std::size_t reader, const Gone& gone, const Read& read) {
    Reader& r = readers_[reader];
    if (r.kept < r.read) gone(r.kept);
    r.read = r.kept;
    for (; r.read < trail_.size(); ++r.read) read(trail_[r.read], r.read);
    r.kept = r.read;
  }

 private:
  struct Reader {
    std::size_t read = 0, kept = 0;  // kept: of the steps read, how many were not taken back
  };
  const Problem* problem_;
  std::vector<double> lower_, upper_;
  std::vector<State> state_;
  std::vector<Step> trail_;
  std::vector<Reader> readers_;
  Reason reason_;
};

}  // namespace kiteknot::mip
