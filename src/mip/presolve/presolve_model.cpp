#include "mip/presolve/presolve_model.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "base/check.hpp"
#include "base/exact_double.hpp"

namespace kiteknot::mip {
namespace {

auto place_of(std::vector<Entry>& entries, Index j) {
  return std::lower_bound(entries.begin(), entries.end(), j,
                          [](const Entry& e, Index column) { return e.index < column; });
}

// Of a goal over whole columns with whole costs: what these share; 0 of any other.
double whole_step(const Problem& p) {
  if (!p.cost_exact() || !p.known_costs().empty()) return 0.0;
  double shared = 0.0;
  for (Index j = 0; j < p.num_columns(); ++j) {
    if (p.cost(j) == 0.0) continue;
    if (!p.integer(j) || !whole(p.cost(j))) return 0.0;
    shared = static_cast<double>(
        std::gcd(static_cast<std::int64_t>(shared), static_cast<std::int64_t>(p.cost(j))));
  }
  return shared;
}

}  // namespace

PresolveModel::PresolveModel(const Problem& p)
    : problem_(p), known_costs_(p.known_costs()), postsolve_(p.num_columns()) {
  for (Index j = 0; j < p.num_columns(); ++j) {
    Column c{p.lower(j), p.upper(j), p.cost(j), p.integer(j)};
    c.outward = p.known_bounds().contains(j);
    c.inexact =
        c.outward || (!known_costs_.empty() && Rational::exactly(p.cost(j)) != known_costs_[at(j)]);
    c.held = p.condition_of_column(j) >= 0 || c.inexact;
    columns_.push_back(std::move(c));
  }
  Locks locks{std::vector<Index>(columns_.size(), 0), std::vector<Index>(columns_.size(), 0)};
  for (const auto& kind : p.kinds().all()) {
    if (kind->linear()) continue;
    kind->lock(p, locks);
    kind->visit(p, [&](std::span<const Index> columns, std::span<const Index>) {
      for (const Index j : columns) columns_[at(j)].held = true;
    });
  }
  for (Index j = 0; j < num_columns(); ++j) {
    columns_[at(j)].up_locked = locks.up[at(j)] > 0;
    columns_[at(j)].down_locked = locks.down[at(j)] > 0;
  }
  rows_.resize(at(p.num_rows()));
  for (Index i = 0; i < p.num_rows(); ++i) {
    Row& row = rows_[at(i)];
    row.lower = p.row_lower(i);
    row.upper = p.row_upper(i);
    row.firm = !p.row_exact(i) || p.known_row(i) != nullptr;
    for (std::size_t k = 0; k < p.row(i).index.size(); ++k) {
      const Entry e{p.row(i).index[k], p.row(i).value[k]};
      if (e.value == 0.0 && !row.firm) continue;
      row.entries.push_back(e);
      columns_[at(e.index)].rows.push_back(i);
      columns_[at(e.index)].held |= row.firm;
      columns_[at(e.index)].inexact |= row.firm;
    }
    if (!row.firm)
      std::sort(row.entries.begin(), row.entries.end(),
                [](const Entry& a, const Entry& b) { return a.index < b.index; });
  }
  for (Index j = 0; j < num_columns(); ++j) {
    if (columns_[at(j)].lower > columns_[at(j)].upper) possible_ = false;
    if (possible_ && columns_[at(j)].fixed()) settle_fixed(j);
  }
}

std::vector<Index> PresolveModel::rows_of(Index j) const {
  std::vector<Index> rows;
  for (const Index i : column(j).rows)
    if (!row(i).gone) rows.push_back(i);
  return rows;
}

double PresolveModel::entry(Index i, Index j) const {
  const auto& entries = row(i).entries;
  if (row(i).firm) {
    for (const Entry& e : entries)
      if (e.index == j) return e.value;
    return 0.0;
  }
  const auto it = std::lower_bound(entries.begin(), entries.end(), j,
                                   [](const Entry& e, Index column) { return e.index < column; });
  return it != entries.end() && it->index == j ? it->value : 0.0;
}

bool PresolveModel::raise_lower(Index j, double value) {
  Column& c = columns_[at(j)];
  if (c.integer) value = std::ceil(value);
  if (!(value > c.lower)) return false;
  if (value > c.upper) {  // of a fixed column that is gone too
    possible_ = false;
    return true;
  }
  if (c.gone) return false;
  c.lower = value;
  ++changes_;
  if (c.fixed()) settle_fixed(j);
  return true;
}

bool PresolveModel::drop_upper(Index j, double value) {
  Column& c = columns_[at(j)];
  if (c.integer) value = std::floor(value);
  if (!(value < c.upper)) return false;
  if (value < c.lower) {
    possible_ = false;
    return true;
  }
  if (c.gone) return false;
  c.upper = value;
  ++changes_;
  if (c.fixed()) settle_fixed(j);
  return true;
}

bool PresolveModel::fix(Index j, double value) {
  const bool raised = raise_lower(j, value);
  return (possible_ && drop_upper(j, value)) || raised;
}

void PresolveModel::settle_fixed(Index j) {
  Column& c = columns_[at(j)];
  if (c.gone || c.held || !std::isfinite(c.lower)) return;
  struct Shifted {
    Index row;
    double lower, upper;
  };
  std::vector<Shifted> shifted;
  for (const Index i : rows_of(j)) {
    const Row& r = row(i);
    const auto by = exact_product(entry(i, j), c.lower);
    if (!by) return;
    const auto limit = [&](double l) { return std::isinf(l) ? l : exact_sum(l, -*by); };
    const auto lower = limit(r.lower), upper = limit(r.upper);
    if (!lower || !upper) return;
    shifted.push_back({i, *lower, *upper});
  }
  for (const Shifted& s : shifted) {
    rows_[at(s.row)].lower = s.lower;
    rows_[at(s.row)].upper = s.upper;
    remove_entry(s.row, j);
  }
  constant_ += Rational::exactly(c.cost) * Rational::exactly(c.lower);
  c.gone = true;
  c.rows.clear();
  postsolve_.fixed(j, c.lower);
  ++changes_;
}

void PresolveModel::remove_entry(Index i, Index j) {
  auto& entries = rows_[at(i)].entries;
  entries.erase(place_of(entries, j));
}

void PresolveModel::drop_row(Index i) {
  rows_[at(i)].gone = true;
  ++changes_;
}

bool PresolveModel::set_limits(Index i, double lower, double upper) {
  Row& r = rows_[at(i)];
  if (r.lower == lower && r.upper == upper) return false;
  r.lower = lower;
  r.upper = upper;
  if (lower > upper) possible_ = false;
  ++changes_;
  return true;
}

void PresolveModel::set_entries(Index i, std::vector<Entry> entries) {
  Row& r = rows_[at(i)];
  KITEKNOT_ASSERT(!r.firm, "a firm row stays as it is");
  for (const Entry& e : r.entries) std::erase(columns_[at(e.index)].rows, i);
  std::erase_if(entries, [](const Entry& e) { return e.value == 0.0; });
  for (const Entry& e : entries) columns_[at(e.index)].rows.push_back(i);
  r.entries = std::move(entries);
  ++changes_;
}

void PresolveModel::add_row(Row row) {
  for (const Entry& e : row.entries) columns_[at(e.index)].rows.push_back(num_rows());
  rows_.push_back(std::move(row));
  ++changes_;
}

void PresolveModel::set_integer(Index j) {
  Column& c = columns_[at(j)];
  c.integer = true;
  c.lower = std::ceil(c.lower);
  c.upper = std::floor(c.upper);
  if (c.lower > c.upper) possible_ = false;
  ++changes_;
}

bool PresolveModel::substitute(Index j, const std::vector<Entry>& terms, double constant) {
  KITEKNOT_ASSERT(free_to_go(j), "a held column stays");
  // All new numbers first: nothing changes where one of them is not exact.
  struct Changed {
    Index row;
    std::vector<Entry> entries;
    double lower, upper;
  };
  std::vector<Changed> changed;
  const auto plus = [](double& to, double factor, double by) {
    const auto product = exact_product(factor, by);
    const auto sum = product ? exact_sum(to, *product) : std::nullopt;
    if (sum) to = *sum;
    return sum.has_value();
  };
  for (const Index i : rows_of(j)) {
    Changed c{i, row(i).entries, row(i).lower, row(i).upper};
    const auto own = place_of(c.entries, j);
    const double factor = own->value;
    c.entries.erase(own);
    for (const Entry& t : terms) {
      auto it = place_of(c.entries, t.index);
      if (it == c.entries.end() || it->index != t.index)
        it = c.entries.insert(it, Entry{t.index, 0.0});
      if (!plus(it->value, factor, t.value)) return false;
    }
    for (double* limit : {&c.lower, &c.upper})
      if (std::isfinite(*limit) && !plus(*limit, -factor, constant)) return false;
    changed.push_back(std::move(c));
  }
  std::vector<double> costs;
  for (const Entry& t : terms) {
    if (column(t.index).held && column(j).cost != 0.0 && !known_costs_.empty()) return false;
    double cost = column(t.index).cost;
    if (!plus(cost, column(j).cost, t.value)) return false;
    costs.push_back(cost);
  }
  for (Changed& c : changed) {
    rows_[at(c.row)].lower = c.lower;
    rows_[at(c.row)].upper = c.upper;
    set_entries(c.row, std::move(c.entries));
  }
  std::vector<PostsolveStack::Term> back;
  for (std::size_t k = 0; k < terms.size(); ++k) {
    columns_[at(terms[k].index)].cost = costs[k];
    if (!known_costs_.empty() && column(j).cost != 0.0)
      known_costs_[at(terms[k].index)] = Rational::exactly(costs[k]);
    back.push_back({terms[k].index, Rational::exactly(terms[k].value)});
  }
  constant_ += Rational::exactly(column(j).cost) * Rational::exactly(constant);
  postsolve_.follows(j, Rational::exactly(constant), std::move(back));
  columns_[at(j)].gone = true;
  ++changes_;
  return true;
}

void PresolveModel::join(Index j, Index k) {
  Column &a = columns_[at(j)], &b = columns_[at(k)];
  postsolve_.joined(j, {a.lower, a.upper}, k, {b.lower, b.upper});
  for (const Index i : rows_of(k)) remove_entry(i, k);
  a.lower += b.lower;
  a.upper += b.upper;
  b.gone = true;
  b.rows.clear();
  ++changes_;
}

PresolveModel::Left PresolveModel::left() const {
  Left result{{}, {}, std::vector<Index>(columns_.size(), -1), {}};
  auto& [reduced, kept, place, rows] = result;
  for (Index j = 0; j < num_columns(); ++j) {
    const Column& c = column(j);
    if (c.gone) continue;
    place[at(j)] = static_cast<Index>(kept.size());
    kept.push_back(j);
    (void)reduced.add_column(c.lower, c.upper, c.integer, c.cost);
    if (const auto it = problem_.known_bounds().find(j); it != problem_.known_bounds().end())
      reduced.set_exact_bounds(place[at(j)], it->second);
  }
  for (Index i = 0; i < num_rows(); ++i) {
    const Row& r = row(i);
    if (r.gone) continue;
    LinearRow out{{}, r.lower, r.upper, !r.firm || problem_.row_exact(i)};
    for (const Entry& e : r.entries) out.entries.push_back({place[at(e.index)], e.value});
    if (r.firm && problem_.known_row(i) != nullptr) out.known = *problem_.known_row(i);
    (void)reduced.add_row(out);
    rows.push_back(i < problem_.num_rows() ? i : -1);
  }
  Image image{place, {}};
  for (Index c = 0; c < problem_.num_conditions(); ++c) {
    const Index j = problem_.column_of_condition(c);
    image.condition.push_back(reduced.add_condition(j < 0 ? -1 : place[at(j)]));
  }
  for (const auto& kind : problem_.kinds().all())
    if (!kind->linear()) kind->carry(problem_, image, reduced);
  rows.resize(at(reduced.num_rows()), -1);
  if (!known_costs_.empty()) {
    std::vector<Rational> known;
    for (const Index j : kept) known.push_back(known_costs_[at(j)]);
    reduced.set_exact_costs(std::move(known));
  }
  // What is left of a goal of steps moves in the same ones where the rest is a multiple of them.
  const double step = problem_.goal_step();
  const bool steps = step > 0.0 && (constant_ / Rational::exactly(step)).is_integer();
  reduced.set_goal_facts(problem_.cost_exact(), steps ? step : whole_step(reduced));
  return result;
}

PresolveModel::Reduced PresolveModel::finish() && {
  Left l = left();
  postsolve_.keep(std::move(l.kept));
  return {std::move(l.problem), std::move(postsolve_), std::move(constant_), std::move(l.place),
          std::move(l.rows)};
}

}  // namespace kiteknot::mip
