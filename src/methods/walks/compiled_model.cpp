#include "methods/walks/compiled_model.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <unordered_set>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/tolerances.hpp"
#include "model/evaluation.hpp"

namespace kiteknot::methods {

bool DecisionRange::takes(double value) const {
  if (!can_move) return false;
  if (!listed.empty()) return std::ranges::find(listed, value) != listed.end();
  if (value < lower || value > upper || (whole && value != std::floor(value))) return false;
  return !or_zero || value == 0.0 || (value >= used_from && value <= used_to);
}

namespace {

constexpr double kWholeUpTo = 0x1p53;  // whole numbers are doubles up to there

class Compiler {
 public:
  Compiler(const ModelData& model, CompiledModel& into)
      : m_(model),
        c_(into),
        numbers_(model.number_values()),
        collector_(model, [this](const auto& d) { return known_.at(d.get()); }) {}

  void run() {
    ranges();
    for (Index d = 0; d < m_.num_decisions; ++d) add(Op::decision);
    for (std::size_t r = 0; r < m_.rules.size(); ++r) {
      if (m_.rules_off.contains(static_cast<Index>(r)) || m_.rules[r]->soft()) continue;
      const RuleFamily& family = *m_.rules[r];
      if (family.is_tour())
        throw UsageError(
            fmt::format("rule {} asks for round trips, which it cannot take one "
                        "decision at a time",
                        family.name));
      for (Index i = 0; i < family.index.count; ++i) rule(static_cast<Index>(r), i);
    }
    // Curves bind what they are of wherever they stand, whether it counts or not.
    for (const Goal& g : m_.goals) know(g.expression);
    for (const Expression& e : m_.kept_inside) know(e);
    if (!m_.goals.empty()) goal();
    finish();
  }

 private:
  void ranges() {
    for (const auto& f : m_.families)
      for (Index i = 0; i < f->index.count; ++i) {
        DecisionRange r;
        r.lower = m_.lower(*f, i, numbers_).to_double();
        r.upper = m_.upper(*f, i, numbers_).to_double();
        r.whole = m_.whole(*f, i);
        if (r.whole) {
          r.lower = std::ceil(r.lower);
          r.upper = std::floor(r.upper);
        }
        r.or_zero = f->or_zero;
        if (r.or_zero) {
          const auto [low, high] = m_.bounds_if_used(*f, i, numbers_);
          r.used_from = low.to_double();
          r.used_to = high.to_double();
        }
        for (const Rational& v : f->listed) r.listed.push_back(v.to_double());
        r.can_move = r.lower < r.upper;
        c_.has_reals |= !r.stepped() && r.can_move;
        c_.ranges.push_back(std::move(r));
      }
  }

  Index add(Op op, std::vector<Index> args = {}, std::vector<WeightedNode> terms = {}) {
    c_.op.push_back(op);
    c_.figures.emplace_back();
    c_.rule_of.push_back(-1);
    c_.args.entries.insert(c_.args.entries.end(), args.begin(), args.end());
    c_.args.start.push_back(c_.args.entries.size());
    c_.terms.entries.insert(c_.terms.entries.end(), terms.begin(), terms.end());
    c_.terms.start.push_back(c_.terms.entries.size());
    return c_.num_nodes() - 1;
  }

  // Nodes for what the expression is made of; the collector is not yet in use then.
  void know(const Expression& e) {
    for (const Expression::DerivedTerm& t : e.derived())
      if (!known_.contains(t.what.get())) {
        held_.push_back(t.what);
        const Index node = derived(*t.what);
        known_.emplace(t.what.get(), node);
        if (is_whole(*t.what)) whole_nodes_.insert(node);
      }
  }

  // Whether a form takes whole values only.
  [[nodiscard]] bool whole_form(const LinearForm& form) const {
    return form.constant.is_integer() &&
           std::ranges::all_of(form.terms, [&](const Expression::Term& t) {
             if (!t.coefficient.is_integer()) return false;
             if (t.decision >= m_.num_decisions) return whole_nodes_.contains(t.decision);
             const Rational step = step_of(m_, t.decision);
             return !step.is_zero() && step.is_integer();
           });
  }

  // The same of a term; its parts are known by now.
  [[nodiscard]] bool is_whole(const Derived& d) {
    using K = Derived::Kind;
    const auto parts = [&] {
      return std::ranges::all_of(d.args,
                                 [&](const Expression& e) { return whole_form(collected(e)); });
    };
    switch (d.kind) {
      case K::truth:
        return true;
      case K::product:
      case K::largest:
        return parts();
      case K::power: {
        const Rational exponent = evaluate(d.args[1], numbers_);
        return exponent.is_integer() && exponent.sign() >= 0 && whole_form(collected(d.args[0]));
      }
      case K::curve:
        return parts() &&
               std::ranges::all_of(now_.pieces(*d.curve, numbers_), [](const CurvePiece& p) {
                 return p.value.is_integer() && p.slope.is_integer() &&
                        (!p.from.is_finite() || p.from.is_integer());
               });
      default:
        return false;
    }
  }

  LinearForm collected(const Expression& e, const Expression* less = nullptr) {
    know(e);
    if (less != nullptr) know(*less);
    collector_.add(e, 1);
    if (less != nullptr) collector_.add(*less, -1);
    return collector_.take();
  }

  // A sum times `scale`.
  Index sum(const LinearForm& form, const Rational& scale = 1) {
    std::vector<WeightedNode> terms;
    terms.reserve(form.terms.size());
    for (const Expression::Term& t : form.terms)
      terms.push_back({t.decision, (t.coefficient * scale).to_double()});
    const Index node = add(Op::sum, {}, std::move(terms));
    c_.figures.back().constant = (form.constant * scale).to_double();
    return node;
  }
  Index sum(const Expression& e) { return sum(collected(e)); }

  // The least figure that makes a form move in whole numbers, or 1 where none is found or it does
  // not move in steps; `whole`: it does then.
  Rational whole_scale(const LinearForm& form, const Rational& low, const Rational& high,
                       bool stepped, bool& whole) {
    Rational scale = 1;
    whole = stepped && std::ranges::all_of(form.terms, [&](const Expression::Term& t) {
              return t.decision < m_.num_decisions || whole_nodes_.contains(t.decision);
            });
    if (!whole) return 1;
    for (const Expression::Term& t : form.terms) {
      const Rational step = t.decision < m_.num_decisions ? step_of(m_, t.decision) : Rational(1);
      scale = Rational::lcm(scale, (t.coefficient * step).denominator());
    }
    for (const Rational& limit : {low, high, form.constant})
      if (limit.is_finite()) scale = Rational::lcm(scale, limit.denominator());
    double size = 0.0;
    for (const Expression::Term& t : form.terms)
      size += std::abs((t.coefficient * scale).to_double()) * reach(t.decision);
    for (const Rational& limit : {low, high, form.constant})
      if (limit.is_finite()) size = std::max(size, std::abs((limit * scale).to_double()));
    if (size < kWholeUpTo) return scale;
    whole = false;
    return 1;
  }

  // How far from 0 a node can be; decisions without an end count as far as any plan goes.
  [[nodiscard]] double reach(Index node) const {
    constexpr double kFar = 1e6;
    if (node >= m_.num_decisions) return kFar;
    const DecisionRange& r = c_.ranges[at(node)];
    const double most = std::max(std::abs(r.lower), std::abs(r.upper));
    return std::isfinite(most) ? most : kFar;
  }

  Index compare(const Condition& c) {
    const bool left = c.has_low && c.low.has_decisions();
    const bool right = c.has_high && c.high.has_decisions();
    if (c.has_low && c.has_high && (left || right) && !same_moving(c))
      return add(Op::all, {one_side(c, false), one_side(c, true)});
    const Expression* moving = right ? &c.high : left ? &c.low : nullptr;
    const LinearForm form = collected(c.body, moving);
    // Where decisions stand in the limit all of it has moved over.
    const auto limit = [&](const Expression& e) {
      return moving != nullptr ? Rational(0) : collected(e).constant;
    };
    const Rational low = c.has_low ? limit(c.low) : Rational::minus_infinity();
    const Rational high = c.has_high ? limit(c.high) : Rational::infinity();
    return comparison(form, low, high, c, moving);
  }

  // left = right, stated as both limits the same.
  bool same_moving(const Condition& c) {
    const LinearForm d = collected(c.high, &c.low);
    return d.terms.empty() && d.constant.is_zero();
  }

  Index one_side(const Condition& c, bool upper) {
    const Expression& limit = upper ? c.high : c.low;
    const LinearForm form = collected(c.body, &limit);
    return comparison(form, upper ? Rational::minus_infinity() : Rational(0),
                      upper ? Rational(0) : Rational::infinity(), c, &limit);
  }

  Index comparison(const LinearForm& form, const Rational& low, const Rational& high,
                   const Condition& c, const Expression* moving) {
    const bool stepped =
        moves_in_steps(m_, c.body) && (moving == nullptr || moves_in_steps(m_, *moving));
    bool whole = false;
    const Rational scale = whole_scale(form, low, high, stepped, whole);
    const Index of = sum(form, scale);
    double mean = 0.0, most = 0.0;
    for (const WeightedNode& t : c_.terms.of(of)) {
      mean += std::abs(t.weight) / static_cast<double>(form.terms.size());
      most = std::max(most, std::abs(t.weight));
    }
    const Index node = add(Op::compare, {of});
    CompiledModel::Figures& f = c_.figures.back();
    if (low.is_finite()) f.low = (low * scale).to_double();
    if (high.is_finite()) f.high = (high * scale).to_double();
    // What moves in steps of a size that is not known fails as soon as it is on the other side.
    constexpr double kSomeStep = 1e-6;
    f.step = whole ? 1.0 : stepped ? kSomeStep : 0.0;
    const double limit = std::max(std::isfinite(f.low) ? std::abs(f.low) : 0.0,
                                  std::isfinite(f.high) ? std::abs(f.high) : 0.0);
    constexpr double kOfSteps = 0.25;  // far from a step, and from what doubles do
    f.slack = whole ? kOfSteps : kStatedTolerance * (1.0 + std::max(limit, most));
    scale_of_[node] = mean > 0.0 ? 1.0 / mean : 1.0;
    return node;
  }

  Index truth(const Condition& c) {
    // A decision that is 1: once for all conditions that ask it.
    const LinearForm form = collected(c.body);
    const bool one = form.terms.size() == 1 && form.constant.is_zero() &&
                     form.terms[0].coefficient == Rational(1);
    if (one)
      if (const auto known = truths_.find(form.terms[0].decision); known != truths_.end())
        return known->second;
    const Index node = add(Op::truth, {sum(form)});
    c_.figures.back().slack = kStatedTolerance;
    if (one) truths_.emplace(form.terms[0].decision, node);
    return node;
  }

  // A condition's node, or ~node.
  Index condition(const Condition& c) {
    using K = Condition::Kind;
    switch (c.kind) {
      case K::compare:
        return compare(c);
      case K::truth:
        return truth(c);
      case K::negation:
        return ~condition(c.parts[0]);
      case K::tour:
        throw UsageError("round trips cannot be taken one decision at a time");
      default:
        break;
    }
    std::vector<Index> parts;
    for (const Condition& p : c.parts) parts.push_back(condition(p));
    switch (c.kind) {
      case K::all:
        return add(Op::all, std::move(parts));
      case K::any:
        return add(Op::any, std::move(parts));
      case K::implies:
        parts[0] = ~parts[0];
        return add(Op::any, std::move(parts));
      case K::exclusive:
        return add(Op::exclusive, std::move(parts));
      case K::same:
        return add(Op::same, std::move(parts));
      default: {
        const Index node = add(Op::count, std::move(parts));
        c_.figures.back().least = c.least;
        c_.figures.back().most = c.most;
        return node;
      }
    }
  }

  Index derived(const Derived& d) {
    using K = Derived::Kind;
    if (d.kind == K::truth) return add(Op::truth_value, {condition(d.condition)});
    if (d.kind == K::power) {
      const Index node = add(Op::power, {sum(d.args[0])});
      c_.figures.back().exponent = evaluate(d.args[1], numbers_).to_double();
      return node;
    }
    std::vector<Index> args;
    for (const Expression& e : d.args) args.push_back(sum(e));
    switch (d.kind) {
      case K::product:
        return add(Op::product, std::move(args));
      case K::quotient:
        return add(Op::quotient, std::move(args));
      case K::exponential:
        return add(Op::exponential, std::move(args));
      case K::logarithm:
        return add(Op::logarithm, std::move(args));
      case K::largest:
        return add(Op::largest, std::move(args));
      default:
        break;
    }
    const Index node = add(Op::curve, std::move(args));
    c_.figures.back().curve = static_cast<Index>(c_.curves.size());
    c_.curves.push_back(now_.pieces(*d.curve, numbers_));
    // Outside its range a curve says nothing: a rule of its own.
    const std::vector<CurvePiece>& pieces = c_.curves.back();
    const Index inside = add(Op::compare, {c_.args.of(node)[0]});
    CompiledModel::Figures& f = c_.figures.back();
    f.low = pieces.front().from.to_double();
    f.high = pieces.back().to.to_double();
    f.slack = kStatedTolerance;
    root(-1, 0, inside);
    return node;
  }

  void root(Index family, Index member, Index condition) {
    if (condition < 0) condition = add(Op::all, {condition});  // what is negated fails
    if (c_.rule_of[at(condition)] >= 0) condition = add(Op::all, {condition});
    const auto scale = scale_of_.find(condition);
    c_.rule_of[at(condition)] = static_cast<Index>(c_.rules.size());
    c_.rules.push_back({family, member, condition, scale == scale_of_.end() ? 1.0 : scale->second});
  }

  void rule(Index family, Index member) {
    root(family, member, condition(m_.rules[at(family)]->conditions[at(member)]));
  }

  void goal() {
    const Expression e = m_.goal_with_charges(0);
    c_.maximizes = m_.first_goal().sense == Sense::maximize;
    LinearForm form = collected(e);
    bool whole = false;
    const Rational scale =
        whole_scale(form, Rational::infinity(), Rational::infinity(), moves_in_steps(m_, e), whole);
    c_.goal_scale = scale.to_double();
    c_.goal_step = whole ? 1.0 : 0.0;
    c_.goal = sum(form, c_.maximizes ? -scale : scale);
  }

  // Lists from children to what is made of them, and who is plain.
  void finish() {
    const Index n = c_.num_nodes();
    const auto turned = [n](const auto& from, auto& to, const auto& node_of, const auto& made) {
      std::vector<std::size_t> count(at(n) + 1, 0);
      for (Index i = 0; i < n; ++i)
        for (const auto& e : from.of(i)) ++count[at(node_of(e)) + 1];
      for (std::size_t k = 1; k < count.size(); ++k) count[k] += count[k - 1];
      to.start = count;
      to.entries.resize(count.back());
      for (Index i = 0; i < n; ++i)
        for (const auto& e : from.of(i)) to.entries[count[at(node_of(e))]++] = made(e, i);
    };
    turned(
        c_.terms, c_.in_sums, [](const WeightedNode& t) { return t.node; },
        [](const WeightedNode& t, Index i) {
          return WeightedNode{i, t.weight};
        });
    turned(
        c_.args, c_.readers, [](Index a) { return a < 0 ? ~a : a; },
        [](Index, Index i) { return i; });
    c_.plain.assign(at(n), 0);
    for (CompiledModel::Rule& r : c_.rules)
      r.over_sum = c_.op[at(r.root)] == Op::compare && c_.readers.of(r.root).empty();
    for (Index i = 0; i < n; ++i) {
      if (c_.op[at(i)] == Op::sum) {
        const auto readers = c_.readers.of(i);
        c_.plain[at(i)] = readers.empty() ||
                          (readers.size() == 1 && i != c_.goal && c_.rule_of[at(readers[0])] >= 0 &&
                           c_.rules[at(c_.rule_of[at(readers[0])])].over_sum);
      }
    }
    for (Index d = 0; d < m_.num_decisions; ++d)
      c_.plain[at(d)] = c_.readers.of(d).empty() &&
                        std::ranges::all_of(c_.in_sums.of(d), [&](const WeightedNode& t) {
                          return c_.plain[at(t.node)] != 0;
                        });
    c_.linear = std::ranges::all_of(
        c_.op, [](Op o) { return o == Op::decision || o == Op::sum || o == Op::compare; });
  }

  const ModelData& m_;
  CompiledModel& c_;
  std::vector<Rational> numbers_;
  Collector collector_;
  CurvesNow now_;
  std::map<const Derived*, Index> known_;
  std::vector<std::shared_ptr<const Derived>> held_;  // so that no other takes its address
  std::unordered_set<Index> whole_nodes_;             // terms that take whole values only
  std::map<Index, Index> truths_;                     // by decision
  std::map<Index, double> scale_of_;                  // by compare node
};

}  // namespace

CompiledModel::CompiledModel(const ModelData& model) {
  Compiler(model, *this).run();
  under_.resize(rules.size());
}

const std::vector<Index>& CompiledModel::decisions_under(Index rule) const {
  std::vector<Index>& under = under_[at(rule)];
  if (!under.empty()) return under;
  std::vector<Index> open{rules[at(rule)].root};
  std::unordered_set<Index> seen(open.begin(), open.end());
  const auto look = [&](Index i) {
    if (seen.insert(i).second) open.push_back(i);
  };
  while (!open.empty()) {
    const Index i = open.back();
    open.pop_back();
    if (op[at(i)] == Op::decision && ranges[at(i)].can_move) under.push_back(i);
    for (const WeightedNode& t : terms.of(i)) look(t.node);
    for (const Index a : args.of(i)) look(a < 0 ? ~a : a);
  }
  std::ranges::sort(under);
  return under;
}

}  // namespace kiteknot::methods
