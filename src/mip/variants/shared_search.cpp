#include "mip/variants/shared_search.hpp"

#include <algorithm>
#include <bit>
#include <cmath>

#include "base/at.hpp"
#include "lp/proof.hpp"
#include "mip/branching/pseudo_costs.hpp"
#include "mip/heuristics/enumerate.hpp"
#include "mip/heuristics/exchange.hpp"
#include "mip/problem/exact_sums.hpp"
#include "mip/propagators/propagation.hpp"
#include "mip/variants/variants.hpp"

namespace kiteknot::mip {
namespace {

using namespace shared;

class SharedSearch {
 public:
  SharedSearch(const Problem& problem, Variants& variants, const SharedOptions& options)
      : problem_(problem),
        variants_(variants),
        options_(options),
        step_(problem.goal_step()),
        domain_(problem_),
        propagation_(domain_),
        relaxation_(problem_),
        pseudo_costs_(problem_.num_columns()) {
    interrupt_ = options.budget.interrupt(clock_);
  }

  void run(SharedResult& result, std::size_t first) {
    Set all = 0;
    for (std::size_t k = 0; k < variants_.count(); ++k)
      if (variants_.possible(k)) all |= only(k);
    if (all != 0) {
      relaxation_.simplex().set_seed(options_.budget.seed);
      loosen_to(all);
      if (!options_.basis.empty()) relaxation_.simplex().set_basis(options_.basis);
      for (const std::vector<double>& plan : options_.plans) offer(all, plan);
      Each bounds;
      bounds.fill(-kInf);
      Here root{all, 0, bounds, {}};
      if (settle(root, 0, From{}) && root.divided != 0) divide_in_groups(root);
    }
    for (std::size_t k = 0; k < variants_.count(); ++k) {
      SharedAnswer& a = result.answers[first + k];
      a.settled = (unfinished_ & only(k)) == 0;
      a.point = variants_.point(k);
    }
    result.nodes += nodes_;
    result.pivots += pivots_;
    result.work += work_.units() + relaxation_.simplex().work().units();
  }

 private:
  // A relaxation under the limits of one problem.
  struct Look {
    std::size_t of = 0;
    Each bounds{};  // on each problem still open, from the multipliers found
    std::vector<Interval> reduced;
    double objective = 0.0;
  };
  struct Split {
    Index column = -1;
    double value = 0.0, objective = 0.0, room = -kInf;
    std::size_t of = 0;
    std::shared_ptr<const lp::Basis> basis;
  };
  // What was seen of a problem at the root.
  struct Root {
    Each bounds{};  // on the others, from its multipliers
    Split split;
  };
  struct Here {
    Set undecided = 0;  // not settled at this node
    Set divided = 0;    // to be settled in its parts
    Each bounds{};
    Split split;
  };
  // Where the node came from, for pseudo-costs.
  struct From {
    Split split;
    bool up = false;
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

  void close(Here& here) {
    const auto drop = [&](Set& set) {
      for_each(set, [&](std::size_t j) {
        if (closes(j, here.bounds[j])) set &= ~only(j);
      });
    };
    drop(here.undecided);
    drop(here.divided);
  }

  // The problem with most room between its best point and its bound.
  [[nodiscard]] std::size_t neediest(const Here& here) const {
    std::size_t found = kMost;
    double most = -kInf;
    for_each(here.undecided, [&](std::size_t k) {
      const double r = std::isfinite(variants_.best(k)) ? room(k, here.bounds[k]) : kInf;
      if (found < kMost && r <= most) return;
      found = k;
      most = r;
    });
    return found;
  }

  bool over_limits() { return nodes_ >= options_.budget.nodes || interrupt_.now(); }

  // 1. propagate   2. while a problem is undecided: relax under the limits of the neediest, bound
  // and close all with its multipliers, and look through what is left of those it bounds well.
  // What is divided then is to be settled in the parts of the node; false: there are none.
  bool settle(Here& here, int depth, const From& from) {
    const Set open = here.undecided;
    if (over_limits()) {
      unfinished_ |= open;
      return false;
    }
    ++nodes_;
    loosen_to(open);
    if (!propagation_.run(domain_, work_)) return false;
    close(here);
    for (bool first = true; here.undecided != 0; first = false)
      if (!look(here, depth, first ? from : From{})) {
        unfinished_ |= here.undecided | here.divided;
        return false;
      }
    return here.divided != 0;
  }

  // Settles at least one problem, or leaves it to the parts of the node; false: nothing is known.
  bool look(Here& here, int depth, const From& from) {
    Look l;
    l.of = neediest(here);
    if (depth == 0 && quick_root_) relaxation_.simplex().start_from_rows();
    const lp::Report report = relax(l.of);
    quick_root_ = quick_root_ || (nodes_ == 1 && options_.basis.empty() && pivots_ < kFewPivots);
    if (report.status == lp::Status::infeasible) {
      here.undecided &= ~variants_.narrower(l.of);
      here.divided &= ~variants_.narrower(l.of);
      return true;
    }
    if (report.status != lp::Status::optimal && report.status != lp::Status::cutoff) return false;
    l.objective = report.objective;
    if (from.split.column >= 0 && from.split.of == l.of) {
      const double v = from.split.value;
      pseudo_costs_.learn({from.split.column, from.up,
                           from.up ? std::ceil(v) - v : v - std::floor(v),
                           report.objective - from.split.objective});
    }
    bound_all(l, here.undecided | here.divided);
    for_each(here.undecided | here.divided,
             [&](std::size_t j) { here.bounds[j] = std::max(here.bounds[j], l.bounds[j]); });
    close(here);
    if ((here.undecided & only(l.of)) == 0) return true;
    if (report.status == lp::Status::cutoff) return false;
    if (depth == 0) look_around(l, here.undecided | here.divided);
    const Index column = pseudo_costs_.choose(domain_, relaxation_.point());
    if (column < 0) {
      std::vector<double> point(relaxation_.point().begin(), relaxation_.point().end());
      for (double& x : point) x = std::round(x);
      offer(here.undecided | here.divided, point);
    }
    close(here);
    if ((here.undecided & only(l.of)) == 0) return true;
    if (column < 0) return false;
    finish(here, l, column, depth);
    return true;
  }

  // The core around the relaxed point for all, then exchanges for the problem that it belongs to.
  void look_around(const Look& l, Set set) {
    loosen_to(set);
    PointsForMany around(variants_, set, step_, l.bounds);
    best_in_core(problem_, relaxation_.point(), relaxation_.reduced_costs(), around, work_);
    if (variants_.point(l.of).empty()) return;
    constexpr std::int64_t kMostWork = 20'000;
    loosen_to(only(l.of));
    const auto better = exchange(problem_, variants_.point(l.of), kMostWork, work_);
    if (better) offer(set, *better);
  }

  // Looks through the rest of the node for all problems that these multipliers bound as well as
  // their own; where that is too much they are settled in the parts of the node.
  void finish(Here& here, const Look& l, Index column, int depth) {
    const double own = room(l.of, l.bounds[l.of]);
    Set near = only(l.of);
    bool all = false;
    if (own < kInf) {
      for_each(here.undecided, [&](std::size_t j) {
        if (room(j, l.bounds[j]) <= own + step_) near |= only(j);
      });
      constexpr std::int64_t kMostPoints = 8'000;
      loosen_to(near);
      PointsForMany rest(variants_, near, step_, l.bounds);
      all = enumerate(problem_, domain_, {l.reduced, &relaxation_.simplex().program()}, rest,
                      kMostPoints, work_);
    }
    if (all) {
      here.undecided &= ~near;
      return close(here);
    }
    if (depth == 0) near = only(l.of);  // every problem is to have its own look at the root
    here.undecided &= ~near;
    here.divided |= near;
    if (depth > 0) tighten(l, here.undecided | here.divided);
    if (own <= here.split.room && depth > 0) return;
    here.split = {column,      relaxation_.point()[at(column)],
                  l.objective, own,
                  l.of,        std::make_shared<lp::Basis>(relaxation_.simplex().basis())};
    if (depth == 0) roots_.push_back({l.bounds, here.split});
  }

  // For the problem with most room, and so for all of them.
  void tighten(const Look& l, Set set) {
    double most = -kInf;
    for_each(set, [&](std::size_t k) { most = std::max(most, room(k, l.bounds[k])); });
    domain_.because({Reason::By::reduced_cost});
    tighten_by_reduced_costs(domain_, l.reduced, most, relaxation_.ends());
    domain_.because({});
  }

  // Problems share a tree where the multipliers of one, the leader, bound the others nearly as well
  // as their own: what is lost is no more than their room. Few of them are quicker one by one.
  void divide_in_groups(const Here& root) {
    constexpr int kFewest = 3;
    for (Set left = root.divided; left != 0;) {
      Here group{left, 0, root.bounds, {}};
      const std::size_t leader = neediest(group);
      const auto at_root =
          std::ranges::find(roots_, leader, [](const Root& r) { return r.split.of; });
      group.divided = only(leader);
      for_each(left, [&](std::size_t j) {
        const double lost = add_up(root.bounds[j], -at_root->bounds[j]);
        if (lost < kInf && lost <= room(j, root.bounds[j]) + step_) group.divided |= only(j);
      });
      left &= ~group.divided;
      if (std::popcount(group.divided) < kFewest) {
        unfinished_ |= group.divided;
        continue;
      }
      group.undecided = 0;
      group.split = at_root->split;
      search_below(group);
    }
  }

  // One side of a node's split; both look at the node.
  struct Part {
    std::shared_ptr<const Here> of;
    bool up = false;
    int depth = 0;
    std::size_t mark = 0;  // of the domain at the node
  };

  void add_parts(std::vector<Part>& open, Here here, int depth) {
    const double value = here.split.value;
    const bool up_first = PseudoCosts::up_first(value - std::floor(value));
    const auto node = std::make_shared<const Here>(std::move(here));
    for (const bool up : {!up_first, up_first})
      open.push_back({node, up, depth + 1, domain_.mark()});
  }

  // Depth first, the newest part next: a list, since a tree may be deeper than the stack.
  void search_below(const Here& group) {
    const std::size_t root = domain_.mark();
    std::vector<Part> open;
    add_parts(open, group, 0);
    while (!open.empty()) {
      const Part next = std::move(open.back());
      open.pop_back();
      domain_.undo_to(next.mark);
      Here here = *next.of;
      here.undecided = 0;
      close(here);
      if (here.divided == 0) continue;
      const Split s = next.of->split;
      relaxation_.simplex().set_basis(*s.basis);
      const double below = std::floor(s.value);
      if (!(next.up ? domain_.raise_lower(s.column, below + 1.0)
                    : domain_.drop_upper(s.column, below)))
        continue;
      Here part{here.divided, 0, next.of->bounds, {}};
      if (settle(part, next.depth, {s, next.up})) add_parts(open, std::move(part), next.depth);
    }
    domain_.undo_to(root);
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
  PseudoCosts pseudo_costs_;
  std::vector<Root> roots_;
  bool quick_root_ = false;
  Set unfinished_ = 0;
  std::int64_t nodes_ = 0, pivots_ = 0;
};

}  // namespace

bool can_share(const Problem& p) {
  return sums_are_exact(p);
}

namespace {

// How many of these go into one search: every one keeps limits for the rows of all.
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

SharedResult search_variants(const Problem& problem, const std::vector<LimitChanges>& changes,
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
    SharedSearch(whole_limits, variants, rest).run(result, first);
    keep_points(rest.plans, variants);
  }
  return result;
}

}  // namespace kiteknot::mip
