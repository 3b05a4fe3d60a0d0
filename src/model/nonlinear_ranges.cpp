// What nonlinear terms need of their arguments, before anything is searched: that they stay within
// what the functions are stated for, and have ends where a chord or a plane is drawn over them.
// Limits count, then rules one by one, then all linear rows together.

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/interval_functions.hpp"
#include "base/text.hpp"
#include "mip/propagators/propagation.hpp"
#include "mip/relaxation/relaxation.hpp"
#include "model/lowering_builder.hpp"

namespace kiteknot {
namespace {

constexpr double kNearZero = 1e-12;  // what rounding outward may leave below 0

[[noreturn]] void refuse(const LoweringNote* note, const std::string& message) {
  const std::string place = note == nullptr ? "" : note->place.empty() ? note->of : note->place;
  throw UsageError(place.empty() ? message : fmt::format("{}: {}", place, message));
}

}  // namespace

// The column's least or greatest value that all linear rows together allow, rounded outward; no end
// where that is not known.
double Builder::end_by_rows(Index column, bool upper) const {
  mip::Problem here = problem_;
  here.clear_goal();
  here.set_cost(column, upper ? -1.0 : 1.0);
  here.set_goal_facts(true, 0.0);
  mip::Relaxation relaxation(here);
  if (relaxation.solve({}).status != lp::Status::optimal) return upper ? kInf : -kInf;
  const double bound = relaxation.simplex().sharp_bound();
  return upper ? -bound : bound;
}

// Where the propagated range does not do, all rows together may.
Interval Builder::tightened(Index column, Interval range, bool low, bool high) {
  if (low) range.low = std::max(range.low, end_by_rows(column, false));
  if (high) range.high = std::min(range.high, end_by_rows(column, true));
  problem_.set_bounds(column, std::max(range.low, problem_.lower(column)),
                      std::min(range.high, problem_.upper(column)));
  return range;
}

// What rules and limits leave of the arguments lies within what the functions are stated for.
void Builder::need_domains() {
  mip::Domain domain(problem_);
  mip::Propagation propagation(domain);
  WorkCounter work;
  if (!propagation.run(domain, work)) return;  // nothing is feasible: the search will say why
  for (const PlacedTerm& t : terms_) {
    if (!t.term.f) continue;
    const mip::UnaryFunction& f = *t.term.f;
    Interval x{domain.lower(t.term.x), domain.upper(t.term.x)};
    const std::string names = names_in(t.x),
                      of = t.x.terms.size() == 1 ? names : "a sum of " + names;
    const bool half = f.domain().low == 0.0;
    const Interval near = f.values({0.0, 1.0});
    const bool at_zero = half && std::isfinite(near.low) && std::isfinite(near.high);
    const auto outside = [&] { return half && (at_zero ? x.low < 0.0 : x.low <= 0.0); };
    if (outside()) x = tightened(t.term.x, x, true, false);
    if (at_zero && x.low < 0.0 && x.low > -kNearZero) {  // by rounding: it is cut there
      problem_.set_bounds(t.term.x, 0.0, problem_.upper(t.term.x));
      continue;
    }
    if (outside())
      refuse(t.note,
             fmt::format("a {} of {} needs it {} 0, and its limits let it go to {}; {} "
                         "needs a bound that says so",
                         at_zero ? "root or power" : "log or power", of, at_zero ? "from" : "above",
                         std::isfinite(x.low) ? figure(Rational(x.low)) : "where there is no end",
                         names));
    // Whoever looks at the column's own limits is to find them within the domain.
    const Interval own{problem_.lower(t.term.x), problem_.upper(t.term.x)};
    const bool inverse = f.algebraic() && f.degree() < 0;
    if ((half && own.low < x.low && own.low <= 0.0) || (inverse && contains(own, 0.0)))
      problem_.set_bounds(t.term.x, std::max(own.low, x.low), std::min(own.high, x.high));
    if (!inverse || !contains(x, 0.0)) continue;
    x = tightened(t.term.x, x, true, true);
    if (contains(x, 0.0))
      refuse(t.note,
             fmt::format("it is divided by {}, which may be 0; {} needs a bound away from 0", of,
                         names));
  }
}

// A chord, or a plane, needs both ends of what it is over.
void Builder::need_ends() {
  mip::Domain domain(problem_);
  mip::Propagation propagation(domain);
  WorkCounter work;
  if (!propagation.run(domain, work)) return;
  for (const PlacedTerm& t : terms_) {
    const auto need = [&](Index column, const LinearForm& f) {
      Interval x{domain.lower(column), domain.upper(column)};
      if (std::isfinite(x.low) && std::isfinite(x.high)) return;
      x = tightened(column, x, std::isinf(x.low), std::isinf(x.high));
      if (std::isfinite(x.low) && std::isfinite(x.high)) return;
      const std::string names = names_in(f);
      refuse(t.note,
             fmt::format("{} has no {} that limits or rules give it, and a nonlinear term of it "
                         "cannot be bounded without; {} needs a bound",
                         f.terms.size() == 1 ? names : "a sum of " + names,
                         std::isfinite(x.low) ? "greatest value" : "least value", names));
    };
    if (t.term.product()) {
      need(t.term.x, t.x);
      need(t.term.z, t.z);
      continue;
    }
    const auto bend = t.term.f->bend(
        intersection({domain.lower(t.term.x), domain.upper(t.term.x)}, t.term.f->domain()));
    const bool by_chord = bend == mip::UnaryFunction::Bend::both ||
                          (bend == mip::UnaryFunction::Bend::concave && t.term.above) ||
                          (bend == mip::UnaryFunction::Bend::convex && t.term.below);
    if (by_chord) need(t.term.x, t.x);
  }
}

}  // namespace kiteknot
