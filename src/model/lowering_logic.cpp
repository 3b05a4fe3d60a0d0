// Conditions as rows. Negations are pushed down to comparisons and binaries, so that every
// auxiliary binary is needed in one direction only (Plaisted and Greenbaum 1986, "A structure-
// preserving clause form translation"); comparisons that decide binaries outright become literals,
// disjunctions of literals clauses, and only what is left is guarded by a bound from the data or,
// where there is none, by a condition on which the search branches.

#include <algorithm>

#include <fmt/format.h>

#include "model/lowering_builder.hpp"

namespace kiteknot {
namespace {

Logic constant(bool value) {
  Logic l;
  l.value = value;
  return l;
}
Logic of(ColumnLiteral literal) {
  Logic l;
  l.kind = Logic::Kind::literal;
  l.literal = literal;
  return l;
}

}  // namespace

Logic Builder::normal(const Condition& c, bool wanted) {
  using K = Condition::Kind;
  const auto parts = [&](bool w) {
    std::vector<Logic> all;
    for (const Condition& p : c.parts) all.push_back(normal(p, w));
    return all;
  };
  switch (c.kind) {
    case K::compare:
      return compared(rule(c), wanted);
    case K::truth: {
      LinearRule is_one;
      const LinearForm f = form(c.body);
      is_one.terms = f.terms;
      is_one.low = is_one.high = (wanted ? Rational(1) : Rational(0)) - f.constant;
      return compared(is_one, true);
    }
    case K::negation:
      return normal(c.parts[0], !wanted);
    case K::all:
      return joined(wanted ? Logic::Kind::all : Logic::Kind::any, parts(wanted));
    case K::any:
      return joined(wanted ? Logic::Kind::any : Logic::Kind::all, parts(wanted));
    case K::implies: {
      std::vector<Logic> both;
      both.push_back(normal(c.parts[0], !wanted));
      both.push_back(normal(c.parts[1], wanted));
      return joined(wanted ? Logic::Kind::any : Logic::Kind::all, std::move(both));
    }
    case K::tour:
      throw UsageError("a tour stands alone as a rule; nothing can be said about it");
    case K::count:
      if (c.least <= 0 || c.most >= static_cast<Index>(c.parts.size())) {
        const bool from_below = c.least > 0;  // from one side: the parts stand in one direction
        const Index n = static_cast<Index>(c.parts.size());
        if (!from_below && c.most >= n) return constant(wanted);
        return joined(Logic::Kind::at_least, parts(wanted == from_below),
                      wanted ? (from_below ? c.least : n - c.most)
                             : (from_below ? n - c.least + 1 : c.most + 1));
      }
      [[fallthrough]];
    case K::exclusive:
    case K::same: {
      Sides both = sides(c);
      return std::move(wanted ? both.holds : both.fails);
    }
  }
  return constant(true);
}

Builder::Sides Builder::sides(const Condition& c) {
  using K = Condition::Kind;
  const auto swapped = [](Sides s) {
    std::swap(s.holds, s.fails);
    return s;
  };
  std::vector<Sides> of;
  if (c.kind != K::compare && c.kind != K::truth)
    for (const Condition& p : c.parts) of.push_back(sides(p));
  // All of the parts hold, or one fails.
  const auto all = [&] {
    Sides s;
    std::vector<Logic> hold, fail;
    for (Sides& p : of) {
      s.edged = s.edged || p.edged;
      hold.push_back(std::move(p.holds));
      fail.push_back(std::move(p.fails));
    }
    s.holds = joined(Logic::Kind::all, std::move(hold));
    s.fails = joined(Logic::Kind::any, std::move(fail));
    return s;
  };
  switch (c.kind) {
    case K::negation:
      return swapped(std::move(of[0]));
    case K::all:
      return all();
    case K::any:
      for (Sides& p : of) p = swapped(std::move(p));
      return swapped(all());
    case K::implies:
      of[1] = swapped(std::move(of[1]));
      return swapped(all());
    case K::same:
      return same(std::move(of[0]), std::move(of[1]));
    case K::exclusive:
      return swapped(same(std::move(of[0]), std::move(of[1])));
    case K::count:
      return counted(std::move(of), c.least, c.most);
    default: {
      Sides s;
      s.holds = normal(c, true);
      s.fails = normal(c, false);
      s.edged = c.kind == K::compare && step({0, rule(c).terms}).is_zero() && !decided(s);
      return s;
    }
  }
}

// What holds exactly where its contrary does not: a constant, or one literal.
const Logic* Builder::decided(const Sides& s) {
  if (s.holds.kind != s.fails.kind) return nullptr;
  if (s.holds.kind == Logic::Kind::constant && s.holds.value != s.fails.value) return &s.holds;
  if (s.holds.kind == Logic::Kind::literal && s.holds.literal == !s.fails.literal) return &s.holds;
  return nullptr;
}

// A comparison, or what is left when it must fail: the next step beyond a limit, or the closed
// side.
Logic Builder::compared(const LinearRule& rule, bool wanted) {
  Logic atom;
  atom.kind = Logic::Kind::atom;
  atom.form.terms = rule.terms;
  atom.low = rule.low;
  atom.high = rule.high;
  const Rational by = step(atom.form);
  if (wanted) {
    if (!by.is_zero()) {  // only multiples of the step can be meant
      if (atom.low.is_finite()) atom.low = (atom.low / by).ceil() * by;
      if (atom.high.is_finite()) atom.high = (atom.high / by).floor() * by;
      if (atom.low > atom.high) return constant(false);
    }
    return simplified(std::move(atom));
  }
  std::vector<Logic> outside;
  for (const bool upper : {true, false}) {
    const Rational& limit = upper ? rule.high : rule.low;
    if (!limit.is_finite()) continue;
    Logic side = atom;
    Rational edge = limit;
    if (by.is_zero()) {
      side.closed = true;
    } else {  // values are multiples of the step: the first one outside
      edge = upper ? ((limit / by).floor() + 1) * by : ((limit / by).ceil() - 1) * by;
    }
    side.low = upper ? edge : Rational::minus_infinity();
    side.high = upper ? Rational::infinity() : edge;
    outside.push_back(simplified(std::move(side)));
  }
  return joined(Logic::Kind::any, std::move(outside));
}

// Constants where the ranges decide; literals, clauses and their opposites where all columns are
// binary with coefficients of one size.
Logic Builder::simplified(Logic atom) {
  const Range r = range(atom.form);
  if (r.low >= atom.low && r.high <= atom.high) return constant(true);
  if (r.low > atom.high || r.high < atom.low) return constant(false);
  if (atom.form.terms.empty()) return constant(true);
  const Rational size = atom.form.terms[0].coefficient.abs();
  for (const Expression::Term& t : atom.form.terms)
    if (!binary(t.decision) || columns_[at(t.decision)].low.sign() != 0 ||
        t.coefficient.abs() != size)
      return atom;
  // Counted upward from the least value: how many literals must, and may, be true.
  const auto n = static_cast<Index>(atom.form.terms.size());
  const auto literals = [&](bool up) {
    std::vector<Logic> all;
    for (const Expression::Term& t : atom.form.terms)
      all.push_back(of({t.decision, (t.coefficient.sign() > 0) == up}));
    return all;
  };
  const Rational least = atom.low.is_finite() ? ((atom.low - r.low) / size).ceil() : Rational(0);
  const Rational most = atom.high.is_finite() ? ((atom.high - r.low) / size).floor() : Rational(n);
  if (least > most) return constant(false);
  std::vector<Logic> both;
  if (least == Rational(n)) return joined(Logic::Kind::all, literals(true));
  if (most.sign() == 0) return joined(Logic::Kind::all, literals(false));
  if (least == Rational(1) && most >= Rational(n)) return joined(Logic::Kind::any, literals(true));
  if (least.sign() <= 0 && most == Rational(n - 1))
    return joined(Logic::Kind::any, literals(false));
  if (n == 1) return of({atom.form.terms[0].decision, true});  // not reached: the ends are above
  return atom;
}

Logic Builder::joined(Logic::Kind kind, std::vector<Logic> parts, Index least) {
  Logic l;
  l.kind = kind;
  const auto n = [&] { return static_cast<Index>(l.parts.size()); };
  for (Logic& p : parts) {
    const bool flat = p.kind == kind && kind != Logic::Kind::at_least;
    if (p.kind == Logic::Kind::constant) {
      if (kind == Logic::Kind::all && !p.value) return constant(false);
      if (kind == Logic::Kind::any && p.value) return constant(true);
      if (kind == Logic::Kind::at_least && p.value) --least;
    } else if (flat) {
      for (Logic& q : p.parts) l.parts.push_back(std::move(q));
    } else {
      l.parts.push_back(std::move(p));
    }
  }
  if (kind == Logic::Kind::at_least) {
    if (least <= 0) return constant(true);
    if (least > n()) return constant(false);
    if (least == n()) return joined(Logic::Kind::all, std::move(l.parts));
    if (least == 1) return joined(Logic::Kind::any, std::move(l.parts));
    l.least = least;
    return l;
  }
  if (l.parts.empty()) return constant(kind == Logic::Kind::all);
  if (n() == 1) return Logic(std::move(l.parts[0]));
  return l;
}

// a = b: each part stands in both directions. One side that is a literal serves as its own name;
// otherwise one gets a binary of its own.
Builder::Sides Builder::same(Sides a, Sides b) {
  if (decided(a) == nullptr && decided(b) != nullptr) std::swap(a, b);
  const ColumnLiteral name = decided(a) != nullptr && a.holds.kind == Logic::Kind::constant
                                 ? ColumnLiteral{}
                                 : equivalent(a);
  Sides s;
  s.edged = a.edged || b.edged;
  for (const bool alike : {true, false}) {
    const Logic& if_so = alike ? b.holds : b.fails;
    const Logic& if_not = alike ? b.fails : b.holds;
    Logic& out = alike ? s.holds : s.fails;
    if (name.column < 0) {
      out = a.holds.value ? if_so : if_not;
      continue;
    }
    std::vector<Logic> one, two, both;
    one.push_back(of(!name));
    one.push_back(if_so);
    two.push_back(of(name));
    two.push_back(if_not);
    both.push_back(joined(Logic::Kind::any, std::move(one)));
    both.push_back(joined(Logic::Kind::any, std::move(two)));
    out = joined(Logic::Kind::all, std::move(both));
  }
  return s;
}

Builder::Sides Builder::counted(std::vector<Sides> parts, Index least, Index most) {
  const auto n = static_cast<Index>(parts.size());
  const bool from_below = least > 0, from_above = most < n;
  Sides s;
  for (Sides& p : parts) {
    s.edged = s.edged || p.edged;
    // Counted from both sides, a part that is no literal gets one name for both.
    if (!from_below || !from_above || decided(p) != nullptr) continue;
    const ColumnLiteral name = equivalent(p);
    p.holds = of(name);
    p.fails = of(!name);
  }
  const auto at_least = [&](bool hold, Index count) {
    std::vector<Logic> all;
    for (const Sides& p : parts) all.push_back(hold ? p.holds : p.fails);
    return joined(Logic::Kind::at_least, std::move(all), count);
  };
  std::vector<Logic> hold, fail;
  if (from_below) {
    hold.push_back(at_least(true, least));
    fail.push_back(at_least(false, n - least + 1));
  }
  if (from_above) {
    hold.push_back(at_least(false, n - most));
    fail.push_back(at_least(true, most + 1));
  }
  s.holds = joined(Logic::Kind::all, std::move(hold));
  s.fails = joined(Logic::Kind::any, std::move(fail));
  return s;
}

void Builder::require(const Logic& logic, const Literals& guards) {
  Literals escape;  // a guard that fails
  for (const ColumnLiteral& g : guards) escape.push_back(!g);
  switch (logic.kind) {
    case Logic::Kind::constant:
      if (!logic.value) clause(std::move(escape));
      return;
    case Logic::Kind::literal:
      escape.push_back(logic.literal);
      clause(std::move(escape));
      return;
    case Logic::Kind::atom:
      if (logic.closed && note != nullptr) note->closed_side = true;
      guarded(logic.form, logic.low, logic.high, guards);
      return;
    case Logic::Kind::all:
      for (const Logic& p : logic.parts) require(p, guards);
      return;
    case Logic::Kind::any: {
      Literals literals;
      std::vector<const Logic*> others;
      for (const Logic& p : logic.parts)
        p.kind == Logic::Kind::literal ? literals.push_back(p.literal) : others.push_back(&p);
      if (others.size() == 1) {  // the literals' failure guards it
        Literals more = guards;
        for (const ColumnLiteral& l : literals) more.push_back(!l);
        require(*others[0], more);
        return;
      }
      // One binary says which; under guards that would be weaker, as both sides could be half met.
      if (others.size() == 2 && literals.empty() && guards.empty()) {
        const ColumnLiteral which = add_binary();
        require(*others[0], {which});
        require(*others[1], {!which});
        return;
      }
      for (const Logic* p : others) literals.push_back(implying(*p));
      escape.insert(escape.end(), literals.begin(), literals.end());
      clause(std::move(escape));
      return;
    }
    case Logic::Kind::at_least: {
      Literals counted;
      for (const Logic& p : logic.parts)
        counted.push_back(p.kind == Logic::Kind::literal ? p.literal : implying(p));
      guarded(number_true(counted), logic.least, Rational::infinity(), guards);
      return;
    }
  }
}

// A binary that may be 1 only where the logic holds.
ColumnLiteral Builder::implying(const Logic& logic) {
  if (logic.kind == Logic::Kind::literal) return logic.literal;
  const std::string name = key(logic);
  if (const auto it = implying_.find(name); it != implying_.end()) return it->second;
  const ColumnLiteral l = add_binary();
  implying_.emplace(name, l);
  require(logic, {l});
  return l;
}

// A binary that is 1 only where the condition holds, and 0 only where it fails. At edges it may be
// either, and every place where such a condition stands chooses for itself, as the check does: one
// name is shared only by conditions without edges.
ColumnLiteral Builder::equivalent(const Sides& s) {
  if (const Logic* known = decided(s); known != nullptr && known->kind == Logic::Kind::literal)
    return known->literal;
  const std::string name = key(s.holds);
  if (!s.edged)
    if (const auto it = equivalent_.find(name); it != equivalent_.end()) return it->second;
  const ColumnLiteral l = add_binary();
  if (!s.edged) {
    equivalent_.emplace(name, l);
    implying_.emplace(name, l);
  }
  require(s.holds, {l});
  require(s.fails, {!l});
  return l;
}

std::string Builder::key(const Logic& logic) {
  std::string text = fmt::format("{}", static_cast<int>(logic.kind));
  switch (logic.kind) {
    case Logic::Kind::constant:
      return text + (logic.value ? "t" : "f");
    case Logic::Kind::literal:
      return fmt::format("{}{}{}", text, logic.literal.positive ? '+' : '-', logic.literal.column);
    case Logic::Kind::atom:
      for (const Expression::Term& t : logic.form.terms)
        text += fmt::format(" {}x{}", t.coefficient.text(), t.decision);
      // The form's constant belongs to the limits.
      return fmt::format("{} in {} {}", text,
                         logic.low.is_finite() ? (logic.low - logic.form.constant).text() : "-",
                         logic.high.is_finite() ? (logic.high - logic.form.constant).text() : "-");
    default:
      text += fmt::format("#{}(", logic.least);
      for (const Logic& p : logic.parts) text += key(p) + ",";
      return text + ")";
  }
}

}  // namespace kiteknot
