// Terms that no rows say: products, quotients, powers, exp and log of decisions. Each becomes a
// column with a nonlinear term of its own (mip/kinds/nonlinear_terms.hpp), after
//   simplifying   x y x is x^2 y, a quotient a product with a power of -1
//   sharing       terms of one structure are one column
//   rows          a product with binaries, and a power of few whole values, need no such term
// Source: Smith and Pantelides 1999; Tawarmalani and Sahinidis 2004, "Global optimization of
// mixed-integer nonlinear programs".

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/interval_functions.hpp"
#include "base/outward.hpp"
#include "base/text.hpp"
#include "mip/kinds/nonlinear_terms.hpp"
#include "model/evaluation.hpp"
#include "model/lowering_builder.hpp"
#include "model/number_node.hpp"
#include "model/real_functions.hpp"

namespace kiteknot {
namespace {

using Kind = Derived::Kind;

constexpr int kMostDegree = 100;  // whole powers beyond it are taken as real ones

bool smooth(Kind kind) {
  return kind == Kind::quotient || kind == Kind::power || kind == Kind::exponential ||
         kind == Kind::logarithm;
}

// The derived term that the expression is, with nothing around it.
const Derived* alone(const Expression& e) {
  if (!e.terms().empty() || !e.factored().empty() || e.derived().size() != 1 ||
      !e.constant().is_zero())
    return nullptr;
  const Expression::DerivedTerm& t = e.derived().front();
  return t.coefficient == Rational(1) && !t.factor ? t.what.get() : nullptr;
}

std::string told(const LinearForm& f) {
  std::string text = f.constant.text();
  for (const Expression::Term& t : f.terms)
    text += fmt::format(" {}x{}", t.coefficient.text(), t.decision);
  return text;
}

Interval outward_range(const Range& r) {
  return {outward(r.low, false), outward(r.high, true)};
}

Rational end(double v) {
  if (std::isinf(v)) return v > 0.0 ? Rational::infinity() : Rational::minus_infinity();
  return Rational::exactly(v);
}

struct PartOfProduct {
  Expression of;
  std::string form;
  int times = 1;
};

}  // namespace

std::shared_ptr<const Derived> Builder::simplified(const std::shared_ptr<const Derived>& d) {
  if (made_.contains(d)) return d;
  if (d->kind == Kind::power) {  // (x^p)^q is x^(p q) for x from 0 on
    const Derived* inner = alone(d->args[0]);
    if (inner == nullptr || inner->kind != Kind::power ||
        range(form(inner->args[0])).low.sign() < 0)
      return d;
    const Rational n = evaluate(inner->args[1], numbers()) * evaluate(d->args[1], numbers());
    return *made_
                .insert(std::make_shared<const Derived>(
                    Derived{Kind::power, {inner->args[0], Expression(n)}, {}, {}, {}}))
                .first;
  }
  if (d->kind != Kind::product && d->kind != Kind::quotient) return d;
  std::vector<PartOfProduct> parts;
  bool deeper = false;
  const auto take = [&](const auto& self, const Expression& e, int times) -> void {
    const Derived* inner = alone(e);
    if (inner != nullptr && inner->kind == Kind::product) {
      deeper = true;
      for (const Expression& arg : inner->args) self(self, arg, times);
      return;
    }
    if (inner != nullptr && inner->kind == Kind::quotient) {
      deeper = true;
      self(self, inner->args[0], times);
      self(self, inner->args[1], -times);
      return;
    }
    if (inner != nullptr && inner->kind == Kind::power) {
      const Rational n = evaluate(inner->args[1], numbers());
      if (n.is_integer() && n.abs() <= Rational(kMostDegree) && !n.is_zero()) {
        deeper = true;
        const int by = static_cast<int>(n.to_double());
        return self(self, inner->args[0], times * by);
      }
    }
    const std::string form = told(this->form(e));
    const auto same = std::ranges::find(parts, form, &PartOfProduct::form);
    if (same == parts.end()) return parts.push_back({e, form, times});
    deeper = true;
    same->times += times;
  };
  take(take, d->args[0], 1);
  take(take, d->args[1], d->kind == Kind::quotient ? -1 : 1);
  if (!deeper && d->kind == Kind::product) return d;
  std::erase_if(parts, [](const PartOfProduct& p) { return p.times == 0; });
  // Binaries last: what they switch is the product of the others.
  std::ranges::stable_sort(parts, {}, [&](const PartOfProduct& p) {
    return std::pair(only_binaries(form(p.of)), p.form);
  });
  Expression product = 1;
  const Derived* last = nullptr;
  for (const PartOfProduct& p : parts) {
    const Expression next = power(p.of, p.times);
    product = product.is_constant() ? next * product : product * next;
    last = alone(product);
    if (last != nullptr && last->kind == Kind::product)
      made_.insert(product.derived().front().what);
  }
  if (last != nullptr) return product.derived().front().what;
  // One decision, or a figure: a power of 1.
  auto plain = std::make_shared<const Derived>(
      Derived{Kind::power, {std::move(product), Expression(1)}, {}, {}, {}});
  made_.insert(plain);
  return plain;
}

std::string Builder::structure_of(const Derived& d) {
  if (d.kind == Kind::product) {
    std::string a = told(form(d.args[0])), b = told(form(d.args[1]));
    if (b < a) std::swap(a, b);
    return fmt::format("product|{}|{}", a, b);
  }
  if (!smooth(d.kind) || d.kind == Kind::quotient) return {};
  const std::string of = told(form(d.args[0]));
  if (d.kind == Kind::power)
    return fmt::format("power {}|{}", evaluate(d.args[1], numbers()).text(), of);
  return fmt::format("{}|{}", d.kind == Kind::exponential ? "exp" : "log", of);
}

mip::UnaryFunction Builder::function_of(const Derived& d) const {
  if (d.kind == Kind::exponential) return mip::UnaryFunction::exponential();
  if (d.kind == Kind::logarithm) return mip::UnaryFunction::logarithm();
  const Rational n = evaluate(d.args[1], numbers());
  if (n.is_integer() && n.abs() <= Rational(kMostDegree))
    return mip::UnaryFunction::whole_power(static_cast<int>(n.to_double()));
  return mip::UnaryFunction::real_power(n.to_double());
}

Range Builder::range_of_smooth(const Derived& d) {
  const Range r = range(form(d.args[0]));
  if (d.kind == Kind::power) {
    const Rational n = evaluate(d.args[1], numbers());
    if (n == Rational(1)) return r;
    if (n.is_zero()) return {1, 1};
    // Exactly, where the ends are, so that whole values stay whole.
    if (n.is_integer() && n.sign() > 0 && r.low.is_finite() && r.high.is_finite() &&
        n <= Rational(kMostDegree)) {
      const Rational a = power_of(r.low, n), b = power_of(r.high, n);
      const bool even = (n / Rational(2)).is_integer();
      const bool turns = even && r.low.sign() < 0 && r.high.sign() > 0;
      return {turns ? Rational(0) : std::min(a, b), std::max(a, b)};
    }
  }
  const Interval y = function_of(d).values(outward_range(r));
  if (is_empty(y)) return {0, 0};  // a check says so before the search
  return {end(y.low), end(y.high)};
}

std::string Builder::names_in(const LinearForm& f) const {
  std::vector<std::string> names;
  const auto add = [&](const std::string& name) {
    if (std::ranges::find(names, name) == names.end()) names.push_back(name);
  };
  for (const Expression::Term& t : f.terms) {
    if (t.decision < model_.num_decisions) {
      add(model_.decision_name(t.decision));
      continue;
    }
    const Index k = columns_[at(t.decision)].auxiliary;
    if (k < 0) continue;
    const auto inside = [&](const auto& self, const Expression& e) -> void {
      for (const Expression::Term& u : e.terms()) add(model_.decision_name(u.decision));
      for (const Expression::FactoredTerm& u : e.factored())
        if (u.decision >= 0) add(model_.decision_name(u.decision));
      for (const Expression::DerivedTerm& u : e.derived())
        for (const Expression& arg : u.what->args) self(self, arg);
    };
    for (const Expression& arg : auxiliaries_[at(k)].what->args) inside(inside, arg);
  }
  return listed(names, 4);
}

// A column of its own where it is more than one.
Index Builder::column_of(const LinearForm& f) {
  if (f.terms.size() == 1 && f.constant.is_zero() && f.terms[0].coefficient == Rational(1))
    return f.terms[0].decision;
  const std::string form = told(f);
  if (const auto known = column_of_form_.find(form); known != column_of_form_.end())
    return known->second;
  const Range r = range(f);
  const Index column = add_column(r.low, r.high, false);
  if (note != nullptr) ++note->reals;
  column_of_form_.emplace(form, column);
  (void)add_row(plus(single(column), f, -1), 0, 0, nullptr);
  steps_.push_back({column, f});
  return column;
}

// Few whole arguments: the term is a curve through its values, and those are fractions.
bool Builder::define_by_values(const Auxiliary& a, bool above) {
  constexpr int kFew = 32;
  const Derived& d = *a.what;
  if (d.kind != Kind::power || !tells_fractions(d, numbers())) return false;
  const LinearForm x = form(d.args[0]);
  const Range r = range(x);
  const Rational by = step(x), n = evaluate(d.args[1], numbers());
  if (by.is_zero() || !r.low.is_finite() || !r.high.is_finite() ||
      (r.high - r.low) > by * Rational(kFew))
    return false;
  if (n.sign() < 0 && r.low.sign() <= 0 && r.high.sign() >= 0) return false;
  std::vector<CurvePiece> pieces;
  const Rational first = x.constant + by * ((r.low - x.constant) / by).ceil();
  for (Rational v = first; v + by <= r.high; v += by) {
    const Rational here = power_of(v, n), next = power_of(v + by, n);
    pieces.push_back({v, v + by, here, (next - here) / by});
  }
  if (pieces.empty()) {  // one value
    (void)add_row(single(a.column), above ? power_of(first, n) : Rational::minus_infinity(),
                  above ? Rational::infinity() : power_of(first, n), nullptr);
    return true;
  }
  define_pieces(a, x, pieces, above, fmt::format("{} ^ {}", names_in(x), figure(n)));
  return true;
}

// A power of a decision among listed values: its value at the one that is chosen.
std::optional<LinearForm> Builder::power_by_list(const Derived& d) {
  if (d.kind != Kind::power || !tells_fractions(d, numbers())) return std::nullopt;
  const LinearForm x = form(d.args[0]);
  if (x.terms.size() != 1) return std::nullopt;
  const auto list = listed_.find(x.terms[0].decision);
  if (list == listed_.end()) return std::nullopt;
  const Rational n = evaluate(d.args[1], numbers());
  LinearForm value;
  for (const Expression::Term& t : list->second.terms) {
    const Rational v = x.constant + x.terms[0].coefficient * t.coefficient;
    if (v.is_zero() && n.sign() < 0) return std::nullopt;
    value.terms.push_back({power_of(v, n), t.decision});
  }
  return value;
}

bool Builder::define_by_list(const Auxiliary& a, bool above) {
  const auto value = power_by_list(*a.what);
  if (!value) return false;
  (void)add_row(plus(single(a.column), *value, -1),
                above ? Rational(0) : Rational::minus_infinity(),
                above ? Rational::infinity() : Rational(0), nullptr);
  return true;
}

// With what binaries choose in the place of listed decisions.
LinearForm Builder::by_choice(const LinearForm& f) {
  LinearForm out{f.constant, {}};
  for (const Expression::Term& t : f.terms) {
    const auto list = listed_.find(t.decision);
    const Index k = columns_[at(t.decision)].auxiliary;
    std::optional<LinearForm> chosen;
    if (list != listed_.end())
      chosen = list->second;
    else if (k >= 0)
      chosen = power_by_list(*auxiliaries_[at(k)].what);
    out = plus(out, chosen ? *chosen : single(t.decision), t.coefficient);
  }
  std::erase_if(out.terms, [](const Expression::Term& t) { return t.coefficient.is_zero(); });
  return out;
}

void Builder::define_smooth(const Auxiliary& a, bool above) {
  const Derived& d = *a.what;
  const LinearForm x = form(d.args[0]);
  const Rational low = above ? Rational(0) : Rational::minus_infinity(),
                 high = above ? Rational::infinity() : Rational(0);
  if (d.kind == Kind::power) {
    const Rational n = evaluate(d.args[1], numbers());
    if (n == Rational(1) || n.is_zero() || x.terms.empty()) {
      const LinearForm value = n == Rational(1) ? x
                               : n.is_zero()    ? LinearForm{1, {}}
                                                : LinearForm{power_of(x.constant, n), {}};
      (void)add_row(plus(single(a.column), value, -1), low, high, nullptr);
      return;
    }
    // Binaries in fractions would say less than the term itself does.
    if (!relaxed_ && (define_by_list(a, above) || define_by_values(a, above))) return;
  }
  mip::NonlinearTerm term;
  term.value = a.column;
  term.above = above;
  term.below = !above;
  LinearForm z;
  if (d.kind == Kind::product) {
    z = form(d.args[1]);
    term.x = column_of(x);
    term.z = column_of(z);
    if (term.x == term.z) {
      term.z = -1;
      term.f = mip::UnaryFunction::whole_power(2);
    }
  } else {
    term.f = function_of(d);
    term.x = column_of(x);
  }
  for (const LinearForm* f : {&x, static_cast<const LinearForm*>(&z)})
    for (const bool upper : {true, false}) pull(*f, upper);
  const auto [known, fresh] = term_of_value_.emplace(term.value, terms_.size());
  if (!fresh) {  // its other side
    mip::NonlinearTerm& t = terms_[known->second].term;
    t.above = t.below = true;
    return;
  }
  terms_.push_back({term, x, z, a.what, note});
}

// The expression in the words of its families, as far as it is short.
std::string Builder::words_of(const Expression& e, int deep) {
  constexpr std::size_t kMostTerms = 3;
  constexpr int kDeepest = 2;
  const LinearForm f = form(e);
  if (f.terms.size() > kMostTerms) return fmt::format("a sum of {}", f.terms.size());
  std::string text;
  for (const Expression::Term& t : f.terms) {
    std::string name;
    const Index k = columns_[at(t.decision)].auxiliary;
    if (t.decision < model_.num_decisions)
      name = model_.names_are_columns ? model_.decision_name(t.decision)
                                      : model_.family_of(t.decision).name;
    else if (k >= 0 && deep < kDeepest)
      name = words_of(*auxiliaries_[at(k)].what, deep + 1);
    else
      return "a term";
    const bool minus = t.coefficient.sign() < 0;
    if (!text.empty()) text += minus ? " - " : " + ";
    if (text.empty() && minus) text += "-";
    if (t.coefficient.abs() != Rational(1)) text += figure(t.coefficient.abs()) + " ";
    text += name;
  }
  if (!f.constant.is_zero()) {
    text += f.constant.sign() < 0 ? " - " : " + ";
    text += figure(f.constant.abs());
  }
  return text;
}

std::string Builder::words_of(const Derived& d, int deep) {
  const auto part = [&](std::size_t k) {
    std::string text = words_of(d.args[k], deep);
    return text.find(' ') == std::string::npos || text.starts_with("a ") ? text : "(" + text + ")";
  };
  switch (d.kind) {
    case Kind::product:
      return fmt::format("{} x {}", part(0), part(1));
    case Kind::quotient:
      return fmt::format("{} / {}", part(0), part(1));
    case Kind::exponential:
      return fmt::format("exp({})", words_of(d.args[0], deep));
    case Kind::logarithm:
      return fmt::format("log({})", words_of(d.args[0], deep));
    case Kind::power:
      if (d.shape == Derived::Shape::root)
        return fmt::format("sqrt({})", words_of(d.args[0], deep));
      return fmt::format("{} ^ {}", part(0), figure(evaluate(d.args[1], numbers())));
    default:
      return "a term";
  }
}

// "thrust x span: two planes below, two above, split where it is off"
void Builder::tell_smooth(const PlacedTerm& t) {
  if (t.note == nullptr) return;
  std::string how;
  bool split = t.term.product();       // tangents need no branching
  const auto side = [&](bool above) {  // a value is held above by what lies below the term
    if (!(above ? t.term.above : t.term.below)) return;
    if (!how.empty()) how += ", ";
    if (t.term.product()) {
      how += "two planes";
    } else {
      const Interval x = intersection(outward_range(range(t.x)), t.term.f->domain());
      const auto bend = t.term.f->bend(x);
      split = split || bend == mip::UnaryFunction::Bend::both ||
              (bend == mip::UnaryFunction::Bend::convex) != above;
      how += bend == mip::UnaryFunction::Bend::both                ? "lines"
             : (bend == mip::UnaryFunction::Bend::convex) == above ? "tangents"
                                                                   : "a chord";
    }
    how += above ? " below" : " above";
  };
  side(true);
  side(false);
  const std::string told =
      fmt::format("{}: {}{}", words_of(*t.what, 0), how, split ? ", split where it is off" : "");
  if (std::ranges::find(t.note->how, told) == t.note->how.end()) t.note->how.push_back(told);
}

void Builder::add_terms() {
  if (terms_.empty()) return;
  need_domains();
  // Each after those whose values it takes.
  const std::unordered_map<Index, std::size_t>& term_of = term_of_value_;
  std::unordered_map<Index, std::size_t> step_of_column;
  for (std::size_t k = 0; k < steps_.size(); ++k) step_of_column.emplace(steps_[k].first, k);
  std::vector<char> done(columns_.size(), 0);
  const auto place = [&](const auto& self, Index column) -> void {
    if (column < 0 || done[at(column)]) return;
    done[at(column)] = 1;
    if (const auto t = term_of.find(column); t != term_of.end()) {
      self(self, terms_[t->second].term.x);
      self(self, terms_[t->second].term.z);
    } else if (const auto s = step_of_column.find(column); s != step_of_column.end()) {
      std::vector<lp::Entry> entries;
      for (const Expression::Term& e : steps_[s->second].second.terms) {
        self(self, e.decision);
        entries.push_back({e.decision, e.coefficient.to_double()});
      }
      mip::add_linear_step(
          problem_, {column, std::move(entries), steps_[s->second].second.constant.to_double()});
    }
    if (const auto t = term_of.find(column); t != term_of.end())
      mip::add_nonlinear_term(problem_, terms_[t->second].term);
  };
  for (const PlacedTerm& t : terms_) {
    place(place, t.term.value);
    tell_smooth(t);
  }
  need_ends();
}

}  // namespace kiteknot
