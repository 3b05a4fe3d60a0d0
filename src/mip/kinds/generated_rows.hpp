#pragma once
// Generated rows: whatever a generator adds when it looks at a point. What the problem asks is not
// all stated, so that presolve keeps all plans, and parts are not searched alone.

#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

class GeneratedRows final : public ConstraintKind {
 public:
  [[nodiscard]] const std::shared_ptr<RowGenerator>& generator() const noexcept {
    return generator_;
  }
  void set(std::shared_ptr<RowGenerator> generator) { generator_ = std::move(generator); }

  std::unique_ptr<ConstraintKind> clone() const override;
  std::string_view name() const override { return "generated rows"; }
  bool any(const Problem&) const override { return generator_ != nullptr; }
  std::int64_t num_entries(const Problem&) const override { return 0; }
  bool complete() const override { return false; }
  void visit(const Problem&, const Visitor&) const override {}
  bool satisfied(const Problem&, ExactPoint&) const override { return true; }  // for all it knows
  std::unique_ptr<Propagator> propagator(std::uint8_t kind, Domain& domain) const override;
  std::unique_ptr<RelaxedKind> relax(const Problem& p, Relaxation& relaxation) const override;
  std::unique_ptr<Disjunction> disjunction() const override;
  std::unique_ptr<Separator> separator() const override;
  bool mark(const Problem&, Mark& mark) const override { return generator_->mark(mark); }
  void carry(const Problem&, const Image&, Problem&) const override {}
  void carry_through(std::shared_ptr<const PostsolveStack> postsolve, Problem& to) const override;

 private:
  std::shared_ptr<RowGenerator> generator_;
};

/// In place of any other that it had.
void set_generator(Problem& problem, std::shared_ptr<RowGenerator> generator);
/// Null: it has none.
[[nodiscard]] std::shared_ptr<RowGenerator> generator_of(const Problem& problem);

}  // namespace kiteknot::mip
