#pragma once
// From a branch that came to nothing to the bounds that were at fault. Its bounds are replaced by
// those that they follow from, the latest first, until one of the last branching's is left (the
// first unique implication point). What is left cannot hold together in any better plan, wherever
// in the tree. Sources: Marques-Silva and Sakallah 1999, "GRASP: a search algorithm for
// propositional satisfiability"; Achterberg 2007, "Conflict analysis in mixed integer programming".

#include <optional>
#include <queue>

#include "base/work.hpp"
#include "mip/conflict/explain.hpp"
#include "mip/conflict/explanation.hpp"
#include "mip/domain/conflict.hpp"
#include "mip/propagators/learned.hpp"
#include "mip/relaxation/row_pool.hpp"

namespace kiteknot::mip {

class Analysis {
 public:
  /// All of them outlive it.
  Analysis(const Domain& domain, const RowPool& pool, const LearnedPropagator& learned)
      : domain_(domain), pool_(pool), learned_(learned), explainer_(history_) {}

  /// Takes the trail as it stands: steps before `root` hold everywhere; `marks` are its lengths at
  /// the branchings of the way. Nothing is found where symmetries had a say: what they leave out is
  /// not contradictory.
  void begin(TrailPosition root, std::span<const TrailPosition> marks, WorkCounter& work);
  /// The row or conflict that the last propagation ended at.
  std::optional<Conflict> of(const Reason& reason);
  /// The relaxation over the domain has no point, or, with a cutoff, none below it: by the sum of
  /// its rows that says so. Nothing is found where one of them holds below a node only.
  std::optional<Conflict> of(Relaxation& relaxation, const std::optional<Cutoff>& cutoff);

 private:
  class Before;  // an explanation by bounds before a place
  std::optional<Conflict> of_sum(std::span<double> multipliers, const Relaxation& relaxation,
                                 const std::optional<Cutoff>& cutoff);
  std::optional<Conflict> resolve();
  [[nodiscard]] std::size_t level(TrailPosition p) const;
  bool explain(TrailPosition p);
  [[nodiscard]] std::optional<TrailPosition> twin(TrailPosition p) const;
  bool explain_row(const RowView& row, TrailPosition before, const Change* concluded);
  bool explain_constraint(const Reason& reason, TrailPosition before, const Change* concluded);
  bool explain_known(const Change& bound, TrailPosition before);
  void add_decisions(TrailPosition before);
  [[nodiscard]] std::optional<RowView> pool_row(const Reason& reason) const;

  const Domain& domain_;
  const RowPool& pool_;
  const LearnedPropagator& learned_;
  History history_;
  Explainer explainer_;
  std::span<const TrailPosition> marks_;
  std::vector<TrailPosition> decisions_;
  TrailPosition first_orbit_ = kFromTheStart;
  std::vector<TrailPosition> why_;
  std::vector<Term> terms_;
  std::vector<Interval> sums_;
  WorkCounter* work_ = nullptr;
};

}  // namespace kiteknot::mip
