#pragma once
// What the search asks of a kind of constraint. One object looks after all constraints of its kind,
// so that a million linear rows cost no object each. New kinds implement this and nothing else.

#include <memory>
#include <vector>

#include "base/work.hpp"
#include "mip/domain.hpp"

namespace kiteknot::mip {

/// The two (or more) parts that a node is split into: each a list of changes.
struct Branching {
  std::vector<std::vector<Change>> children;  ///< the first is looked at first
};

class Relaxation;

class ConstraintKind {
 public:
  virtual ~ConstraintKind() = default;
  /// Whether the point meets the constraints within the engine's tolerances, given the node's
  /// states.
  [[nodiscard]] virtual bool check(const Domain& domain, std::span<const double> point) const = 0;
  /// Draws conclusions from the touched columns and conditions; false: nothing is left possible.
  [[nodiscard]] virtual bool propagate(Domain& domain, std::span<const Index> touched,
                                       WorkCounter& work) = 0;
  /// A split for a point that fails check(); false where this kind has none to offer.
  virtual bool branch(const Domain& domain, std::span<const double> point, Branching& out) const {
    (void)domain, (void)point, (void)out;
    return false;
  }
  /// Adds rows to the relaxation: all that always hold when it is set up, ...
  virtual void start(Relaxation& relaxation) { (void)relaxation; }
  /// ... those that the node's states switch on or off, before a solve, ...
  virtual void enter(Relaxation& relaxation, const Domain& domain) {
    (void)relaxation, (void)domain;
  }
  /// ... and those that a relaxed point breaks; returns how many. `integral`: see Generator.
  virtual Index separate(Relaxation& relaxation, std::span<const double> point, bool integral) {
    (void)relaxation, (void)point, (void)integral;
    return 0;
  }
};

/// The kinds that a problem uses, linear rows first.
std::vector<std::unique_ptr<ConstraintKind>> make_kinds(const Problem& problem);

/// Propagates all kinds to a fixed point (or until the gains get small); false: a conflict.
bool propagate(Domain& domain, const std::vector<std::unique_ptr<ConstraintKind>>& kinds,
               WorkCounter& work);

}  // namespace kiteknot::mip
