#pragma once
// What a node is worked on with: one of each for all nodes of a worker, shared by its parts and by
// nobody else.

#include "base/work.hpp"
#include "lp/exact_basis.hpp"
#include "mip/branching/domain_rule.hpp"
#include "mip/interface/options.hpp"
#include "mip/separators/separator.hpp"
#include "mip/tree/node_path.hpp"

namespace kiteknot::mip {

struct NodeWorkspace {
  /// `number`: of the worker. Parts look at each other: it stays where it is.
  NodeWorkspace(Problem stated, const SearchOptions& options, const Stopwatch& clock,
                std::int32_t number);
  NodeWorkspace(const NodeWorkspace&) = delete;
  NodeWorkspace& operator=(const NodeWorkspace&) = delete;
  ~NodeWorkspace() = default;

  /// Units of work so far, those of the relaxation too.
  [[nodiscard]] std::int64_t spent() const {
    return work.units() + relaxation.simplex().work().units();
  }
  /// To where the trail's first `mark` steps hold for the whole tree; rows that hold below a node
  /// only do not hold here.
  void go_to_root(std::size_t mark) {
    (void)path.go(0, {}, mark, domain);
    pool.enter([](std::int64_t) { return false; }, relaxation);
  }
  /// Brings in rows that the point breaks; returns how many, and how many of them are new parts of
  /// what the problem asks. Local rows hold below the node
  /// `scope`, or, where that is none, rule this one point out.
  Separation::Added separate(std::span<const double> point, bool integral,
                             std::optional<std::int64_t> scope, bool stated_only);
  /// What separators are asked with at a point.
  [[nodiscard]] SeparationContext at_point(std::span<const double> point, bool integral) {
    return {domain, point, relaxation, work, implied, integral};
  }
  /// Whole columns rounded; real ones by their shortest decimal.
  [[nodiscard]] std::vector<Rational> exact_point(std::span<const double> point) const;

  Problem problem;
  Interrupt interrupt;
  WorkCounter work;
  Domain domain;
  Propagation propagation;
  std::vector<std::unique_ptr<Disjunction>> disjunctions;
  std::vector<std::unique_ptr<DomainRule>> domain_rules;
  Relaxation relaxation;
  RowPool pool;
  Separation separation;
  Implications implied;  ///< as probing found them
  NodePath path;
  lp::ExactLimits exact;  ///< of every look in fractions
};

}  // namespace kiteknot::mip
