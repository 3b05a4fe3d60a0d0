#include "mip/kinds/nonlinear_quadratics.hpp"

#include <cmath>
#include <map>
#include <unordered_map>

#include <Eigen/Cholesky>

namespace kiteknot::mip {
namespace {

constexpr std::size_t kMostColumns = 300;

bool square(const NonlinearTerm& t) {
  return t.product() ? t.x == t.z : t.f->algebraic() && t.f->degree() == 2;
}
Index second(const NonlinearTerm& t) {
  return t.product() ? t.z : t.x;
}

/// Terms with weights, in connected groups.
std::vector<std::vector<ConvexForm::Part>> connected(const std::vector<ConvexForm::Part>& parts,
                                                     const std::vector<NonlinearTerm>& terms) {
  std::unordered_map<Index, Index> parent;
  const auto root = [&](Index j) {
    while (parent.try_emplace(j, j).first->second != j) j = parent[j];
    return j;
  };
  for (const ConvexForm::Part& p : parts) {
    const Index a = root(terms[at(p.term)].x), b = root(second(terms[at(p.term)]));
    parent[a] = b;
  }
  std::map<Index, std::vector<ConvexForm::Part>> groups;
  for (const ConvexForm::Part& p : parts) groups[root(terms[at(p.term)].x)].push_back(p);
  std::vector<std::vector<ConvexForm::Part>> out;
  for (auto& [name, group] : groups) out.push_back(std::move(group));
  return out;
}

// With shift where it is convex, and nothing where that cannot be shown.
std::optional<ConvexForm> as_form(std::vector<ConvexForm::Part> parts,
                                  const std::vector<NonlinearTerm>& terms) {
  ConvexForm form{std::move(parts), {}, 0.0};
  std::unordered_map<Index, Eigen::Index> place;
  const auto place_of = [&](Index j) {
    const auto [found, fresh] = place.try_emplace(j, static_cast<Eigen::Index>(place.size()));
    if (fresh) form.columns.push_back(j);
    return found->second;
  };
  for (const ConvexForm::Part& p : form.parts) {
    (void)place_of(terms[at(p.term)].x);
    (void)place_of(second(terms[at(p.term)]));
  }
  const auto n = static_cast<Eigen::Index>(form.columns.size());
  if (n < 2 || form.columns.size() > kMostColumns) return std::nullopt;
  Eigen::MatrixXd q = Eigen::MatrixXd::Zero(n, n);
  for (const ConvexForm::Part& p : form.parts) {
    const NonlinearTerm& t = terms[at(p.term)];
    const Eigen::Index a = place_of(t.x), b = place_of(second(t));
    if (a == b) {
      q(a, a) += p.weight;
    } else {  // halves are exact
      q(a, b) += 0.5 * p.weight;
      q(b, a) += 0.5 * p.weight;
    }
  }
  // Each term is there once, so no entry was rounded. Adding the shift rounds the diagonal, and a
  // factor that is found belongs to a matrix within (n + 2) 2^-53 trace of the one meant, in norm.
  const double unit = 0x1p-50 * static_cast<double>(n + 3);
  const double trace = q.diagonal().cwiseAbs().sum();
  const double shift = unit * trace;
  Eigen::MatrixXd shifted = q;
  shifted.diagonal().array() += shift;
  const Eigen::LLT<Eigen::MatrixXd> factor(shifted);
  if (factor.info() != Eigen::Success || !(shift > 0.0) || !factor.matrixLLT().allFinite())
    return std::nullopt;
  form.shift = 2.0 * (shift + unit * (trace + static_cast<double>(n) * shift));
  return form;
}

}  // namespace

std::vector<ConvexForm> convex_forms(const Problem& problem,
                                     const std::vector<NonlinearTerm>& terms) {
  std::vector<ConvexForm> forms;
  std::unordered_map<Index, Index> term_of;  // by the column of its value
  bool products = false;
  for (std::size_t k = 0; k < terms.size(); ++k)
    if (terms[k].product() || square(terms[k])) {
      term_of.emplace(terms[k].value, static_cast<Index>(k));
      products = products || !square(terms[k]);
    }
  if (!products) return forms;
  std::vector<ConvexForm::Part> parts;
  bool mixed = false;  // products of different columns
  const auto take = [&](Index column, double weight) {
    const auto found = term_of.find(column);
    if (found == term_of.end() || weight == 0.0) return;
    const NonlinearTerm& t = terms[at(found->second)];
    if (!(weight > 0.0 ? t.above : t.below)) return;  // it may go past the product
    parts.push_back({found->second, weight});
    mixed = mixed || !square(t);
  };
  const auto finish = [&] {
    if (mixed)
      for (auto& group : connected(parts, terms))
        if (auto form = as_form(std::move(group), terms)) forms.push_back(std::move(*form));
    parts.clear();
    mixed = false;
  };
  for (Index j = 0; j < problem.num_columns(); ++j) take(j, problem.cost(j));
  finish();
  for (Index i = 0; i < problem.num_rows(); ++i) {
    const RowView row = problem.row(i);
    for (const double sign : {1.0, -1.0}) {
      if (!std::isfinite(sign > 0.0 ? row.upper : row.lower)) continue;
      for (std::size_t k = 0; k < row.index.size(); ++k) take(row.index[k], sign * row.value[k]);
      finish();
    }
  }
  return forms;
}

// q(x) + shift |x - p|^2 is convex, so for every g
//   q(x) - g'x >= q(p) - g'p + (q'(p) - g)'(x - p) - shift |x - p|^2,
// and the last two are least over the ranges, all of it rounded outward.
bool tangent_row(const ConvexForm& form, const std::vector<NonlinearTerm>& terms,
                 const Problem& problem, std::span<const double> point, double least,
                 LinearRow& row) {
  std::unordered_map<Index, Interval> slope;
  Interval value{0.0, 0.0};
  double stated = 0.0, size = 0.0;
  for (const ConvexForm::Part& p : form.parts) {
    const NonlinearTerm& t = terms[at(p.term)];
    const double x = point[at(t.x)], z = point[at(second(t))];
    const Interval w{p.weight, p.weight}, wx = w * Interval{x, x}, wz = w * Interval{z, z};
    value = value + wx * Interval{z, z};
    Interval& by_x = slope.try_emplace(t.x, Interval{0.0, 0.0}).first->second;
    by_x = by_x + wz;
    Interval& by_z = slope.try_emplace(second(t), Interval{0.0, 0.0}).first->second;
    by_z = by_z + wx;
    stated += p.weight * point[at(t.value)];
    size += std::abs(p.weight * point[at(t.value)]);
  }
  if (!(value.low - stated > least * (1.0 + size))) return false;
  row = {{}, -kInf, kInf, true};
  Interval height = value;
  for (const ConvexForm::Part& p : form.parts)
    row.entries.push_back({terms[at(p.term)].value, p.weight});
  for (const Index j : form.columns) {
    const Interval s = slope.at(j), p{point[at(j)], point[at(j)]};
    const double g = s.low + 0.5 * (s.high - s.low);
    if (!std::isfinite(g)) return false;
    const Interval away = Interval{problem.lower(j), problem.upper(j)} + -p;
    if (!std::isfinite(away.low) || !std::isfinite(away.high)) return false;
    height = height + -(Interval{g, g} * p) + (s + Interval{-g, -g}) * away +
             Interval{-form.shift, -form.shift} * kiteknot::power(away, 2);
    if (g != 0.0) row.entries.push_back({j, -g});
  }
  row.lower = height.low;
  return std::isfinite(row.lower);
}

}  // namespace kiteknot::mip
