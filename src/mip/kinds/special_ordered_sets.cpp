#include "mip/kinds/special_ordered_sets.hpp"

#include <algorithm>
#include <cmath>

#include "base/check.hpp"
#include "base/tolerances.hpp"
#include "mip/branching/disjunction.hpp"
#include "mip/problem/problem_mark.hpp"
#include "mip/propagators/waking.hpp"
#include "mip/relaxation/relaxed_kind.hpp"
#include "mip/separators/separator.hpp"

namespace kiteknot::mip {
namespace {

// The first and last place of a set that are not 0; -1: there is none.
struct Nonzeros {
  Index first = -1, last = -1;
  [[nodiscard]] bool fit(const SpecialOrderedSet& set) const {
    return first < 0 || last - first + 1 <= set.width;
  }
};
template <class IsZero>
Nonzeros nonzeros(const SpecialOrderedSet& set, const IsZero& is_zero) {
  Nonzeros found;
  for (std::size_t k = 0; k < set.columns.size(); ++k) {
    if (is_zero(set.columns[k])) continue;
    if (found.first < 0) found.first = static_cast<Index>(k);
    found.last = static_cast<Index>(k);
  }
  return found;
}

// Columns that cannot be 0 leave room for `width` places around them; all others become 0.
class SetPropagator final : public WakingPropagator {
 public:
  SetPropagator(const std::vector<SpecialOrderedSet>& sets, std::uint8_t kind, Domain& domain)
      : WakingPropagator(kind, sets.size(), domain), sets_(sets) {
    for (std::size_t s = 0; s < sets.size(); ++s)
      for (const Index j : sets[s].columns) listen(static_cast<Index>(s), j);
  }
  std::string_view name() const override { return "ordered sets"; }

 private:
  std::int64_t work_of(Index s) const override {
    return static_cast<std::int64_t>(sets_[at(s)].columns.size());
  }
  bool look_at(Index s, Domain& domain) override {
    const SpecialOrderedSet& set = sets_[at(s)];
    const Nonzeros there =
        nonzeros(set, [&](Index j) { return domain.lower(j) <= 0.0 && domain.upper(j) >= 0.0; });
    if (there.first < 0) return true;
    if (!there.fit(set)) return false;
    for (Index k = 0; k < static_cast<Index>(set.columns.size()); ++k) {
      if (k > there.last - set.width && k < there.first + set.width) continue;
      const Index j = set.columns[at(k)];
      if (!domain.raise_lower(j, 0.0) || !domain.drop_upper(j, 0.0)) return false;
    }
    return true;
  }

  const std::vector<SpecialOrderedSet>& sets_;
};

// The list is split near the centre of weight; everything left of the split is 0, or everything
// right of it (by width - 1 places further).
class BrokenSets final : public Disjunction {
 public:
  explicit BrokenSets(const std::vector<SpecialOrderedSet>& sets) : sets_(sets) {}
  bool met(const Domain& domain, std::span<const double> point) const override {
    (void)domain;
    return std::all_of(sets_.begin(), sets_.end(),
                       [&](const SpecialOrderedSet& set) { return there(set, point).fit(set); });
  }
  bool split(const Domain& domain, std::span<const double> point, Branching& out) const override {
    for (const SpecialOrderedSet& set : sets_) {
      const Nonzeros found = there(set, point);
      if (found.fit(set)) continue;
      double weight = 0.0, centre = 0.0;
      for (Index k = found.first; k <= found.last; ++k) {
        const double x = std::abs(point[at(set.columns[at(k)])]);
        if (is_zero(x)) continue;
        weight += x;
        centre += x * k;
      }
      // The left child keeps 0 .. place + width - 1, the right one place + 1 .. ; both cut the
      // point off.
      const Index place =
          std::clamp(static_cast<Index>(centre / weight), found.first, found.last - set.width);
      std::vector<Change> left, right;
      for (Index k = 0; k < static_cast<Index>(set.columns.size()); ++k) {
        const Index j = set.columns[at(k)];
        std::vector<Change>* part =
            k >= place + set.width ? &left : (k <= place ? &right : nullptr);
        if (part == nullptr) continue;
        if (domain.lower(j) < 0.0) part->push_back({Change::What::lower, j, 0.0});
        if (domain.upper(j) > 0.0) part->push_back({Change::What::upper, j, 0.0});
      }
      out.children = {std::move(left), std::move(right)};
      return true;
    }
    return false;
  }

 private:
  static bool is_zero(double x) { return std::abs(x) <= Tolerances{}.integrality; }
  static Nonzeros there(const SpecialOrderedSet& set, std::span<const double> point) {
    return nonzeros(set, [&](Index j) { return is_zero(point[at(j)]); });
  }
  const std::vector<SpecialOrderedSet>& sets_;
};

}  // namespace

std::unique_ptr<ConstraintKind> SpecialOrderedSets::clone() const {
  return std::make_unique<SpecialOrderedSets>(*this);
}

std::int64_t SpecialOrderedSets::num_entries(const Problem& p) const {
  (void)p;
  std::int64_t count = 0;
  for (const SpecialOrderedSet& set : sets_) count += static_cast<std::int64_t>(set.columns.size());
  return count;
}

void SpecialOrderedSets::visit(const Problem& p, const Visitor& visitor) const {
  (void)p;
  for (const SpecialOrderedSet& set : sets_) visitor(set.columns, {});
}

bool SpecialOrderedSets::satisfied(const Problem& p, ExactPoint& point) const {
  (void)p;
  return std::all_of(sets_.begin(), sets_.end(), [&](const SpecialOrderedSet& set) {
    return nonzeros(set, [&](Index j) { return point.columns[at(j)].is_zero(); }).fit(set);
  });
}

bool SpecialOrderedSets::recedes(const Problem& p, std::span<const Rational> direction) const {
  (void)p;
  for (const SpecialOrderedSet& set : sets_)
    for (const Index j : set.columns)
      if (!direction[at(j)].is_zero()) return false;
  return true;
}

std::unique_ptr<Propagator> SpecialOrderedSets::propagator(std::uint8_t kind,
                                                           Domain& domain) const {
  return std::make_unique<SetPropagator>(sets_, kind, domain);
}

std::unique_ptr<RelaxedKind> SpecialOrderedSets::relax(const Problem&, Relaxation&) const {
  return nullptr;
}

std::unique_ptr<Separator> SpecialOrderedSets::separator() const {
  return nullptr;
}

std::unique_ptr<Disjunction> SpecialOrderedSets::disjunction() const {
  return std::make_unique<BrokenSets>(sets_);
}

void SpecialOrderedSets::carry(const Problem& from, const Image& image, Problem& to) const {
  (void)from;
  for (SpecialOrderedSet set : sets_) {
    if (set.columns.empty() || image.column[at(set.columns.front())] < 0) continue;
    for (Index& j : set.columns) j = image.column[at(j)];
    add_special_ordered_set(to, std::move(set));
  }
}

void add_special_ordered_set(Problem& problem, SpecialOrderedSet set) {
  KITEKNOT_CHECK(set.width >= 1, "an ordered set lets at least one column be nonzero");
  problem.own<SpecialOrderedSets>().add(std::move(set));
}

std::span<const SpecialOrderedSet> special_ordered_sets(const Problem& problem) {
  const auto* kind = problem.kinds().find<SpecialOrderedSets>();
  if (kind == nullptr) return {};
  return kind->sets();
}

bool SpecialOrderedSets::mark(const Problem&, Mark& mark) const {
  for (const SpecialOrderedSet& set : sets_) {
    mark.add(std::span<const Index>(set.columns));
    mark.add(set.width);
  }
  return true;
}

}  // namespace kiteknot::mip
