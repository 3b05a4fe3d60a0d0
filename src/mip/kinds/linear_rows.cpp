// Linear rows as a kind: L <= a'x <= U. The rows themselves stand in the problem, which presolve,
// cuts and heuristics work on; here is what the register has to know of them.

#include "mip/branching/disjunction.hpp"
#include "mip/conflict/explanation.hpp"
#include "mip/problem/exact_rows.hpp"
#include "mip/problem/problem_mark.hpp"
#include "mip/propagators/rows.hpp"
#include "mip/relaxation/relaxed_kind.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {
namespace {

class LinearRows final : public ConstraintKind {
 public:
  std::unique_ptr<ConstraintKind> clone() const override {
    return std::make_unique<LinearRows>(*this);
  }
  std::string_view name() const override { return "linear rows"; }
  bool any(const Problem& p) const override { return p.num_rows() > 0; }
  std::int64_t num_entries(const Problem& p) const override { return p.rows().num_nonzeros(); }
  Index num_rows(const Problem& p) const override { return p.num_rows(); }
  bool linear() const override { return true; }

  void visit(const Problem& p, const Visitor& visitor) const override {
    for (Index i = 0; i < p.num_rows(); ++i) visitor(p.row(i).index, {});
  }
  void lock(const Problem& p, Locks& locks) const override {
    for (Index i = 0; i < p.num_rows(); ++i) lock_row(p.row(i), p.known_row(i), locks);
  }
  bool said_by_doubles(const Problem& p) const override {
    for (Index i = 0; i < p.num_rows(); ++i)
      if (!p.row_exact(i) || p.known_row(i) != nullptr) return false;
    return true;
  }

  void visit_rows(const Problem& p, const RowVisitor& visitor) const override {
    for (Index i = 0; i < p.num_rows(); ++i) visitor(p.row(i), p.known_row(i));
  }
  bool mark(const Problem& p, Mark& mark) const override {
    for (Index i = 0; i < p.num_rows(); ++i) add_row(mark, p.row(i), p.known_row(i));
    return true;
  }

  bool satisfied(const Problem& p, ExactPoint& point) const override {
    for (Index i = 0; i < p.num_rows(); ++i)
      if (!row_holds(p.row(i), point.columns)) return false;
    return true;
  }
  bool recedes(const Problem& p, std::span<const Rational> direction) const override {
    for (Index i = 0; i < p.num_rows(); ++i) {
      const lp::Exact* known = p.known_row(i);
      if ((!p.row_exact(i) && (known == nullptr || known->values.empty())) ||
          !row_recedes(p.row(i), known, direction))
        return false;
    }
    return true;
  }

  std::unique_ptr<Propagator> propagator(std::uint8_t kind, Domain& domain) const override {
    const Problem& p = domain.problem();
    return std::make_unique<RowPropagator>(
        name(), RowSource{&p.stated().linear, &p.limits().rows, nullptr, Reason::of(kind)}, domain);
  }
  std::unique_ptr<RelaxedKind> relax(const Problem&, Relaxation&) const override {
    return nullptr;  // they are what a relaxation begins with
  }
  std::unique_ptr<Disjunction> disjunction() const override { return nullptr; }
  std::unique_ptr<Separator> separator() const override { return nullptr; }  // cuts are not theirs
  bool explains() const override { return true; }
  bool explain(const Problem& p, Index place, const Change* concluded,
               Explanation& why) const override {
    return (concluded == nullptr || concluded->what != Change::What::condition) &&
           why.needs_row(p.row(place), concluded);
  }

  void carry(const Problem& from, const Image& image, Problem& to) const override {
    for (Index i = 0; i < from.num_rows(); ++i)  // one without columns goes everywhere
      if (const RowView row = from.row(i);
          row.index.empty() || image.column[at(row.index.front())] >= 0)
        (void)to.add_row(carried(row, from.known_row(i), image.column));
  }
};

}  // namespace

std::unique_ptr<ConstraintKind> linear_rows() {
  return std::make_unique<LinearRows>();
}

}  // namespace kiteknot::mip
