#pragma once
// Rows found while searching. Each has a name for good, wherever it stands: it holds for every plan
// or only below one node; it is in the relaxation or not. Rows that were slack for long leave the
// relaxation and come back where a point breaks them or a node's basis rests on them, so a basis is
// kept by names and stays valid. Source: Padberg and Rinaldi 1991, "A branch-and-cut algorithm for
// the resolution of large-scale symmetric traveling salesman problems", section 4 (pools).

#include <unordered_map>

#include "mip/propagators/rows.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {

/// What a row is called wherever it goes: who found it, and its number there.
using RowName = std::int64_t;

/// A basis with the pool's rows by name.
struct NodeBasis {
  lp::Basis basis;             ///< rows of the pool last
  std::vector<RowName> named;  ///< of those, in their order
  std::int32_t owner = 0;      ///< of the pool that it was told by
};

/// A row as one pool tells it to another.
struct PooledRow {
  RowName name = 0;
  LinearRow row;
  std::int64_t scope = -1;  ///< the number of the node below which it holds; -1: everywhere
  bool implied = false;     ///< by the problem's own rows: plans need not be held against it
};

class RowPool {
 public:
  /// The relaxation's rows so far are there for good. `owner`: no two pools whose rows meet have
  /// the same.
  RowPool(const Problem& problem, const Relaxation& relaxation, std::int32_t owner = 0);

  /// A new row, or the one that says the same already. `scope`: the number of the node below which
  /// it holds; -1: everywhere. `implied`: by the problem's own rows.
  Index add(const LinearRow& row, std::int64_t scope = -1, bool implied = false);
  /// Takes over a row that another pool has found, under its name.
  void adopt(const PooledRow& found);
  /// The rows that were found here since the last call.
  [[nodiscard]] std::vector<PooledRow> take_found();
  /// Every row, those of others too.
  [[nodiscard]] std::vector<PooledRow> all() const;
  [[nodiscard]] Index size() const noexcept { return store_.num_rows(); }
  [[nodiscard]] RowView view(Index name) const {
    return store_.view(name, sides_.lower[at(name)], sides_.upper[at(name)]);
  }
  /// For a propagator. Rows that do not hold here have no limits.
  [[nodiscard]] RowSource source() const {
    return {&store_, &sides_, nullptr, Reason(Reason::By::generated_row)};
  }

  /// Brings the row into the relaxation, if it is not there.
  void bring_in(Index name, Relaxation& relaxation);
  /// All rows that hold here and that the point breaks; returns how many came in. `stated_only`:
  /// those that the problem's own rows imply stay where they are.
  Index bring_in_broken(std::span<const double> point, Relaxation& relaxation,
                        bool stated_only = false);
  [[nodiscard]] bool holds_everywhere(Index name) const { return scope_[at(name)] < 0; }
  /// Whether a row of the relaxation is one that holds below a node only.
  [[nodiscard]] bool row_is_local(Index row) const {
    return row >= first_ && scope_[at(named_[at(row - first_)])] >= 0;
  }
  /// Whether some row holds below a node only.
  [[nodiscard]] bool any_local() const noexcept { return !local_.empty(); }
  /// Whether the point meets all rows that hold here and are not implied, in the numbers that they
  /// were given in.
  [[nodiscard]] bool met_exactly(std::span<const Rational> point) const;
  [[nodiscard]] bool in_relaxation(Index name) const { return place_[at(name)] >= 0; }
  /// After a solve: counts for how long rows have been slack, and lets go those that were for more
  /// than `most` solves, where they are more than a few. True: some went, and the relaxation is to
  /// be solved again before anybody looks at its basis.
  [[nodiscard]] bool age(Relaxation& relaxation, int most = kOld);
  static constexpr int kOld = 20;
  /// All rows that the problem's own imply leave the relaxation.
  void let_implied_go(Relaxation& relaxation);
  [[nodiscard]] std::size_t num_in_relaxation() const noexcept { return named_.size(); }

  /// Rows of a scope hold where `holds(scope)` does.
  template <class Holds>
  void enter(const Holds& holds, Relaxation& relaxation) {
    for (const Index name : local_) switch_to(name, holds(scope_[at(name)]), relaxation);
  }

  [[nodiscard]] NodeBasis basis(const Relaxation& relaxation) const;
  /// Names, places and limits fit each other and the relaxation.
  void check_invariants(const Relaxation& relaxation) const;
  /// Rows that the basis rests on come back first; of another pool's basis all: that one had them
  /// at hand.
  void set_basis(const NodeBasis& basis, Relaxation& relaxation);

 private:
  template <class Goes>
  void let_go(Relaxation& relaxation, const Goes& goes) {
    std::vector<char> gone(at(relaxation.simplex().program().num_rows()), 0);
    std::vector<Index> stay;
    for (const Index name : named_) {
      Index& at_row = place_[at(name)];
      if (goes(name)) {
        gone[at(at_row)] = 1;
        at_row = -1;
      } else {
        at_row = first_ + static_cast<Index>(stay.size());
        stay.push_back(name);
      }
    }
    named_ = std::move(stay);
    relaxation.remove(gone);
  }
  /// The same row, if it is known; -1: it is not.
  [[nodiscard]] Index find(const LinearRow& row, std::int64_t scope, std::size_t hash) const;
  Index take(const LinearRow& row, std::int64_t scope, bool implied, std::size_t hash);
  [[nodiscard]] PooledRow told(Index name) const;
  [[nodiscard]] RowName name_of(Index name) const;
  [[nodiscard]] Index called(RowName name) const;
  void switch_to(Index name, bool on, Relaxation& relaxation);
  [[nodiscard]] static std::size_t hash_of(const LinearRow& row, std::int64_t scope);
  [[nodiscard]] bool same(Index name, const LinearRow& row, std::int64_t scope) const;

  std::int32_t owner_;
  Index first_;  // row of the relaxation that is the pool's
  RowStore store_;
  Sides stated_, sides_;  // as given, and as they hold here
  std::vector<std::int64_t> scope_;
  std::vector<char> implied_;
  std::vector<Index> place_;    // in the relaxation; -1: not there
  std::vector<int> slack_for_;  // solves
  std::vector<Index> named_;    // the relaxation's rows of the pool, in order
  std::vector<Index> local_;
  std::unordered_map<std::size_t, std::vector<Index>> by_hash_;
  std::unordered_map<RowName, Index> adopted_;
  std::vector<RowName> foreign_;  // of rows that came from elsewhere; -1: found here
  Index told_ = 0;                // rows before this one were taken by take_found()
};

}  // namespace kiteknot::mip
