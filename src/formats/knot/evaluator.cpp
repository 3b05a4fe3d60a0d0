#include "formats/knot/evaluator.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/at.hpp"
#include "formats/knot/messages.hpp"
#include "structures/tours/distances.hpp"

namespace kiteknot::formats::knot {
void Evaluator::set_rows(std::span<const Row> rows) {
  constexpr std::size_t kRoom = 16;  // totals put their rows behind these
  slots_.resize(std::max(slots_.size(), rows.size() + kRoom));
  for (std::size_t k = 0; k < rows.size(); ++k) slots_[k] = rows[k].index();
}

// The row of a table that keys name.
Index Evaluator::named_row(const CellPath& path) const {
  std::vector<std::string_view> keys;
  for (const Key& k : path.keys) keys.push_back(text(k));
  const Index row = path.start->find(keys);
  if (row < 0)
    throw Failure{unknown_key(path.keys, *path.start, path.at),
                  messages::no_member(path.start->name, keys, *path.start)};
  return row;
}

// Where the first key stands that no row of the table has.
Position Evaluator::unknown_key(std::span<const Key> keys, const TableData& table,
                                Position otherwise) const {
  for (std::size_t k = 0; k < keys.size() && k < table.key.size(); ++k) {
    const std::string_view wanted = text(keys[k]);
    bool known = false;
    for (Index row = 0; row < table.num_rows() && !known; ++row)
      known = table.cell(row, table.key[k]) == wanted;
    if (!known) return keys[k].at;
  }
  return otherwise;
}

Index Evaluator::row_at(const CellPath& path) const {
  Index row = path.slot >= 0 ? slots_[at(path.slot)] : named_row(path);
  for (const std::vector<Index>* step : path.steps) {
    const Index next = (*step)[at(row)];
    // Only before and after lead nowhere; what they start from is a row of their own table.
    if (next < 0) throw Failure{path.at, messages::no_neighbour(*path.table, row, row == 0)};
    row = next;
  }
  return row;
}

Index Evaluator::row_of(const MemberPart& part, const TableData& table) const {
  if (part.slot >= 0) return row_at(part.path);
  std::vector<std::string_view> keys;
  for (const Key& k : part.keys) keys.push_back(text(k));
  return table.find(keys);
}

std::string_view Evaluator::text(const Key& key) const {
  switch (key.kind) {
    case Key::Kind::literal:
      return key.text;
    case Key::Kind::row:
      return key.path.table->cell(row_at(key.path), key.path.table->key[0]);
    case Key::Kind::cell:
      return key.path.table->cell(row_at(key.path), key.path.column);
  }
  return {};
}

// As far as they are there: of a row its own.
std::vector<std::string> Evaluator::keys_of(const Meaning& m, const IndexSet& index) {
  std::vector<std::string> keys;
  for (std::size_t t = 0; t < m.member.size(); ++t) {
    const MemberPart& part = m.member[t];
    const TableData& table = index.tables[t].data();
    const Index row = part.keys.empty() ? row_of(part, table) : -1;
    if (row >= 0)
      for (std::string& k : table.keys_of(row)) keys.push_back(std::move(k));
    for (const Key& k : part.keys) keys.emplace_back(text(k));
  }
  return keys;
}

Index Evaluator::member(const Meaning& m, const IndexSet& index) {
  Row few[4] = {{nullptr, 0}, {nullptr, 0}, {nullptr, 0}, {nullptr, 0}};
  std::vector<Row> many;
  std::span<Row> rows;
  if (m.member.size() <= 4) {
    rows = {few, m.member.size()};
  } else {
    many.assign(m.member.size(), Row(nullptr, 0));
    rows = many;
  }
  for (std::size_t t = 0; t < m.member.size(); ++t) {
    const MemberPart& part = m.member[t];
    const TableData& table = index.tables[t].data();
    const Index row = row_of(part, table);
    if (row < 0) {
      throw Failure{unknown_key(part.keys, table, m.at),
                    messages::no_member(m.text, keys_of(m, index), index)};
    }
    rows[t] = Row(&table, row);
  }
  const Index found = index.member(rows);
  if (found >= 0) return found;
  throw Failure{m.at, messages::no_member(m.text, keys_of(m, index), index)};
}

std::span<const Index> Evaluator::looked_up(const Level& level) const {
  const Grouping& grouping = level.table->grouping(level.lookup_column);
  const auto reference = level.table->tables.find(level.lookup_column);
  if (reference != level.table->tables.end()) {
    const TableData* target = reference->second.get();
    if (level.lookup.kind == Key::Kind::row && level.lookup.path.table == target)
      return grouping.of(row_at(level.lookup.path));
    const std::string_view keys[] = {text(level.lookup)};
    return grouping.of(target->find(keys));
  }
  const auto it = grouping.group.find(text(level.lookup));
  return grouping.of(it == grouping.group.end() ? -1 : it->second);
}

bool Evaluator::passes(const Level& level) {
  return std::all_of(level.tests.begin(), level.tests.end(),
                     [&](const Meaning* test) { return holds(*test); });
}

template <class Visit>
void Evaluator::each_row(const Meaning& total, std::size_t k, const Visit& visit) {
  if (k == total.levels.size()) {
    visit();
    return;
  }
  const Level& level = total.levels[k];
  if (!std::all_of(level.guards.begin(), level.guards.end(),
                   [&](const Meaning* test) { return holds(*test); }))
    return;
  if (at(level.slot) >= slots_.size()) slots_.resize(at(level.slot) + 1);
  const auto take = [&](Index row) {
    slots_[at(level.slot)] = row;
    if (passes(level)) each_row(total, k + 1, visit);
  };
  if (level.lookup_column >= 0) {
    for (const Index row : looked_up(level)) take(row);
  } else {
    for (Index row = 0; row < level.table->num_rows(); ++row) take(row);
  }
}

bool Evaluator::holds(const Meaning& m) {
  switch (m.op) {
    case Op::both:
      return std::all_of(m.args.begin(), m.args.end(), [&](const auto& a) { return holds(*a); });
    case Op::either:
      return std::any_of(m.args.begin(), m.args.end(), [&](const auto& a) { return holds(*a); });
    case Op::inverse:
      return !holds(*m.args[0]);
    case Op::exclusive:
      return holds(*m.args[0]) != holds(*m.args[1]);
    case Op::implies:
      return !holds(*m.args[0]) || holds(*m.args[1]);
    case Op::same:
      return holds(*m.args[0]) == holds(*m.args[1]);
    case Op::compare_text:
      return (text(m.left) == text(m.right)) == (m.text == "=");
    case Op::has:
      return row_of(m.member[0], *m.table) >= 0;
    case Op::at_end: {
      const Index row = row_at(m.path);
      return m.text == "first" ? row == 0 : row + 1 == m.path.table->num_rows();
    }
    case Op::count_of:
      return counts(m);
    default:
      return compares(m);
  }
}

bool Evaluator::compares(const Meaning& m) {
  const Rational left = figure(*m.args[0]), right = figure(*m.args[1]);
  if (m.op == Op::range) return left <= right && right <= figure(*m.args[2]);
  if (m.text == "<=") return left <= right;
  if (m.text == ">=") return left >= right;
  if (m.text == "<") return left < right;
  if (m.text == ">") return left > right;
  return (left == right) == (m.text == "=");
}

std::int32_t Evaluator::how_many(const Meaning& m) {
  const Rational n = figure(*m.args[0]);
  constexpr int kMost = 1'000'000'000;
  if (!n.is_integer() || n.sign() < 0 || n > Rational(kMost))
    throw Failure{m.args[0]->at, "how many of the conditions hold is a whole number from 0 up"};
  return static_cast<std::int32_t>(n.to_double());
}

bool Evaluator::counts(const Meaning& m) {
  const std::int32_t n = how_many(m);
  std::int32_t held = 0;
  if (m.levels.empty())
    for (std::size_t k = 1; k < m.args.size(); ++k) held += holds(*m.args[k]) ? 1 : 0;
  else
    each_row(m, 0, [&] { held += holds(*m.args[1]) ? 1 : 0; });
  return m.text == "most" ? held <= n : m.text == "least" ? held >= n : held == n;
}

Condition Evaluator::condition(const Meaning& m) {
  if (m.is_figure())  // data alone: it always holds, or never
    return holds(m) ? all_of({}) : any_of({});
  const auto parts = [&] {
    std::vector<Condition> all;
    for (const MeaningPtr& arg : m.args) all.push_back(condition(*arg));
    return all;
  };
  switch (m.op) {
    case Op::both:
      return all_of(parts());
    case Op::either:
      return any_of(parts());
    case Op::inverse:
      return negated(condition(*m.args[0]));
    case Op::exclusive:
      return Condition(Condition::Kind::exclusive, parts());
    case Op::implies:
      return Condition(Condition::Kind::implies, parts());
    case Op::same:
      return Condition(Condition::Kind::same, parts());
    case Op::truth:
      return Condition(
          Decision{model_, m.args[0]->family->first + member(*m.args[0], m.args[0]->family->index),
                   m.args[0]->family->binary});
    case Op::count_of: {
      std::vector<Condition> all;
      if (m.levels.empty())
        for (std::size_t k = 1; k < m.args.size(); ++k) all.push_back(condition(*m.args[k]));
      else
        each_row(m, 0, [&] { all.push_back(condition(*m.args[1])); });
      const std::int32_t n = how_many(m);
      return m.text == "most"    ? at_most(n, std::move(all))
             : m.text == "least" ? at_least(n, std::move(all))
                                 : exactly(n, std::move(all));
    }
    case Op::range:
      return within(expression(*m.args[0]), expression(*m.args[1]), expression(*m.args[2]));
    default: {
      Expression left = expression(*m.args[0]), right = expression(*m.args[1]);
      if (m.text == "<=") return std::move(left) <= std::move(right);
      if (m.text == ">=") return std::move(left) >= std::move(right);
      return std::move(left) == std::move(right);
    }
  }
}

namespace {

// To a millionth, as a decimal: the same figure as in a file of stops.
Rational distance(bool plane, const std::vector<Expression>& ends) {
  namespace tours = structures::tours;
  const auto place = [&](std::size_t k) { return ends[k].constant().to_double(); };
  const tours::Distances two(plane ? tours::Formula::plane : tours::Formula::earth,
                             {{place(0), place(1)}, {place(2), place(3)}, {}});
  constexpr long long kMillion = 1'000'000;
  return Rational(std::llround(two(0, 1) * static_cast<double>(kMillion))) / Rational(kMillion);
}

}  // namespace

Expression Evaluator::applied(const Meaning& m) {
  if (!m.curve && (m.text == "sqrt" || m.text == "exp" || m.text == "log")) return smooth(m);
  std::vector<Expression> args;
  for (const MeaningPtr& arg : m.args) args.push_back(expression(*arg));
  if (m.curve) {
    const Curve curve(m.curve);
    return curve(args[0]);
  }
  if (m.text == "max") return largest(std::move(args));
  if (m.text == "min") return smallest(std::move(args));
  if (m.text == "abs") return absolute(args[0]);
  const Rational v = args[0].constant();
  if (m.text == "round") return v.round();
  if (m.text == "floor") return v.floor();
  if (m.text == "ceil") return v.ceil();
  if (m.text.starts_with("distance ")) return distance(m.text.ends_with("plane"), args);
  throw Failure{m.at, fmt::format("there is no function '{}'", m.text)};
}

// Functions that have no value everywhere.
Expression Evaluator::smooth(const Meaning& m) {
  const Expression x = expression(*m.args[0]);
  try {
    if (m.op == Op::power) return power(x, expression(*m.args[1]));
    return m.text == "sqrt" ? sqrt(x) : m.text == "exp" ? exp(x) : log(x);
  } catch (const UsageError& e) {
    throw Failure{m.at, e.what()};
  }
}

// An empty cell is no figure, whatever the other cells of its column are.
Rational Evaluator::cell(const Meaning& m) const {
  const Index row = row_at(m.path);
  const Rational& value = (*m.path.figures)[at(row)];
  if (!m.path.some_special) return value;
  if (m.path.column >= 0 && m.path.table->is_empty(row, m.path.column)) {
    Diagnostics notes;
    m.path.table->tell_empty(m.path.column, notes);
    throw InputError(notes);
  }
  if (!value.is_finite() && !m.infinite_too) {
    Diagnostics notes;
    notes.error(m.path.table->at_cell(
        row, m.path.column,
        "'inf' is allowed only as a bound of a decision; elsewhere an empty cell can be asked for, "
        "as in 'where row.column is given'"));
    throw InputError(notes);
  }
  return value;
}

Rational Evaluator::figure(const Meaning& m) {
  switch (m.op) {
    case Op::constant:
      return m.value;
    case Op::cell:
      return cell(m);
    case Op::negate:
      return -figure(*m.args[0]);
    case Op::add: {
      Rational sum = 0;
      for (const MeaningPtr& arg : m.args) sum += figure(*arg);
      return sum;
    }
    case Op::multiply: {
      Rational product = 1;
      for (const MeaningPtr& arg : m.args) product *= figure(*arg);
      return product;
    }
    case Op::divide: {
      const Rational below = figure(*m.args[0]);
      if (below.is_zero()) throw Failure{m.at, "a division by 0"};
      return Rational(1) / below;
    }
    default: {
      const Expression e = expression(m);
      return e.constant();
    }
  }
}

Expression Evaluator::expression(const Meaning& m) {
  Expression out;
  add(m, 1, out);
  return out;
}

void Evaluator::add(const Meaning& m, const Rational& scale, Expression& out) {
  switch (m.op) {
    case Op::number:
      out += Expression(Number{model_, m.number}) * Expression(scale);
      return;
    case Op::decision:
      out.add(scale, m.family->first + member(m, m.family->index), model_);
      return;
    case Op::named:
      out += m.named->values[at(member(m, m.named->index))] * Expression(scale);
      return;
    case Op::negate:
      add(*m.args[0], -scale, out);
      return;
    case Op::add:
      for (const MeaningPtr& arg : m.args) add(*arg, scale, out);
      return;
    case Op::total:
      each_row(m, 0, [&] { add(*m.args[0], scale, out); });
      return;
    case Op::number_of: {
      Index rows = 0;
      each_row(m, 0, [&] { ++rows; });
      out.add(scale * Rational(rows));
      return;
    }
    case Op::choice:
      return add(*m.args[holds(*m.args[0]) ? 1 : 2], scale, out);
    case Op::apply:
      out += applied(m) * Expression(scale);
      return;
    case Op::power:
      out += smooth(m) * Expression(scale);
      return;
    case Op::extreme: {
      std::vector<Expression> of;
      each_row(m, 0, [&] { of.push_back(expression(*m.args[0])); });
      if (of.empty())
        throw Failure{m.at,
                      fmt::format("the {} of no row at all; say in 'where' or 'if' what holds "
                                  "then",
                                  m.text)};
      out += (m.text == "largest" ? largest(std::move(of)) : smallest(std::move(of))) *
             Expression(scale);
      return;
    }
    case Op::multiply: {
      Rational by = scale;
      std::vector<const Meaning*> others;
      for (const MeaningPtr& arg : m.args)
        if (arg->is_figure())
          by *= figure(*arg);
        else
          others.push_back(arg.get());
      if (others.size() == 1) return add(*others[0], by, out);
      Expression product = by;
      for (const Meaning* other : others)
        if (other->op == Op::divide)
          product /= expression(*other->args[0]);
        else
          product *= expression(*other);
      out += product;
      return;
    }
    case Op::divide:
      if (m.args[0]->is_figure()) return out.add(scale * figure(m));
      out += Expression(scale) / expression(*m.args[0]);
      return;
    default:
      out.add(scale * figure(m));
      return;
  }
}

}  // namespace kiteknot::formats::knot
