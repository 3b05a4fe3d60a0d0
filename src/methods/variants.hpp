#pragma once
// Variants of one model that differ in limits of rows only, looked at together.

#include <functional>
#include <optional>

#include "kiteknot/result.hpp"
#include "methods/memory.hpp"
#include "mip/variants/shared_root.hpp"

namespace kiteknot::methods {

/// What is told of a variant.
struct Answer {
  Outcome outcome = Outcome::undecided;
  std::optional<Rational> goal;  ///< the first one; none of an endless one
  std::vector<Rational> later;   ///< the goals after it
  std::optional<double> bound;
  std::optional<Plan> plan;
  double seconds = 0.0;
  std::string reason;
};
Answer answer_of(const Result& result);

/// A plan under a variant, checked as stated.
struct Held {
  bool feasible = false;
  std::optional<Rational> goal;
};
using VariantJudge = std::function<Held(std::size_t variant, const Plan&)>;

/// One proven answer for each of the changes against the lowering of the model, in order; empty
/// where it has to be asked alone: the problem is more than linear rows over whole decisions, an
/// answer short of the proof will do (options.gap, options.nodes), or the root did not settle it.
/// Seconds are told in equal parts.
std::vector<std::optional<Answer>> solve_variants(const Model& model, const Lowering& lowering,
                                                  const std::vector<mip::LimitChanges>& changes,
                                                  const VariantJudge& judge,
                                                  const SolveOptions& options, Memory& memory);

}  // namespace kiteknot::methods
