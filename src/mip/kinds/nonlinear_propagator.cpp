// Forward: the term over its columns' ranges bounds the value. Backward: what the value leaves of
// the term is taken back to the columns. All of it rounded outward.

#include <cmath>

#include "mip/kinds/nonlinear_parts.hpp"
#include "mip/propagators/waking.hpp"

namespace kiteknot::mip {
namespace {

class TermPropagator final : public WakingPropagator {
 public:
  TermPropagator(const std::vector<NonlinearTerm>& terms, std::uint8_t kind, Domain& domain)
      : WakingPropagator(kind, terms.size(), domain), terms_(terms) {
    for (Index k = 0; k < static_cast<Index>(terms.size()); ++k) {
      const NonlinearTerm& t = terms[at(k)];
      for (const Index j : {t.value, t.x, t.z})
        if (j >= 0) listen(k, j);
    }
  }
  std::string_view name() const override { return "nonlinear terms"; }

 private:
  // Of a real column's range; less is not worth another round.
  static constexpr double kLeastGain = 1e-3;

  std::int64_t work_of(Index) const override { return 20; }

  static Interval range(const Domain& d, Index j) { return {d.lower(j), d.upper(j)}; }

  // False where nothing is left. Small gains over real columns are let go: they could go on for
  // long.
  static bool narrow(Domain& d, Index j, const Interval& to) {
    if (std::isnan(to.low) || std::isnan(to.high)) return true;  // nothing was found out
    const Interval now = range(d, j);
    if (is_empty(intersection(now, to))) return false;
    const double width = now.high - now.low;
    const double least = d.problem().integer(j) || !std::isfinite(width) ? 0.0 : kLeastGain * width;
    if (to.low > now.low && to.low - now.low > least && !d.raise_lower(j, to.low)) return false;
    return !(to.high < now.high && now.high - to.high > least) || d.drop_upper(j, to.high);
  }

  bool look_at(Index k, Domain& d) override {
    const NonlinearTerm& t = terms_[at(k)];
    const Interval x = range(d, t.x), z = t.product() ? range(d, t.z) : Interval{};
    const Interval term = t.over(x, z);
    if (term.low > term.high) return false;  // outside what the function is stated for
    if (!narrow(d, t.value, {t.above ? term.low : -kInf, t.below ? term.high : kInf})) return false;
    const Interval y = range(d, t.value);
    const Interval left{t.below ? y.low : -kInf, t.above ? y.high : kInf};
    if (t.f) return narrow(d, t.x, t.f->preimage(left, x));
    if (t.x == t.z) return narrow(d, t.x, UnaryFunction::whole_power(2).preimage(left, x));
    return narrow(d, t.x, divided(left, z)) && narrow(d, t.z, divided(left, range(d, t.x)));
  }

  const std::vector<NonlinearTerm>& terms_;
};

}  // namespace

std::unique_ptr<Propagator> nonlinear_propagator(const std::vector<NonlinearTerm>& terms,
                                                 std::uint8_t kind, Domain& domain) {
  return std::make_unique<TermPropagator>(terms, kind, domain);
}

}  // namespace kiteknot::mip
