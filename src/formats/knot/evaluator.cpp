#include "formats/knot/evaluator.hpp"

#include <algorithm>

#include "formats/knot/messages.hpp"

namespace kiteknot::formats::knot {
namespace {
std::size_t at(Index i) {
  return static_cast<std::size_t>(i);
}
}  // namespace

void Evaluator::set_rows(std::span<const Row> rows) {
  constexpr std::size_t kRoom = 16;  // totals put their rows behind these
  slots_.resize(std::max(slots_.size(), rows.size() + kRoom));
  for (std::size_t k = 0; k < rows.size(); ++k) slots_[k] = rows[k].index();
}

Index Evaluator::row_at(const CellPath& path) const {
  Index row = slots_[at(path.slot)];
  for (const std::vector<Index>* step : path.steps) row = (*step)[at(row)];
  return row;
}

std::string_view Evaluator::text(const Key& key) const {
  switch (key.kind) {
    case Key::Kind::literal:
      return key.text;
    case Key::Kind::row:
      return key.path.table->cell(slots_[at(key.path.slot)], key.path.table->key[0]);
    case Key::Kind::cell:
      return key.path.table->cell(row_at(key.path), key.path.column);
  }
  return {};
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
    Index row = -1;
    if (part.slot >= 0) {
      row = slots_[at(part.slot)];
    } else {
      std::vector<std::string_view> keys;
      for (const Key& k : part.keys) keys.push_back(text(k));
      row = table.find(keys);
      if (row < 0) throw Failure{m.at, messages::no_member(m.text, keys, table)};
    }
    rows[t] = Row(&table, row);
  }
  const Index found = index.member(rows);
  if (found >= 0) return found;
  std::vector<std::string> keys;
  for (const Row r : rows)
    for (std::string& k : r.keys()) keys.push_back(std::move(k));
  throw Failure{m.at, messages::no_member(m.text, keys)};
}

std::span<const Index> Evaluator::looked_up(const Level& level) const {
  const Grouping& grouping = level.table->grouping(level.lookup_column);
  const auto reference = level.table->tables.find(level.lookup_column);
  if (reference != level.table->tables.end()) {
    const TableData* target = reference->second.get();
    if (level.lookup.kind == Key::Kind::row && level.lookup.path.table == target)
      return grouping.of(slots_[at(level.lookup.path.slot)]);
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
      return holds(*m.args[0]) && holds(*m.args[1]);
    case Op::either:
      return holds(*m.args[0]) || holds(*m.args[1]);
    case Op::inverse:
      return !holds(*m.args[0]);
    case Op::compare_text:
      return (text(m.left) == text(m.right)) == (m.text == "=");
    default:
      break;
  }
  const Rational left = figure(*m.args[0]), right = figure(*m.args[1]);
  if (m.text == "<=") return left <= right;
  if (m.text == ">=") return left >= right;
  if (m.text == "<") return left < right;
  if (m.text == ">") return left > right;
  return (left == right) == (m.text == "=");
}

Rational Evaluator::figure(const Meaning& m) {
  switch (m.op) {
    case Op::constant:
      return m.value;
    case Op::cell:
      return (*m.path.figures)[at(row_at(m.path))];
    case Op::negate:
      return -figure(*m.args[0]);
    case Op::add:
      return figure(*m.args[0]) + figure(*m.args[1]);
    case Op::subtract:
      return figure(*m.args[0]) - figure(*m.args[1]);
    case Op::multiply:
      return figure(*m.args[0]) * figure(*m.args[1]);
    case Op::divide: {
      const Rational below = figure(*m.args[1]);
      if (below.is_zero()) throw Failure{m.at, "a division by 0"};
      return figure(*m.args[0]) / below;
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
    case Op::subtract:
      add(*m.args[0], scale, out);
      add(*m.args[1], m.op == Op::add ? scale : -scale, out);
      return;
    case Op::total:
      each_row(m, 0, [&] { add(*m.args[0], scale, out); });
      return;
    case Op::multiply:
      if (m.args[0]->is_figure()) return add(*m.args[1], scale * figure(*m.args[0]), out);
      if (m.args[1]->is_figure()) return add(*m.args[0], scale * figure(*m.args[1]), out);
      out += expression(*m.args[0]) * expression(*m.args[1]) * Expression(scale);
      return;
    case Op::divide: {
      if (!m.args[1]->is_figure()) {
        out += expression(*m.args[0]) / expression(*m.args[1]) * Expression(scale);
        return;
      }
      const Rational below = figure(*m.args[1]);
      if (below.is_zero()) throw Failure{m.at, "a division by 0"};
      return add(*m.args[0], scale / below, out);
    }
    default:
      out.add(scale * figure(m));
      return;
  }
}

}  // namespace kiteknot::formats::knot
