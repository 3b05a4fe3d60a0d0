#include "methods/kinds/plain_problem.hpp"

#include <algorithm>

namespace kiteknot::methods {

bool PlainProblem::all_binary() const {
  return std::ranges::all_of(ranges, &DecisionRange::binary);
}

double PlainProblem::same_weight(Index i) const {
  const auto terms = row(i);
  if (terms.empty()) return 0.0;
  const double w = terms.front().weight;
  const bool same =
      w > 0.0 && std::ranges::all_of(terms, [w](const auto& t) { return t.weight == w; });
  return same ? w : 0.0;
}

bool PlainProblem::one_of(Index i) const {
  const double w = same_weight(i);
  return w > 0.0 && low[at(i)] == w && high[at(i)] == w;
}

bool PlainProblem::at_most_one_of(Index i) const {
  const double w = same_weight(i);
  return w > 0.0 && low[at(i)] <= 0.0 && high[at(i)] >= w && high[at(i)] < 2.0 * w;
}

std::optional<PlainProblem> plain_problem(const CompiledModel& m) {
  if (!m.linear || m.goal < 0) return {};
  PlainProblem p;
  p.ranges = m.ranges;
  if (!std::ranges::all_of(p.ranges, &DecisionRange::can_move)) return {};
  p.cost.assign(m.ranges.size(), 0.0);
  for (const WeightedNode& t : m.terms.of(m.goal)) p.cost[at(t.node)] += t.weight;
  for (Index r = 0; r < static_cast<Index>(m.rules.size()); ++r) {
    const Index sum = m.sum_of(r);
    const CompiledModel::Figures& f = m.figures[at(m.rules[at(r)].root)];
    const auto terms = m.terms.of(sum);
    p.rows.entries.insert(p.rows.entries.end(), terms.begin(), terms.end());
    p.rows.start.push_back(p.rows.entries.size());
    p.low.push_back(f.low - m.figures[at(sum)].constant);
    p.high.push_back(f.high - m.figures[at(sum)].constant);
  }
  return p;
}

std::optional<PlainProblem> plain_problem(const mip::Problem& m) {
  if (!m.linear()) return {};
  PlainProblem p;
  for (Index j = 0; j < m.num_columns(); ++j) {
    DecisionRange r;
    r.lower = m.lower(j);
    r.upper = m.upper(j);
    r.whole = m.integer(j);
    if (r.lower >= r.upper) return {};
    p.ranges.push_back(std::move(r));
    p.cost.push_back(m.cost(j));
  }
  for (Index i = 0; i < m.num_rows(); ++i) {
    const mip::RowView row = m.row(i);
    for (std::size_t k = 0; k < row.index.size(); ++k)
      p.rows.entries.push_back({row.index[k], row.value[k]});
    p.rows.start.push_back(p.rows.entries.size());
    p.low.push_back(row.lower);
    p.high.push_back(row.upper);
  }
  return p;
}

}  // namespace kiteknot::methods
