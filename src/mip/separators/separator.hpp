#pragma once
// What finds rows that a relaxed point breaks. A separator sees the point and fills a list; rows
// get their names, their scope and their place in the relaxation from whoever called it, and so do
// the figures on what it costs and brings.

#include <memory>
#include <string_view>

#include "mip/propagators/propagation.hpp"
#include "mip/relaxation/row_pool.hpp"
#include "mip/structures/implications.hpp"

namespace kiteknot::mip {

/// A cut that lies nearer to the point than this is not worth its row.
inline constexpr double kLeastEfficacy = 1e-4;

/// A point to be cut off.
struct SeparationContext {
  const Domain& domain;
  std::span<const double> point;
  Relaxation& relaxation;  ///< stands at the point, unless that is whole; to be left as it is
  WorkCounter& work;
  const Implications& implied;  ///< as probing found them
  bool integral = false;        ///< it will be taken as a plan unless a row is found
};

class Separator {
 public:
  virtual ~Separator() = default;
  [[nodiscard]] virtual std::string_view name() const = 0;
  [[nodiscard]] virtual bool wants(const SeparationContext& where) const = 0;
  /// Whether its rows follow from what the problem says: plans need not be held against them.
  [[nodiscard]] virtual bool implied() const { return false; }
  /// Of cuts: only asked where the other families find few.
  [[nodiscard]] virtual bool last_resort() const { return false; }
  virtual void look(const SeparationContext& where, std::vector<LinearRow>& found) = 0;
};

/// All separators of a search, and the table of what they cost and bring.
class Separation {
 public:
  explicit Separation(const Problem& problem);
  /// Rows that the point breaks come into the relaxation: known ones first, then new ones; returns
  /// how many. `node`: whose number local rows get as their scope. `stated_only`: of separators
  /// whose rows are part of what the problem asks.
  struct Added {
    Index rows = 0, stated = 0;
  };
  Added run(const SeparationContext& where, std::int64_t node, RowPool& pool,
            Relaxation& relaxation, bool stated_only = false);
  /// Whether some rows are part of what the problem asks.
  [[nodiscard]] bool any_stated() const noexcept;
  [[nodiscard]] bool empty() const noexcept { return all_.empty(); }
  [[nodiscard]] std::string_view name(std::size_t k) const { return all_[k]->name(); }
  [[nodiscard]] const std::vector<Tally>& tallies() const noexcept { return tallies_; }

 private:
  std::vector<std::unique_ptr<Separator>> all_;
  std::vector<Tally> tallies_;  // steps: rows that came in
  std::vector<LinearRow> found_;
};

}  // namespace kiteknot::mip
