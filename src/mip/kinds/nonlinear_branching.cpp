// The column is the one whose terms a point breaks most. It is split at the point, drawn towards
// the middle of its range so that both parts get smaller for certain.

#include <cmath>

#include "mip/kinds/nonlinear_parts.hpp"

namespace kiteknot::mip {
namespace {

class BrokenTerms final : public Disjunction {
 public:
  explicit BrokenTerms(const std::vector<NonlinearTerm>& terms) : terms_(terms) {}

  bool met(const Domain& domain, std::span<const double> point) const override {
    (void)domain;
    constexpr double kEnough = 1e-9;
    for (const NonlinearTerm& t : terms_)
      if (t.missed(point) > kEnough) return false;
    return true;
  }

  // Where no term is broken the widest range in a term: the point was not good enough for a plan.
  bool split(const Domain& domain, std::span<const double> point, Branching& out) const override {
    std::vector<double> score(point.size(), 0.0);
    for (const NonlinearTerm& t : terms_) {
      const double by = std::min(t.missed(point), 1e12);
      if (by <= 0.0) continue;
      score[at(t.x)] += by * width(domain, t.x);
      if (t.product() && t.z != t.x) score[at(t.z)] += by * width(domain, t.z);
    }
    Index column = best(domain, score);
    if (column < 0) {
      for (const NonlinearTerm& t : terms_)
        for (const Index j : {t.x, t.z})
          if (j >= 0) score[at(j)] = width(domain, j);
      column = best(domain, score);
    }
    return column >= 0 && split_at(domain, column, point[at(column)], out);
  }

 private:
  // Of a range, relative to what is in it; large ranges count alike.
  static double width(const Domain& d, Index j) {
    const double low = d.lower(j), high = d.upper(j);
    if (!std::isfinite(high - low)) return 2.0;
    return (high - low) / (1.0 + std::max(std::abs(low), std::abs(high)));
  }

  Index best(const Domain& domain, const std::vector<double>& score) const {
    constexpr double kNarrow = 1e-11;  // nothing is won by splitting that
    Index column = -1;
    for (const NonlinearTerm& t : terms_)
      for (const Index j : {t.x, t.z})
        if (j >= 0 && score[at(j)] > 0.0 && width(domain, j) > kNarrow &&
            (column < 0 || score[at(j)] > score[at(column)]))
          column = j;
    return column;
  }

  static bool split_at(const Domain& d, Index j, double value, Branching& out) {
    constexpr double kToTheMiddle = 0.3, kLeastShare = 0.15;
    const double low = d.lower(j), high = d.upper(j);
    double at_value = value;
    if (std::isfinite(low) && std::isfinite(high)) {
      const double width = high - low, middle = low + 0.5 * width;
      at_value = std::clamp(value + kToTheMiddle * (middle - value), low + kLeastShare * width,
                            high - kLeastShare * width);
    } else {  // twice as far with every split
      const double far = 2.0 * std::max(1.0, std::abs(value));
      if (std::isfinite(low))
        at_value = std::max(value, low + 1.0);
      else if (std::isfinite(high))
        at_value = std::min(value, high - 1.0);
      if (at_value == low || at_value == high)
        at_value = std::isfinite(low) ? low + far : high - far;
    }
    const bool whole = d.problem().integer(j);
    const double below = whole ? std::floor(at_value) : at_value;
    const double above = whole ? below + 1.0 : at_value;
    if (whole ? below >= high || above <= low : !(low < at_value && at_value < high)) return false;
    out.children = {{{Change::What::upper, j, below}}, {{Change::What::lower, j, above}}};
    if (value > at_value) std::swap(out.children[0], out.children[1]);
    return true;
  }

  const std::vector<NonlinearTerm>& terms_;
};

}  // namespace

std::unique_ptr<Disjunction> nonlinear_branching(const std::vector<NonlinearTerm>& terms) {
  return std::make_unique<BrokenTerms>(terms);
}

}  // namespace kiteknot::mip
