#pragma once
// The four kinds of constraints; see constraint.hpp for what each function promises.

#include "mip/constraint.hpp"
#include "mip/row_propagation.hpp"

namespace kiteknot::mip {

/// How far a row's value lies outside its limits beyond the engine's tolerance; 0 where it is met.
double row_violation(const RowView& row, std::span<const double> point);

class LinearRows final : public ConstraintKind {
 public:
  explicit LinearRows(const Problem& problem);
  bool check(const Domain&, std::span<const double> point) const override;
  bool propagate(Domain&, std::span<const Index> touched, WorkCounter&) override;
  void start(Relaxation& relaxation) override;

 private:
  [[nodiscard]] RowView view(Index i) const;
  const Problem* problem_;
  std::vector<char> marked_;
  bool looked_at_empty_rows_ = false;
};

/// Rows that hold when a literal is true. In the relaxation each stands with free limits until it
/// is; where the row's range is finite at the root and a column stands for the condition, a linear
/// row with the bound computed from that range is added as well.
class ConditionalRows final : public ConstraintKind {
 public:
  explicit ConditionalRows(const Problem& problem) : problem_(&problem) {}
  bool check(const Domain&, std::span<const double> point) const override;
  bool propagate(Domain&, std::span<const Index> touched, WorkCounter&) override;
  bool branch(const Domain&, std::span<const double> point, Branching&) const override;
  void start(Relaxation& relaxation) override;
  void enter(Relaxation& relaxation, const Domain&) override;

 private:
  void add_linked_rows(Relaxation& relaxation, const ConditionalRow& conditional,
                       const Domain& root);
  const Problem* problem_;
  std::vector<Index> relaxed_row_;
};

class OrderedSets final : public ConstraintKind {
 public:
  explicit OrderedSets(const Problem& problem) : problem_(&problem) {}
  bool check(const Domain&, std::span<const double> point) const override;
  bool propagate(Domain&, std::span<const Index> touched, WorkCounter&) override;
  bool branch(const Domain&, std::span<const double> point, Branching&) const override;

 private:
  const Problem* problem_;
};

/// Rows found while searching. They hold for every plan, stay in the relaxation and are propagated.
class GeneratedRows final : public ConstraintKind {
 public:
  explicit GeneratedRows(const Problem& problem) : problem_(&problem) {}
  bool check(const Domain&, std::span<const double> point) const override;
  bool propagate(Domain&, std::span<const Index> touched, WorkCounter&) override;
  Index separate(Relaxation& relaxation, std::span<const double> point, bool integral) override;

 private:
  const Problem* problem_;
  struct Stored {
    std::vector<Index> index;
    std::vector<double> value;
    double lower = 0.0, upper = 0.0;
    bool exact = true;
  };
  [[nodiscard]] static RowView view(const Stored& row);
  std::vector<Stored> rows_;
};

}  // namespace kiteknot::mip
