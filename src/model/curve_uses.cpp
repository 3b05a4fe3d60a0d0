#include "model/curve_uses.hpp"

#include <unordered_set>

namespace kiteknot {
namespace {

class Visitor {
 public:
  explicit Visitor(const std::function<void(const Derived&)>& see) : see_(see) {}
  void look(const Expression& e) {
    for (const Expression::DerivedTerm& t : e.derived()) {
      if (!seen_.insert(t.what.get()).second) continue;
      for (const Expression& arg : t.what->args) look(arg);
      if (t.what->kind == Derived::Kind::truth) look(t.what->condition);
      if (t.what->kind == Derived::Kind::curve) see_(*t.what);
    }
  }
  void look(const Condition& c) {
    for (const Expression* e : {&c.body, &c.low, &c.high}) look(*e);
    for (const Condition& part : c.parts) look(part);
  }

 private:
  const std::function<void(const Derived&)>& see_;
  std::unordered_set<const Derived*> seen_;
};

}  // namespace

void each_curve_use(const ModelData& m, const std::function<void(const Derived&)>& see) {
  if (m.curves.empty()) return;
  Visitor visitor(see);
  for (const Goal& g : m.goals) visitor.look(g.expression);
  for (std::size_t r = 0; r < m.rules.size(); ++r)
    if (!m.rules_off.contains(static_cast<Index>(r)))
      for (const Condition& c : m.rules[r]->conditions) visitor.look(c);
}

std::pair<Rational, Rational> reach_of(const ModelData& m, const Expression& e) {
  std::pair<Rational, Rational> reach{Rational::minus_infinity(), Rational::infinity()};
  if (!e.is_linear()) return reach;
  Collector collector(m);
  const LinearForm form = collector.collect(e);
  reach = {form.constant, form.constant};
  for (const auto& t : form.terms) {
    const Family& f = m.family_of(t.decision);
    Rational low = m.lower(f, t.decision - f.first, collector.numbers());
    Rational high = m.upper(f, t.decision - f.first, collector.numbers());
    if (t.coefficient.sign() < 0) std::swap(low, high);
    reach.first = reach.first.is_finite() && low.is_finite() ? reach.first + t.coefficient * low
                                                             : Rational::minus_infinity();
    reach.second = reach.second.is_finite() && high.is_finite()
                       ? reach.second + t.coefficient * high
                       : Rational::infinity();
  }
  return reach;
}

}  // namespace kiteknot
