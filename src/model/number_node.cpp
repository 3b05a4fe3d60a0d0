#include "model/number_node.hpp"

#include <algorithm>
#include <unordered_map>
#include <unordered_set>

#include "base/check.hpp"
#include "model/derived.hpp"
#include "model/real_functions.hpp"

namespace kiteknot {

// Operands that nobody else holds are taken apart one after the other, not one inside the other.
NumberNode::~NumberNode() {
  std::vector<Factor> left = std::move(of);
  while (!left.empty()) {
    const Factor f = std::move(left.back());
    left.pop_back();
    if (!f || f.use_count() > 1) continue;
    auto& inner = const_cast<NumberNode&>(*f).of;  // NOLINT: nobody else sees it any more
    left.insert(left.end(), std::make_move_iterator(inner.begin()),
                std::make_move_iterator(inner.end()));
    inner.clear();
  }
}

Factor constant_factor(Rational value) {
  auto node = std::make_shared<NumberNode>();
  node->value = std::move(value);
  return node;
}

Factor number_factor(std::int32_t number) {
  auto node = std::make_shared<NumberNode>();
  node->op = NumberNode::Op::number;
  node->number = number;
  return node;
}

Factor combined_factor(NumberNode::Op op, std::vector<Factor> operands) {
  return std::make_shared<NumberNode>(op, std::move(operands));
}

Factor as_factor(const Expression& e) {
  std::vector<Factor> parts;
  if (!e.constant().is_zero() || e.factored().empty())
    parts.push_back(constant_factor(e.constant()));
  for (const Expression::FactoredTerm& t : e.factored()) parts.push_back(t.factor);
  if (parts.size() == 1) return parts[0];
  return combined_factor(NumberNode::Op::add, std::move(parts));
}

namespace {

Rational combined(const NumberNode& node, std::span<const Rational> of,
                  const std::vector<Rational>& numbers) {
  switch (node.op) {
    case NumberNode::Op::constant:
      return node.value;
    case NumberNode::Op::number:
      return numbers[static_cast<std::size_t>(node.number)];
    case NumberNode::Op::add: {
      Rational sum = 0;
      for (const Rational& v : of) sum += v;
      return sum;
    }
    case NumberNode::Op::multiply: {
      Rational product = 1;
      for (const Rational& v : of) product *= v;
      return product;
    }
    case NumberNode::Op::invert:
      return Rational(1) / of[0];
    case NumberNode::Op::power:
      return power_of(of[0], of[1]);
    case NumberNode::Op::exponential:
      return exponential_of(of[0]);
    case NumberNode::Op::logarithm:
      return logarithm_of(of[0]);
    case NumberNode::Op::largest:
      return *std::max_element(of.begin(), of.end());
    case NumberNode::Op::curve:
      return value_at(*node.curve,
                      node.curve->made ? CurvesNow::made(*node.curve, numbers) : node.curve->pieces,
                      of[0]);
    case NumberNode::Op::truth:
      return holds(*node.condition, numbers) ? 1 : 0;
  }
  return 0;
}

}  // namespace

// Operands first, by a stack of our own; a part that stands in several places is worked out once.
Rational evaluate(const NumberNode& root, const std::vector<Rational>& numbers) {
  if (root.of.empty()) return combined(root, {}, numbers);
  struct Step {
    const NumberNode* node;
    bool shared;
    std::size_t next = 0;
  };
  std::vector<Step> steps = {{&root, false}};
  std::vector<Rational> values;
  std::unordered_map<const NumberNode*, Rational> known;
  while (!steps.empty()) {
    Step& s = steps.back();
    if (s.next < s.node->of.size()) {
      const Factor& f = s.node->of[s.next++];
      if (f->of.empty()) {
        values.push_back(combined(*f, {}, numbers));
      } else if (const auto it = f.use_count() > 1 ? known.find(f.get()) : known.end();
                 it != known.end()) {
        values.push_back(it->second);
      } else {
        steps.push_back({f.get(), f.use_count() > 1});
      }
      continue;
    }
    const std::size_t first = values.size() - s.node->of.size();
    Rational value = combined(*s.node, std::span(values).subspan(first), numbers);
    values.resize(first);
    if (s.shared) known.emplace(s.node, value);
    values.push_back(std::move(value));
    steps.pop_back();
  }
  return std::move(values.back());
}

Rational evaluate(const Expression& e, const std::vector<Rational>& numbers) {
  KITEKNOT_CHECK(!e.has_decisions(), "a figure from numbers depends on a decision");
  Rational value = e.constant();
  for (const Expression::FactoredTerm& t : e.factored()) value += evaluate(*t.factor, numbers);
  return value;
}

bool holds(const Condition& c, const std::vector<Rational>& numbers) {
  using K = Condition::Kind;
  const auto part = [&](const Condition& p) { return holds(p, numbers); };
  switch (c.kind) {
    case K::compare: {
      const Rational body = evaluate(c.body, numbers);
      return (!c.has_low || evaluate(c.low, numbers) <= body) &&
             (!c.has_high || body <= evaluate(c.high, numbers));
    }
    case K::truth:
      return evaluate(c.body, numbers) == Rational(1);
    case K::negation:
      return !part(c.parts[0]);
    case K::all:
      return std::all_of(c.parts.begin(), c.parts.end(), part);
    case K::any:
      return std::any_of(c.parts.begin(), c.parts.end(), part);
    case K::exclusive:
      return part(c.parts[0]) != part(c.parts[1]);
    case K::implies:
      return !part(c.parts[0]) || part(c.parts[1]);
    case K::same:
      return part(c.parts[0]) == part(c.parts[1]);
    case K::count: {
      const auto n = std::count_if(c.parts.begin(), c.parts.end(), part);
      return c.least <= n && n <= c.most;
    }
    case K::tour:
      break;  // it is about decisions
  }
  return false;
}

namespace {

// Calls see(node) for the factors of all expressions in a condition.
template <class See>
void each_factor(const Condition& c, const See& see) {
  for (const Expression* e : {&c.body, &c.low, &c.high})
    for (const Expression::FactoredTerm& t : e->factored()) see(t.factor.get());
  for (const Condition& p : c.parts) each_factor(p, see);
}

}  // namespace

bool mentions(const NumberNode& root, const std::function<bool(std::int32_t)>& wanted) {
  std::vector<const NumberNode*> left = {&root};
  std::unordered_set<const NumberNode*> seen;
  while (!left.empty()) {
    const NumberNode* n = left.back();
    left.pop_back();
    if (n->op == NumberNode::Op::number && wanted(n->number)) return true;
    if (n->of.empty() && !n->condition) continue;
    if (!seen.insert(n).second) continue;
    for (const Factor& f : n->of) left.push_back(f.get());
    if (n->curve)
      for (const Expression& e : n->curve->figures)
        for (const Expression::FactoredTerm& t : e.factored()) left.push_back(t.factor.get());
    if (n->condition) each_factor(*n->condition, [&](const NumberNode* f) { left.push_back(f); });
  }
  return false;
}

}  // namespace kiteknot
