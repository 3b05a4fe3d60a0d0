#include "model/lowering_builder.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <fmt/format.h>

#include "base/interval.hpp"
#include "base/outward.hpp"
#include "mip/kinds/indicator_rows.hpp"
#include "model/evaluation.hpp"
#include "model/number_node.hpp"
#include "model/real_functions.hpp"

namespace kiteknot {

namespace {

// The greatest common divisor of whole coefficients that doubles hold exactly, as nearly all are;
// nothing where there is another one.
std::optional<std::int64_t> plain_divisor(const std::vector<Expression::Term>& terms) {
  std::int64_t divisor = 0;
  for (const Expression::Term& t : terms) {
    if (!t.coefficient.in_place() || !t.coefficient.is_integer()) return std::nullopt;
    const double size = std::abs(t.coefficient.to_double());
    if (!(size <= 0x1p53)) return std::nullopt;
    if (divisor != 1) divisor = std::gcd(divisor, static_cast<std::int64_t>(size));
  }
  return divisor;
}

}  // namespace

Rational whole_scale(const std::vector<Expression::Term>& terms) {
  if (const std::optional<std::int64_t> divisor = plain_divisor(terms))
    return *divisor <= 1 ? Rational(1) : Rational::ratio(1, *divisor);
  Rational denominators = 1, numerators = 0;
  for (const Expression::Term& t : terms) {
    denominators = Rational::lcm(denominators, t.coefficient.denominator());
    if (denominators > kExactLimit) return 0;
  }
  for (const Expression::Term& t : terms)
    numerators = Rational::gcd(numerators, (t.coefficient * denominators).abs());
  if (numerators.is_zero()) return 1;
  Rational scale = denominators / numerators;
  for (const Expression::Term& t : terms)
    if ((t.coefficient * scale).abs() > kExactLimit) return 0;
  return scale;
}

namespace {
// Whether the double that was rounded from a limit is the limit itself.
bool said(const Rational& limit, double rounded) {
  return !limit.is_finite() || (std::isfinite(rounded) && Rational::exactly(rounded) == limit);
}
}  // namespace

mip::LinearRow problem_row(const LinearForm& f, const Rational& low, const Rational& high,
                           const Rational& scale) {
  mip::LinearRow row;
  row.exact = !scale.is_zero();
  const Rational by = row.exact ? scale : Rational(1);
  row.entries.reserve(f.terms.size());
  for (const Expression::Term& t : f.terms)
    row.entries.push_back({t.decision, (t.coefficient * by).to_double()});
  const auto moved = [&](const Rational& l) { return l.is_finite() ? (l - f.constant) * by : l; };
  lp::Exact exact{0.0, 0.0, moved(low), moved(high)};
  row.lower = exact.low_as = outward(exact.low, false);
  row.upper = exact.high_as = outward(exact.high, true);
  if (row.exact && said(exact.low, row.lower) && said(exact.high, row.upper)) return row;
  if (!row.exact)
    for (const Expression::Term& t : f.terms) exact.values.push_back(t.coefficient * by);
  row.known = std::move(exact);
  return row;
}

// The greatest step of which both are multiples; 0 is a multiple of any.
Rational common_step(const Rational& a, const Rational& b) {
  const Rational denominators = Rational::lcm(a.denominator(), b.denominator());
  return Rational::gcd((a * denominators).abs(), (b * denominators).abs()) / denominators;
}

LinearForm plus(const LinearForm& a, const LinearForm& b, const Rational& scale) {
  LinearForm sum{a.constant + b.constant * scale, {}};
  std::size_t i = 0, k = 0;
  while (i < a.terms.size() || k < b.terms.size()) {
    const Index da = i < a.terms.size() ? a.terms[i].decision : std::numeric_limits<Index>::max();
    const Index db = k < b.terms.size() ? b.terms[k].decision : std::numeric_limits<Index>::max();
    Rational coefficient = 0;
    if (da <= db) coefficient += a.terms[i++].coefficient;
    if (db <= da) coefficient += b.terms[k++].coefficient * scale;
    if (!coefficient.is_zero()) sum.terms.push_back({std::move(coefficient), std::min(da, db)});
  }
  return sum;
}

LinearForm number_true(const Literals& literals) {
  LinearForm sum;
  for (const ColumnLiteral& l : literals) {
    sum.terms.push_back({l.positive ? 1 : -1, l.column});
    if (!l.positive) sum.constant += 1;
  }
  std::sort(sum.terms.begin(), sum.terms.end(),
            [](const auto& a, const auto& b) { return a.decision < b.decision; });
  // The same literal may count twice, and a column together with its opposite cancels.
  std::size_t kept = 0;
  for (std::size_t k = 0; k < sum.terms.size(); ++k) {
    if (kept > 0 && sum.terms[kept - 1].decision == sum.terms[k].decision)
      sum.terms[kept - 1].coefficient += sum.terms[k].coefficient;
    else
      sum.terms[kept++] = sum.terms[k];
  }
  sum.terms.resize(kept);
  std::erase_if(sum.terms, [](const auto& t) { return t.coefficient.is_zero(); });
  return sum;
}

LinearForm single(Index column, const Rational& coefficient, const Rational& constant) {
  return {constant, {{coefficient, column}}};
}

Builder::Builder(const ModelData& model, mip::Problem& problem, bool drop_integrality)
    : model_(model),
      problem_(problem),
      relaxed_(drop_integrality),
      collector_(model, [this](const std::shared_ptr<const Derived>& d) {
        return auxiliaries_[auxiliary_of_.at(d.get())].column;
      }) {}

Index Builder::add_column(const Rational& low, const Rational& high, bool integer) {
  columns_.push_back({low, high, integer, integer ? 1 : 0});
  const double lower = outward(low, false), upper = outward(high, true);
  const Index j = problem_.add_column(lower, upper, integer && !relaxed_, 0.0);
  if (!said(low, lower) || !said(high, upper))
    problem_.set_exact_bounds(j, {lower, upper, low, high});
  if (note != nullptr && (made_for.empty() || made_for.back().second != note->of))
    made_for.emplace_back(j, note->of);
  return j;
}

ColumnLiteral Builder::add_binary() {
  if (note != nullptr) ++note->binaries;
  return {add_column(0, 1, true), true};
}

bool Builder::binary(Index column) const {
  const Column& c = columns_[at(column)];
  return c.integer && c.low.sign() >= 0 && c.high <= Rational(1);
}

void Builder::prepare(const Expression& e) {
  for (const Expression::DerivedTerm& t : e.derived()) prepare(t.what);
}

void Builder::prepare(const std::shared_ptr<const Derived>& what) {
  if (auxiliary_of_.contains(what.get())) return;
  if (const auto simpler = simplified(what); simpler != what) {
    prepare(simpler);
    auxiliary_of_.emplace(what.get(), auxiliary_of_.at(simpler.get()));
    return;
  }
  for (const Expression& arg : what->args) prepare(arg);
  prepare(what->condition);
  const std::string structure = structure_of(*what);
  if (const auto same = by_structure_.find(structure);
      !structure.empty() && same != by_structure_.end()) {
    auxiliary_of_.emplace(what.get(), same->second);
    return;
  }
  const Range r = range_of(*what);
  Auxiliary a;
  a.what = what;
  a.note = note;
  a.column = add_column(r.low, r.high, what->kind == Derived::Kind::truth);
  columns_[at(a.column)].step = step_of(*what);
  columns_[at(a.column)].auxiliary = static_cast<Index>(auxiliaries_.size());
  if (note != nullptr) ++(what->kind == Derived::Kind::truth ? note->binaries : note->reals);
  auxiliary_of_.emplace(what.get(), auxiliaries_.size());
  if (!structure.empty()) by_structure_.emplace(structure, auxiliaries_.size());
  auxiliaries_.push_back(std::move(a));
  if (what->kind == Derived::Kind::curve) {  // wherever it stands
    const LinearForm x = form(what->args[0]);
    const Range reach = range(x);
    const std::vector<CurvePiece>& pieces = pieces_of(*what->curve);
    const Rational &from = pieces.front().from, &to = pieces.back().to;
    if (reach.low < from || reach.high > to) (void)add_row(x, from, to, nullptr);
  }
}

void Builder::prepare(const Condition& c) {
  for (const Expression* e : {&c.body, &c.low, &c.high}) prepare(*e);
  for (const Condition& part : c.parts) prepare(part);
}

LinearForm Builder::form(const Expression& e) {
  prepare(e);
  return collector_.collect(e);
}

LinearRule Builder::rule(const Condition& c) {
  for (const Expression* e : {&c.body, &c.low, &c.high}) prepare(*e);
  return linear_rule(collector_, c);
}

Range Builder::range(const LinearForm& f) const {
  Range r{f.constant, f.constant};
  bool low_open = false, high_open = false;
  for (const Expression::Term& t : f.terms) {
    const Column& c = columns_[at(t.decision)];
    const bool up = t.coefficient.sign() > 0;
    const Rational &near = up ? c.low : c.high, &far = up ? c.high : c.low;
    low_open = low_open || !near.is_finite();
    high_open = high_open || !far.is_finite();
    if (!low_open) r.low += near * t.coefficient;
    if (!high_open) r.high += far * t.coefficient;
  }
  if (low_open) r.low = Rational::minus_infinity();
  if (high_open) r.high = Rational::infinity();
  return r;
}

Rational Builder::step(const LinearForm& f) const {
  Rational common = 0;
  for (const Expression::Term& t : f.terms) {
    const Rational& own = columns_[at(t.decision)].step;
    if (own.is_zero()) return 0;
    common = common_step(common, t.coefficient * own);
  }
  return common.is_zero() ? Rational(1) : common;
}

// The same for a term that is not a sum, its constants included.
Rational Builder::step_of(const Derived& d) {
  if (!keeps_steps(d, numbers())) return 0;
  if (d.kind == Derived::Kind::power) {
    const LinearForm f = form(d.args[0]);
    const Rational by = step(f), n = evaluate(d.args[1], numbers());
    return by.is_zero() ? by
                        : power_of(common_step(f.constant, f.terms.empty() ? Rational(0) : by), n);
  }
  Rational common = 0;
  for (const Expression& arg : d.args) {
    const LinearForm f = form(arg);
    const Rational by = step(f);
    if (by.is_zero()) return 0;
    if (d.kind == Derived::Kind::curve) {
      // Over a piece the values go up by slope x step from the one at its first place.
      for (const CurvePiece& p : pieces_of(*d.curve)) {
        const Rational first = f.constant + by * ((p.from - f.constant) / by).ceil();
        common = common_step(common, p.at(first));
        common = common_step(common, p.slope * by);
      }
    } else if (d.kind == Derived::Kind::product) {
      const Rational own = common_step(f.constant, f.terms.empty() ? Rational(0) : by);
      common = common.is_zero() ? own : common * own;
    } else {
      common = common_step(common, common_step(f.constant, f.terms.empty() ? Rational(0) : by));
    }
  }
  return common.is_zero() ? Rational(1) : common;
}

void Builder::pull(const LinearForm& f, bool upper) {
  for (const Expression::Term& t : f.terms) {
    const Index k = columns_[at(t.decision)].auxiliary;
    if (k < 0 || t.decision == defining_) continue;
    Auxiliary& a = auxiliaries_[at(k)];
    ((t.coefficient.sign() > 0) == upper ? a.above : a.below) = true;
  }
}

Index Builder::add_row(const LinearForm& f, const Rational& low, const Rational& high,
                       Rational* scale_out) {
  if (high.is_finite()) pull(f, true);
  if (low.is_finite()) pull(f, false);
  const Rational scale = whole_scale(f.terms);
  mip::LinearRow row = problem_row(f, low, high, scale);
  const Rational by = row.exact ? scale : Rational(1);
  if (scale_out != nullptr) *scale_out = by;
  if (limits != nullptr)
    limits->emplace_back(low.is_finite() ? (low - f.constant) * by : low,
                         high.is_finite() ? (high - f.constant) * by : high);
  if (row.lower > row.upper) {  // a range whose lower limit lies above the upper one
    row.entries.clear();
    row.known.reset();
    row.lower = 1.0;
    row.upper = std::numeric_limits<double>::infinity();
  }
  if (note != nullptr) ++note->rows;
  return problem_.add_row(row);
}

// f <= high + M sum of (1 - g), with M the most by which f can pass high, as far as the data tell.
void Builder::guarded(LinearForm f, const Rational& low, const Rational& high,
                      const Literals& guards) {
  if (guards.empty()) {
    (void)add_row(f, low, high, nullptr);
    return;
  }
  // Where the row matters the guards hold: their columns are known.
  for (const ColumnLiteral& g : guards)
    for (std::size_t k = 0; k < f.terms.size(); ++k)
      if (f.terms[k].decision == g.column) {
        if (g.positive) f.constant += f.terms[k].coefficient;
        f.terms.erase(f.terms.begin() + static_cast<std::ptrdiff_t>(k));
        break;
      }
  const Range r = range(f);
  for (const bool upper : {true, false}) {
    const Rational& limit = upper ? high : low;
    if (!limit.is_finite()) continue;
    const Rational &far = upper ? r.high : r.low, &near = upper ? r.low : r.high;
    if (upper ? far <= limit : far >= limit) continue;  // holds in any case
    if (upper ? near > limit : near < limit) {          // cannot hold
      Literals never;
      for (const ColumnLiteral& g : guards) never.push_back(!g);
      clause(std::move(never));
      return;
    }
    if (!far.is_finite()) {
      conditional(f, upper ? Rational::minus_infinity() : limit,
                  upper ? limit : Rational::infinity(), guards);
      continue;
    }
    const Rational over = upper ? far - limit : limit - far;
    // upper: f + M sum g <= limit + M count, a negative guard g counting as 1 - x.
    LinearForm row = f;
    Rational moved = limit;
    const Rational bound = upper ? over : -over;
    for (const ColumnLiteral& g : guards) {
      row = plus(row, single(g.column), g.positive ? bound : -bound);
      if (g.positive) moved += bound;
    }
    if (note != nullptr) note->largest_bound = std::max(note->largest_bound, over);
    (void)add_row(row, upper ? Rational::minus_infinity() : moved,
                  upper ? moved : Rational::infinity(), nullptr);
  }
}

void Builder::conditional(const LinearForm& f, const Rational& low, const Rational& high,
                          Literals guards) {
  if (guards.size() > 1) {
    Literals together;
    for (const ColumnLiteral& g : guards) together.push_back(!g);
    const ColumnLiteral all = add_binary();
    together.push_back(all);
    clause(std::move(together));
    guards = {all};
  }
  if (high.is_finite()) pull(f, true);
  if (low.is_finite()) pull(f, false);
  if (relaxed_) {  // a relaxation has linear rows only; where a guard is held, it is known
    const Column& guard = columns_[at(guards[0].column)];
    if (guard.low == guard.high && (guard.low == Rational(1)) == guards[0].positive)
      (void)add_row(f, low, high, nullptr);
    return;
  }
  mip::IndicatorRow row;
  Index condition = problem_.condition_of_column(guards[0].column);
  if (condition < 0) condition = problem_.add_condition(guards[0].column);
  row.when = {condition, guards[0].positive};
  row.row = problem_row(f, low, high, whole_scale(f.terms));
  if (note != nullptr) ++note->conditional;
  mip::add_indicator_row(problem_, row);
}

void Builder::clause(Literals literals) {
  std::sort(literals.begin(), literals.end());
  literals.erase(std::unique(literals.begin(), literals.end()), literals.end());
  for (std::size_t k = 1; k < literals.size(); ++k)
    if (literals[k].column == literals[k - 1].column) return;  // x or not x
  if (note != nullptr) {
    ++note->clauses;
    --note->rows;  // counted as a clause
  }
  (void)add_row(number_true(literals), 1, Rational::infinity(), nullptr);
}

void Builder::settle() {
  for (bool again = true; again;) {
    again = false;
    for (std::size_t k = 0; k < auxiliaries_.size(); ++k) {
      note = auxiliaries_[k].note;
      for (const bool above : {true, false}) {
        const bool needed = above ? auxiliaries_[k].above : auxiliaries_[k].below;
        bool& done = above ? auxiliaries_[k].above_done : auxiliaries_[k].below_done;
        if (!needed || done) continue;
        done = true;
        defining_ = auxiliaries_[k].column;
        try {
          define(k, above);
        } catch (const UsageError& e) {
          if (note == nullptr) throw;
          throw UsageError(
              fmt::format("{}: {}", note->place.empty() ? note->of : note->place, e.what()));
        }
        defining_ = -1;
        again = true;
      }
    }
  }
}

}  // namespace kiteknot
