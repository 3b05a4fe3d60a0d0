#include "mip/kinds/generated_rows.hpp"

#include "mip/branching/disjunction.hpp"
#include "mip/presolve/reduced_generator.hpp"
#include "mip/propagators/propagator.hpp"
#include "mip/relaxation/relaxed_kind.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {
namespace {

class AskedRows final : public Separator {
 public:
  explicit AskedRows(RowGenerator& generator) : generator_(generator) {}
  std::string_view name() const override { return "generated rows"; }
  bool wants(const SeparationContext& where) const override {
    return where.integral || generator_.wants_fractions();
  }
  void look(const SeparationContext& where, std::vector<LinearRow>& found) override {
    found = generator_.look(where.point, where.integral);
  }

 private:
  RowGenerator& generator_;
};

}  // namespace

std::unique_ptr<ConstraintKind> GeneratedRows::clone() const {
  return std::make_unique<GeneratedRows>(*this);
}

// Rows that were found are the pool's: it has a propagator for them.
std::unique_ptr<Propagator> GeneratedRows::propagator(std::uint8_t, Domain&) const {
  return nullptr;
}

std::unique_ptr<RelaxedKind> GeneratedRows::relax(const Problem&, Relaxation&) const {
  return nullptr;
}

std::unique_ptr<Disjunction> GeneratedRows::disjunction() const {
  return nullptr;
}

std::unique_ptr<Separator> GeneratedRows::separator() const {
  return std::make_unique<AskedRows>(*generator_);
}

void GeneratedRows::carry_through(std::shared_ptr<const PostsolveStack> postsolve,
                                  Problem& to) const {
  set_generator(to, std::make_shared<ReducedGenerator>(generator_, std::move(postsolve)));
}

void set_generator(Problem& problem, std::shared_ptr<RowGenerator> generator) {
  problem.own<GeneratedRows>().set(std::move(generator));
}

std::shared_ptr<RowGenerator> generator_of(const Problem& problem) {
  const auto* kind = problem.kinds().find<GeneratedRows>();
  return kind == nullptr ? nullptr : kind->generator();
}

}  // namespace kiteknot::mip
