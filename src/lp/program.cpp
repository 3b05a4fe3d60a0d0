#include "lp/program.hpp"

#include <cmath>

#include "base/infinity.hpp"
#include "kiteknot/errors.hpp"

namespace kiteknot::lp {
namespace {

void refuse_bad_limits(double lower, double upper) {
  if (std::isnan(lower) || std::isnan(upper)) throw UsageError("a limit is not a number");
  if (lower > upper) throw UsageError("a lower limit lies above the upper one");
  if (lower == kInf || upper == -kInf) throw UsageError("a limit leaves no finite value");
}

void refuse_bad_coefficient(double value) {
  if (!std::isfinite(value)) throw UsageError("a coefficient is not finite");
}

void refuse_bad_entry(const Entry& e, Index count) {
  refuse_bad_coefficient(e.value);
  if (e.index < 0 || e.index >= count) throw UsageError("an entry names a line that is not there");
}

// New numbers after removal: -1 for the lines that go.
std::vector<Index> numbers_after(const std::vector<char>& gone) {
  std::vector<Index> number(gone.size(), -1);
  Index next = 0;
  for (std::size_t i = 0; i < gone.size(); ++i)
    if (!gone[i]) number[i] = next++;
  return number;
}

std::vector<Index> same_numbers(Index count) {
  std::vector<Index> number(static_cast<std::size_t>(count));
  for (Index i = 0; i < count; ++i) number[static_cast<std::size_t>(i)] = i;
  return number;
}

template <class T>
void keep(std::vector<T>& values, const std::vector<char>& gone) {
  std::size_t kept = 0;
  for (std::size_t i = 0; i < values.size(); ++i)
    if (!gone[i]) values[kept++] = values[i];
  values.resize(kept);
}

}  // namespace

Index Program::add_column(double cost, double lower, double upper,
                          const std::vector<Entry>& entries) {
  refuse_bad_coefficient(cost);
  refuse_bad_limits(lower, upper);
  for (const Entry& e : entries) refuse_bad_entry(e, num_rows());
  const Index j = num_columns();
  columns_.add_line(static_cast<Index>(entries.size()));
  cost_.push_back(cost);
  lower_.push_back(lower);
  upper_.push_back(upper);
  for (const Entry& e : entries) {
    columns_.push(j, e.index, e.value);
    rows_.push(e.index, j, e.value);
  }
  return j;
}

Index Program::add_row(double lower, double upper, const std::vector<Entry>& entries, bool exact) {
  refuse_bad_limits(lower, upper);
  for (const Entry& e : entries) refuse_bad_entry(e, num_columns());
  const Index i = num_rows();
  rows_.add_line(static_cast<Index>(entries.size()));
  row_lower_.push_back(lower);
  row_upper_.push_back(upper);
  row_exact_.push_back(exact);
  for (const Entry& e : entries) {
    rows_.push(i, e.index, e.value);
    columns_.push(e.index, i, e.value);
  }
  return i;
}

void Program::set_row(Index i, double lower, double upper, const std::vector<Entry>& entries,
                      bool exact) {
  set_row_limits(i, lower, upper);
  for (const Entry& e : entries) refuse_bad_entry(e, num_columns());
  for (const Index j : rows_.index(i)) columns_.erase(j, i);
  rows_.clear_line(i);
  for (const Entry& e : entries) {
    rows_.push(i, e.index, e.value);
    columns_.push(e.index, i, e.value);
  }
  row_exact_[at(i)] = exact;
  exact_row_.erase(i);
}

void Program::set_cost(Index j, double cost) {
  refuse_bad_coefficient(cost);
  exact_cost_.clear();
  cost_[at(j)] = cost;
}

void Program::set_bounds(Index j, double lower, double upper) {
  refuse_bad_limits(lower, upper);
  lower_[at(j)] = lower;
  upper_[at(j)] = upper;
}

void Program::set_row_limits(Index i, double lower, double upper) {
  refuse_bad_limits(lower, upper);
  row_lower_[at(i)] = lower;
  row_upper_[at(i)] = upper;
}

void Program::set_exact_row(Index i, Exact row) {
  if (!row.values.empty() && row.values.size() != rows_.index(i).size())
    throw UsageError("an exact row has another number of entries");
  exact_row_[i] = std::move(row);
}
void Program::set_exact_bounds(Index j, Exact bounds) {
  exact_bounds_[j] = std::move(bounds);
}
void Program::set_exact_costs(std::vector<Rational> costs) {
  exact_cost_ = std::move(costs);
}

namespace {
Rational as_it_is(double v) {
  if (std::isinf(v)) return v > 0 ? Rational::infinity() : Rational::minus_infinity();
  return Rational::exactly(v);
}
Rational low_of(const std::unordered_map<Index, Exact>& known, Index k, double now) {
  if (known.empty()) return as_it_is(now);
  const auto it = known.find(k);
  return it != known.end() && it->second.low_as == now ? it->second.low : as_it_is(now);
}
Rational high_of(const std::unordered_map<Index, Exact>& known, Index k, double now) {
  if (known.empty()) return as_it_is(now);
  const auto it = known.find(k);
  return it != known.end() && it->second.high_as == now ? it->second.high : as_it_is(now);
}
void renumber(std::unordered_map<Index, Exact>& known, const std::vector<Index>& number) {
  std::unordered_map<Index, Exact> kept;
  for (auto& [k, exact] : known)
    if (number[static_cast<std::size_t>(k)] >= 0)
      kept.emplace(number[static_cast<std::size_t>(k)], std::move(exact));
  known = std::move(kept);
}
}  // namespace

bool Program::row_known(Index i) const {
  if (row_exact(i)) return true;
  const auto it = exact_row_.find(i);
  return it != exact_row_.end() && !it->second.values.empty();
}
Rational Program::exact_lower(Index j) const {
  return low_of(exact_bounds_, j, lower(j));
}
Rational Program::exact_upper(Index j) const {
  return high_of(exact_bounds_, j, upper(j));
}
Rational Program::exact_row_lower(Index i) const {
  return low_of(exact_row_, i, row_lower(i));
}
Rational Program::exact_row_upper(Index i) const {
  return high_of(exact_row_, i, row_upper(i));
}
Rational Program::exact_cost(Index j) const {
  return exact_cost_.empty() ? Rational::exactly(cost(j)) : exact_cost_[at(j)];
}
Rational Program::exact_value(Index i, std::size_t k) const {
  if (!row_exact(i))
    if (const auto it = exact_row_.find(i); it != exact_row_.end() && !it->second.values.empty())
      return it->second.values[k];
  return Rational::exactly(rows_.value(i)[k]);
}

void Program::remove_rows(const std::vector<char>& gone) {
  const std::vector<Index> number = numbers_after(gone);
  columns_.renumber(same_numbers(num_columns()), number);
  rows_.renumber(number, same_numbers(num_columns()));
  keep(row_lower_, gone);
  keep(row_upper_, gone);
  keep(row_exact_, gone);
  renumber(exact_row_, number);
}

void Program::remove_columns(const std::vector<char>& gone) {
  const std::vector<Index> number = numbers_after(gone);
  for (auto& [i, exact] : exact_row_) {  // while the rows' entries still say which is which
    if (exact.values.empty()) continue;
    std::size_t kept = 0;
    for (std::size_t k = 0; k < exact.values.size(); ++k)
      if (!gone[at(rows_.index(i)[k])]) exact.values[kept++] = exact.values[k];
    exact.values.resize(kept);
  }
  renumber(exact_bounds_, number);
  if (!exact_cost_.empty()) keep(exact_cost_, gone);
  rows_.renumber(same_numbers(num_rows()), number);
  columns_.renumber(number, same_numbers(num_rows()));
  keep(cost_, gone);
  keep(lower_, gone);
  keep(upper_, gone);
}

}  // namespace kiteknot::lp
