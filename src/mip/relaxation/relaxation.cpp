#include "mip/relaxation/relaxation.hpp"

#include <algorithm>
#include <cmath>

#include "lp/refinement.hpp"
#include "lp/scaling.hpp"

namespace kiteknot::mip {

Relaxation::Relaxation(const Problem& problem) {
  std::vector<char> real;
  for (Index j = 0; j < problem.num_columns(); ++j) {
    real.push_back(problem.integer(j) ? 0 : 1);
    whole_.push_back(problem.integer(j) ? 1 : 0);
    if (!problem.integer(j)) real_.push_back(j);
  }
  unit_ = lp::column_scales(problem.rows(), real);
  for (Index j = 0; j < problem.num_columns(); ++j)
    simplex_.add_column(problem.cost(j) * unit(j), problem.lower(j) / unit(j),
                        std::max(problem.lower(j), problem.upper(j)) / unit(j));
  simplex_.set_cost_exact(problem.cost_exact());
  for (const auto& [j, known] : problem.known_bounds()) {
    const Rational by = Rational(1) / Rational::exactly(unit(j));
    const auto scaled = [&](const Rational& v) { return v.is_finite() ? v * by : v; };
    simplex_.set_exact_bounds(j, {known.low_as / unit(j), known.high_as / unit(j),
                                  scaled(known.low), scaled(known.high)});
  }
  if (!problem.known_costs().empty()) {
    std::vector<Rational> costs = problem.known_costs();
    for (std::size_t j = 0; j < costs.size(); ++j) costs[j] *= Rational::exactly(unit_[j]);
    simplex_.set_exact_costs(std::move(costs));
  }
  point_.assign(unit_.size(), 0.0);
  for (Index i = 0; i < problem.num_rows(); ++i) add(problem.row(i), problem.known_row(i));
  linear_rows_ = problem.num_rows();
  for (const auto& kind : problem.kinds().all())
    if (kind->any(problem))
      if (auto relaxed = kind->relax(problem, *this)) kinds_.push_back(std::move(relaxed));
}

Index Relaxation::add(const RowView& row, const lp::Exact* known) {
  std::vector<double> value;
  value.reserve(row.value.size());
  for (std::size_t k = 0; k < row.index.size(); ++k)
    value.push_back(row.value[k] * unit(row.index[k]));
  const double scale = lp::row_scale(value);
  std::vector<Entry> entries;
  entries.reserve(row.index.size());
  for (std::size_t k = 0; k < row.index.size(); ++k)
    if (value[k] != 0.0) entries.push_back({row.index[k], value[k] * scale});
  scale_.push_back(scale);
  bool steps = row.exact;
  for (std::size_t k = 0; k < row.index.size() && steps; ++k)
    steps = whole(row.index[k]) && kiteknot::whole(row.value[k]);
  step_.push_back(steps ? scale : 0.0);
  const Index i = simplex_.add_row(row.lower * scale, row.upper * scale, entries, row.exact);
  if (known != nullptr) {
    const Rational by = Rational::exactly(scale);
    const auto scaled = [&](const Rational& v) { return v.is_finite() ? v * by : v; };
    lp::Exact exact{known->low_as * scale, known->high_as * scale, scaled(known->low),
                    scaled(known->high)};
    for (std::size_t k = 0; k < known->values.size(); ++k)
      if (value[k] != 0.0)
        exact.values.push_back(known->values[k] * by * Rational::exactly(unit(row.index[k])));
    simplex_.set_exact_row(i, std::move(exact));
  }
  return i;
}

void Relaxation::set_row(Index row, const RowView& as) {
  std::vector<double> value;
  for (std::size_t k = 0; k < as.index.size(); ++k)
    value.push_back(as.value[k] * unit(as.index[k]));
  const double scale = lp::row_scale(value);
  std::vector<Entry> entries;
  for (std::size_t k = 0; k < as.index.size(); ++k)
    if (value[k] != 0.0) entries.push_back({as.index[k], value[k] * scale});
  scale_[at(row)] = scale;
  step_[at(row)] = 0.0;
  simplex_.set_row(row, as.lower * scale, as.upper * scale, entries, as.exact);
}

lp::Status Relaxation::refine(const lp::ExactLimits& limits) {
  const lp::Refined better = lp::refined(simplex_, limits);
  if (better.status == lp::Status::optimal) simplex_.set_basis(better.basis);
  return better.status;
}

lp::Report Relaxation::solve(const lp::SimplexOptions& options) {
  lp::Report report = simplex_.solve(options);
  const std::span<const double> x = simplex_.column_values();
  bool finite = true;
  for (std::size_t j = 0; j < x.size(); ++j) {
    point_[j] = x[j] * unit_[j];
    finite = finite & (std::abs(point_[j]) < kInf);
  }
  if (!finite && report.status == lp::Status::optimal) {
    report.status = lp::Status::undecided;
    report.reason = "the relaxation's point is beyond what doubles can say";
  }
  return report;
}

std::vector<double> Relaxation::reduced_costs() const {
  std::vector<double> d(simplex_.reduced_costs().begin(), simplex_.reduced_costs().end());
  for (std::size_t j = 0; j < d.size(); ++j) d[j] /= unit_[j];
  return d;
}

std::vector<double> Relaxation::ray() const {
  std::vector<double> d(simplex_.ray().begin(), simplex_.ray().end());
  for (std::size_t j = 0; j < d.size(); ++j) d[j] *= unit_[j];
  return d;
}

std::optional<std::vector<Rational>> Relaxation::exact_values(const lp::ExactLimits& limits) const {
  auto x = lp::exact_values(simplex_.program(), simplex_.basis(), limits);
  if (x) *x = unscaled(std::move(*x));
  return x;
}

std::vector<Rational> Relaxation::unscaled(std::vector<Rational> values) const {
  for (std::size_t j = 0; j < values.size(); ++j)
    if (unit_[j] != 1.0) values[j] *= Rational::exactly(unit_[j]);
  return values;
}

Relaxation::ExactLook Relaxation::look_at_stated(const lp::ExactLimits& limits) const {
  std::vector<char> added(at(simplex_.program().num_rows()), 1);
  std::fill_n(added.begin(), at(linear_rows_), 0);
  for (const auto& kind : kinds_)
    for (const Index i : kind->stated_rows()) added[at(i)] = 0;
  lp::Simplex stated = simplex_;
  stated.remove_rows(added);
  (void)stated.solve({.interrupt = limits.interrupt});
  const lp::Refined end = lp::refined(stated, limits);
  if (end.status != lp::Status::optimal) return {end.status};
  auto x = lp::exact_values(stated.program(), end.basis, limits);
  if (!x) return {};
  return {end.status, unscaled(std::move(*x))};
}

void Relaxation::set_limits(Index row, double lower, double upper) {
  const double scale = scale_[static_cast<std::size_t>(row)];
  simplex_.set_row_limits(row, lower * scale, upper * scale);
}

void Relaxation::remove(const std::vector<char>& gone) {
  simplex_.remove_rows(gone);
  std::size_t kept = 0;
  for (std::size_t i = 0; i < gone.size(); ++i)
    if (!gone[i]) {
      scale_[kept] = scale_[i];
      step_[kept++] = step_[i];
    }
  scale_.resize(kept);
  step_.resize(kept);
}

void Relaxation::take_column(const Domain& domain, Index j, bool loose) {
  const Problem& problem = domain.problem();
  double lower = domain.lower(j), upper = domain.upper(j);
  if (loose && !problem.integer(j)) {
    if (lower != std::trunc(lower)) lower = problem.lower(j);
    if (upper != std::trunc(upper)) upper = problem.upper(j);
  }
  simplex_.set_bounds(j, lower / unit(j), upper / unit(j));
}

void Relaxation::take(const Domain& domain, bool loose) {
  for (Index j = 0; j < domain.problem().num_columns(); ++j) take_column(domain, j, loose);
  for (const auto& kind : kinds_)
    for (Index c = 0; c < domain.problem().num_conditions(); ++c) kind->follow(c, domain, *this);
}

bool Relaxation::explain_sum(std::span<const double> multipliers, Explanation& why) const {
  return std::all_of(kinds_.begin(), kinds_.end(),
                     [&](const auto& kind) { return kind->explain_sum(multipliers, why); });
}

void Relaxation::follow(Domain& domain, bool loose) {
  if (!reader_) {
    reader_ = domain.add_reader();
    first_followed_ = domain.mark();
    take(domain, loose);
    loose_ = loose;
    return;
  }
  const auto bring = [&](Index what) {
    if (what >= 0)
      take_column(domain, what, loose);
    else
      for (const auto& kind : kinds_) kind->follow(-1 - what, domain, *this);
  };
  bool all = false;
  domain.read_trail(
      *reader_,
      [&](std::size_t kept) {
        all = kept < first_followed_;  // steps from before the first call were taken back
        if (all) first_followed_ = kept;
        for (; first_followed_ + followed_.size() > kept && !followed_.empty();
             followed_.pop_back())
          bring(followed_.back());
      },
      [&](const Domain::Step& step, std::size_t) {
        const bool condition = step.change.what == Change::What::condition;
        followed_.push_back(condition ? -1 - step.change.index : step.change.index);
        bring(followed_.back());
      });
  if (all) {
    take(domain, loose);
  } else if (loose != loose_) {
    for (const Index j : real_) take_column(domain, j, loose);
  }
  loose_ = loose;
}

std::vector<double> Relaxation::row_duals() {
  std::vector<double> y = simplex_.row_duals();
  for (std::size_t i = 0; i < y.size(); ++i) y[i] *= scale_[i];
  return y;
}

Interval Relaxation::limit_room(Index row) {
  const Interval room = simplex_.limit_room(row);
  const double scale = scale_[static_cast<std::size_t>(row)];
  return {room.low / scale, room.high / scale};
}

Interval Relaxation::cost_room(Index column) {
  const Interval room = simplex_.cost_room(column);
  return {room.low / unit(column), room.high / unit(column)};
}

}  // namespace kiteknot::mip
