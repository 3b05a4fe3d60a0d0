// Tangents at the point, proven over the range that the column has in the problem: they hold in the
// whole tree. For sides that bend one way there; others have their lines from the box of the node.
// Where a binary switches the column the tangent is lifted by it; sums of squares and products that
// are convex together have theirs as one.

#include <cmath>

#include "mip/kinds/nonlinear_parts.hpp"
#include "mip/kinds/nonlinear_quadratics.hpp"
#include "mip/kinds/nonlinear_switches.hpp"

namespace kiteknot::mip {
namespace {

class Tangents final : public Separator {
 public:
  explicit Tangents(const std::vector<NonlinearTerm>& terms) : terms_(terms) {}
  std::string_view name() const override { return "tangents"; }
  bool implied() const override { return true; }
  bool wants(const SeparationContext&) const override { return true; }

  void look(const SeparationContext& where, std::vector<LinearRow>& found) override {
    // While whole columns are at fractions a rough picture will do.
    const double least = where.integral ? 1e-8 : 1e-3;
    const Problem& p = where.domain.problem();
    if (!forms_) forms_ = convex_forms(p, terms_);
    switches_.learn(p, terms_, where.implied);
    const auto square = UnaryFunction::whole_power(2);
    for (const NonlinearTerm& t : terms_)
      if (!t.product() || t.x == t.z) look_at(t, t.f ? *t.f : square, least, where, found);
    LinearRow row;
    for (const ConvexForm& form : *forms_) {
      where.work.add(static_cast<std::int64_t>(10 * form.parts.size()));
      if (tangent_row(form, terms_, p, where.point, least, row)) found.push_back(row);
    }
  }

 private:
  static constexpr double kSteepest = 1e9;

  void look_at(const NonlinearTerm& t, const UnaryFunction& f, double least,
               const SeparationContext& where, std::vector<LinearRow>& found) const {
    where.work.add(20);
    const Problem& p = where.domain.problem();
    const Interval range = intersection({p.lower(t.x), p.upper(t.x)}, f.domain());
    const UnaryFunction::Bend how = f.bend(range);
    if (how == UnaryFunction::Bend::both) return;
    const bool above = how == UnaryFunction::Bend::convex;  // the side that tangents hold
    if (!(above ? t.above : t.below)) return;
    LinearRow row;
    for (const Switch& by : switches_.of(t.x))
      if (!where.domain.fixed(by.binary) &&
          perspective_row(t, f, above, by, where.point, least, row)) {
        found.push_back(std::move(row));
        return;
      }
    const double at_x = where.point[at(t.x)], y = where.point[at(t.value)];
    if (!(t.missed(where.point) > least) || above != (y < f.value(at_x))) return;
    const double slope = f.slope(std::clamp(at_x, range.low, range.high));
    if (!std::isfinite(slope) || std::abs(slope) > kSteepest) return;
    const double height = above ? f.height_below(slope, range) : f.height_above(slope, range);
    if (!std::isfinite(height)) return;
    row = {{{t.value, 1.0}}, above ? height : -kInf, above ? kInf : height, true};
    if (slope != 0.0) row.entries.push_back({t.x, -slope});
    found.push_back(std::move(row));
  }

  const std::vector<NonlinearTerm>& terms_;
  Switches switches_;
  std::optional<std::vector<ConvexForm>> forms_;
};

}  // namespace

std::unique_ptr<Separator> nonlinear_tangents(const std::vector<NonlinearTerm>& terms) {
  return std::make_unique<Tangents>(terms);
}

}  // namespace kiteknot::mip
