#include <algorithm>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "formats/knot/curve_binder.hpp"
#include "formats/knot/messages.hpp"
#include "formats/knot/model_binder.hpp"
#include "formats/knot/table_binder.hpp"
#include "formats/knot/tour_binder.hpp"
#include "model/internals.hpp"

namespace kiteknot::formats::knot {

void Binder::bind_statement(std::size_t s) {
  states_[s] = State::busy;
  busy_.push_back(s);
  const Statement& st = statements_[s];
  try {
    switch (st.kind()) {
      case StatementKind::model:
      case StatementKind::scenario:
        break;
      case StatementKind::table:
        bind_table(st);
        break;
      case StatementKind::column:
        bind_column(st);
        break;
      case StatementKind::number:
        bind_number(st);
        break;
      case StatementKind::curve:
        bind_curve(st);
        break;
      case StatementKind::decide:
        bind_decide(st);
        break;
      case StatementKind::let:
        bind_let(st);
        break;
      case StatementKind::goal:
        bind_goal(st);
        break;
      case StatementKind::rule:
        bind_rule(st);
        break;
    }
    states_[s] = State::done;
  } catch (const Failure& f) {
    if (!f.message.empty()) error(f.at, f.message);
    states_[s] = State::failed;
  } catch (const UsageError& e) {
    error(st.heading.at, e.what());
    states_[s] = State::failed;
  } catch (const InputError& e) {
    notes_.append(e.diagnostics());
    states_[s] = State::failed;
  }
  busy_.pop_back();
}

void Binder::bind_table(const Statement& st) {
  tables_.emplace(st.heading.name,
                  make_table(st, source_, changes_, *this, notes_, model_.data().tag));
  const Table& table = tables_.at(st.heading.name);
  // Whoever hands the data on wants those as well over which nothing is stated.
  Internals::of(model_)->tables.push_back(table);
  if (const std::string& file = table.data().file; !file.empty()) model_.add_source(file);
}

void Binder::bind_column(const Statement& st) {
  const ColumnText& said = st.as<ColumnText>();
  Table table = need_table(said.table, st.at);
  // The row goes by the table's own name, or by any name that reads the table: one row is in
  // view.
  Resolver resolver(*this, notes_);
  resolver.open({{said.table, said.table, st.at, st.at}});
  const SyntaxNode body = with_row_prefix(*st.body, said.table, table.data());
  const MeaningPtr m = resolver.data_expression(body, "a column");
  if (m->has_numbers)
    throw Failure{
        st.body->at,
        "a column is computed from data only; a number may be set again later (use 'let')"};
  Evaluator evaluator(model_.data().tag);
  table.add_numbers(st.heading.name, [&](Row row) {
    evaluator.set_rows({&row, 1});
    return evaluator.figure(*m);
  });
}

// In `column shows.cost = crew * wage` plain names are columns of the table.
SyntaxNode Binder::with_row_prefix(const SyntaxNode& node, const std::string& row,
                                   const TableData& table) {
  SyntaxNode copy;
  copy.kind = node.kind;
  copy.at = node.at;
  copy.text = node.text;
  copy.value = node.value;
  copy.rows = node.rows;
  const bool own_column =
      node.kind == NodeKind::name && node.text != row &&
      (table.column(node.text) >= 0 || columns_.contains({table.name, node.text}));
  if (own_column) {
    copy.kind = NodeKind::cell;
    auto base = std::make_unique<SyntaxNode>();
    base->kind = NodeKind::name;
    base->at = node.at;
    base->text = row;
    copy.args.push_back(std::move(base));
    return copy;
  }
  for (const NodePtr& arg : node.args)
    copy.args.push_back(std::make_unique<SyntaxNode>(with_row_prefix(*arg, row, table)));
  return copy;
}

void Binder::bind_number(const Statement& st) {
  Resolver resolver(*this, notes_);
  const MeaningPtr m = resolver.data_expression(*st.body, "a number");
  Evaluator evaluator(model_.data().tag);
  evaluator.set_rows({});
  numbers_[st.heading.name] = model_.number(st.heading.name, evaluator.expression(*m)).id;
  model_.note_place(st.heading.name, place(st.heading.at));
}

void Binder::bind_curve(const Statement& st) {
  const Curve made = make_curve(st, *this, notes_, model_.data());
  curves_[st.heading.name] = Internals::of(model_.curve(st.heading.name, made, st.stated));
}

Binder::Ranged Binder::range(const Heading& heading, Resolver& resolver, Evaluator& evaluator) {
  Ranged r;
  for (const RowName& row : heading.rows)
    r.over.tables.push_back(need_table(row.table, row.table_at));
  resolver.open(heading.rows);
  evaluator.set_rows({});
  if (!heading.where) return r;
  r.where = resolver.data_condition(*heading.where);
  r.over.where = [&evaluator, where = r.where.get()](std::span<const Row> rows) {
    evaluator.set_rows(rows);
    return evaluator.holds(*where);
  };
  return r;
}

// Whether a bound is a cell with inf.
bool Binder::endless(const Meaning& bound, Evaluator& evaluator, bool lower) {
  if (!bound.infinite_too) return false;
  const Rational value = evaluator.figure(bound);
  if (value.is_finite()) return false;
  if ((value.sign() > 0) == lower)
    throw Failure{bound.at, lower ? "a lower bound of inf leaves nothing"
                                  : "an upper bound of -inf leaves nothing"};
  return true;
}

void Binder::bind_decide(const Statement& st) {
  const DecideText& said = st.as<DecideText>();
  Resolver resolver(*this, notes_);
  Evaluator evaluator(model_.data().tag);
  Ranged r = range(st.heading, resolver, evaluator);
  if (!said.values.empty()) {
    std::vector<Rational> values;
    for (const NodePtr& node : said.values) {
      const MeaningPtr m = resolver.data_expression(*node, "a listed value");
      if (m->has_numbers)
        throw Failure{node->at, "listed values are figures; a number may be set again later"};
      values.push_back(evaluator.figure(*m));
    }
    (void)model_.one_of(st.heading.name, r.over, std::move(values));
    families_[st.heading.name] = model_.data().families.back();
    return;
  }
  std::function<Limits(std::span<const Row>)> limits;
  MeaningPtr low, high;
  if (said.bounded) {
    const auto bound = [&](const SyntaxNode& node, bool lower) -> MeaningPtr {
      const bool negative = node.kind == NodeKind::negate;
      const SyntaxNode& inner = negative ? *node.args[0] : node;
      if (inner.kind != NodeKind::infinity) {
        MeaningPtr m = resolver.data_expression(node, "a bound");
        m->infinite_too = m->op == Op::cell;
        return m;
      }
      if (negative != lower)
        throw Failure{node.at, lower ? "a lower bound of inf leaves nothing"
                                     : "an upper bound of -inf leaves nothing"};
      return nullptr;
    };
    low = bound(*said.low, true);
    high = bound(*said.high, false);
    limits = [&](std::span<const Row> rows) {
      evaluator.set_rows(rows);
      Limits l;
      l.has_low = low != nullptr;
      l.has_high = high != nullptr;
      l.or_zero = said.or_zero;
      l.has_low = l.has_low && !endless(*low, evaluator, true);
      l.has_high = l.has_high && !endless(*high, evaluator, false);
      if (l.has_low) l.low = evaluator.expression(*low);
      if (l.has_high) l.high = evaluator.expression(*high);
      return l;
    };
  }
  const Decisions d = model_.decide(st.heading.name, r.over, said.integer, limits, st.stated);
  families_[st.heading.name] = model_.data().families.back();
}

void Binder::bind_let(const Statement& st) {
  Resolver resolver(*this, notes_);
  Evaluator evaluator(model_.data().tag);
  Ranged r = range(st.heading, resolver, evaluator);
  const MeaningPtr m = resolver.expression(*st.body);
  (void)model_.let_family(
      st.heading.name, r.over,
      [&](std::span<const Row> rows) {
        evaluator.set_rows(rows);
        return evaluator.expression(*m);
      },
      st.stated);
  lets_[st.heading.name] = model_.data().lets.back();
}

void Binder::bind_goal(const Statement& st) {
  const GoalText& said = st.as<GoalText>();
  Resolver resolver(*this, notes_);
  const MeaningPtr m = resolver.expression(*st.body);
  Evaluator evaluator(model_.data().tag);
  evaluator.set_rows({});
  model_.add_goal(st.heading.name, said.sense, evaluator.expression(*m), st.stated);
  if (!said.yields.is_zero()) model_.yielding(said.yields);
  model_.note_place(st.heading.name, place(st.heading.at));
  auto named = std::make_shared<LetFamily>();  // so that rules can speak of the goal
  named->name = st.heading.name;
  named->values.push_back(model_.data().goals.back().expression);
  lets_[st.heading.name] = named;
}

void Binder::bind_rule(const Statement& st) {
  const RuleText& said = st.as<RuleText>();
  if (said.tour) {
    bind_tour(st, *this, notes_, model_);
    model_.note_place("rule " + st.heading.name, place(st.heading.at));
    if (said.off) model_.without(st.heading.name);
    return;
  }
  Resolver resolver(*this, notes_);
  Evaluator evaluator(model_.data().tag);
  Ranged r = range(st.heading, resolver, evaluator);
  const SyntaxNode& body = *st.body;
  switch (body.kind) {  // what is neither compared nor said of conditions
    case NodeKind::name:
    case NodeKind::member:
    case NodeKind::cell:
    case NodeKind::number:
    case NodeKind::add:
    case NodeKind::multiply:
    case NodeKind::divide:
    case NodeKind::negate:
    case NodeKind::total: {
      const MeaningPtr alone = resolver.expression(body);
      if (alone->op != Op::decision || !alone->family->binary)
        throw Failure{
            body.at, fmt::format("rule {} compares nothing; a rule is expression <= limit, >= or =",
                                 st.heading.name)};
      break;
    }
    default:
      break;
  }
  const MeaningPtr m = resolver.condition(body);
  if (m->op == Op::compare && m->text != "<=" && m->text != ">=" && m->text != "=")
    throw Failure{body.at, fmt::format("a rule compares with <=, >= or =, not with {}", body.text)};
  const MeaningPtr price =
      said.price ? resolver.data_expression(*said.price, "a charge") : MeaningPtr();
  std::function<Expression(std::span<const Row>)> charge;
  if (price)
    charge = [&](std::span<const Row> rows) {
      evaluator.set_rows(rows);
      return evaluator.expression(*price);
    };
  model_.rule_family(
      st.heading.name, r.over,
      [&](std::span<const Row> rows) {
        evaluator.set_rows(rows);
        return m->op == Op::compare || m->op == Op::range ? compared(evaluator, *m)
                                                          : evaluator.condition(*m);
      },
      st.stated, charge);
  model_.note_place("rule " + st.heading.name, place(st.heading.at));
  if (model_.data().rules.back()->index.count == 0)
    warn(st.heading.at,
         fmt::format("rule {} has no rows: {}", st.heading.name,
                     st.heading.where ? "nothing meets its 'where'" : "its table has none"));
  if (said.off) model_.without(st.heading.name);
  if (said.price && std::none_of(statements_.begin(), statements_.end(), [](const Statement& s) {
        return s.kind() == StatementKind::goal;
      }))
    throw Failure{said.price->at, "a charge needs a goal that it can count in"};
}

// A rule of figures alone stays a comparison, so that it can be told with its values.
Condition Binder::compared(Evaluator& evaluator, const Meaning& m) {
  Expression first = evaluator.expression(*m.args[0]), second = evaluator.expression(*m.args[1]);
  if (m.op == Op::range)
    return within(std::move(first), std::move(second), evaluator.expression(*m.args[2]));
  if (m.text == "<=") return std::move(first) <= std::move(second);
  if (m.text == ">=") return std::move(first) >= std::move(second);
  return std::move(first) == std::move(second);
}

}  // namespace kiteknot::formats::knot
