#include <algorithm>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "formats/knot/messages.hpp"
#include "formats/knot/model_binder.hpp"
#include "model/internals.hpp"

namespace kiteknot::formats::knot {

Binder::Binder(std::vector<Statement> statements, const BindSource& source, Diagnostics notes)
    : statements_(std::move(statements)),
      source_(source),
      notes_(std::move(notes)),
      model_(title()),
      states_(statements_.size(), State::fresh) {}

Reading<Question> Binder::run() {
  enter_names();
  enter_scenarios();
  using K = StatementKind;
  for (const K kind :
       {K::table, K::column, K::number, K::curve, K::decide, K::let, K::goal, K::rule})
    for (std::size_t s = 0; s < statements_.size(); ++s)
      if (statements_[s].kind() == kind && states_[s] == State::fresh) bind_statement(s);
  if (!notes_.has_errors()) apply_changes();
  if (!notes_.has_errors() && model_.num_decisions() == 0) {
    std::vector<std::string> empty;
    for (const auto& [table_name, table] : tables_)
      if (table.size() == 0) empty.push_back(table_name);
    // Data may be read back before the first decision is stated.
    const bool data_only =
        !tables_.empty() && empty.empty() && source_.question == nullptr &&
        std::none_of(statements_.begin(), statements_.end(), [](const Statement& st) {
          return st.kind() == K::decide || st.kind() == K::goal || st.kind() == K::rule;
        });
    if (!data_only) notes_.error({source_.file, 0, 0, messages::decides_nothing(empty), false});
    for (const Statement& st : statements_)
      if (data_only && st.kind() == K::table) model_.add_data(tables_.at(st.heading.name));
  }
  if (source_.question != nullptr && !notes_.has_errors()) ask();
  if (notes_.has_errors()) return notes_;
  return {Question{std::move(model_), std::move(answered_)}, std::move(notes_)};
}

Named Binder::find(const std::string& name, Position at) {
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

Table Binder::need_table(const std::string& name, Position at) {
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

void Binder::need_column(const TableData& table, const std::string& column) {
  const auto it = columns_.find({table.name, column});
  if (it == columns_.end() || states_[it->second] == State::done) return;
  if (states_[it->second] == State::busy)
    throw Failure{statements_[it->second].heading.at,
                  fmt::format("a circle of computed columns through {}.{}", table.name, column)};
  if (states_[it->second] == State::fresh) bind_statement(it->second);
  if (states_[it->second] == State::failed) throw Failure{statements_[it->second].heading.at, ""};
}

void Binder::warn(Position at, std::string message) {
  notes_.warn({source_.file, at.line, at.column, std::move(message), true});
}

std::vector<std::string> Binder::known_values() const {
  std::vector<std::string> known;
  for (const auto& [name, statement] : values_) known.push_back(name);
  for (const auto& [name, statement] : table_statements_) known.push_back(name);
  return known;
}

void Binder::note_use(const TableData& table, const std::string& column) {
  if (busy_.empty()) return;
  const Statement& s = statements_[busy_.back()];
  const auto label = [&]() -> std::string {
    switch (s.kind()) {
      case StatementKind::rule:
        return "rule " + s.heading.name;
      case StatementKind::decide:
        return "the bounds of " + s.heading.name;
      case StatementKind::column:
        return s.as<ColumnText>().table + "." + s.heading.name;
      default:
        return s.heading.name;
    }
  };
  model_.note_use(table.name, column, label());
}

std::vector<std::string> Binder::known_curves() const {
  std::vector<std::string> known = {"min", "max", "abs", "sqrt", "round", "floor", "ceil"};
  for (const Statement& s : statements_)
    if (s.kind() == StatementKind::curve) known.push_back(s.heading.name);
  return known;
}

std::string Binder::title() const {
  for (const Statement& s : statements_)
    if (s.kind() == StatementKind::model) return s.heading.name;
  return std::filesystem::path(source_.file).stem().string();
}

void Binder::error(Position at, std::string message) {
  notes_.error({source_.file, at.line, at.column, std::move(message), false});
}

std::string Binder::place(Position at) const {
  return fmt::format("{}:{}:{}", source_.file, at.line, at.column);
}

// Every name is stated once.
void Binder::enter_names() {
  std::size_t titles = 0;
  const auto mention = [&](const std::string& file) {
    if (!file.empty() && file != "-")
      model_.add_mentioned((std::filesystem::path(source_.folder) / file).string());
  };
  for (const Statement& st : statements_) {
    if (st.kind() == StatementKind::table) mention(st.as<TableText>().file);
    if (st.kind() != StatementKind::scenario) continue;
    for (const ScenarioChange& c : st.as<ScenarioText>().changes)
      if (c.kind == ChangeKind::table) mention(c.file);
  }
  for (std::size_t s = 0; s < statements_.size(); ++s) {
    const Statement& st = statements_[s];
    const std::string& name = st.heading.name;
    const auto enter = [&](auto& map, const auto& key, std::string_view what) {
      const auto [it, fresh] = map.emplace(key, s);
      if (!fresh) {
        error(st.heading.at, messages::stated_before(what, name, statements_[it->second].at.line));
        states_[s] = State::failed;
      }
      return fresh;
    };
    switch (st.kind()) {
      case StatementKind::model:
        if (++titles > 1) error(st.at, "there is a second 'model' statement");
        states_[s] = State::done;
        break;
      case StatementKind::table:
        enter(table_statements_, name, "a table");
        break;
      case StatementKind::column:
        enter(columns_, std::pair(st.as<ColumnText>().table, name), "a column");
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
void Binder::enter_scenarios() {
  for (const Statement& st : statements_) {
    if (st.kind() != StatementKind::scenario || st.broken) continue;
    try {
      scenarios_.enter(st);
      for (const ScenarioChange& c : st.as<ScenarioText>().changes) need_changed(c);
      model_.add_scenario(st.heading.name, st.stated);
    } catch (const Failure& f) {
      error(f.at, f.message);
    }
  }
  try {
    for (const Statement& st : statements_)
      if (st.kind() == StatementKind::scenario && !st.broken)
        (void)scenarios_.changes(st.heading.name, st.at);
    if (!source_.scenario.empty()) changes_ = scenarios_.changes(source_.scenario, {});
    // Said from outside, they count more than what a scenario says.
    for (const OtherData& other : source_.other_data) {
      ScenarioChange c;
      c.kind = ChangeKind::table;
      c.name = other.table;
      c.file = std::filesystem::absolute(other.file).string();
      need_changed(c);
      model_.add_mentioned(c.file);
      other_data_.push_back(std::move(c));
    }
    for (const ScenarioChange& c : other_data_) changes_.push_back(&c);
  } catch (const Failure& f) {
    error(f.at, f.message);
  }
}

// Whether the number, rule or table that is changed is there.
void Binder::need_changed(const ScenarioChange& c) const {
  const auto need = [&](bool there, std::string_view what, const auto& names) {
    if (there) return;
    std::vector<std::string> known;
    for (const auto& [name, s] : names) known.push_back(name);
    fail(c.at, fmt::format("there is no {} '{}'{}", what, c.name, nearest_hint(c.name, known)));
  };
  const auto value = values_.find(c.name);
  switch (c.kind) {
    case ChangeKind::number:
      need(value != values_.end() && statements_[value->second].kind() == StatementKind::number,
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
void Binder::apply_changes() {
  for (const ScenarioChange* c : changes_) {
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
void Binder::ask() {
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
