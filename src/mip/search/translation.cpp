#include "mip/search/translation.hpp"

#include <algorithm>
#include <cmath>

#include "base/outward.hpp"

namespace kiteknot::mip {
namespace {

// A double on either side of it, or the same twice.
Interval enclosed(const Rational& value) {
  if (!std::isfinite(value.to_double())) return {-kInf, kInf};
  return {outward(value, false), outward(value, true)};
}

}  // namespace

Translation::Translation(std::shared_ptr<const PostsolveStack> postsolve, Rational constant)
    : postsolve_(std::move(postsolve)),
      constant_(std::move(constant)),
      enclosed_(enclosed(constant_)) {}

std::vector<Rational> Translation::plan_out(std::span<const Rational> plan) const {
  return same() ? std::vector<Rational>(plan.begin(), plan.end()) : postsolve_->restore(plan);
}

std::vector<Rational> Translation::ray_out(std::span<const Rational> ray) const {
  return same() ? std::vector<Rational>(ray.begin(), ray.end()) : postsolve_->restore_ray(ray);
}

double Translation::bound_out(double bound) const {
  if (same() || std::isinf(bound)) return bound;
  return std::isinf(enclosed_.low) ? -kInf : add_down(bound, enclosed_.low);
}

Standing Translation::out(Standing s) const {
  if (same()) return s;
  s.best = add_up(s.best, enclosed_.high);
  s.bound = bound_out(s.bound);
  return s;
}

std::vector<NodeRecord> Translation::out(std::vector<NodeRecord> tree) const {
  if (same()) return tree;
  const double constant = constant_.to_double();
  for (NodeRecord& node : tree) {
    for (Change& c : node.changes)
      if (c.what != Change::What::condition) c.index = postsolve_->kept()[at(c.index)];
    node.bound = bound_out(node.bound);
    node.best += constant;
    node.left_out_bound += constant;
    if (node.plan) *node.plan += constant;
  }
  return tree;
}

PseudoCosts Translation::out(PseudoCosts costs) const {
  return same() ? std::move(costs) : costs.spread(postsolve_->kept(), postsolve_->num_columns());
}

Judge Translation::judge_in(const Judge& judge) const {
  if (same()) return judge;
  return [&judge, postsolve = postsolve_, constant = constant_](std::span<const Rational> plan) {
    Verdict verdict = judge(postsolve->restore(plan));
    verdict.goal -= constant;
    return verdict;
  };
}

double Translation::bound_in(double bound) const {
  if (same() || std::isinf(bound)) return bound;
  return std::isinf(enclosed_.high) ? -kInf : add_down(bound, -enclosed_.high);
}

std::optional<std::vector<Rational>> Translation::plan_in(std::span<const Rational> plan) const {
  return same() ? std::vector<Rational>(plan.begin(), plan.end()) : postsolve_->reduce(plan);
}

Index Translation::columns_in(Index columns) const {
  if (same()) return columns;
  const std::vector<Index>& kept = postsolve_->kept();
  return static_cast<Index>(std::lower_bound(kept.begin(), kept.end(), columns) - kept.begin());
}

PseudoCosts Translation::in(const PseudoCosts& costs) const {
  return same() ? costs : costs.of(postsolve_->kept());
}

lp::Basis Translation::in(const lp::Basis& full, std::span<const Index> rows) const {
  if (same() || full.empty()) return full;
  lp::Basis basis;
  for (const Index j : postsolve_->kept()) basis.columns.push_back(full.columns[at(j)]);
  for (const Index i : rows)
    basis.rows.push_back(i < 0 || at(i) >= full.rows.size() ? lp::VariableStatus::basic
                                                            : full.rows[at(i)]);
  return basis;
}

}  // namespace kiteknot::mip
