#pragma once
// A model as stated: tables, numbers, families of decisions, named expressions, rules and a goal.
// It stays as it was said; solving lowers it to a Problem in a separate pass. Families are indexed
// by the rows of tables, and every name that is ever shown comes from there.
//
//   kk::Model model{"Festival programme"};
//   auto run = model.binary("run", shows);
//   model.maximize("crowd", total(shows, [&](kk::Row s) { return crowd[s] * run[s]; }));
//   model.rule("crew", total(shows, [&](kk::Row s) { return crew[s] * run[s]; }) <= 35);
//
// A Model is a value; copies are cheap and do not see each other's later changes. What was stated
// before a copy was made is understood by both, what one of them states later by that one only:
// anything else is refused with UsageError. Copies may be used, and made, from distinct threads at
// the same time.

#include <atomic>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <type_traits>
#include <vector>

#include "kiteknot/curve.hpp"
#include "kiteknot/expression.hpp"
#include "kiteknot/outcome.hpp"
#include "kiteknot/table.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

struct ModelData;

/// In place of a limit: there is none.
struct NoLimit {};
inline constexpr NoLimit no_limit{};

/// The least and greatest value of a decision; infinite ends are allowed.
struct Limits {
  Expression low = 0, high = 0;
  bool has_low = false, has_high = false;
  bool or_zero = false;  ///< 0 is allowed as well
  bool low_said = true;  ///< whole decisions need to have it said where there is no least value
};
/// From a value on, without an end.
inline Limits from(Expression low) {
  return {std::move(low), 0, true, false, false};
}
/// Of real decisions: down without an end. Whole ones have their least value said with between().
inline Limits up_to(Expression high) {
  return {0, std::move(high), false, true, false, false};
}
/// Both ends belong to it.
inline Limits between(Expression low, Expression high) {
  return {std::move(low), std::move(high), true, true, false};
}
/// Down without an end.
inline Limits between(NoLimit, Expression high) {
  return {0, std::move(high), false, true, false};
}
/// Up without an end.
inline Limits between(Expression low, NoLimit) {
  return from(std::move(low));
}
/// 0, or something between.
inline Limits nothing_or(Expression low, Expression high) {
  return {std::move(low), std::move(high), true, true, true};
}
/// Without an end on either side.
inline Limits anything() {
  return {};
}

/// Throws UsageError where a function of `wants` rows is asked about another number of them.
void need_rows(std::size_t wants, std::size_t given);

/// Wraps a function of one to three rows, one for each table, as a function of a span of rows.
template <class Value, class F>
std::function<Value(std::span<const Row>)> by_rows(F f) {
  constexpr bool kOne = std::is_invocable_r_v<Value, F, Row>;
  constexpr bool kTwo = std::is_invocable_r_v<Value, F, Row, Row>;
  constexpr bool kThree = std::is_invocable_r_v<Value, F, Row, Row, Row>;
  constexpr bool kAny = std::is_invocable_r_v<Value, F, std::span<const Row>>;
  static_assert(kOne || kTwo || kThree || kAny,
                "what is stated over tables wants a function of one kiteknot::Row for each table "
                "(three at most, or one std::span<const Row>) that gives what is stated: a "
                "Condition for a rule, an Expression for a let, Limits for a decision, a bool for "
                "where");
  if constexpr (kOne)
    return [f](std::span<const Row> r) -> Value { return need_rows(1, r.size()), f(r[0]); };
  else if constexpr (kTwo)
    return [f](std::span<const Row> r) -> Value { return need_rows(2, r.size()), f(r[0], r[1]); };
  else if constexpr (kThree)
    return [f](std::span<const Row> r) -> Value {
      return need_rows(3, r.size()), f(r[0], r[1], r[2]);
    };
  else if constexpr (kAny)
    return std::function<Value(std::span<const Row>)>(f);
  else
    return {};
}

/// What a family is indexed by: nothing, the rows of a table, or the combinations of several
/// tables' rows for which `where` holds.
///   {}   shows   {depots, fields}   {{depots, fields}, [&](Row d, Row f) { return near(d, f); }}
struct Over {
  Over() = default;
  Over(const Table& table) : tables{table} {}
  Over(std::initializer_list<Table> list) : tables(list) {}
  template <class F>
  Over(const Table& table, F filter) : tables{table}, where(by_rows<bool>(std::move(filter))) {}
  template <class F>
  Over(std::initializer_list<Table> list, F filter)
      : tables(list), where(by_rows<bool>(std::move(filter))) {}
  std::vector<Table> tables;
  std::function<bool(std::span<const Row>)> where;
};

/// One row of a rule: what the questions around a model speak of. Model::name tells it.
struct RuleRow {
  std::int32_t family = 0, member = 0;
  friend bool operator==(const RuleRow&, const RuleRow&) = default;
};

/// A family of named expressions.
class Quantities {
 public:
  /// Of no model yet: whatever is asked of it throws UsageError.
  Quantities() = default;
  explicit Quantities(std::shared_ptr<const struct LetFamily> family)
      : family_(std::move(family)) {}
  Quantities(const Quantities&) = default;  // also where it is moved from: it stays usable
  Quantities& operator=(const Quantities&) = default;
  const Expression& operator[](Row row) const { return at({&row, 1}); }
  /// One row for each table of the family; UsageError where it has no such member.
  [[nodiscard]] const Expression& at(std::span<const Row> rows) const;

 private:
  std::shared_ptr<const struct LetFamily> family_;
};

/// More about a round trip; what is not said is not asked.
struct TourTerms {
  std::optional<Decisions> visiting{};  ///< only stops with a 1 there (binary over the stops)
  /// Where the telling starts; it is on the trip always, and with several trips on each of them.
  std::optional<Row> from{};
  /// The first of two is come to before the second, told from `from` (of directed legs over all
  /// stops: or from the first stop), where both are visited. Undirected: in one of the two ways.
  std::vector<std::pair<Row, Row>> ahead{};
  std::optional<Expression> at_most{};   ///< several trips, each from `from` and back
  std::optional<Numbers> carrying{};     ///< of several: what the stops' loads come to ...
  std::optional<Expression> capacity{};  ///< ... on each trip is at most this
};

class Model {
 public:
  /// A model in which nothing is stated yet.
  explicit Model(std::string title);
  Model(const Model& other);  // also where it is moved from: it stays usable
  Model& operator=(const Model& other);
  /// As pages head it.
  [[nodiscard]] const std::string& title() const noexcept;

  // Every name is used once among numbers, decisions, expressions and goals, and once among rules.
  /// A figure that can be changed later (set); its value may be an expression of other numbers.
  Number number(const std::string& name, const Expression& value);
  /// Decisions that are 0 or 1, one for each combination of rows of `over`.
  Decisions binary(const std::string& name, const Over& over = {});
  /// Integer decisions need limits; an infinite one must be said.
  Decisions integer(const std::string& name, const Over& over, const Limits& limits);
  /// Decisions that may take any value within their limits.
  Decisions real(const std::string& name, const Over& over, const Limits& limits);
  /// Each takes one of the values.
  Decisions one_of(const std::string& name, const Over& over, std::vector<Rational> values);
  template <class F>
  requires(!std::is_convertible_v<F, Limits>) Decisions
      integer(const std::string& name, const Over& over, F limits) {
    return decide(name, over, true, by_rows<Limits>(std::move(limits)));
  }
  template <class F>
  requires(!std::is_convertible_v<F, Limits>) Decisions
      real(const std::string& name, const Over& over, F limits) {
    return decide(name, over, false, by_rows<Limits>(std::move(limits)));
  }

  /// A named expression (for each combination of rows), which is told with every plan.
  Expression let(const std::string& name, const Expression& value);
  template <class F>
  Quantities let(const std::string& name, const Over& over, F value) {
    return let_family(name, over, by_rows<Expression>(std::move(value)));
  }

  // Goals are met in the order in which they are stated.
  /// States a goal after those that are there; UsageError where the name is taken.
  void minimize(const std::string& name, const Expression& goal) {
    add_goal(name, Sense::minimize, goal);
  }
  /// The same, the more the better.
  void maximize(const std::string& name, const Expression& goal) {
    add_goal(name, Sense::maximize, goal);
  }

  /// Adds to the expression of a goal, by its place in the order.
  void add_to_goal(std::size_t goal, const Expression& more);

  /// What later goals may take from the goal stated last: a share of its best value.
  void yielding(const Rational& share);

  /// A curve of the model, by name.
  Curve curve(const std::string& name, const Curve& curve, std::string stated = {});

  /// A condition that has to hold (for each combination of rows). UsageError where the name is
  /// taken, or it holds what another model has stated.
  void rule(const std::string& name, const Condition& condition);
  template <class F>
  void rule(const std::string& name, const Over& over, F condition) {
    rule_family(name, over, by_rows<Condition>(std::move(condition)));
  }

  /// The chosen legs form one closed tour through every stop. `legs`: a binary family over a table
  /// of pairs of `stops` (Table::pairs: legs go either way) or over a table whose key names two
  /// stops, or over the stops twice (links from the first to the second; those that are not there
  /// cannot be taken). Undirected legs may be integer 0 .. 2 instead: 2 is there and back, which a
  /// tour of two stops needs. One stop is a tour without legs, so are none.
  ///   model.tour("loop", legs, stops, {.from = stops["Gate"]});
  /// Throws UsageError where the tables do not fit or the terms do not go together.
  void tour(const std::string& name, const Decisions& legs, const Table& stops,
            const TourTerms& terms = {}, std::string stated = {});

  /// The rule may be missed, at a price in the first goal for each unit of violation (a logical
  /// rule is missed by 1).
  void or_pay(const std::string& rule, const Expression& price);

  /// Lets go of the rule rows (family, member) for which `keep` is false: they always hold then.
  void keep_rows(const std::function<bool(std::int32_t, std::int32_t)>& keep);
  /// Lets go of limits of single decisions: its least value, its greatest, that it is whole. Not
  /// for decisions with listed values or nothing-or-something.
  void drop_limits(const Decision& decision, bool lower, bool upper, bool whole);
  /// Both limits of a decision are this value from now on. Not for such decisions either.
  void hold(const Decision& decision, const Rational& value);
  /// Forgets all goals; any plan will do.
  void forget_goals();
  /// Forgets all goals but this one, by its place in the order.
  void only_goal(std::size_t goal);

  // What can be changed later without stating the model again.
  /// UsageError for a number of another model, or an infinite value.
  void set(const Number& number, const Rational& value);
  /// Throws UsageError with the nearest name where there is no such number (rule).
  void set(const std::string& number, const Rational& value);
  /// Leaves the rule out from now on, or takes it in again.
  void without(const std::string& rule);
  /// Takes it in again; UsageError as for without.
  void with(const std::string& rule);
  /// A number's value as it stands.
  [[nodiscard]] Rational value(const Number& number) const;

  /// Of all families together.
  [[nodiscard]] std::int32_t num_decisions() const noexcept;
  /// Name and sense of the first goal; "" where there is none.
  [[nodiscard]] const std::string& goal_name() const noexcept;
  /// Of the first goal; minimize where there is none.
  [[nodiscard]] Sense goal_sense() const noexcept;
  /// "ship[North Mole, Long Strand]"
  [[nodiscard]] std::string name(const Decision& decision) const;
  /// As it was stated.
  [[nodiscard]] const std::string& name(const Number& number) const;
  /// "grant_limit", "family[drums]"; UsageError for a row that is not there, as for numbers below.
  [[nodiscard]] std::string name(const RuleRow& row) const;
  /// By its number among all decisions: what plans and the answers to questions count by.
  [[nodiscard]] Decision decision(std::int32_t number) const;
  /// Its full name, by its number among all decisions; UsageError where there is none.
  [[nodiscard]] std::string decision_name(std::int32_t number) const;
  /// The decision with this full name; throws UsageError with the nearest name.
  [[nodiscard]] Decision decision(const std::string& full_name) const;
  /// For the library itself.
  [[nodiscard]] const ModelData& data() const noexcept { return *data_; }

  /// For reading back: `by` ("rule crew") reads this column of a table.
  void note_use(const std::string& table, const std::string& column, const std::string& by);

  /// Where a number, a goal or a rule ("rule crew") stands in its file, for what is found out about
  /// it later: "depots.knot:12:9".
  void note_place(const std::string& of, const std::string& place);
  /// The files that it was read from, if any.
  void add_source(const std::string& file);
  /// Those of add_source, in their order.
  [[nodiscard]] const std::vector<std::string>& sources() const noexcept;
  /// A table that is to be read back though nothing is stated over it yet.
  void add_data(const Table& table);
  /// A file that the model names though this reading of it did not need it (a scenario's table).
  void add_mentioned(const std::string& file);
  /// Every file that it was or can be read from: nothing that is written may take their place.
  [[nodiscard]] std::vector<std::string> inputs() const;

  /// Scenarios that came with the model's file; read_model makes their changes.
  void add_scenario(const std::string& name, const std::string& stated);
  /// Their names, in the order in which they were added.
  [[nodiscard]] std::vector<std::string> scenarios() const;

  // The general forms behind the templates. `limits` may be empty for binaries.
  /// A family of decisions; `stated` is what pages show as its statement.
  Decisions decide(const std::string& name, const Over& over, bool integer,
                   const std::function<Limits(std::span<const Row>)>& limits,
                   std::string stated = {});
  /// A family of named expressions.
  Quantities let_family(const std::string& name, const Over& over,
                        const std::function<Expression(std::span<const Row>)>& value,
                        std::string stated = {});
  /// With `price`, members may be missed at that price a unit.
  void rule_family(const std::string& name, const Over& over,
                   const std::function<Condition(std::span<const Row>)>& condition,
                   std::string stated = {},
                   const std::function<Expression(std::span<const Row>)>& price = {});
  /// As minimize and maximize.
  void add_goal(const std::string& name, Sense sense, const Expression& goal,
                std::string stated = {});

 private:
  friend struct Internals;
  ModelData& change();
  void need_own(const Number& number) const;
  std::shared_ptr<ModelData> data_;
  mutable std::atomic<bool> shared_ = false;  // then data_ never changes again
};

/// Throws UsageError with the nearest name where the model has no family of decisions of that name.
void need_decisions(const Model& model, const std::string& family);

}  // namespace kiteknot
#pragma GCC visibility pop
