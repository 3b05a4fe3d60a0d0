#include "formats/knot/scenarios.hpp"

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"
#include "formats/knot/evaluator.hpp"
#include "formats/knot/messages.hpp"

namespace kiteknot::formats::knot {

void Scenarios::enter(const Statement& st) {
  const auto [it, fresh] = by_name_.emplace(st.heading.name, &st);
  if (!fresh)
    fail(st.heading.at, fmt::format("there is a scenario \"{}\" already, on line {}",
                                    st.heading.name, it->second->at.line));
  std::set<std::string> things;
  const auto clash = [&](const ScenarioChange& c, const std::string& thing) {
    fail(c.at, fmt::format("the scenario changes {} twice", thing));
  };
  for (const ScenarioChange& c : st.as<ScenarioText>().changes) {
    const std::string thing = c.thing();
    if (!things.insert(thing).second) clash(c, thing);
    // A column that is scaled keeps no cell of its own, whichever is said first.
    const std::string column = c.name + "." + c.column;
    if (c.kind == ChangeKind::cell && !things.insert("cells of " + column).second) continue;
    if (c.kind == ChangeKind::cell && things.contains(column)) clash(c, column);
    if (c.kind == ChangeKind::scale && things.contains("cells of " + column)) clash(c, column);
  }
}

std::vector<const ScenarioChange*> Scenarios::changes(const std::string& name, Position at) const {
  std::vector<const ScenarioChange*> all;
  std::set<std::string> seen, things;
  std::string next = name;
  while (!next.empty()) {
    const auto it = by_name_.find(next);
    if (it == by_name_.end())
      fail(at, fmt::format("there is no scenario \"{}\"{}", next, known_hint(next, names())));
    if (!seen.insert(next).second)
      fail(at, fmt::format("a circle of scenarios through \"{}\"", next));
    const Statement& st = *it->second;
    // Nearest first; what it changes, the ones further off do not.
    for (const ScenarioChange& c : st.as<ScenarioText>().changes)
      if (things.insert(c.thing()).second) all.push_back(&c);
    next = st.as<ScenarioText>().like;
    at = st.as<ScenarioText>().like_at;
  }
  std::reverse(all.begin(), all.end());
  return all;
}

std::vector<std::string> Scenarios::names() const {
  std::vector<std::string> all;
  for (const auto& [name, st] : by_name_) all.push_back(name);
  return all;
}

namespace {

Rational figure_of(const ScenarioChange& c, NameSource& names, Diagnostics& notes,
                   const Tag& model) {
  Resolver resolver(names, notes);
  const MeaningPtr m = resolver.data_expression(*c.value, "a change");
  Evaluator evaluator(model);
  evaluator.set_rows({});
  const Expression e = evaluator.expression(*m);
  if (!e.is_constant()) fail(c.value->at, "a change is made to a figure");
  return e.constant();
}

}  // namespace

void change_table(const ScenarioChange& c, TableData& data, NameSource& names, Diagnostics& notes,
                  const Tag& model) {
  if (c.kind != ChangeKind::cell && c.kind != ChangeKind::scale) return;
  const Index column = data.column(c.column);
  if (column < 0) fail(c.at, messages::no_column(c.column, data));
  if (data.tables.contains(column) ||
      std::find(data.key.begin(), data.key.end(), column) != data.key.end())
    fail(c.at, fmt::format("column {} names rows; only figures are changed", c.column));
  const Rational value = figure_of(c, names, notes, model);
  if (c.kind == ChangeKind::cell) {
    const std::vector<std::string_view> keys(c.keys.begin(), c.keys.end());
    const Index row = keys.size() == data.key.size() ? data.find(keys) : -1;
    if (row < 0) fail(c.at, messages::no_member(data.name, keys, data));
    data.set_figure(row, column, value);
    return;
  }
  for (Index row = 0; row < data.num_rows(); ++row) {
    const auto old = data.figure(row, column);
    if (!old)
      fail(c.at, fmt::format("'{}' in column {} is not a figure that could be scaled",
                             data.cell(row, column), c.column));
    data.set_figure(row, column, *old * value);
  }
}

void apply_change(const ScenarioChange& c, Model& model, NameSource& names, Diagnostics& notes) {
  const Tag tag = model.data().tag;
  if (c.kind == ChangeKind::number) model.set(c.name, figure_of(c, names, notes, tag));
  if (c.kind == ChangeKind::with) model.with(c.name);
  if (c.kind == ChangeKind::without) model.without(c.name);
  if (c.kind != ChangeKind::hold) return;
  Resolver resolver(names, notes);
  const MeaningPtr m = resolver.expression(*c.decision);
  if (m->op != Op::decision) fail(c.decision->at, "a decision is held at a value");
  Evaluator evaluator(tag);
  evaluator.set_rows({});
  const Expression held = evaluator.expression(*m);
  model.rule("hold " + model.data().decision_name(held.terms()[0].decision),
             held == figure_of(c, names, notes, tag));
}

}  // namespace kiteknot::formats::knot
