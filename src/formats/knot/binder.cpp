#include "formats/knot/binder.hpp"

#include <algorithm>
#include <filesystem>
#include <map>

#include <fmt/format.h>

#include "base/text.hpp"
#include "formats/knot/curve_binder.hpp"
#include "formats/knot/evaluator.hpp"
#include "formats/knot/messages.hpp"
#include "formats/knot/resolver.hpp"
#include "formats/knot/scenarios.hpp"
#include "formats/knot/table_binder.hpp"
#include "formats/knot/tour_binder.hpp"
#include "model/internals.hpp"

namespace kiteknot::formats::knot {
namespace {

class Binder final : public NameSource {
 public:
  Binder(std::vector<Statement> statements, const BindSource& source, Diagnostics notes)
      : statements_(std::move(statements)),
        source_(source),
        notes_(std::move(notes)),
        model_(title()),
        states_(statements_.size(), State::fresh) {}

  Reading<Question> run() {
    enter_names();
    enter_scenarios();
    using K = StatementKind;
    for (const K kind :
         {K::table, K::column, K::number, K::curve, K::decide, K::let, K::goal, K::rule})
      for (std::size_t s = 0; s < statements_.size(); ++s)
        if (statements_[s].kind == kind && states_[s] == State::fresh) bind_statement(s);
    if (!notes_.has_errors()) apply_changes();
    if (!notes_.has_errors() && model_.num_decisions() == 0) {
      std::vector<std::string> empty;
      for (const auto& [table_name, table] : tables_)
        if (table.size() == 0) empty.push_back(table_name);
      notes_.error({source_.file, 0, 0, messages::decides_nothing(empty), false});
    }
    if (source_.question != nullptr && !notes_.has_errors()) ask();
    if (notes_.has_errors()) return notes_;
    return {Question{std::move(model_), std::move(answered_)}, std::move(notes_)};
  }

  Named find(const std::string& name, Position at) override {
    Named named;
    if (const auto table = values_.find(name); table == values_.end()) {
      if (table_statements_.contains(name)) named.table = &need_table(name, at).data();
      return named;
    }
    const std::size_t s = values_.at(name);
    if (states_[s] == State::busy) {
      std::vector<std::string> through;
      for (const std::size_t b : busy_) through.push_back(statements_[b].heading.name);
      through.push_back(name);
      throw Failure{at, messages::circle(through)};
    }
    if (states_[s] == State::fresh) bind_statement(s);
    if (states_[s] == State::failed) throw Failure{at, ""};  // told where it failed
    if (const auto it = numbers_.find(name); it != numbers_.end()) named.number = it->second;
    if (const auto it = families_.find(name); it != families_.end()) named.family = it->second;
    if (const auto it = lets_.find(name); it != lets_.end()) named.let = it->second;
    if (const auto it = curves_.find(name); it != curves_.end()) named.curve = it->second;
    return named;
  }

  Table need_table(const std::string& name, Position at) override {
    const auto statement = table_statements_.find(name);
    if (statement == table_statements_.end()) {
      std::vector<std::string> known;
      for (const auto& [k, v] : table_statements_) known.push_back(k);
      throw Failure{at, messages::no_table(name, known)};
    }
    if (states_[statement->second] == State::busy)
      throw Failure{at, fmt::format("a circle of tables through '{}'", name)};
    if (states_[statement->second] == State::fresh) bind_statement(statement->second);
    const auto it = tables_.find(name);
    if (it == tables_.end()) throw Failure{at, ""};
    return it->second;
  }

  void need_column(const TableData& table, const std::string& column) override {
    const auto it = columns_.find({table.name, column});
    if (it == columns_.end() || states_[it->second] == State::done) return;
    if (states_[it->second] == State::busy)
      throw Failure{statements_[it->second].heading.at,
                    fmt::format("a circle of computed columns through {}.{}", table.name, column)};
    if (states_[it->second] == State::fresh) bind_statement(it->second);
    if (states_[it->second] == State::failed) throw Failure{statements_[it->second].heading.at, ""};
  }

  void warn(Position at, std::string message) override {
    notes_.warn({source_.file, at.line, at.column, std::move(message), true});
  }

  std::vector<std::string> known_values() const override {
    std::vector<std::string> known;
    for (const auto& [name, statement] : values_) known.push_back(name);
    for (const auto& [name, statement] : table_statements_) known.push_back(name);
    return known;
  }

  void note_use(const TableData& table, const std::string& column) override {
    if (busy_.empty()) return;
    const Statement& s = statements_[busy_.back()];
    const auto label = [&]() -> std::string {
      switch (s.kind) {
        case StatementKind::rule:
          return "rule " + s.heading.name;
        case StatementKind::decide:
          return "the bounds of " + s.heading.name;
        case StatementKind::column:
          return s.table + "." + s.heading.name;
        default:
          return s.heading.name;
      }
    };
    model_.note_use(table.name, column, label());
  }

  std::vector<std::string> known_curves() const override {
    std::vector<std::string> known = {"min", "max", "abs", "sqrt", "round", "floor", "ceil"};
    for (const Statement& s : statements_)
      if (s.kind == StatementKind::curve) known.push_back(s.heading.name);
    return known;
  }

 private:
  enum class State { fresh, busy, done, failed };

  std::string title() const {
    for (const Statement& s : statements_)
      if (s.kind == StatementKind::model) return s.heading.name;
    return std::filesystem::path(source_.file).stem().string();
  }

  void error(Position at, std::string message) {
    notes_.error({source_.file, at.line, at.column, std::move(message), false});
  }

  std::string place(Position at) const {
    return fmt::format("{}:{}:{}", source_.file, at.line, at.column);
  }

  // Every name is stated once.
  void enter_names() {
    std::size_t titles = 0;
    for (std::size_t s = 0; s < statements_.size(); ++s) {
      const Statement& st = statements_[s];
      const std::string& name = st.heading.name;
      const auto enter = [&](auto& map, const auto& key, std::string_view what) {
        const auto [it, fresh] = map.emplace(key, s);
        if (!fresh) {
          error(st.heading.at,
                messages::stated_before(what, name, statements_[it->second].at.line));
          states_[s] = State::failed;
        }
        return fresh;
      };
      switch (st.kind) {
        case StatementKind::model:
          if (++titles > 1) error(st.at, "there is a second 'model' statement");
          states_[s] = State::done;
          break;
        case StatementKind::table:
          enter(table_statements_, name, "a table");
          break;
        case StatementKind::column:
          enter(columns_, std::pair(st.table, name), "a column");
          break;
        case StatementKind::rule:
          enter(rules_, name, "a rule");
          break;
        case StatementKind::scenario:
          states_[s] = State::done;
          break;
        default:
          enter(values_, name, "something with the name");
          break;
      }
      if (st.broken) states_[s] = State::failed;
    }
    for (const auto& [name, s] : values_)
      if (table_statements_.contains(name))
        error(statements_[s].heading.at, fmt::format("'{}' is a table already", name));
  }

  // All scenarios are looked at, whichever is asked for: a wrong name in one is told at once.
  void enter_scenarios() {
    for (const Statement& st : statements_) {
      if (st.kind != StatementKind::scenario || st.broken) continue;
      try {
        scenarios_.enter(st);
        for (const Change& c : st.changes) need_changed(c);
        model_.add_scenario(st.heading.name, st.stated);
      } catch (const Failure& f) {
        error(f.at, f.message);
      }
    }
    try {
      for (const Statement& st : statements_)
        if (st.kind == StatementKind::scenario && !st.broken)
          (void)scenarios_.changes(st.heading.name, st.at);
      if (!source_.scenario.empty()) changes_ = scenarios_.changes(source_.scenario, {});
    } catch (const Failure& f) {
      error(f.at, f.message);
    }
  }

  // Whether the number, rule or table that is changed is there.
  void need_changed(const Change& c) const {
    const auto need = [&](bool there, std::string_view what, const auto& names) {
      if (there) return;
      std::vector<std::string> known;
      for (const auto& [name, s] : names) known.push_back(name);
      fail(c.at, fmt::format("there is no {} '{}'{}", what, c.name, nearest_hint(c.name, known)));
    };
    const auto value = values_.find(c.name);
    switch (c.kind) {
      case ChangeKind::number:
        need(value != values_.end() && statements_[value->second].kind == StatementKind::number,
             "number", values_);
        break;
      case ChangeKind::with:
      case ChangeKind::without:
        need(rules_.contains(c.name), "rule", rules_);
        break;
      case ChangeKind::hold:
        break;
      default:
        need(table_statements_.contains(c.name), "table", table_statements_);
    }
  }

  // The changes that are not to tables, once everything stands.
  void apply_changes() {
    for (const Change* c : changes_) {
      try {
        apply_change(*c, model_, *this, notes_);
      } catch (const Failure& f) {
        if (!f.message.empty()) error(f.at, f.message);
      } catch (const UsageError& e) {
        error(c->at, e.what());
      }
    }
  }

  // The condition that was asked, once everything stands.
  void ask() {
    source_.file = source_.question_name;
    try {
      Resolver resolver(*this, notes_);
      const MeaningPtr meaning = resolver.condition(*source_.question);
      Evaluator evaluator(model_.data().tag);
      evaluator.set_rows({});
      answered_ = evaluator.condition(*meaning);
    } catch (const Failure& f) {
      error(f.at, f.message);
    } catch (const UsageError& e) {
      error(source_.question->at, e.what());
    }
  }

  void bind_statement(std::size_t s) {
    states_[s] = State::busy;
    busy_.push_back(s);
    const Statement& st = statements_[s];
    try {
      switch (st.kind) {
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

  void bind_table(const Statement& st) {
    tables_.emplace(st.heading.name,
                    make_table(st, source_, changes_, *this, notes_, model_.data().tag));
    if (const std::string& file = tables_.at(st.heading.name).data().file; !file.empty())
      model_.add_source(file);
  }

  void bind_column(const Statement& st) {
    Table table = need_table(st.table, st.at);
    // The row goes by the table's own name, or by any name that reads the table: one row is in
    // view.
    Resolver resolver(*this, notes_);
    resolver.open({{st.table, st.table, st.at, st.at}});
    const Node body = with_row_prefix(*st.body, st.table, table.data());
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
  Node with_row_prefix(const Node& node, const std::string& row, const TableData& table) {
    Node copy;
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
      auto base = std::make_unique<Node>();
      base->kind = NodeKind::name;
      base->at = node.at;
      base->text = row;
      copy.args.push_back(std::move(base));
      return copy;
    }
    for (const NodePtr& arg : node.args)
      copy.args.push_back(std::make_unique<Node>(with_row_prefix(*arg, row, table)));
    return copy;
  }

  void bind_number(const Statement& st) {
    Resolver resolver(*this, notes_);
    const MeaningPtr m = resolver.data_expression(*st.body, "a number");
    Evaluator evaluator(model_.data().tag);
    evaluator.set_rows({});
    numbers_[st.heading.name] = model_.number(st.heading.name, evaluator.expression(*m)).id;
    model_.note_place(st.heading.name, place(st.heading.at));
  }

  void bind_curve(const Statement& st) {
    const Curve made = make_curve(st, *this, notes_, model_.data());
    curves_[st.heading.name] = Internals::of(model_.curve(st.heading.name, made, st.stated));
  }

  // What a family ranges over, with its where condition; the resolver keeps the rows open.
  struct Ranged {
    Over over;
    MeaningPtr where;
  };
  Ranged range(const Heading& heading, Resolver& resolver, Evaluator& evaluator) {
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
  static bool endless(const Meaning& bound, Evaluator& evaluator, bool lower) {
    if (!bound.infinite_too) return false;
    const Rational value = evaluator.figure(bound);
    if (value.is_finite()) return false;
    if ((value.sign() > 0) == lower)
      throw Failure{bound.at, lower ? "a lower bound of inf leaves nothing"
                                    : "an upper bound of -inf leaves nothing"};
    return true;
  }

  void bind_decide(const Statement& st) {
    Resolver resolver(*this, notes_);
    Evaluator evaluator(model_.data().tag);
    Ranged r = range(st.heading, resolver, evaluator);
    if (!st.values.empty()) {
      std::vector<Rational> values;
      for (const NodePtr& node : st.values) {
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
    if (st.bounded) {
      const auto bound = [&](const Node& node, bool lower) -> MeaningPtr {
        const bool negative = node.kind == NodeKind::negate;
        const Node& inner = negative ? *node.args[0] : node;
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
      low = bound(*st.low, true);
      high = bound(*st.high, false);
      limits = [&](std::span<const Row> rows) {
        evaluator.set_rows(rows);
        Limits l;
        l.has_low = low != nullptr;
        l.has_high = high != nullptr;
        l.or_zero = st.or_zero;
        l.has_low = l.has_low && !endless(*low, evaluator, true);
        l.has_high = l.has_high && !endless(*high, evaluator, false);
        if (l.has_low) l.low = evaluator.expression(*low);
        if (l.has_high) l.high = evaluator.expression(*high);
        return l;
      };
    }
    const Decisions d = model_.decide(st.heading.name, r.over, st.integer, limits, st.stated);
    families_[st.heading.name] = model_.data().families.back();
  }

  void bind_let(const Statement& st) {
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

  void bind_goal(const Statement& st) {
    Resolver resolver(*this, notes_);
    const MeaningPtr m = resolver.expression(*st.body);
    Evaluator evaluator(model_.data().tag);
    evaluator.set_rows({});
    model_.add_goal(st.heading.name, st.sense, evaluator.expression(*m), st.stated);
    if (!st.yields.is_zero()) model_.yielding(st.yields);
    model_.note_place(st.heading.name, place(st.heading.at));
    auto named = std::make_shared<LetFamily>();  // so that rules can speak of the goal
    named->name = st.heading.name;
    named->values.push_back(model_.data().goals.back().expression);
    lets_[st.heading.name] = named;
  }

  void bind_rule(const Statement& st) {
    if (st.tour) {
      bind_tour(st, *this, notes_, model_);
      model_.note_place("rule " + st.heading.name, place(st.heading.at));
      if (st.off) model_.without(st.heading.name);
      return;
    }
    Resolver resolver(*this, notes_);
    Evaluator evaluator(model_.data().tag);
    Ranged r = range(st.heading, resolver, evaluator);
    const Node& body = *st.body;
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
              body.at,
              fmt::format("rule {} compares nothing; a rule is expression <= limit, >= or =",
                          st.heading.name)};
        break;
      }
      default:
        break;
    }
    const MeaningPtr m = resolver.condition(body);
    if (m->op == Op::compare && m->text != "<=" && m->text != ">=" && m->text != "=")
      throw Failure{body.at,
                    fmt::format("a rule compares with <=, >= or =, not with {}", body.text)};
    const MeaningPtr price =
        st.price ? resolver.data_expression(*st.price, "a charge") : MeaningPtr();
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
    if (st.off) model_.without(st.heading.name);
    if (st.price && std::none_of(statements_.begin(), statements_.end(),
                                 [](const Statement& s) { return s.kind == StatementKind::goal; }))
      throw Failure{st.price->at, "a charge needs a goal that it can count in"};
  }

  // A rule of figures alone stays a comparison, so that it can be told with its values.
  static Condition compared(Evaluator& evaluator, const Meaning& m) {
    Expression first = evaluator.expression(*m.args[0]), second = evaluator.expression(*m.args[1]);
    if (m.op == Op::range)
      return within(std::move(first), std::move(second), evaluator.expression(*m.args[2]));
    if (m.text == "<=") return std::move(first) <= std::move(second);
    if (m.text == ">=") return std::move(first) >= std::move(second);
    return std::move(first) == std::move(second);
  }

  std::vector<Statement> statements_;
  BindSource source_;
  Diagnostics notes_;
  Model model_;
  Condition answered_;
  std::vector<State> states_;
  std::vector<std::size_t> busy_;
  std::map<std::string, std::size_t> table_statements_, values_, rules_;
  Scenarios scenarios_;
  std::vector<const Change*> changes_;
  std::map<std::pair<std::string, std::string>, std::size_t> columns_;
  std::map<std::string, Table> tables_;
  std::map<std::string, Index> numbers_;
  std::map<std::string, std::shared_ptr<const Family>> families_;
  std::map<std::string, std::shared_ptr<const LetFamily>> lets_;
  std::map<std::string, std::shared_ptr<const CurveData>> curves_;
};

}  // namespace

Reading<Model> bind(std::vector<Statement> statements, const BindSource& source,
                    Diagnostics notes) {
  Reading<Question> read = Binder(std::move(statements), source, std::move(notes)).run();
  if (!read.ok()) return read.notes();
  Diagnostics warnings = read.notes();
  return {std::move(std::move(read).value().model), std::move(warnings)};
}

Reading<Question> bind_question(std::vector<Statement> statements, const BindSource& source,
                                Diagnostics notes) {
  return Binder(std::move(statements), source, std::move(notes)).run();
}

}  // namespace kiteknot::formats::knot
