#pragma once
// The register of constraint kinds. All constraints of one kind of a problem are one object behind
// this interface, and the kind says in this one place whatever presolve, propagation, conflict
// analysis, relaxation, branching, components, symmetry and the exact check have to know. These ask
// Problem::kinds() in turn and name none. Linear rows are the first kind of every problem; a new
// kind is a class in a file of its own, and Problem::own<Kind>() registers it.
//
// Which column may be taken out or put for another one: none that a kind other than linear rows
// speaks of; their bounds may move (presolve/presolve_model.hpp).

#include <cstdint>
#include <functional>
#include <memory>
#include <span>
#include <string_view>
#include <vector>

#include "base/at.hpp"
#include "kiteknot/rational.hpp"
#include "mip/problem/rows.hpp"

namespace kiteknot {
class Mark;  // base/mark.hpp
}

namespace kiteknot::mip {

class Disjunction;     // branching/disjunction.hpp
class Domain;          // domain/domain.hpp
class DomainRule;      // branching/domain_rule.hpp
class Explanation;     // conflict/explanation.hpp
class PostsolveStack;  // presolve/postsolve_stack.hpp
class Problem;
class Propagator;   // propagators/propagator.hpp
class Relaxation;   // relaxation/relaxation.hpp
class Separator;    // separators/separator.hpp
class RelaxedKind;  // relaxation/relaxed_kind.hpp
class SmoothRows;   // nonlinear/smooth.hpp
struct Change;
struct Precedences;  // structures/precedences.hpp

/// How many constraints may break where a column rises or falls, by columns.
struct Locks {
  std::vector<Index> up, down;
  void both(Index j) {
    ++up[at(j)];
    ++down[at(j)];
  }
};

/// An exact point, and what it asks of conditions that no column stands for: these may take either
/// state, but one for all constraints.
struct ExactPoint {
  std::span<const Rational> columns;
  std::vector<char> must_hold, must_fail;  ///< by conditions
};

/// Where the columns and conditions of a problem are in another one that is made of it.
struct Image {
  std::vector<Index> column, condition;  ///< -1: not there
};

class ConstraintKind {
 public:
  /// Hears of a constraint: its columns, and the conditions that it waits for.
  using Visitor =
      std::function<void(std::span<const Index> columns, std::span<const Index> conditions)>;

  virtual ~ConstraintKind() = default;
  [[nodiscard]] virtual std::unique_ptr<ConstraintKind> clone() const = 0;
  /// The problem got so many more columns.
  virtual void add_columns(Index count) { (void)count; }
  /// As the table of what a search did calls it.
  [[nodiscard]] virtual std::string_view name() const = 0;
  /// Whether there are any.
  [[nodiscard]] virtual bool any(const Problem& problem) const = 0;
  /// How many entries they have in all: what a look at them costs.
  [[nodiscard]] virtual std::int64_t num_entries(const Problem& problem) const = 0;

  /// How many rows they are; 0 for kinds of another form.
  [[nodiscard]] virtual Index num_rows(const Problem& problem) const {
    (void)problem;
    return 0;
  }

  // What they speak of.

  /// Whether linear rows say all of it: recognition of networks and knapsacks, symmetries, sums
  /// that are exact in doubles and shared roots look at nothing else.
  [[nodiscard]] virtual bool linear() const { return false; }
  /// Whether all of them are stated: where some are only found when a point is looked at, presolve
  /// keeps all plans, and no part of the problem is searched alone.
  [[nodiscard]] virtual bool complete() const { return true; }
  /// Each constraint once. What is visited together is one component.
  virtual void visit(const Problem& problem, const Visitor& visitor) const = 0;
  /// Unless it knows better, either direction may break each constraint.
  virtual void lock(const Problem& problem, Locks& locks) const {
    visit(problem, [&](std::span<const Index> columns, std::span<const Index>) {
      for (const Index j : columns) locks.both(j);
    });
  }
  /// Whether doubles say every number of theirs.
  [[nodiscard]] virtual bool said_by_doubles(const Problem& problem) const {
    (void)problem;
    return true;
  }

  /// Whether points that meet it can be told in fractions. Where some kind's cannot, a plan is what
  /// the judge takes within its tolerance, and proofs end at a gap (SearchOptions::proof_gap).
  [[nodiscard]] virtual bool exact() const { return true; }
  /// Adds the columns whose ranges decide how tight their rows are.
  virtual void add_ranged(const Problem& problem, std::vector<Index>& columns) const {
    (void)problem, (void)columns;
  }
  /// Two sets of columns: with either of them held all its constraints are linear.
  virtual void add_sides(const Problem& problem, std::vector<Index>& one,
                         std::vector<Index>& other) const {
    (void)problem, (void)one, (void)other;
  }
  /// Those with derivatives, for local search; null: it has none.
  [[nodiscard]] virtual const SmoothRows* smooth() const { return nullptr; }

  /// What has to come before what, and on which machines; null: it says nothing of that.
  [[nodiscard]] virtual const Precedences* precedences() const { return nullptr; }

  /// Linear rows that hold whatever is decided, by the bounds of the problem. `known` as in
  /// Problem::known_row.
  using RowVisitor = std::function<void(const RowView& row, const lp::Exact* known)>;
  virtual void visit_rows(const Problem& problem, const RowVisitor& visitor) const {
    (void)problem, (void)visitor;
  }

  /// Linear rows that hold where a column has a value: as far as it has such.
  using GuardedRowVisitor = std::function<void(const RowView& row, Index column, double value)>;
  virtual void visit_guarded_rows(const Problem& problem, const GuardedRowVisitor& visitor) const {
    (void)problem, (void)visitor;
  }

  // Points, in fractions.

  [[nodiscard]] virtual bool satisfied(const Problem& problem, ExactPoint& point) const = 0;
  /// Whether from any plan one may go this way without an end; false also where that is not known.
  [[nodiscard]] virtual bool recedes(const Problem& problem,
                                     std::span<const Rational> direction) const {
    (void)problem, (void)direction;
    return false;
  }

  // The search. `kind`: its place in the register, for the reasons that its propagator gives.

  /// Null: they conclude nothing.
  [[nodiscard]] virtual std::unique_ptr<Propagator> propagator(std::uint8_t kind,
                                                               Domain& domain) const = 0;
  /// Whether its propagator's conclusions can be explained.
  [[nodiscard]] virtual bool explains() const { return false; }
  /// Adds what the constraint at `place` concluded this from, or, `concluded` null, found a
  /// conflict in; false: all branchings before it were at fault.
  virtual bool explain(const Problem& problem, Index place, const Change* concluded,
                       Explanation& why) const {
    (void)problem, (void)place, (void)concluded, (void)why;
    return false;
  }
  /// Adds their rows to the relaxation; null: it has none that follow the domain.
  [[nodiscard]] virtual std::unique_ptr<RelaxedKind> relax(const Problem& problem,
                                                           Relaxation& relaxation) const = 0;
  /// What finds points of the relaxation that break them, and splits; null: the relaxation's points
  /// break none.
  [[nodiscard]] virtual std::unique_ptr<Disjunction> disjunction() const = 0;

  /// What divides a node by its domain alone, without a point; null: nothing does.
  [[nodiscard]] virtual std::unique_ptr<DomainRule> domain_rule() const;

  /// What finds rows that a point of the relaxation breaks; null: there are none to find.
  [[nodiscard]] virtual std::unique_ptr<Separator> separator() const = 0;

  /// Adds all that they ask to the mark of the problem; false: it cannot be said, and nothing that
  /// was proven of the problem is taken for proven of one that looks like it.
  [[nodiscard]] virtual bool mark(const Problem& problem, Mark& mark) const {
    (void)problem, (void)mark;
    return false;
  }

  // Problems made of this one: what presolve leaves, a component.

  /// Adds to `to` those constraints whose columns are there. Where a condition's column is fixed in
  /// `to`, what is left of them.
  virtual void carry(const Problem& from, const Image& image, Problem& to) const = 0;
  /// Of those that are not all stated: what presolve left in `to` is asked by way of the problem as
  /// it came.
  virtual void carry_through(std::shared_ptr<const PostsolveStack> postsolve, Problem& to) const {
    (void)postsolve, (void)to;
  }
};

/// The kind that every problem begins with (kinds/linear_rows.cpp).
[[nodiscard]] std::unique_ptr<ConstraintKind> linear_rows();

/// The kinds of a problem; copies are deep.
class Kinds {
 public:
  Kinds() { all_.push_back(linear_rows()); }
  Kinds(const Kinds& other) {
    for (const auto& kind : other.all_) all_.push_back(kind->clone());
  }
  Kinds& operator=(const Kinds&) = delete;
  ~Kinds() = default;
  [[nodiscard]] const std::vector<std::unique_ptr<ConstraintKind>>& all() const noexcept {
    return all_;
  }
  /// That of this class; null: there is none yet.
  template <class Kind>
  [[nodiscard]] Kind* find() const {
    for (const auto& kind : all_)
      if (auto* found = dynamic_cast<Kind*>(kind.get())) return found;
    return nullptr;
  }
  template <class Kind>
  Kind& add() {
    all_.push_back(std::make_unique<Kind>());
    return static_cast<Kind&>(*all_.back());
  }

 private:
  std::vector<std::unique_ptr<ConstraintKind>> all_;
};

}  // namespace kiteknot::mip
