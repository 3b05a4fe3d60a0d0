#include "model/limit_changes.hpp"

#include <algorithm>
#include <cmath>

#include "base/outward.hpp"
#include "model/lowering_builder.hpp"
#include "model/tours/tour_rule.hpp"

namespace kiteknot {
namespace {

// Where a number and those defined by it stand.
class Mentions {
 public:
  Mentions(const ModelData& model, Index number) : moved_(model.numbers.size(), 0) {
    moved_[static_cast<std::size_t>(number)] = 1;
    for (std::size_t n = 0; n < moved_.size(); ++n)  // of numbers stated before
      if (in(model.numbers[n].value)) moved_[n] = 1;
  }
  [[nodiscard]] bool in(const NumberNode* n) const {
    return n != nullptr && mentions(*n, [&](std::int32_t number) {
             return moved_[static_cast<std::size_t>(number)] != 0;
           });
  }
  [[nodiscard]] bool in(const Expression& e) const {
    return std::ranges::any_of(e.factored(), [&](const auto& t) { return in(t.factor.get()); }) ||
           in_terms(e);
  }
  /// In more than the figures that stand alone.
  [[nodiscard]] bool in_terms(const Expression& e) const {
    return std::ranges::any_of(
               e.factored(),
               [&](const auto& t) { return t.decision >= 0 && in(t.factor.get()); }) ||
           std::ranges::any_of(e.derived(), [&](const Expression::DerivedTerm& t) {
             return in(t.factor.get()) || in(t.what->condition) ||
                    (t.what->curve && std::ranges::any_of(t.what->curve->figures,
                                                          [&](const auto& f) { return in(f); })) ||
                    std::ranges::any_of(t.what->args, [&](const Expression& a) { return in(a); });
           });
  }
  [[nodiscard]] bool in(const Condition& c) const {
    return in(c.body) || in(c.low) || in(c.high) ||
           (c.kind == Condition::Kind::tour && (in(c.trips->at_most) || in(c.trips->capacity))) ||
           std::ranges::any_of(c.parts, [&](const Condition& p) { return in(p); });
  }
  [[nodiscard]] bool in(const Family& f) const {
    const auto bound = [&](const auto& b) { return in(b.second); };
    return std::ranges::any_of(f.lower_by_number, bound) ||
           std::ranges::any_of(f.upper_by_number, bound);
  }

 private:
  std::vector<char> moved_;
};

const Condition& condition_of(const ModelData& m, const LoweredRow& row) {
  return m.rules[static_cast<std::size_t>(row.family)]
      ->conditions[static_cast<std::size_t>(row.member)];
}

}  // namespace

MovedLimits::MovedLimits(const ModelData& m, const Lowering& lowering, Index number)
    : lowering_(lowering) {
  const Mentions mentions(m, number);
  for (const auto& f : m.families) only_limits_ = only_limits_ && !mentions.in(*f);
  for (const Goal& g : m.goals) only_limits_ = only_limits_ && !mentions.in(g.expression);
  for (const Expression& e : m.kept_inside) only_limits_ = only_limits_ && !mentions.in(e);
  for (const auto& r : m.rules)
    for (const Expression& price : r->prices) only_limits_ = only_limits_ && !mentions.in(price);
  for (std::size_t k = 0; k < lowering.rows.size() && only_limits_; ++k) {
    const LoweredRow& row = lowering.rows[k];
    const Condition& c = condition_of(m, row);
    if (!mentions.in(c)) continue;
    const Index i = row.problem_row;
    only_limits_ = row.linear && row.only_rows && i >= 0 && !mentions.in_terms(c.body) &&
                   !mentions.in_terms(c.low) && !mentions.in_terms(c.high) &&
                   lowering.problem.rows().size(i) > 0;  // none: its limits lay the wrong way round
    rows_.push_back(k);
  }
}

mip::LimitChanges MovedLimits::under(const ModelData& there) const {
  mip::LimitChanges changes;
  Collector collector(there);
  for (const std::size_t k : rows_) {
    const LoweredRow& row = lowering_.rows[k];
    const LinearRule rule = linear_rule(collector, condition_of(there, row));
    const auto limit = [&](const Rational& l, bool upper) {
      return l.is_finite() ? outward(l * row.scale, upper) : l.to_double();
    };
    if (rule.low > rule.high)
      changes.push_back({row.problem_row, 1.0, 0.0});
    else
      changes.push_back({row.problem_row, limit(rule.low, false), limit(rule.high, true)});
  }
  return changes;
}

std::optional<mip::LimitChanges> without_row(const Lowering& lowering, std::size_t position) {
  const LoweredRow& row = lowering.rows[position];
  if (!row.only_rows) return std::nullopt;
  mip::LimitChanges changes;
  for (Index i = row.rows_from; i < row.rows_to; ++i) changes.push_back({i, -HUGE_VAL, HUGE_VAL});
  return changes;
}

}  // namespace kiteknot
