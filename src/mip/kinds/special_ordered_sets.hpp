#pragma once
// Special ordered sets: at most `width` neighbouring columns of a list are not 0. Source: Beale and
// Tomlin 1970, "Special facilities in a general mathematical programming system for non-convex
// problems using ordered sets of variables".

#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

struct SpecialOrderedSet {
  std::vector<Index> columns;  ///< in order; each must admit 0
  Index width = 1;             ///< 1: at most one is not 0; 2: at most two neighbours
};

class SpecialOrderedSets final : public ConstraintKind {
 public:
  void add(SpecialOrderedSet set) { sets_.push_back(std::move(set)); }
  [[nodiscard]] const std::vector<SpecialOrderedSet>& sets() const noexcept { return sets_; }

  std::unique_ptr<ConstraintKind> clone() const override;
  std::string_view name() const override { return "ordered sets"; }
  bool any(const Problem&) const override { return !sets_.empty(); }
  std::int64_t num_entries(const Problem& p) const override;
  void visit(const Problem& p, const Visitor& visitor) const override;
  bool satisfied(const Problem& p, ExactPoint& point) const override;
  bool recedes(const Problem& p, std::span<const Rational> direction) const override;
  std::unique_ptr<Propagator> propagator(std::uint8_t kind, Domain& domain) const override;
  std::unique_ptr<RelaxedKind> relax(const Problem& p, Relaxation& relaxation) const override;
  std::unique_ptr<Disjunction> disjunction() const override;
  std::unique_ptr<Separator> separator() const override;
  bool mark(const Problem& p, Mark& mark) const override;
  void carry(const Problem& from, const Image& image, Problem& to) const override;

 private:
  std::vector<SpecialOrderedSet> sets_;
};

void add_special_ordered_set(Problem& problem, SpecialOrderedSet set);
/// Those of a problem; empty where it has none.
[[nodiscard]] std::span<const SpecialOrderedSet> special_ordered_sets(const Problem& problem);

}  // namespace kiteknot::mip
