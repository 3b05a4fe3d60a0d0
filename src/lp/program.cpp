#include "lp/program.hpp"

#include <cmath>
#include <limits>

#include "kiteknot/errors.hpp"

namespace kiteknot::lp {
namespace {

void refuse_bad_limits(double lower, double upper) {
  if (std::isnan(lower) || std::isnan(upper)) throw UsageError("a limit is not a number");
  if (lower > upper) throw UsageError("a lower limit lies above the upper one");
  constexpr double kInf = std::numeric_limits<double>::infinity();
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
  columns_.add_lines(1);
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
  rows_.add_lines(1);
  row_lower_.push_back(lower);
  row_upper_.push_back(upper);
  row_exact_.push_back(exact);
  for (const Entry& e : entries) {
    rows_.push(i, e.index, e.value);
    columns_.push(e.index, i, e.value);
  }
  return i;
}

void Program::set_cost(Index j, double cost) {
  refuse_bad_coefficient(cost);
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

void Program::remove_rows(const std::vector<char>& gone) {
  const std::vector<Index> number = numbers_after(gone);
  columns_.renumber(same_numbers(num_columns()), number);
  rows_.renumber(number, same_numbers(num_columns()));
  keep(row_lower_, gone);
  keep(row_upper_, gone);
  keep(row_exact_, gone);
}

void Program::remove_columns(const std::vector<char>& gone) {
  const std::vector<Index> number = numbers_after(gone);
  rows_.renumber(same_numbers(num_rows()), number);
  columns_.renumber(number, same_numbers(num_rows()));
  keep(cost_, gone);
  keep(lower_, gone);
  keep(upper_, gone);
}

}  // namespace kiteknot::lp
