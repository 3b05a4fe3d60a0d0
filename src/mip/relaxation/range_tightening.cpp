#include "mip/relaxation/range_tightening.hpp"

#include <cmath>

namespace kiteknot::mip {
namespace {

// A relaxation of its own at the domain, without a goal, below the best plan's.
Problem without_goal(const Domain& domain) {
  Problem here = domain.problem();
  here.clear_goal();
  here.set_goal_facts(true, 0.0);
  for (Index j = 0; j < here.num_columns(); ++j)
    here.set_bounds(j, domain.lower(j), domain.upper(j));
  return here;
}

void add_cutoff(const Problem& p, const Cutoff& cutoff, Relaxation& relaxation) {
  if (!std::isfinite(cutoff.best) || !p.cost_exact()) return;
  std::vector<Index> index;
  std::vector<double> value;
  for (Index j = 0; j < p.num_columns(); ++j)
    if (p.cost(j) != 0.0) {
      index.push_back(j);
      value.push_back(p.cost(j));
    }
  if (!index.empty()) relaxation.add({index, value, -kInf, cutoff.target(), true});
}

// Which ends of the columns' ranges points have come so near to that a gain is not worth telling.
class Reached {
 public:
  explicit Reached(std::span<const Index> columns)
      : columns_(columns), low_(columns.size(), 0), high_(columns.size(), 0) {}
  [[nodiscard]] bool end(std::size_t k, bool upper) const { return (upper ? high_ : low_)[k] != 0; }
  void see(std::span<const double> point, const Domain& domain) {
    for (std::size_t k = 0; k < columns_.size(); ++k) {
      const Index j = columns_[k];
      const double low = domain.lower(j), high = domain.upper(j), near = kLeastGain * (high - low);
      if (!std::isfinite(near)) continue;
      if (point[at(j)] <= low + near) low_[k] = 1;
      if (point[at(j)] >= high - near) high_[k] = 1;
    }
  }
  static constexpr double kLeastGain = 0.05;  // of the range

 private:
  std::span<const Index> columns_;
  std::vector<char> low_, high_;
};

}  // namespace

bool tighten_ranges(Domain& domain, std::span<const Index> columns, const Cutoff& cutoff,
                    const lp::Basis& start, const RangeLimits& limits, WorkCounter& work) {
  const Problem here = without_goal(domain);
  Relaxation relaxation(here);
  if (at(relaxation.simplex().program().num_rows()) == start.rows.size())
    relaxation.simplex().set_basis(start);
  add_cutoff(domain.problem(), cutoff, relaxation);
  Reached reached(columns);
  const auto enough = [&] {
    return relaxation.simplex().work().units() > limits.work || limits.interrupt.now();
  };
  bool possible = true;
  for (std::size_t k = 0; k < columns.size() && possible; ++k) {
    const Index j = columns[k];
    for (const bool upper : {false, true}) {
      const double low = domain.lower(j), high = domain.upper(j);
      if (!possible || low == high || reached.end(k, upper) || enough()) continue;
      relaxation.set_cost(j, upper ? -1.0 : 1.0);
      const lp::Report report = relaxation.solve({.interrupt = limits.interrupt});
      if (report.status == lp::Status::infeasible) possible = false;
      if (report.status == lp::Status::optimal) {
        reached.see(relaxation.point(), domain);
        const double bound = relaxation.simplex().sharp_bound();
        const double end = upper ? -bound : bound;
        const double gain = upper ? high - end : end - low;
        if (gain > Reached::kLeastGain * (high - low) || (std::isinf(high - low) && gain > 0.0)) {
          possible = upper ? domain.drop_upper(j, end) : domain.raise_lower(j, end);
          relaxation.take(domain);
        }
      }
      relaxation.set_cost(j, 0.0);
    }
  }
  work.add(relaxation.simplex().work().units());
  return possible;
}

}  // namespace kiteknot::mip
