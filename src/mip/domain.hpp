#pragma once
// What is still possible at a node: bounds of columns and states of conditions, with a trail to go
// back. A column that stands for a condition and the condition move together.

#include <cstdint>
#include <vector>

#include "base/at.hpp"
#include "mip/problem.hpp"

namespace kiteknot::mip {

enum class State : std::int8_t { open, holds, fails };

/// One step of a branching or a propagation.
struct Change {
  enum class What : std::uint8_t { lower, upper, condition };
  What what = What::lower;
  Index index = 0;     ///< a column or a condition
  double value = 0.0;  ///< the new bound; for a condition 1: holds, 0: fails
};

class Domain {
 public:
  explicit Domain(const Problem& problem);

  [[nodiscard]] const Problem& problem() const noexcept { return *problem_; }
  [[nodiscard]] double lower(Index j) const { return lower_[at(j)]; }
  [[nodiscard]] double upper(Index j) const { return upper_[at(j)]; }
  [[nodiscard]] bool fixed(Index j) const { return lower_[at(j)] == upper_[at(j)]; }
  [[nodiscard]] State state(Index c) const { return state_[at(c)]; }
  [[nodiscard]] bool holds(Literal l) const {
    return state(l.condition) == (l.holds ? State::holds : State::fails);
  }
  [[nodiscard]] bool fails(Literal l) const {
    return state(l.condition) == (l.holds ? State::fails : State::holds);
  }

  /// Each returns false where nothing is left possible. Weaker bounds than the present ones are
  /// no-ops.
  [[nodiscard]] bool raise_lower(Index j, double value);
  [[nodiscard]] bool drop_upper(Index j, double value);
  [[nodiscard]] bool settle(Index condition, bool holds);
  [[nodiscard]] bool settle(Literal l, bool is_true) {
    return settle(l.condition, l.holds == is_true);
  }
  [[nodiscard]] bool apply(const Change& change);

  [[nodiscard]] std::size_t mark() const noexcept { return trail_.size(); }
  /// Takes back everything since the mark, and forgets what was touched.
  void undo_to(std::size_t mark);
  /// Whether a change since the mark excludes the point or settles a condition.
  [[nodiscard]] bool cuts_off(std::span<const double> point, std::size_t mark) const;
  /// Columns whose bounds moved since the last call; conditions appear as -1 - c.
  std::vector<Index> take_touched();
  void touch_all();
  /// Bounds in order, whole for integer columns; a condition and its column say the same.
  void check_invariants() const;

 private:
  void touch(Index what);

  const Problem* problem_;
  std::vector<double> lower_, upper_;
  std::vector<State> state_;
  std::vector<Change> trail_;  // old values
  std::vector<Index> touched_;
  std::vector<char> is_touched_;  // columns, then conditions
};

}  // namespace kiteknot::mip
