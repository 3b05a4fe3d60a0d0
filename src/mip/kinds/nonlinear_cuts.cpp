// Tangents at the point, proven over the range that the column has in the problem: they hold in the
// whole tree. For sides that bend one way there; others have their lines from the box of the node.

#include <cmath>

#include "mip/kinds/nonlinear_parts.hpp"

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
    const auto square = UnaryFunction::whole_power(2);
    for (const NonlinearTerm& t : terms_) {
      if (t.product() && t.x != t.z) continue;
      where.work.add(20);
      if (!(t.missed(where.point) > least)) continue;
      const UnaryFunction& f = t.f ? *t.f : square;
      const Interval range = intersection({p.lower(t.x), p.upper(t.x)}, f.domain());
      const UnaryFunction::Bend how = f.bend(range);
      const double at_x = where.point[at(t.x)], y = where.point[at(t.value)];
      const bool above = y < f.value(at_x);  // too low
      if (how == UnaryFunction::Bend::both || (how == UnaryFunction::Bend::convex) != above)
        continue;
      const double slope = f.slope(std::clamp(at_x, range.low, range.high));
      if (!std::isfinite(slope) || std::abs(slope) > kSteepest) continue;
      const double height = above ? f.height_below(slope, range) : f.height_above(slope, range);
      if (!std::isfinite(height)) continue;
      LinearRow row{{{t.value, 1.0}}, above ? height : -kInf, above ? kInf : height};
      if (slope != 0.0) row.entries.push_back({t.x, -slope});
      found.push_back(std::move(row));
    }
  }

 private:
  static constexpr double kSteepest = 1e9;
  const std::vector<NonlinearTerm>& terms_;
};

}  // namespace

std::unique_ptr<Separator> nonlinear_tangents(const std::vector<NonlinearTerm>& terms) {
  return std::make_unique<Tangents>(terms);
}

}  // namespace kiteknot::mip
