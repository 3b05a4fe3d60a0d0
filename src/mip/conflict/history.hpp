#pragma once
// The trail of a domain read backwards: where a bound that held at some place came from.

#include <limits>
#include <vector>

#include "mip/domain/domain.hpp"

namespace kiteknot::mip {

/// A place on the trail.
using TrailPosition = std::size_t;
inline constexpr TrailPosition kFromTheStart = std::numeric_limits<TrailPosition>::max();

class History {
 public:
  /// Which bound: of a column's lower or upper side, or a condition's state.
  using Key = Index;
  [[nodiscard]] Key key(const Change& c) const {
    return c.what == Change::What::condition ? 2 * columns_ + c.index
                                             : 2 * c.index + (c.what == Change::What::upper);
  }

  /// The steps from `from` on; those before hold for good. O(steps), and O(columns) once.
  void read(const Domain& domain, TrailPosition from);
  [[nodiscard]] const Problem& problem() const noexcept { return domain_->problem(); }
  [[nodiscard]] TrailPosition from() const noexcept { return from_; }
  [[nodiscard]] TrailPosition end() const noexcept { return from_ + before_.size(); }
  [[nodiscard]] const Domain::Step& step(TrailPosition p) const { return domain_->trail()[p]; }
  /// The last step of the key before the place.
  [[nodiscard]] TrailPosition last(Key key, TrailPosition before) const;
  /// The first step of the key that says at least as much as the bound; nothing says so before
  /// `before`: that place.
  [[nodiscard]] TrailPosition first_saying(const Change& bound, TrailPosition before) const;
  /// A column's bound as it was before the place, and from the start.
  [[nodiscard]] double bound(Index column, bool upper, TrailPosition before) const;
  [[nodiscard]] double bound_from_start(Index column, bool upper) const {
    return bound(column, upper, from_);
  }

 private:
  const Domain* domain_ = nullptr;
  Index columns_ = 0;
  TrailPosition from_ = 0;
  std::vector<TrailPosition> last_;    // by keys
  std::vector<TrailPosition> before_;  // by steps since from_: the one before of the same key
  std::vector<Key> touched_;
};

}  // namespace kiteknot::mip
