#include "report/forms/algebra.hpp"

#include <algorithm>
#include <map>

#include <fmt/format.h>

#include "base/text.hpp"
#include "model/tours/tour_rule.hpp"
#include "report/forms/page.hpp"

namespace kiteknot::report {
namespace {

constexpr std::size_t kMostParts = 12;  // of a condition told in full

// Whether it needs no brackets as a part of a product, quotient or power. `first`: on the left.
bool stands_alone(const Expression& e, Derived::Kind of, bool first) {
  if (e.terms().size() + e.factored().size() + e.derived().size() != 1 || !e.constant().is_zero())
    return false;
  const Rational size = !e.terms().empty()     ? e.terms()[0].coefficient
                        : !e.derived().empty() ? e.derived()[0].coefficient
                                               : Rational(1);
  if (of == Derived::Kind::product) return true;
  if (size != Rational(1) || !e.factored().empty()) return false;
  if (e.derived().empty()) return true;
  const Derived::Kind inner = e.derived()[0].what->kind;
  const bool row = inner == Derived::Kind::product || inner == Derived::Kind::quotient;
  if (of == Derived::Kind::quotient) return !row || first;
  return !row && inner != Derived::Kind::power;
}

}  // namespace

std::string range_of(const Rational& least, const Rational& most) {
  return least == most ? fmt::format("always {}", figure(least))
                       : fmt::format("figures from {} to {}", figure(least), figure(most));
}

Algebra::Algebra(const ModelData& model)
    : model_(model), collector_(model, [this](const std::shared_ptr<const Derived>& d) {
        const auto [it, fresh] = number_of_.emplace(d.get(), static_cast<Index>(derived_.size()));
        if (fresh) derived_.push_back(d);
        return model_.num_decisions + it->second;
      }) {}

std::string Algebra::text(const Expression& e) {
  return terms(collector_.collect(e));
}

std::string Algebra::terms(const LinearForm& form) {
  std::string out;
  const auto add = [&](bool minus, const std::string& what) {
    out += out.empty() ? (minus ? "-" : "")
                       : (minus ? std::string(" -") + kTie : std::string(" +") + kTie);
    out += what;
  };
  for (const Expression::Term& t : form.terms) {
    bool minus = t.coefficient.sign() < 0;
    const Rational size = t.coefficient.abs();
    bool negative = false;
    const std::string name =
        t.decision < model_.num_decisions
            ? model_.decision_name(t.decision)
            : derived(*derived_[static_cast<std::size_t>(t.decision - model_.num_decisions)],
                      negative);
    minus = minus != negative;
    add(minus, size == Rational(1) ? name : figure(size) + kTie + name);
  }
  if (!form.constant.is_zero() || out.empty())
    add(form.constant.sign() < 0, figure(form.constant.abs()));
  return out;
}

// The least of some is stored as minus the largest of their opposites.
std::string Algebra::derived(const Derived& d, bool& negative) {
  std::vector<std::string> args;
  switch (d.kind) {
    case Derived::Kind::exponential:
      return fmt::format("exp({})", text(d.args[0]));
    case Derived::Kind::logarithm:
      return fmt::format("log({})", text(d.args[0]));
    case Derived::Kind::power:
      if (d.shape == Derived::Shape::root) return fmt::format("sqrt({})", text(d.args[0]));
      [[fallthrough]];
    case Derived::Kind::quotient:
    case Derived::Kind::product: {
      for (const Expression& e : d.args) {
        const bool exponent = d.kind == Derived::Kind::power && !args.empty();
        const bool plain = exponent ? e.is_constant() : stands_alone(e, d.kind, args.empty());
        args.push_back(plain ? text(e) : "(" + text(e) + ")");
      }
      const char* sign = d.kind == Derived::Kind::product    ? " * "
                         : d.kind == Derived::Kind::quotient ? " / "
                                                             : " ^ ";
      return fmt::format("{}{}{}", args[0], sign, args[1]);
    }
    case Derived::Kind::largest: {
      if (d.shape == Derived::Shape::absolute) return fmt::format("abs({})", text(d.args[0]));
      const bool least = d.shape == Derived::Shape::smallest;
      for (const Expression& e : d.args) {
        if (args.size() == kMostParts) {
          args.push_back("...");
          break;
        }
        args.push_back(text(least ? -e : e));
      }
      negative = least;
      return fmt::format("{}({})", least ? "min" : "max", fmt::join(args, ", "));
    }
    case Derived::Kind::curve:
      return fmt::format("{}({})", d.curve->name.empty() ? "curve" : d.curve->name,
                         text(d.args[0]));
    case Derived::Kind::truth:
      return "[" + text(d.condition) + "]";
  }
  return {};
}

std::string Algebra::sided(const Condition& c) {
  try {
    const LinearRule rule = linear_rule(collector_, c);
    const std::string left = terms({0, rule.terms});
    if (rule.low == rule.high) return fmt::format("{} = {}", left, figure(rule.low));
    if (rule.low.is_finite() && rule.high.is_finite())
      return fmt::format("{} <= {} <= {}", figure(rule.low), left, figure(rule.high));
    if (rule.low.is_finite()) return fmt::format("{} >= {}", left, figure(rule.low));
    if (rule.high.is_finite()) return fmt::format("{} <= {}", left, figure(rule.high));
    return left + ", without a limit";
  } catch (const UsageError&) {  // a range with decisions on three sides
    return fmt::format("{} <= {} <= {}", text(c.low), text(c.body), text(c.high));
  }
}

std::string Algebra::by_family(const std::vector<Expression::Term>& terms) const {
  struct Part {
    std::size_t count = 0;
    Rational least, most;
  };
  std::map<Index, Part> parts;  // by first decision of the family
  for (const auto& t : terms) {
    Part& p = parts[model_.names_are_columns ? 0 : model_.family_of(t.decision).first];
    if (p.count++ == 0) p.least = p.most = t.coefficient;
    p.least = std::min(p.least, t.coefficient);
    p.most = std::max(p.most, t.coefficient);
  }
  // "100 of ship", "251 of open with -1 each"
  std::vector<std::string> told;
  for (const auto& [first, p] : parts) {
    std::string part =
        model_.names_are_columns
            ? counted(p.count, "column")
            : fmt::format("{} of {}", figure(Rational(static_cast<long long>(p.count))),
                          model_.family_of(first).name);
    if (p.least != p.most)
      part += " with " + range_of(p.least, p.most);
    else if (p.least != Rational(1))
      part += fmt::format(" with {}{}", figure(p.least), p.count > 1 ? " each" : "");
    told.push_back(std::move(part));
  }
  return listed(told);
}

std::string Algebra::short_text(const Condition& c, std::size_t most) {
  std::string whole = text(c);
  if (whole.size() <= most || !is_linear(c)) return whole;
  const LinearRule rule = linear_rule(collector_, c);
  const std::string sum = "the sum of " + by_family(rule.terms);
  if (rule.low == rule.high) return fmt::format("{}, is {}", sum, figure(rule.low));
  std::string out = sum;
  if (rule.low.is_finite()) out += fmt::format(", is at least {}", figure(rule.low));
  if (rule.high.is_finite()) out += fmt::format(", is at most {}", figure(rule.high));
  return out;
}

std::string Algebra::part(const Condition& c) {
  using K = Condition::Kind;
  const bool bare =
      c.kind == K::truth || c.kind == K::compare || c.kind == K::count || c.kind == K::negation;
  return bare ? text(c) : "(" + text(c) + ")";
}

std::string Algebra::text(const Condition& c) {
  using K = Condition::Kind;
  const auto joined = [&](std::string_view with) {
    std::vector<std::string> parts;
    for (const Condition& p : c.parts) {
      if (parts.size() == kMostParts) {
        parts.push_back("...");
        break;
      }
      parts.push_back(part(p));
    }
    return fmt::format("{}", fmt::join(parts, with));
  };
  switch (c.kind) {
    case K::compare:
      return sided(c);
    case K::truth:
      return text(c.body);
    case K::negation:
      return "not " + part(c.parts[0]);
    case K::all:
      return c.parts.empty() ? "nothing in particular" : joined(" and ");
    case K::any:
      return c.parts.empty() ? "something impossible" : joined(" or ");
    case K::exclusive:
      return joined(" xor ");
    case K::implies:
      return joined(" implies ");
    case K::same:
      return joined(" iff ");
    case K::count: {
      const auto n = static_cast<std::int32_t>(c.parts.size());
      const std::string how = c.least == c.most ? fmt::format("exactly {}", c.least)
                              : c.most >= n     ? fmt::format("at least {}", c.least)
                                                : fmt::format("at most {}", c.most);
      return fmt::format("{} of ({})", how, joined(", "));
    }
    case K::tour:
      return c.trips->text(collector_.numbers());
  }
  return {};
}

std::string Algebra::why_not(const Condition& c, const Evaluation& at, bool wanted) {
  using K = Condition::Kind;
  switch (c.kind) {
    case K::compare: {
      const LinearRule rule = linear_rule(collector_, c);
      Rational value = 0;
      value = at.value(c.body);
      std::string limit;
      if (!wanted) return fmt::format("{} holds, and must not", text(c));
      if (c.has_low && value < at.value(c.low)) limit = "at least " + figure(at.value(c.low));
      if (c.has_high && value > at.value(c.high)) limit = "at most " + figure(at.value(c.high));
      return fmt::format("{} is {}, {} is needed", text(c.body), figure(value), limit);
    }
    case K::truth:
      return fmt::format("{} is {}", text(c.body), figure(at.value(c.body)));
    case K::negation:
      return why_not(c.parts[0], at, !wanted);
    case K::implies:
      if (wanted)
        return fmt::format("{} holds, but {}", text(c.parts[0]), why_not(c.parts[1], at, true));
      return fmt::format("{} holds, and must not", text(c));
    case K::all:
    case K::any: {
      if ((c.kind == K::any) == wanted) {
        std::vector<std::string> parts;
        for (const Condition& p : c.parts) parts.push_back(why_not(p, at, wanted));
        return fmt::format("none of its {} ways: {}", parts.size(), fmt::join(parts, "; "));
      }
      for (const Condition& p : c.parts)
        if (!at.is(p, wanted)) return why_not(p, at, wanted);
      return text(c);
    }
    case K::exclusive:
    case K::same: {
      const bool a = at.is(c.parts[0]), b = at.is(c.parts[1]);
      if (a == b)
        return fmt::format("{} and {} {}", text(c.parts[0]), text(c.parts[1]),
                           a ? "both hold" : "both fail");
      return fmt::format("{} holds and {} does not", text(c.parts[a ? 0 : 1]),
                         text(c.parts[a ? 1 : 0]));
    }
    case K::count: {
      std::vector<std::string> held;
      for (const Condition& p : c.parts)
        if (at.is(p)) held.push_back(text(p));
      const auto n = static_cast<std::int32_t>(held.size());
      const std::string which = held.empty() ? "" : " (" + listed(held, 6) + ")";
      if (!wanted) return fmt::format("{} of {} hold, which must not be", n, c.parts.size());
      if (n >= c.least) return fmt::format("{} hold{}, at most {} may", n, which, c.most);
      const std::string how =
          n == 0 ? "none holds" : fmt::format("only {} {}", n, n == 1 ? "holds" : "hold");
      return fmt::format("{}{}, at least {} must", how, which, c.least);
    }
    case K::tour:
      return listed(read_trips(*c.trips, at.numbers(), at.values()).faults, 6);
  }
  return {};
}

}  // namespace kiteknot::report
