#include "kiteknot/model.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/at.hpp"
#include "base/text.hpp"
#include "model/derived.hpp"
#include "model/evaluation.hpp"
#include "model/model_data.hpp"
#include "model/tours/tour_rule.hpp"

namespace kiteknot {
namespace {

// Among everything that can stand in an expression.
void need_new_name(const ModelData& m, const std::string& name) {
  if (name.empty()) throw UsageError("a name is empty");
  if (!m.names_are_columns && m.names->of_value(name))
    throw UsageError(fmt::format("the name '{}' is taken already", name));
}

void need_new_rule(const ModelData& m, const std::string& name) {
  if (name.empty()) throw UsageError("a rule needs a name");
  if (!m.names_are_columns && m.names->rules.contains(name))
    throw UsageError(fmt::format("there are two rules with the name '{}'", name));
}

// What stands for a truth is a binary decision.
void need_truths(const ModelData& m, const Condition& c);

void need_truths(const ModelData& m, const Expression& e) {
  for (const Expression::DerivedTerm& t : e.derived()) {
    for (const Expression& arg : t.what->args) need_truths(m, arg);
    need_truths(m, t.what->condition);
  }
}

void need_truths(const ModelData& m, const Condition& c) {
  if (c.kind == Condition::Kind::truth && !only_binaries(m, c.body))
    throw UsageError(fmt::format("{} is not a yes-or-no decision; compare it with something",
                                 m.decision_name(c.body.terms()[0].decision)));
  for (const Expression* e : {&c.body, &c.low, &c.high}) need_truths(m, *e);
  for (const Condition& part : c.parts) need_truths(m, part);
}

void need_same_model(const ModelData& m, const Expression& e) {
  m.need_own(e);
  need_truths(m, e);
}

void need_same_model(const ModelData& m, const Condition& c) {
  const auto need = [&](const auto& self, const Condition& part) -> void {
    need_form(part);
    for (const Expression* e : {&part.body, &part.low, &part.high}) m.need_own(*e);
    for (const Condition& p : part.parts) self(self, p);
  };
  need(need, c);
  need_truths(m, c);
}

Index rule_index(const ModelData& m, const std::string& rule) {
  const auto it = m.names->rules.find(rule);
  if (it != m.names->rules.end()) return it->second;
  std::vector<std::string> known;
  for (const auto& r : m.rules) known.push_back(r->name);
  throw UsageError(fmt::format("no rule '{}' in the model{}", rule, nearest_hint(rule, known)));
}

}  // namespace

Model::Model(std::string title) : data_(std::make_shared<ModelData>()) {
  data_->title = std::move(title);
  data_->tag = std::make_shared<ModelTag>(ModelTag{data_->title});
}

const std::string& Model::title() const noexcept {
  return data_->title;
}
std::int32_t Model::num_decisions() const noexcept {
  return data_->num_decisions;
}

// Data that are shared are never changed again: whichever copy changes first, or at the same time
// as another one, does so to data of its own.
Model::Model(const Model& other) : data_(other.data_), shared_(true) {
  other.shared_.store(true, std::memory_order_relaxed);
}

Model& Model::operator=(const Model& other) {
  if (this == &other) return *this;
  data_ = other.data_;
  shared_.store(true, std::memory_order_relaxed);
  other.shared_.store(true, std::memory_order_relaxed);
  return *this;
}

// Copies that live on must not take what is stated later for something of theirs, so whoever parts
// gets a tag of its own; one that says nothing new about the tag before is passed over.
ModelData& Model::change() {
  if (!shared_.load(std::memory_order_relaxed)) return *data_;
  data_ = std::make_shared<ModelData>(*data_);
  shared_.store(false, std::memory_order_relaxed);
  ModelData& m = *data_;
  const auto numbers = static_cast<Index>(m.numbers.size());
  Tag before = m.tag;
  if (before->from && before->decisions == m.num_decisions && before->numbers == numbers)
    before = before->from;
  m.tag = std::make_shared<ModelTag>(ModelTag{m.title, before, m.num_decisions, numbers});
  return m;
}

void Model::need_own(const Number& number) const {
  if (!number.model || number.id < 0 || at(number.id) >= data_->numbers.size() ||
      !understood(number.model, 0, number.id + 1, data_->tag))
    throw UsageError(fmt::format("model '{}' was given a number of another model", data_->title));
}

Number Model::number(const std::string& name, const Expression& value) {
  need_new_name(*data_, name);
  need_same_model(*data_, value);
  if (value.has_decisions())
    throw UsageError(fmt::format("number {} would depend on a decision", name));
  ModelData& m = change();
  m.names.change().others.insert(name);
  m.names.change().numbers.emplace(name, static_cast<Index>(m.numbers.size()));
  m.numbers.push_back({name, value});
  return {m.tag, static_cast<Index>(m.numbers.size()) - 1};
}

Decisions Model::binary(const std::string& name, const Over& over) {
  return decide(name, over, true, {});
}

Decisions Model::integer(const std::string& name, const Over& over, const Limits& limits) {
  return decide(name, over, true, [&](std::span<const Row>) { return limits; });
}

Decisions Model::real(const std::string& name, const Over& over, const Limits& limits) {
  return decide(name, over, false, [&](std::span<const Row>) { return limits; });
}

Decisions Model::one_of(const std::string& name, const Over& over, std::vector<Rational> values) {
  std::sort(values.begin(), values.end());
  values.erase(std::unique(values.begin(), values.end()), values.end());
  if (values.empty()) throw UsageError(fmt::format("{} has no value to take", name));
  if (!values.front().is_finite() || !values.back().is_finite())
    throw UsageError(fmt::format("{} would take an infinite value", name));
  const bool whole =
      std::all_of(values.begin(), values.end(), [](const Rational& v) { return v.is_integer(); });
  const Decisions d = decide(name, over, whole, [&](std::span<const Row>) {
    return between(values.front(), values.back());
  });
  auto family = std::make_shared<Family>(d.family());
  family->listed = std::move(values);
  change().families.back() = family;
  return {data_->tag, family};
}

Decisions Model::decide(const std::string& name, const Over& over, bool integer,
                        const std::function<Limits(std::span<const Row>)>& limits,
                        std::string stated) {
  need_new_name(*data_, name);
  auto family = std::make_shared<Family>();
  family->name = name;
  family->index = IndexSet(over);
  family->integer = integer;
  family->binary = !limits;
  family->stated = std::move(stated);
  if (!limits) {
    family->lower = {0};
    family->upper = {1};
  }
  for (Index i = 0; limits && i < family->index.count; ++i) {
    const std::vector<Row> rows = family->index.rows(i);
    const Limits l = limits(rows);
    const auto bound = [&](const Expression& e, bool has, const Rational& none, auto& values,
                           auto& by_number) {
      need_same_model(*data_, e);
      if (e.has_decisions())
        throw UsageError(fmt::format("a bound of {} depends on a decision", name));
      values.push_back(has ? e.constant() : none);
      if (has && !e.is_constant()) by_number.emplace(i, e);
    };
    if (integer && !l.has_low && !l.low_said)
      throw UsageError(
          fmt::format("the least value of {0} is not said: between(0, ...), or between(no_limit, "
                      "...) where there is none",
                      full_name(name, family->index.keys(i))));
    family->or_zero = family->or_zero || l.or_zero;
    bound(l.low, l.has_low, Rational::minus_infinity(), family->lower, family->lower_by_number);
    bound(l.high, l.has_high, Rational::infinity(), family->upper, family->upper_by_number);
    if (l.has_low && l.has_high && l.low.is_constant() && l.high.is_constant() &&
        l.low.constant() > l.high.constant())
      throw UsageError(fmt::format("the bounds of {} leave nothing: {} .. {}",
                                   full_name(name, family->index.keys(i)), figure(l.low.constant()),
                                   figure(l.high.constant())));
  }
  need_new_name(*data_, name);  // the limits may have stated something, too
  ModelData& m = change();
  family->first = m.num_decisions;
  m.num_decisions += family->index.count;
  m.names.change().families.emplace(name, static_cast<Index>(m.families.size()));
  m.families.push_back(family);
  return {m.tag, family};
}

Expression Model::let(const std::string& name, const Expression& value) {
  (void)let_family(name, {}, [&](std::span<const Row>) { return value; });
  return value;
}

Quantities Model::let_family(const std::string& name, const Over& over,
                             const std::function<Expression(std::span<const Row>)>& value,
                             std::string stated) {
  need_new_name(*data_, name);
  auto family = std::make_shared<LetFamily>();
  family->name = name;
  family->index = IndexSet(over);
  family->stated = std::move(stated);
  for (Index i = 0; i < family->index.count; ++i) {
    family->values.push_back(value(family->index.rows(i)));
    need_same_model(*data_, family->values.back());
  }
  need_new_name(*data_, name);
  ModelData& m = change();
  m.names.change().others.insert(name);
  m.lets.push_back(family);
  return Quantities(family);
}

void Model::add_goal(const std::string& name, Sense sense, const Expression& goal,
                     std::string stated) {
  need_new_name(*data_, name);
  need_same_model(*data_, goal);
  ModelData& m = change();
  m.names.change().others.insert(name);
  m.goals.push_back({name, sense, goal, std::move(stated)});
}

void Model::yielding(const Rational& share) {
  if (data_->goals.empty()) throw UsageError("no goal was stated that could yield");
  if (share.sign() < 0) throw UsageError("a goal yields a share of at least 0");
  change().goals.back().yields = share;
}

void Model::note_use(const std::string& table, const std::string& column, const std::string& by) {
  ModelData& m = change();
  m.uses_noted = true;
  std::vector<std::string>& users = m.column_uses[table][column];
  if (std::find(users.begin(), users.end(), by) == users.end()) users.push_back(by);
}

void Model::note_place(const std::string& of, const std::string& place) {
  change().places[of] = place;
}

void Model::add_source(const std::string& file) {
  if (std::find(data_->sources.begin(), data_->sources.end(), file) == data_->sources.end())
    change().sources.push_back(file);
}
const std::vector<std::string>& Model::sources() const noexcept {
  return data_->sources;
}
void Model::add_data(const Table& table) {
  change().data_tables.push_back(table);
}
void Model::add_mentioned(const std::string& file) {
  change().mentioned.push_back(file);
}
std::vector<std::string> Model::inputs() const {
  std::vector<std::string> all = data_->sources;
  for (const std::string& file : data_->mentioned)
    if (std::find(all.begin(), all.end(), file) == all.end()) all.push_back(file);
  return all;
}

void Model::add_scenario(const std::string& name, const std::string& stated) {
  change().scenarios.emplace_back(name, stated);
}
std::vector<std::string> Model::scenarios() const {
  std::vector<std::string> names;
  for (const auto& [name, stated] : data_->scenarios) names.push_back(name);
  return names;
}

void Model::keep_rows(const std::function<bool(std::int32_t, std::int32_t)>& keep) {
  // All is asked before anything changes: `keep` may throw.
  std::vector<std::pair<Index, std::shared_ptr<RuleFamily>>> thinned;  // null: no row is kept
  for (std::size_t r = 0; r < data_->rules.size(); ++r) {
    const auto family = static_cast<Index>(r);
    std::shared_ptr<RuleFamily> own;
    Index kept = 0;
    for (Index i = 0; i < data_->rules[r]->index.count; ++i) {
      if (keep(family, i)) {
        ++kept;
        continue;
      }
      if (!own) own = std::make_shared<RuleFamily>(*data_->rules[r]);
      own->conditions[at(i)] = all_of({});
    }
    if (kept == 0)
      thinned.emplace_back(family, nullptr);
    else if (own)
      thinned.emplace_back(family, std::move(own));
  }
  ModelData& m = change();
  for (auto& [family, rule] : thinned)
    if (rule)
      m.rules[at(family)] = std::move(rule);
    else
      m.rules_off.insert(family);
}

void Model::drop_limits(const Decision& decision, bool lower, bool upper, bool whole) {
  need_same_model(*data_, Expression(decision));
  const Family& f = data_->family_of(decision.id);
  if (f.or_zero || !f.listed.empty())
    throw UsageError(fmt::format("the limits of {} cannot be let go", name(decision)));
  DroppedLimits& dropped = change().dropped_limits[decision.id];
  dropped.lower = dropped.lower || lower;
  dropped.upper = dropped.upper || upper;
  dropped.whole = dropped.whole || whole;
}

void Model::hold(const Decision& decision, const Rational& value) {
  (void)name(decision);  // it is this model's
  if (!value.is_finite()) throw UsageError("a decision is held at a finite value");
  const Family& f = data_->family_of(decision.id);
  if (!f.listed.empty() || f.or_zero)
    throw UsageError("a decision with listed values, or with nothing or something, is not held");
  change().held[decision.id] = value;
}

void Model::forget_goals() {
  ModelData& m = change();
  for (std::size_t k = 0; k < m.goals.size(); ++k) {
    m.kept_inside.push_back(m.goal_with_charges(k));
    m.names.change().others.erase(m.goals[k].name);
  }
  m.goals.clear();
}

const std::string& Model::goal_name() const noexcept {
  static const std::string kNone;
  return data_->goals.empty() ? kNone : data_->goals[0].name;
}

Sense Model::goal_sense() const noexcept {
  return data_->goals.empty() ? Sense::minimize : data_->goals[0].sense;
}

void Model::add_to_goal(std::size_t goal, const Expression& more) {
  if (goal >= data_->goals.size()) throw UsageError("the model has no such goal");
  need_same_model(*data_, more);
  change().goals[goal].expression += more;
}

void Model::only_goal(std::size_t goal) {
  if (goal >= data_->goals.size()) throw UsageError("the model has no such goal");
  ModelData& m = change();
  for (std::size_t k = 0; k < m.goals.size(); ++k) {
    if (k == goal) continue;
    m.kept_inside.push_back(m.goal_with_charges(k));
    m.names.change().others.erase(m.goals[k].name);
  }
  m.goals = {Goal(m.goals[goal])};
}

Curve Model::curve(const std::string& name, const Curve& curve, std::string stated) {
  need_new_name(*data_, name);
  auto own = std::make_shared<CurveData>(curve.data());
  own->name = name;
  own->stated = std::move(stated);
  for (const Expression& e : own->figures) need_same_model(*data_, e);
  own->pieces = CurvesNow::made(*own, data_->number_values());
  ModelData& m = change();
  m.names.change().others.insert(name);
  m.curves.push_back(own);
  return Curve(own);
}

void Model::or_pay(const std::string& rule, const Expression& price) {
  need_same_model(*data_, price);
  if (price.has_decisions()) throw UsageError("a charge depends on a decision");
  const std::size_t r = at(rule_index(*data_, rule));
  if (data_->rules[r]->is_tour())
    throw UsageError(fmt::format("{} asks for a tour: it cannot be missed at a price", rule));
  auto family = std::make_shared<RuleFamily>(*data_->rules[r]);
  family->prices.assign(family->conditions.size(), price);
  change().rules[r] = family;
}

void Model::rule(const std::string& name, const Condition& condition) {
  rule_family(name, {}, [&](std::span<const Row>) { return condition; });
}

void Model::rule_family(const std::string& name, const Over& over,
                        const std::function<Condition(std::span<const Row>)>& condition,
                        std::string stated,
                        const std::function<Expression(std::span<const Row>)>& price) {
  need_new_rule(*data_, name);
  auto family = std::make_shared<RuleFamily>();
  family->name = name;
  family->index = IndexSet(over);
  family->stated = std::move(stated);
  family->conditions.reserve(at(family->index.count));
  for (Index i = 0; i < family->index.count; ++i) {
    family->conditions.push_back(condition(family->index.rows(i)));
    need_same_model(*data_, family->conditions.back());
    if (!price) continue;
    family->prices.push_back(price(family->index.rows(i)));
    need_same_model(*data_, family->prices.back());
    if (family->prices.back().has_decisions())
      throw UsageError(fmt::format("the charge of {} depends on a decision", name));
  }
  need_new_rule(*data_, name);  // the conditions may have stated something, too
  ModelData& m = change();
  m.rows_before.push_back(m.num_rule_rows);
  m.num_rule_rows += family->index.count;
  m.names.change().rules.emplace(name, static_cast<Index>(m.rules.size()));
  m.rules.push_back(family);
}

void Model::tour(const std::string& name, const Decisions& legs, const Table& stops,
                 const TourTerms& terms, std::string stated) {
  const auto need_ours = [&](const Decisions& d) {
    if (!understood(d.model(), d.family().first + d.size(), 0, data_->tag))
      throw UsageError(fmt::format("tour {} was given decisions of another model", name));
  };
  need_ours(legs);
  if (terms.visiting) need_ours(*terms.visiting);
  for (const auto* e : {&terms.at_most, &terms.capacity}) {
    if (!*e) continue;
    need_same_model(*data_, **e);
    if ((*e)->has_decisions())
      throw UsageError(fmt::format("a limit of tour {} would depend on a decision", name));
  }
  Condition condition;
  condition.kind = Condition::Kind::tour;
  try {
    condition.trips = std::make_shared<TourRule>(legs, stops, terms);
  } catch (const UsageError& e) {
    throw UsageError(fmt::format("tour {}: {}", name, e.what()));
  }
  rule_family(
      name, {}, [&](std::span<const Row>) { return condition; }, std::move(stated));
}

void Model::set(const Number& number, const Rational& value) {
  need_own(number);
  if (!value.is_finite()) throw UsageError("a number is set to a finite figure");
  change().set_numbers[number.id] = value;
}

void Model::set(const std::string& number, const Rational& value) {
  const auto it = data_->names->numbers.find(number);
  if (it != data_->names->numbers.end()) return set(Number{data_->tag, it->second}, value);
  std::vector<std::string> known;
  for (const NumberDefinition& n : data_->numbers) known.push_back(n.name);
  throw UsageError(fmt::format("no number '{}' in the model{}", number,
                               known.empty() ? "; it has none" : known_hint(number, known)));
}

void Model::without(const std::string& rule) {
  change().rules_off.insert(rule_index(*data_, rule));
}
void Model::with(const std::string& rule) {
  change().rules_off.erase(rule_index(*data_, rule));
}

Rational Model::value(const Number& number) const {
  need_own(number);
  return data_->number_values()[at(number.id)];
}

std::string Model::name(const Decision& decision) const {
  if (!decision.model || decision.id < 0 ||
      !understood(decision.model, decision.id + 1, 0, data_->tag))
    throw UsageError("a decision of another model was asked for");
  return data_->decision_name(decision.id);
}

const std::string& Model::name(const Number& number) const {
  need_own(number);
  return data_->numbers[at(number.id)].name;
}

std::string Model::name(const RuleRow& row) const {
  return data_->rule_name(row.family, row.member);
}

Decision Model::decision(std::int32_t number) const {
  return {data_->tag, number, data_->family_of(number).binary};
}

std::string Model::decision_name(std::int32_t number) const {
  return data_->decision_name(number);
}

Decision Model::decision(const std::string& wanted) const {
  // Family first, so that a wrong key is told among its own family.
  const std::size_t bracket = wanted.find('[');
  const std::string family_name = wanted.substr(0, bracket);
  const SharedNames& names = data_->names;
  if (const auto it = names->families.find(wanted); it != names->families.end()) {
    const auto& f = data_->families[at(it->second)];
    if (f->index.tables.empty()) return {data_->tag, f->first, f->binary};
  }
  const auto it = names->families.find(family_name);
  if (it != names->families.end() && bracket != std::string::npos && wanted.ends_with(']')) {
    std::vector<std::string> keys;
    std::string key;
    bool quoted = false, was_quoted = false;
    for (std::size_t k = bracket + 1; k < wanted.size(); ++k) {
      const char c = wanted[k];
      if (c == '"') {
        if (quoted && wanted[k + 1] == '"')
          key += wanted[++k];
        else
          quoted = !quoted, was_quoted = true;
      } else if (!quoted && (c == ',' || k + 1 == wanted.size())) {
        if (!was_quoted) key.erase(key.find_last_not_of(' ') + 1);
        keys.push_back(key);
        key.clear();
        was_quoted = false;
      } else if (quoted || !key.empty() || c != ' ') {
        key += c;
      }
    }
    return Decisions(data_->tag, data_->families[at(it->second)]).named(keys);
  }
  std::vector<std::string> known;
  for (const auto& f : data_->families)
    if (known.size() < 5000) known.push_back(f->name);
  throw UsageError(
      fmt::format("no decision '{}' in the model{}", wanted, nearest_hint(family_name, known)));
}

void need_decisions(const Model& model, const std::string& family) {
  std::vector<std::string> known;
  for (const auto& f : model.data().families) known.push_back(f->name);
  if (std::find(known.begin(), known.end(), family) == known.end())
    throw UsageError(
        fmt::format("no decisions '{}' in the model{}", family, nearest_hint(family, known)));
}

}  // namespace kiteknot
