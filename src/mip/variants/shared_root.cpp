#include "mip/variants/shared_root.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "base/tolerances.hpp"
#include "lp/proof.hpp"
#include "mip/heuristics/enumerate.hpp"
#include "mip/heuristics/exchange.hpp"
#include "mip/problem/exact_sums.hpp"
#include "mip/propagators/propagation.hpp"
#include "mip/variants/variants.hpp"

namespace kiteknot::mip {
namespace {

using namespace shared;

class SharedRoot {
 public:
  SharedRoot(const Problem& problem, Variants& variants, const SharedOptions& options)
      : problem_(problem),
        variants_(variants),
        options_(options),
        step_(problem.goal_step()),
        domain_(problem_),
        propagation_(domain_),
        relaxation_(problem_) {
    interrupt_ = options.budget.interrupt(clock_);
    bounds_.fill(-kInf);
  }

  void run(SharedResult& result, std::size_t first) {
    for (std::size_t k = 0; k < variants_.count(); ++k)
      if (variants_.possible(k)) undecided_ |= only(k);
    if (undecided_ != 0) {
      relaxation_.simplex().set_seed(options_.budget.seed);
      if (!options_.basis.empty()) relaxation_.simplex().set_basis(options_.basis);
      for (const std::vector<double>& plan : options_.plans) offer(undecided_, plan);
      settle(options_.budget.nodes - result.relaxations);
    }
    for (std::size_t k = 0; k < variants_.count(); ++k) {
      SharedAnswer& a = result.answers[first + k];
      a.settled = ((undecided_ | left_) & only(k)) == 0;
      a.point = variants_.point(k);
    }
    result.relaxations += relaxations_;
    result.pivots += pivots_;
    result.work += work_.units() + relaxation_.simplex().work().units();
  }

 private:
  // A relaxation under the limits of one problem.
  struct Look {
    std::size_t of = 0;
    Each bounds{};  // on each problem still open, from the multipliers found
    std::vector<Interval> reduced;
  };

  [[nodiscard]] Cutoff cutoff(std::size_t k) const { return {variants_.best(k), step_}; }
  [[nodiscard]] bool closes(std::size_t k, double bound) const { return cutoff(k).closes(bound); }
  [[nodiscard]] double room(std::size_t k, double bound) const { return cutoff(k).room(bound); }

  // What the problem's own limits are for what comes next: the loosest among these problems.
  void loosen_to(Set set) {
    for (std::size_t v = 0; v < variants_.rows().size(); ++v) {
      double low = kInf, high = -kInf;
      for_each(set, [&](std::size_t k) {
        low = std::min(low, variants_.low(k, v));
        high = std::max(high, variants_.high(k, v));
      });
      problem_.set_limits(variants_.rows()[v], low, high);
    }
  }

  // A point that may break rows and bounds.
  void offer(Set to, std::span<const double> point) {
    double goal = 0.0;
    for (Index j = 0; j < problem_.num_columns(); ++j) {
      const double x = point[at(j)];
      if (x != std::round(x) || x < problem_.lower(j) || x > problem_.upper(j)) return;
      goal += problem_.cost(j) * x;
    }
    std::vector<double> values;
    std::size_t v = 0;
    for (Index i = 0; i < problem_.num_rows(); ++i) {
      double sum = 0.0;
      for (std::size_t k = 0; k < problem_.rows().index(i).size(); ++k)
        sum += problem_.rows().value(i)[k] * point[at(problem_.rows().index(i)[k])];
      if (v < variants_.rows().size() && variants_.rows()[v] == i) {
        values.push_back(sum);
        ++v;
      } else if (sum < problem_.row_lower(i) || sum > problem_.row_upper(i)) {
        return;
      }
    }
    variants_.offer(to, point, goal, values);
  }

  lp::Report relax(std::size_t k) {
    for (std::size_t v = 0; v < variants_.rows().size(); ++v)
      relaxation_.set_limits(variants_.rows()[v], variants_.low(k, v), variants_.high(k, v));
    relaxation_.follow(domain_);
    lp::Report report = relaxation_.solve({.cutoff = cutoff(k).target(), .interrupt = interrupt_});
    pivots_ += report.pivots;
    return report;
  }

  // With multipliers y, problem j is bounded by the bound of k plus y'(limits of j - limits of k).
  void bound_all(Look& look, Set set) {
    const std::vector<double> y = relaxation_.simplex().row_duals();
    const double own = lp::safe_bound(relaxation_.simplex().program(), y, &look.reduced);
    const std::vector<double> unscaled = relaxation_.row_duals();
    look.bounds.fill(-kInf);
    for_each(set, [&](std::size_t j) {
      double bound = own;
      for (std::size_t v = 0; v < variants_.rows().size() && bound > -kInf; ++v) {
        const double m = unscaled[at(variants_.rows()[v])];
        const double there = m > 0.0 ? variants_.low(look.of, v) : variants_.high(look.of, v);
        const double here = m > 0.0 ? variants_.low(j, v) : variants_.high(j, v);
        if (m == 0.0 || here == there || std::isinf(there)) continue;  // such a one counts as 0
        bound = std::isinf(here)
                    ? -kInf
                    : add_down(bound, add_down(multiply_down(m, here), -multiply_up(m, there)));
      }
      look.bounds[j] = bound;
    });
  }

  [[nodiscard]] Set open() const { return undecided_ | left_; }

  // Those whose best point is proven by their bound.
  void close() {
    for_each(open(), [&](std::size_t j) {
      if (closes(j, bounds_[j])) drop(only(j));
    });
  }
  void drop(Set set) {
    undecided_ &= ~set;
    left_ &= ~set;
  }

  // The problem with most room between its best point and its bound.
  [[nodiscard]] std::size_t neediest() const {
    std::size_t found = kMost;
    double most = -kInf;
    for_each(undecided_, [&](std::size_t k) {
      const double r = std::isfinite(variants_.best(k)) ? room(k, bounds_[k]) : kInf;
      if (found < kMost && r <= most) return;
      found = k;
      most = r;
    });
    return found;
  }

  // 1. propagate   2. while a problem is undecided: relax under the limits of the neediest, bound
  // and close all with its multipliers, and look through what is left of those it bounds well.
  void settle(std::int64_t most) {
    loosen_to(undecided_);
    if (!propagation_.run(domain_, work_)) return drop(undecided_);
    while (undecided_ != 0 && relaxations_ < most && !interrupt_.now())
      if (!look()) return;
  }

  // Settles at least one problem, or leaves it to a search of its own; false: nothing is known.
  bool look() {
    Look l;
    l.of = neediest();
    if (quick_) relaxation_.simplex().start_from_rows();
    const lp::Report report = relax(l.of);
    if (++relaxations_ == 1) quick_ = options_.basis.empty() && pivots_ < kFewPivots;
    if (report.status == lp::Status::infeasible) {
      drop(variants_.narrower(l.of));
      return true;
    }
    if (report.status != lp::Status::optimal && report.status != lp::Status::cutoff) return false;
    bound_all(l, open());
    for_each(open(), [&](std::size_t j) { bounds_[j] = std::max(bounds_[j], l.bounds[j]); });
    close();
    if ((undecided_ & only(l.of)) == 0) return true;
    if (report.status == lp::Status::cutoff) return false;
    look_around(l);
    const bool whole = offer_whole_point();
    close();
    if ((undecided_ & only(l.of)) == 0) return true;
    if (whole) return false;
    enumerate_rest(l);
    return true;
  }

  // The relaxed point where it is whole, nearly: judged in whole figures.
  bool offer_whole_point() {
    std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
    for (double& x : point) {
      const double whole = std::round(x);
      if (std::abs(x - whole) > Tolerances{}.integrality) return false;
      x = whole;
    }
    offer(open(), point);
    return true;
  }

  // The core around the relaxed point for all, then exchanges for the problem that it belongs to.
  void look_around(const Look& l) {
    loosen_to(open());
    PointsForMany around(variants_, open(), step_, l.bounds);
    best_in_core(problem_, relaxation_.point(), relaxation_.reduced_costs(), around, work_);
    if (variants_.point(l.of).empty()) return;
    constexpr std::int64_t kMostWork = 20'000;
    loosen_to(only(l.of));
    const auto better = exchange(problem_, variants_.point(l.of), kMostWork, work_);
    if (better) offer(open(), *better);
  }

  // Looks through the rest for all problems that these multipliers bound as well as their own;
  // where that is too much the problem is left.
  void enumerate_rest(const Look& l) {
    const double own = room(l.of, l.bounds[l.of]);
    Set near = only(l.of);
    bool all = false;
    if (own < kInf) {
      for_each(undecided_, [&](std::size_t j) {
        if (room(j, l.bounds[j]) <= own + step_) near |= only(j);
      });
      constexpr std::int64_t kMostPoints = 30'000;
      loosen_to(near);
      PointsForMany rest(variants_, near, step_, l.bounds);
      all = enumerate(problem_, domain_, {l.reduced, &relaxation_.simplex().program()}, rest,
                      kMostPoints, work_);
    }
    if (all) {
      drop(near);
      return close();
    }
    undecided_ &= ~only(l.of);  // every problem is to have its own look
    left_ |= only(l.of);
  }

  Problem problem_;
  Variants& variants_;
  const SharedOptions& options_;
  double step_;
  Stopwatch clock_;
  Interrupt interrupt_;
  WorkCounter work_;
  Domain domain_;
  Propagation propagation_;
  Relaxation relaxation_;
  Set undecided_ = 0;  // not looked at
  Set left_ = 0;       // looked at, to be searched
  Each bounds_{};
  bool quick_ = false;
  std::int64_t relaxations_ = 0, pivots_ = 0;
};

}  // namespace

bool can_share(const Problem& p) {
  return sums_are_exact(p);
}

namespace {

// How many of these share one root: every one keeps limits for the rows of all.
std::size_t at_once(std::span<const LimitChanges> changes) {
  constexpr std::size_t kMostLimits = 1'000'000;
  std::size_t count = 0, rows = 0;
  for (const LimitChanges& c : changes) {
    rows += c.size();
    if (count == kMost || (count > 0 && (count + 1) * rows > kMostLimits)) break;
    ++count;
  }
  return count;
}

// Points of neighbours that may serve the next ones, each once, the most recent last.
void keep_points(std::vector<std::vector<double>>& plans, const Variants& variants) {
  constexpr std::size_t kMostPoints = 2 * kMost;
  for (std::size_t k = 0; k < variants.count(); ++k) {
    const std::vector<double>& point = variants.point(k);
    if (point.empty() || std::ranges::find(plans, point) != plans.end()) continue;
    plans.push_back(point);
    if (plans.size() > kMostPoints) plans.erase(plans.begin());
  }
}

}  // namespace

SharedResult settle_at_root(const Problem& problem, const std::vector<LimitChanges>& changes,
                            const SharedOptions& options) {
  SharedResult result;
  result.answers.resize(changes.size());
  Problem whole_limits = problem;
  if (!can_share(problem) || !whole_limits.round_limits()) return result;
  const Stopwatch clock;
  SharedOptions rest = options;
  const Interrupt interrupt = options.budget.interrupt(clock);
  for (std::size_t first = 0, count = 0; first < changes.size(); first += count) {
    if (first > 0 && interrupt.now()) break;  // the others are not settled
    count = at_once(std::span(changes).subspan(first));
    Variants variants(whole_limits, std::span(changes).subspan(first, count));
    rest.budget = options.budget.less(clock.seconds(), 0);
    SharedRoot(whole_limits, variants, rest).run(result, first);
    keep_points(rest.plans, variants);
  }
  return result;
}

}  // namespace kiteknot::mip
