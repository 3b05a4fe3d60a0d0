// Lines and planes over the node's box. Of a function: value - s x on the right side of what
// UnaryFunction proves for the slope s. Of a product, with every point of the box in x and z:
//   value >= xl z + zl x - xl zl,  value >= xu z + zu x - xu zu
//   value <= xu z + zl x - xu zl,  value <= xl z + zu x - xl zu     (McCormick 1976)
// whose coefficients are the bounds themselves and whose constants are rounded outward. Of products
// of more factors there are facets of the envelope beside these, chosen where the relaxation's
// point lies (nonlinear_multilinear.hpp); in another box they keep their slopes and get new
// heights.

#include <array>
#include <cmath>
#include <numeric>

#include "mip/kinds/nonlinear_multilinear.hpp"
#include "mip/kinds/nonlinear_parts.hpp"
#include "mip/relaxation/relaxation.hpp"

namespace kiteknot::mip {
namespace {

struct Plane {
  double of_x = 0.0, of_z = 0.0;  // value - of_x x - of_z z
  double limit = 0.0;             // is at least (above) or at most this
};

std::vector<Plane> planes(const NonlinearTerm& t, const Interval& x, const Interval& z,
                          bool above) {
  std::vector<Plane> out;
  const auto square = UnaryFunction::whole_power(2);
  if (t.f || t.x == t.z) {
    const UnaryFunction& f = t.f ? *t.f : square;
    // A line below the function holds the value up.
    for (const double s : f.good_slopes(x, !above)) {
      const double height = above ? f.height_below(s, x) : f.height_above(s, x);
      if (std::isfinite(height)) out.push_back({s, 0.0, height});
    }
    return out;
  }
  const auto add = [&](double x_end, double z_end) {
    if (!std::isfinite(x_end) || !std::isfinite(z_end)) return;
    out.push_back({z_end, x_end, above ? -product_up(x_end, z_end) : -product_down(x_end, z_end)});
  };
  add(x.low, above ? z.low : z.high);
  add(x.high, above ? z.high : z.low);
  return out;
}

class RelaxedTerms final : public RelaxedKind {
 public:
  RelaxedTerms(const std::vector<NonlinearTerm>& terms, const Problem& problem,
               Relaxation& relaxation)
      : terms_(terms), seen_(terms.size()) {
    for (const NonlinearTerm& t : terms) {
      slots_.push_back({slots(t, problem, true), slots(t, problem, false)});
      first_.push_back(static_cast<Index>(rows_.size()));
      for (int k = 0; k < slots_.back()[0] + slots_.back()[1]; ++k) {
        const Index index[] = {t.value};
        const double one[] = {1.0};
        rows_.push_back(relaxation.add({index, one, -kInf, kInf, true}));
      }
    }
    for (Multilinear& m : multilinear(terms))
      for (const bool above : {true, false}) {
        if (!(above ? m.above : m.below)) continue;
        for (int k = 0; k < kFacets; ++k) {
          const Index index[] = {m.value};
          const double one[] = {1.0};
          rows_.push_back(relaxation.add({index, one, -kInf, kInf, true}));
          facets_.push_back({m, above, rows_.back(), {}, {}});
        }
      }
    tighten(Domain(problem), relaxation);
  }

  void follow(Index, const Domain&, Relaxation&) const override {}
  void tighten(const Domain& domain, Relaxation& relaxation) override {
    for (std::size_t k = 0; k < terms_.size(); ++k) {
      const NonlinearTerm& t = terms_[k];
      const Interval x{domain.lower(t.x), domain.upper(t.x)};
      const Interval z =
          t.product() ? Interval{domain.lower(t.z), domain.upper(t.z)} : Interval{0.0, 0.0};
      Seen& seen = seen_[k];
      if (seen.any && same(seen.x, x) && same(seen.z, z)) continue;
      seen = {x, z, true};
      std::size_t row = at(first_[k]);
      for (const bool above : {true, false}) {
        if (!(above ? t.above : t.below)) continue;
        const std::vector<Plane> all = planes(t, x, z, above);
        for (int s = 0; s < slots_[k][above ? 0 : 1]; ++s, ++row)
          state(rows_[row], t, at(s) < all.size() ? &all[at(s)] : nullptr, above, relaxation);
      }
    }
    for (Facet& f : facets_) {
      if (f.slopes.empty()) continue;
      std::vector<Interval> box = box_of(f.of, domain);
      if (std::ranges::equal(box, f.box, same)) continue;
      f.box = std::move(box);
      state(f, relaxation);
    }
  }
  // Where the point lies off the envelope of a product of many: the facet there takes the place of
  // the one that is slackest at the point.
  bool sharpen(const Domain& domain, Relaxation& relaxation) override {
    constexpr double kLeast = 1e-4;  // relative to the value
    const std::vector<double> point(relaxation.point().begin(), relaxation.point().end());
    bool any = false;
    for (std::size_t first = 0; first < facets_.size(); first += at(kFacets)) {
      const Multilinear& m = facets_[first].of;
      const bool above = facets_[first].above;
      double product = 1.0;
      for (const Index j : m.factors) product *= point[at(j)];
      const double y = point[at(m.value)], enough = kLeast * (1.0 + std::abs(y));
      if (!(above ? product - y > enough : y - product > enough)) continue;
      std::vector<Interval> box = box_of(m, domain);
      std::vector<double> here;
      for (const Index j : m.factors) here.push_back(point[at(j)]);
      std::vector<double> slopes = facet_slopes(box, here, above);
      if (slopes.empty()) continue;
      const double height = facet_height(slopes, box, above);
      const double facet =
          height + std::inner_product(slopes.begin(), slopes.end(), here.begin(), 0.0);
      if (!(above ? facet - y > enough : y - facet > enough)) continue;
      Facet* slackest = nullptr;
      double slack = -kInf;
      for (std::size_t k = first; k < first + at(kFacets); ++k) {
        Facet& f = facets_[k];
        const double room =
            f.slopes.empty()
                ? kInf
                : std::abs(y - f.height -
                           std::inner_product(f.slopes.begin(), f.slopes.end(), here.begin(), 0.0));
        if (room > slack) slackest = &f, slack = room;
      }
      slackest->slopes = std::move(slopes);
      slackest->box = std::move(box);
      state(*slackest, relaxation);
      any = true;
    }
    return any;
  }
  // None of them says all that is stated.
  std::span<const Index> stated_rows() const override { return {}; }
  // They hold for the node's box, and nobody knows which bounds of it are at fault.
  bool explain_sum(std::span<const double> multipliers, Explanation&) const override {
    return std::all_of(rows_.begin(), rows_.end(),
                       [&](Index i) { return multipliers[at(i)] == 0.0; });
  }

 private:
  struct Seen {
    Interval x, z;
    bool any = false;
  };
  struct Facet {
    Multilinear of;
    bool above = true;
    Index row = -1;
    std::vector<double> slopes;  // empty: not in use
    std::vector<Interval> box;   // that it is stated for
    double height = 0.0;
  };
  static constexpr int kFacets = 3;  // of a side of a product
  static bool same(const Interval& a, const Interval& b) {
    return a.low == b.low && a.high == b.high;
  }
  static std::vector<Interval> box_of(const Multilinear& m, const Domain& domain) {
    std::vector<Interval> box;
    for (const Index j : m.factors) box.push_back({domain.lower(j), domain.upper(j)});
    return box;
  }
  static void state(Facet& f, Relaxation& relaxation) {
    f.height = facet_height(f.slopes, f.box, f.above);
    if (!std::isfinite(f.height)) {
      f.slopes.clear();
      return relaxation.set_limits(f.row, -kInf, kInf);
    }
    std::vector<Index> index{f.of.value};
    std::vector<double> value{1.0};
    for (std::size_t k = 0; k < f.slopes.size(); ++k)
      if (f.slopes[k] != 0.0) {
        index.push_back(f.of.factors[k]);
        value.push_back(-f.slopes[k]);
      }
    relaxation.set_row(f.row,
                       {index, value, f.above ? f.height : -kInf, f.above ? kInf : f.height, true});
  }
  // A chord is one line; tangents are three, the one alongside the chord first; two planes.
  static int slots(const NonlinearTerm& t, const Problem& p, bool above) {
    if (!(above ? t.above : t.below)) return 0;
    if (t.product() && t.x != t.z) return 2;
    const UnaryFunction f = t.f ? *t.f : UnaryFunction::whole_power(2);
    const auto bend = f.bend(intersection({p.lower(t.x), p.upper(t.x)}, f.domain()));
    return bend != UnaryFunction::Bend::both && (bend == UnaryFunction::Bend::convex) != above ? 1
                                                                                               : 3;
  }

  static void state(Index row, const NonlinearTerm& t, const Plane* plane, bool above,
                    Relaxation& relaxation) {
    if (plane == nullptr) return relaxation.set_limits(row, -kInf, kInf);
    std::vector<Index> index{t.value, t.x};
    std::vector<double> value{1.0, -plane->of_x};
    if (t.product() && t.z != t.x) {
      index.push_back(t.z);
      value.push_back(-plane->of_z);
    }
    relaxation.set_row(
        row, {index, value, above ? plane->limit : -kInf, above ? kInf : plane->limit, true});
  }

  const std::vector<NonlinearTerm>& terms_;
  std::vector<Index> rows_, first_;        // of the relaxation; by terms
  std::vector<std::array<int, 2>> slots_;  // of a term: above, below
  std::vector<Seen> seen_;                 // the box that the rows of a term are for
  std::vector<Facet> facets_;              // kFacets for each side of a product of many
};

}  // namespace

std::unique_ptr<RelaxedKind> nonlinear_relaxation(const std::vector<NonlinearTerm>& terms,
                                                  const Problem& problem, Relaxation& relaxation) {
  return std::make_unique<RelaxedTerms>(terms, problem, relaxation);
}

}  // namespace kiteknot::mip
