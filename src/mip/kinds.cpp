#include "mip/kinds.hpp"

#include <algorithm>
#include <cmath>

#include "base/at.hpp"
#include "base/interval.hpp"
#include "base/tolerances.hpp"
#include "mip/relaxation.hpp"

namespace kiteknot::mip {
namespace {

RowView view_of(const Row& row, std::vector<Index>& index, std::vector<double>& value) {
  index.clear();
  value.clear();
  for (const Entry& e : row.entries) {
    index.push_back(e.index);
    value.push_back(e.value);
  }
  return {index, value, row.lower, row.upper, row.exact};
}

bool is_zero(double x) {
  return std::abs(x) <= Tolerances{}.integrality;
}

}  // namespace

double row_violation(const RowView& row, std::span<const double> point) {
  double value = 0.0, size = 1.0;
  for (std::size_t k = 0; k < row.index.size(); ++k) {
    const double term = row.value[k] * point[at(row.index[k])];
    value += term;
    size += std::abs(term);
  }
  const double outside = std::max({row.lower - value, value - row.upper, 0.0});
  return outside > Tolerances{}.integrality * size ? outside : 0.0;
}

std::vector<std::unique_ptr<ConstraintKind>> make_kinds(const Problem& problem) {
  std::vector<std::unique_ptr<ConstraintKind>> kinds;
  kinds.push_back(std::make_unique<LinearRows>(problem));
  if (!problem.conditional_rows().empty())
    kinds.push_back(std::make_unique<ConditionalRows>(problem));
  if (!problem.ordered_sets().empty()) kinds.push_back(std::make_unique<OrderedSets>(problem));
  if (problem.generator() != nullptr) kinds.push_back(std::make_unique<GeneratedRows>(problem));
  return kinds;
}

bool propagate(Domain& domain, const std::vector<std::unique_ptr<ConstraintKind>>& kinds,
               WorkCounter& work) {
  // Bounds may creep for ever; what is left undone costs strength, not truth.
  constexpr int kMostRounds = 200;
  constexpr std::int64_t kMostLooks = 30;  // at everything there is, on average
  const std::int64_t most =
      kMostLooks * (domain.problem().rows().num_nonzeros() + domain.problem().num_columns() + 1000);
  const std::int64_t before = work.units();
  for (int round = 0; round < kMostRounds && work.units() - before < most; ++round) {
    const std::vector<Index> touched = domain.take_touched();
    if (touched.empty()) return true;
    if (work.interrupted()) return true;
    for (const auto& kind : kinds)
      if (!kind->propagate(domain, touched, work)) {
        (void)domain.take_touched();
        return false;
      }
  }
  (void)domain.take_touched();
  return true;
}

// --- conditional rows ---

bool ConditionalRows::check(const Domain& domain, std::span<const double> point) const {
  std::vector<Index> index;
  std::vector<double> value;
  for (const ConditionalRow& c : problem_->conditional_rows()) {
    if (domain.fails(c.when)) continue;
    const Index column = problem_->column_of_condition(c.when.condition);
    if (column >= 0 && (point[at(column)] > 0.5) != c.when.holds) continue;
    if (row_violation(view_of(c.row, index, value), point) > 0.0) return false;
  }
  return true;
}

bool ConditionalRows::propagate(Domain& domain, std::span<const Index>, WorkCounter& work) {
  std::vector<Index> index;
  std::vector<double> value;
  for (const ConditionalRow& c : problem_->conditional_rows()) {
    if (domain.fails(c.when)) continue;
    work.add(2 * static_cast<std::int64_t>(c.row.entries.size()));
    const RowView row = view_of(c.row, index, value);
    if (domain.holds(c.when) ? !tighten(row, domain)
                             : out_of_reach(row, domain) && !domain.settle(c.when, false))
      return false;
  }
  return true;
}

bool ConditionalRows::branch(const Domain& domain, std::span<const double> point,
                             Branching& out) const {
  std::vector<Index> index;
  std::vector<double> value;
  for (const ConditionalRow& c : problem_->conditional_rows()) {
    if (domain.state(c.when.condition) != State::open ||
        row_violation(view_of(c.row, index, value), point) == 0.0)
      continue;
    for (const bool state : {!c.when.holds, c.when.holds})
      out.children.push_back({{Change::What::condition, c.when.condition, state ? 1.0 : 0.0}});
    return true;
  }
  return false;
}

void ConditionalRows::start(Relaxation& relaxation) {
  relaxed_row_.clear();
  std::vector<Index> index;
  std::vector<double> value;
  const double inf = std::numeric_limits<double>::infinity();
  const Domain root(*problem_);
  for (const ConditionalRow& c : problem_->conditional_rows()) {
    RowView row = view_of(c.row, index, value);
    row.lower = -inf;
    row.upper = inf;
    relaxed_row_.push_back(relaxation.add(row, c.row.known ? &*c.row.known : nullptr));
    add_linked_rows(relaxation, c, root);
  }
}

// With z the 0-1 value of the literal and M = max a'x at the root: a'x <= U + (M - U)(1 - z); the
// lower side likewise. The bound M comes from the data and is rounded outward.
void ConditionalRows::add_linked_rows(Relaxation& relaxation, const ConditionalRow& c,
                                      const Domain& root) {
  const Index column = problem_->column_of_condition(c.when.condition);
  if (column < 0) return;
  std::vector<Index> index;
  std::vector<double> value;
  RowView row = view_of(c.row, index, value);
  const Activity range = activity(row, root);
  const double inf = std::numeric_limits<double>::infinity();
  const auto add = [&](double limit, double reach, bool upper) {
    const double slope = upper ? step_up(reach - limit) : step_down(reach - limit);
    if (upper ? slope <= 0.0 : slope >= 0.0) return;
    // holds: a'x + slope z <= U + slope;  fails: a'x - slope z <= U
    std::vector<Index> at_index = index;
    std::vector<double> at_value = value;
    at_index.push_back(column);
    at_value.push_back(c.when.holds ? slope : -slope);
    const double right = c.when.holds ? limit + slope : limit;
    relaxation.add(
        {at_index, at_value, upper ? -inf : step_down(right), upper ? step_up(right) : inf, false});
  };
  if (std::find(index.begin(), index.end(), column) != index.end()) return;
  if (std::isfinite(row.upper) && range.infinite_high == 0) add(row.upper, range.high, true);
  if (std::isfinite(row.lower) && range.infinite_low == 0) add(row.lower, range.low, false);
}

void ConditionalRows::enter(Relaxation& relaxation, const Domain& domain) {
  const double inf = std::numeric_limits<double>::infinity();
  for (std::size_t k = 0; k < relaxed_row_.size(); ++k) {
    const ConditionalRow& c = problem_->conditional_rows()[k];
    if (domain.holds(c.when))
      relaxation.set_limits(relaxed_row_[k], c.row.lower, c.row.upper);
    else
      relaxation.set_limits(relaxed_row_[k], -inf, inf);
  }
}

// --- ordered sets ---

bool OrderedSets::check(const Domain&, std::span<const double> point) const {
  for (const OrderedSet& set : problem_->ordered_sets()) {
    Index first = -1, last = -1;
    for (std::size_t k = 0; k < set.columns.size(); ++k) {
      if (is_zero(point[at(set.columns[k])])) continue;
      if (first < 0) first = static_cast<Index>(k);
      last = static_cast<Index>(k);
    }
    if (first >= 0 && last - first + 1 > set.width) return false;
  }
  return true;
}

// Columns that cannot be 0 leave room for `width` places around them; all others become 0.
bool OrderedSets::propagate(Domain& domain, std::span<const Index>, WorkCounter& work) {
  for (const OrderedSet& set : problem_->ordered_sets()) {
    const auto size = static_cast<Index>(set.columns.size());
    work.add(size);
    Index first = -1, last = -1;
    for (Index k = 0; k < size; ++k) {
      const Index j = set.columns[at(k)];
      if (domain.lower(j) <= 0.0 && domain.upper(j) >= 0.0) continue;
      if (first < 0) first = k;
      last = k;
    }
    if (first < 0) continue;
    if (last - first + 1 > set.width) return false;
    for (Index k = 0; k < size; ++k) {
      if (k > last - set.width && k < first + set.width) continue;
      const Index j = set.columns[at(k)];
      if (!domain.raise_lower(j, 0.0) || !domain.drop_upper(j, 0.0)) return false;
    }
  }
  return true;
}

// Beale and Tomlin 1970: split the list near the centre of weight; everything left of the split is
// 0, or everything right of it (by width - 1 places further).
bool OrderedSets::branch(const Domain& domain, std::span<const double> point,
                         Branching& out) const {
  for (const OrderedSet& set : problem_->ordered_sets()) {
    const auto size = static_cast<Index>(set.columns.size());
    Index first = -1, last = -1;
    double weight = 0.0, centre = 0.0;
    for (Index k = 0; k < size; ++k) {
      const double x = std::abs(point[at(set.columns[at(k)])]);
      if (is_zero(x)) continue;
      if (first < 0) first = k;
      last = k;
      weight += x;
      centre += x * k;
    }
    if (first < 0 || last - first + 1 <= set.width) continue;
    // Left child keeps 0 .. split + width - 1, right child keeps split + 1 .. ; both cut the point
    // off.
    const Index split = std::clamp(static_cast<Index>(centre / weight), first, last - set.width);
    std::vector<Change> left, right;
    for (Index k = 0; k < size; ++k) {
      const Index j = set.columns[at(k)];
      std::vector<Change>* part = k >= split + set.width ? &left : (k <= split ? &right : nullptr);
      if (part == nullptr) continue;
      if (domain.lower(j) < 0.0) part->push_back({Change::What::lower, j, 0.0});
      if (domain.upper(j) > 0.0) part->push_back({Change::What::upper, j, 0.0});
    }
    out.children = {std::move(left), std::move(right)};
    return true;
  }
  return false;
}

// --- generated rows ---

RowView GeneratedRows::view(const Stored& row) {
  return {row.index, row.value, row.lower, row.upper, row.exact};
}

bool GeneratedRows::check(const Domain&, std::span<const double> point) const {
  return std::all_of(rows_.begin(), rows_.end(),
                     [&](const Stored& row) { return row_violation(view(row), point) == 0.0; });
}

bool GeneratedRows::propagate(Domain& domain, std::span<const Index>, WorkCounter& work) {
  for (const Stored& row : rows_) {
    work.add(2 * static_cast<std::int64_t>(row.index.size()));
    if (!tighten(view(row), domain)) return false;
  }
  return true;
}

Index GeneratedRows::separate(Relaxation& relaxation, std::span<const double> point,
                              bool integral) {
  Generator& generator = *problem_->generator();
  if (!integral && !generator.wants_fractions()) return 0;
  const std::vector<Row> found = generator.look(point, integral);
  // Rows that the point does not break would bring it back for ever.
  Index added = 0;
  std::vector<Index> index;
  std::vector<double> value;
  for (const Row& row : found) {
    if (row_violation(view_of(row, index, value), point) == 0.0) continue;
    ++added;
    Stored& stored = rows_.emplace_back();
    stored.lower = row.lower;
    stored.upper = row.upper;
    stored.exact = row.exact;
    for (const Entry& e : row.entries) {
      stored.index.push_back(e.index);
      stored.value.push_back(e.value);
    }
    relaxation.add(view(stored));
  }
  return added;
}

}  // namespace kiteknot::mip
