#pragma once
// Machines: tasks no two of which are done at the same time, as rows and choices of the problem say
// in pairs. They ask for nothing that is not stated, and say it together: propagation by edge
// finding and by what is known to come before, and where to divide. Found anew in every problem
// that is searched (structures/precedences.hpp), so that presolve need not know of them; what was
// found stays true where limits get tighter, as in parts of the problem.

#include "mip/structures/precedences.hpp"

namespace kiteknot::mip {

class Machines final : public ConstraintKind {
 public:
  void set(Precedences found) { found_ = std::make_shared<const Precedences>(std::move(found)); }

  std::unique_ptr<ConstraintKind> clone() const override {
    return std::make_unique<Machines>(*this);
  }
  std::string_view name() const override { return "machines"; }
  bool any(const Problem&) const override { return precedences() != nullptr; }
  std::int64_t num_entries(const Problem& p) const override;
  const Precedences* precedences() const override {
    return found_ && !found_->machines.empty() ? found_.get() : nullptr;
  }
  bool linear() const override { return true; }  // rows say all of it
  void visit(const Problem&, const Visitor&) const override {}
  bool satisfied(const Problem&, ExactPoint&) const override { return true; }
  bool recedes(const Problem&, std::span<const Rational>) const override { return true; }
  std::unique_ptr<Propagator> propagator(std::uint8_t kind, Domain& domain) const override;
  bool explains() const override { return true; }
  bool explain(const Problem& p, Index place, const Change* concluded,
               Explanation& why) const override;
  std::unique_ptr<RelaxedKind> relax(const Problem&, Relaxation&) const override;
  std::unique_ptr<Disjunction> disjunction() const override;
  std::unique_ptr<DomainRule> domain_rule() const override;
  std::unique_ptr<Separator> separator() const override;
  bool mark(const Problem&, Mark&) const override { return true; }  // rows say all of it
  void carry(const Problem&, const Image&, Problem&) const override {}

 private:
  std::shared_ptr<const Precedences> found_;
};

/// Registers those that the problem has; those of an earlier look are forgotten.
void add_machines(Problem& problem, WorkCounter& work);

}  // namespace kiteknot::mip
