#pragma once
// Nonlinear terms: a column that is held above, below or at a function of one other column, or at a
// product of two. Whatever is built of these has a column for each step (McCormick 1976; Smith and
// Pantelides 1999, "A symbolic reformulation/spatial branch-and-bound algorithm for the global
// optimisation of nonconvex MINLPs"), so that a step shared by two terms is there once.
//
//   propagation   forward and backward through each term (nonlinear_propagator.cpp)
//   relaxation    lines and McCormick's planes over the node's box (nonlinear_relaxation.cpp),
//                 tangents where a point breaks a side that bends the right way
//                 (nonlinear_cuts.cpp)
//   branching     on the column whose terms a point breaks most (nonlinear_branching.cpp)

#include <unordered_map>

#include "mip/nonlinear/function.hpp"
#include "mip/nonlinear/smooth.hpp"
#include "mip/problem/problem.hpp"

namespace kiteknot::mip {

struct NonlinearTerm {
  Index value = -1;      ///< this column ...
  Index x = -1, z = -1;  ///< ... and f(x), or x z where f is none
  std::optional<UnaryFunction> f{};
  bool above = true, below = true;  ///< value >= term, value <= term

  [[nodiscard]] bool product() const noexcept { return !f.has_value(); }
  /// Nearly.
  [[nodiscard]] double at_point(std::span<const double> point) const {
    return f ? f->value(point[at(x)]) : point[at(x)] * point[at(z)];
  }
  /// For certain.
  [[nodiscard]] Interval over(const Interval& of_x, const Interval& of_z) const {
    return f ? f->values(of_x) : of_x * of_z;
  }
  /// What the point breaks it by, relative to 1 + its size; 0 where it holds.
  [[nodiscard]] double missed(std::span<const double> point) const;
};

/// A column that is a sum of others: what a term is of. Rows say it; points are completed by it.
struct LinearStep {
  Index value = -1;
  std::vector<Entry> entries;
  double constant = 0.0;
};

class NonlinearTerms final : public ConstraintKind, private SmoothRows {
 public:
  void add(const NonlinearTerm& term);
  void add(LinearStep step) { steps_.push_back({size(), std::move(step)}); }
  [[nodiscard]] const std::vector<NonlinearTerm>& terms() const noexcept { return terms_; }

  std::unique_ptr<ConstraintKind> clone() const override;
  std::string_view name() const override { return "nonlinear terms"; }
  bool any(const Problem&) const override { return !terms_.empty(); }
  std::int64_t num_entries(const Problem& p) const override;
  void visit(const Problem& p, const Visitor& visitor) const override;
  void lock(const Problem& p, Locks& locks) const override;
  bool said_by_doubles(const Problem&) const override { return false; }
  bool exact() const override { return false; }
  void add_ranged(const Problem& p, std::vector<Index>& columns) const override;
  void add_sides(const Problem& p, std::vector<Index>& one,
                 std::vector<Index>& other) const override;
  const SmoothRows* smooth() const override { return this; }
  bool satisfied(const Problem& p, ExactPoint& point) const override;
  std::unique_ptr<Propagator> propagator(std::uint8_t kind, Domain& domain) const override;
  std::unique_ptr<RelaxedKind> relax(const Problem& p, Relaxation& relaxation) const override;
  std::unique_ptr<Disjunction> disjunction() const override;
  std::unique_ptr<Separator> separator() const override;
  bool mark(const Problem& p, Mark& mark) const override;
  void carry(const Problem& from, const Image& image, Problem& to) const override;

 private:
  Index size() const override { return static_cast<Index>(terms_.size()); }
  std::span<const Index> columns(Index k) const override;
  Interval limits(Index k) const override;
  double value(Index k, std::span<const double> point, std::span<double> gradient) const override;
  void curvature(Index k, std::span<const double> point, double scale,
                 std::span<double> square) const override;
  Interval leaves(Index k, std::span<const double> lower,
                  std::span<const double> upper) const override;
  void fill_in(std::span<double> point) const override;

  std::vector<NonlinearTerm> terms_;              // each after those that its columns are values of
  std::unordered_map<Index, std::size_t> place_;  // among them, by the column of the value
  std::vector<std::array<Index, 3>> columns_of_;  // value, x, z
  std::vector<std::pair<Index, LinearStep>> steps_;  // each before the term with this number
};

/// What a plan may miss a term by, relative to 1 + its size: what plans may as they are stated.
inline constexpr double kTermTolerance = 1e-9;

/// States a term. Terms come after those whose value they take.
void add_nonlinear_term(Problem& problem, const NonlinearTerm& term);
void add_linear_step(Problem& problem, LinearStep step);
/// Those of a problem; empty where it has none.
[[nodiscard]] std::span<const NonlinearTerm> nonlinear_terms(const Problem& problem);

}  // namespace kiteknot::mip
