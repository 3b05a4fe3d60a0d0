#include "kiteknot/tableau.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/at.hpp"
#include "model/lowering_builder.hpp"
#include "workbench/statement.hpp"

namespace kiteknot {

Tableau::Tableau(const Model& model, const TableauOptions& options)
    : model_(model), options_(options) {
  workbench::Statement stated = workbench::state(model, options);
  goal_name_ = stated.goal_name;
  maximize_ = stated.maximize;
  goal_constant_ = stated.goal_constant;
  goal_ = std::move(stated.goal);
  num_decisions_ = model.num_decisions();
  columns_ = std::move(stated.columns);
  for (Column j = 0; j < num_own(); ++j) {
    TableauColumn& c = columns_[place(j)];
    c.place = j;
    c.at_high = !c.low.is_finite() && c.high.is_finite();
    others_.push_back(j);
  }
  gains_ = goal_;
  goal_right_ = goal_constant_;
  goal_step_ = goal_constant_.abs();
  for (Column j = 0; j < num_own(); ++j) {
    if (goal_[place(j)].is_zero()) continue;
    const Rational& step = columns_[place(j)].step;
    if (step.is_zero()) {
      goal_step_ = 0;
      break;
    }
    goal_step_ = common_step(goal_step_, goal_[place(j)] * step);
  }
  for (workbench::StatedSum& sum : stated.rows) {
    Rational range = Rational::infinity();
    if (sum.high.is_finite()) {
      sum.row.limit = sum.high;
      if (sum.low.is_finite()) range = sum.high - sum.low;
    } else {
      sum.row.limit = sum.low;
      sum.row.sign = -1;
    }
    sum.row.equation = range.is_zero();
    add_row(std::move(sum.row), range);
  }
}

std::size_t Tableau::within(std::int32_t i, std::size_t count, const char* what) {
  if (i < 0 || place(i) >= count)
    throw UsageError(fmt::format("the tableau has no {} {}: it has {}", what, i, count));
  return place(i);
}

Rational Tableau::step_of(const TableauRow& row, const Rational& range) const {
  Rational step = row.limit.abs();
  for (const auto& [j, coefficient] : row.terms) {
    if (columns_[place(j)].step.is_zero()) return 0;
    step = common_step(step, coefficient * columns_[place(j)].step);
  }
  return range.is_finite() ? common_step(step, range) : step;
}

// terms + sign room = limit, with every basic b replaced by its row: b = r - sum of e x other.
Tableau::Column Tableau::add_row(TableauRow row, const Rational& range) {
  for (const auto& [j, coefficient] : row.terms) (void)column_at(j);
  const Rational sign = row.sign;
  std::vector<Rational> line(others_.size());
  Rational right = sign * row.limit;
  for (const auto& [j, coefficient] : row.terms) {
    const TableauColumn& c = columns_[place(j)];
    if (!c.basic) {
      line[place(c.place)] += sign * coefficient;
      continue;
    }
    right -= sign * coefficient * right_[place(c.place)];
    for (std::size_t k = 0; k < line.size(); ++k)
      line[k] -= sign * coefficient * entries_[place(c.place)][k];
  }
  TableauColumn room;
  room.kind = TableauColumn::Kind::room;
  room.name = (row.equation ? "gap of " : "room of ") + row.name;
  room.low = 0;
  room.high = range;
  room.step = step_of(row, range);
  room.row = static_cast<std::int32_t>(stated_.size());
  room.basic = true;
  room.place = static_cast<std::int32_t>(basics_.size());
  const auto column = static_cast<Column>(columns_.size());
  row.room = column;
  columns_.push_back(std::move(room));
  stated_.push_back(std::move(row));
  basics_.push_back(column);
  entries_.push_back(std::move(line));
  right_.push_back(std::move(right));
  return column;
}

void Tableau::drop_row(Column room) {
  (void)column_at(room);
  TableauColumn& c = columns_[place(room)];
  if (c.row < 0 || !c.basic) throw UsageError(c.name + " is not the room of a row, and basic");
  const std::size_t row = place(c.place);
  basics_.erase(basics_.begin() + c.place);
  entries_.erase(entries_.begin() + c.place);
  right_.erase(right_.begin() + c.place);
  for (std::size_t i = row; i < basics_.size(); ++i)
    columns_[place(basics_[i])].place = static_cast<std::int32_t>(i);
  c.basic = false;
  c.place = -1;
  c.gone = true;
}

std::optional<Tableau::Column> Tableau::find(const std::string& name) const {
  for (std::size_t j = 0; j < columns_.size(); ++j)
    if (!columns_[j].gone && columns_[j].name == name) return static_cast<Column>(j);
  return std::nullopt;
}

std::vector<std::string> Tableau::names() const {
  std::vector<std::string> out;
  for (const TableauColumn& c : columns_)
    if (!c.gone) out.push_back(c.name);
  return out;
}

Rational Tableau::stand(const TableauColumn& c) const {
  if (c.at_high && c.high.is_finite()) return c.high;
  return c.low.is_finite() ? c.low : c.high.is_finite() ? c.high : Rational();
}

Rational Tableau::value(Column column) const {
  (void)column_at(column);
  const TableauColumn& c = columns_[place(column)];
  if (c.gone) {  // its row tells it: terms + sign room = limit
    const TableauRow& row = stated_[place(c.row)];
    Rational room = row.limit;
    for (const auto& [j, coefficient] : row.terms) room -= coefficient * value(j);
    return Rational(row.sign) * room;
  }
  if (!c.basic) return stand(c);
  Rational sum = right_[place(c.place)];
  for (std::size_t k = 0; k < others_.size(); ++k) {
    const Rational& e = entries_[place(c.place)][k];
    if (e.is_zero()) continue;
    if (const Rational at = stand(columns_[place(others_[k])]); !at.is_zero()) sum -= e * at;
  }
  return sum;
}

Rational Tableau::goal_value() const {
  Rational sum = goal_right_;
  for (std::size_t k = 0; k < others_.size(); ++k)
    if (!gains_[k].is_zero()) sum += gains_[k] * stand(columns_[place(others_[k])]);
  return sum;
}

Rational Tableau::missing() const {
  Rational sum;
  for (const Column b : basics_) {
    const TableauColumn& c = columns_[place(b)];
    const Rational v = value(b);
    if (v < c.low) sum += c.low - v;
    if (v > c.high) sum += v - c.high;
  }
  return sum;
}

Rational Tableau::missing_change(std::int32_t other) const {
  (void)other_at(other);
  Rational sum;
  for (std::size_t i = 0; i < basics_.size(); ++i) {
    const TableauColumn& c = columns_[place(basics_[i])];
    const Rational v = value(basics_[i]);
    if (v < c.low) sum += entries_[i][place(other)];
    if (v > c.high) sum -= entries_[i][place(other)];
  }
  return sum;
}

bool Tableau::is_feasible() const {
  return !empty_column() && missing().is_zero();
}

std::optional<Tableau::Column> Tableau::empty_column() const {
  for (std::size_t j = 0; j < columns_.size(); ++j)
    if (!columns_[j].gone && columns_[j].low > columns_[j].high) return static_cast<Column>(j);
  return std::nullopt;
}

bool Tableau::has_right_signs() const {
  for (std::size_t k = 0; k < others_.size(); ++k) {
    const TableauColumn& c = columns_[place(others_[k])];
    if (c.fixed() || gains_[k].is_zero()) continue;
    const bool up_is_better = (gains_[k].sign() > 0) == maximize_;
    const bool can_rise = !c.high.is_finite() || stand(c) < c.high;
    const bool can_fall = !c.low.is_finite() || stand(c) > c.low;
    if (up_is_better ? can_rise : can_fall) return false;
  }
  return true;
}

bool Tableau::is_whole() const {
  for (Column j = 0; j < num_own(); ++j) {
    const TableauColumn& c = columns_[place(j)];
    if (!c.is_whole_at(value(j))) return false;
  }
  return true;
}

Plan Tableau::plan() const {
  std::vector<Rational> values;
  for (Column j = 0; j < num_decisions_; ++j) values.push_back(value(j));
  return Plan(model_, std::move(values));
}

// From b = r - ... - e o - ..., o = r / e - ... - b / e; put into all other rows.
void Tableau::pivot(std::int32_t row, std::int32_t other, bool leaves_at_high) {
  (void)row_at(row);
  (void)other_at(other);
  const std::size_t r = place(row), p = place(other);
  const Rational pivot = entries_[r][p];
  if (pivot.is_zero())
    throw UsageError(fmt::format("the entry of {} in the row of {} is 0: it cannot come in there",
                                 columns_[place(others_[p])].name,
                                 columns_[place(basics_[r])].name));
  std::vector<Rational>& line = entries_[r];
  for (Rational& e : line)
    if (!e.is_zero()) e /= pivot;
  line[p] = Rational(1) / pivot;
  right_[r] /= pivot;
  for (std::size_t i = 0; i < entries_.size(); ++i) {
    if (i == r || entries_[i][p].is_zero()) continue;
    const Rational by = entries_[i][p];
    entries_[i][p] = 0;
    for (std::size_t k = 0; k < line.size(); ++k)
      if (!line[k].is_zero()) entries_[i][k] -= by * line[k];
    right_[i] -= by * right_[r];
  }
  if (!gains_[p].is_zero()) {
    const Rational by = gains_[p];
    gains_[p] = 0;
    for (std::size_t k = 0; k < line.size(); ++k)
      if (!line[k].is_zero()) gains_[k] -= by * line[k];
    goal_right_ += by * right_[r];
  }
  TableauColumn& in = columns_[place(others_[p])];
  TableauColumn& out = columns_[place(basics_[r])];
  in.basic = true;
  in.at_high = false;
  in.place = row;
  out.basic = false;
  out.at_high = leaves_at_high && out.high.is_finite();
  out.place = other;
  std::swap(basics_[r], others_[p]);
}

void Tableau::move_to_other_limit(std::int32_t other) {
  (void)other_at(other);
  TableauColumn& c = columns_[place(others_[place(other)])];
  if (!c.low.is_finite() || !c.high.is_finite())
    throw UsageError(c.name + " has no other limit to go to");
  c.at_high = !c.at_high;
}

void Tableau::set_limits(Column column, const Rational& low, const Rational& high) {
  (void)column_at(column);
  TableauColumn& c = columns_[place(column)];
  c.low = low;
  c.high = high;
  if (c.basic) return;
  if (c.at_high && !high.is_finite()) c.at_high = false;
  if (!c.at_high && !low.is_finite() && high.is_finite()) c.at_high = true;
}

}  // namespace kiteknot
