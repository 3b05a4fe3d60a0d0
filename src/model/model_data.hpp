#pragma once
// What a model holds. Families never change once stated and are shared between copies; settings
// (numbers set again, rules switched off) belong to each copy.

#include <map>
#include <memory>
#include <set>
#include <unordered_map>
#include <unordered_set>

#include "data/table_data.hpp"
#include "kiteknot/model.hpp"
#include "model/derived.hpp"
#include "model/number_node.hpp"

namespace kiteknot {

/// The members of a family: tuples of rows, one row a table.
struct IndexSet {
  std::vector<Table> tables;
  Index count = 1;            // 1 for a family without tables
  std::vector<Index> tuples;  // count x tables.size(); empty: all combinations in order
  std::unordered_map<std::uint64_t, Index> member_of;  // only with tuples

  explicit IndexSet(const Over& over = {});
  [[nodiscard]] std::vector<Row> rows(Index member) const;
  /// -1 where there is no such member; rows must be of the right tables.
  [[nodiscard]] Index member(std::span<const Row> rows) const;
  /// Key cells of all rows, one after the other.
  [[nodiscard]] std::vector<std::string> keys(Index member) const;
  [[nodiscard]] Index named(const std::vector<std::string>& keys) const;
  /// Why no member goes by these keys, to be put behind their name: keys in the wrong order, a key
  /// that is not there with its nearest, or keys that are there and not together.
  [[nodiscard]] std::string why_not(const std::vector<std::string>& keys) const;

 private:
  [[nodiscard]] std::uint64_t place(std::span<const Row> rows) const;
};

struct Family {
  std::string name;
  IndexSet index;
  bool integer = true;
  bool binary = false;
  bool or_zero = false;            // lower and upper hold only where it is not 0
  std::vector<Rational> listed{};  // the values it may take, rising; empty: all between the bounds
  Index first = 0;                 // id of the first member's decision
  std::vector<Rational> lower, upper;  // one value for all, or one a member; infinite allowed
  std::unordered_map<Index, Expression> lower_by_number,
      upper_by_number;  // members whose bound holds numbers
  std::string stated;   // as the user wrote it, where it was text
};

struct RuleFamily {
  std::string name;
  IndexSet index;
  std::vector<Condition> conditions;
  std::vector<Expression>
      prices{};  // of one unit of violation, by member; empty: may not be missed
  std::string stated;
  [[nodiscard]] bool soft() const noexcept { return !prices.empty(); }
  /// Whether it asks for round trips.
  [[nodiscard]] bool is_tour() const noexcept {
    return !conditions.empty() && conditions[0].kind == Condition::Kind::tour;
  }
};

struct LetFamily {
  std::string name;
  IndexSet index;
  std::vector<Expression> values;
  std::string stated;
};

struct Goal {
  std::string name;
  Sense sense = Sense::minimize;
  Expression expression;
  std::string stated;
  Rational yields{};  // share of its best value that later goals may take from it
};

/// Limits of a decision that do not count for now.
struct DroppedLimits {
  bool lower = false, upper = false, whole = false;
};

struct NumberDefinition {
  std::string name;
  Expression value;  // of numbers stated before
};

/// Where named things stand; of things with the same name, as columns of a file may have, the
/// first.
struct Names {
  std::unordered_set<std::string> others;  // numbers, expressions, goals and curves
  std::unordered_map<std::string, Index> numbers, families, rules;
  /// Whether something has the name that has a value.
  [[nodiscard]] bool of_value(const std::string& name) const {
    return others.contains(name) || families.contains(name);
  }
};

/// Shared by the copies of a model until one of them states more.
class SharedNames {
 public:
  const Names* operator->() const noexcept { return all_.get(); }
  Names& change() {
    if (all_.use_count() > 1) all_ = std::make_shared<Names>(*all_);
    return *all_;
  }

 private:
  std::shared_ptr<Names> all_ = std::make_shared<Names>();
};

struct ModelData {
  std::string title;
  Tag tag;
  SharedNames names;
  std::vector<Table> tables;
  std::vector<NumberDefinition> numbers;
  std::vector<std::shared_ptr<const CurveData>> curves;
  std::vector<std::shared_ptr<const Family>> families;
  std::vector<std::shared_ptr<const LetFamily>> lets;
  std::vector<std::shared_ptr<const RuleFamily>> rules;
  std::vector<Goal> goals;
  std::vector<Expression> kept_inside;  // goals let go of, whose curves still bind their arguments
  std::vector<Index> rows_before;       // rule rows before each family
  Index num_decisions = 0, num_rule_rows = 0;
  bool names_are_columns = false;  // read from a file of columns and rows: no families to speak of

  /// Which statements read a column, by table and column, as far as a reader noted it; columns that
  /// nothing reads are not there.
  std::map<std::string, std::map<std::string, std::vector<std::string>>> column_uses;
  bool uses_noted = false;
  std::vector<std::string> sources, mentioned;          // files
  std::vector<Table> data_tables;                       // read, with nothing stated over them
  std::unordered_map<std::string, std::string> places;  // where things stand in them
  /// "depots.knot:12:9: rule crew", or "rule crew" where no place was noted.
  [[nodiscard]] std::string placed(const std::string& of) const;
  std::vector<std::pair<std::string, std::string>> scenarios;  // name, as stated

  std::unordered_map<Index, Rational> set_numbers;
  std::set<Index> rules_off;
  std::map<Index, DroppedLimits> dropped_limits;  // by decision
  std::unordered_map<Index, Rational> held;       // decisions with one value
  /// Whether a decision has to be whole.
  [[nodiscard]] bool whole(const Family& family, Index member) const;
  [[nodiscard]] bool whole(Index decision) const {
    const Family& f = family_of(decision);
    return whole(f, decision - f.first);
  }

  [[nodiscard]] const Family& family_of(Index decision) const;
  [[nodiscard]] std::string decision_name(Index decision) const;
  [[nodiscard]] std::string rule_name(Index family, Index member) const;
  /// The rule that has this row. UsageError, as above, for one that is not there.
  [[nodiscard]] const RuleFamily& rule_with(Index family, Index member) const;
  /// UsageError for one that speaks of what this model does not have.
  void need_own(const Expression& e) const {
    e.need_understood(tag, num_decisions, static_cast<Index>(numbers.size()));
  }
  /// UsageError where there is none.
  [[nodiscard]] const Goal& first_goal() const;
  /// The names of the goals after the first.
  [[nodiscard]] std::vector<std::string> later_goals() const;
  /// The present value of every number.
  [[nodiscard]] std::vector<Rational> number_values() const;
  /// A goal as stated, with the charges for rules that may be missed (all in the first one).
  [[nodiscard]] Expression goal_with_charges(std::size_t goal) const;
  /// The least and greatest value that a decision can take; with or_zero 0 is among them, ...
  [[nodiscard]] Rational lower(const Family& family, Index member,
                               const std::vector<Rational>& values) const;
  [[nodiscard]] Rational upper(const Family& family, Index member,
                               const std::vector<Rational>& values) const;
  /// ... and those that it has to keep where it is not 0.
  [[nodiscard]] std::pair<Rational, Rational> bounds_if_used(
      const Family& family, Index member, const std::vector<Rational>& values) const;
};

/// UsageError for a plan of a model that has other decisions.
void need_plan_of(const ModelData& model, const class Plan& plan);

/// "ship[North Mole, Long Strand]"; keys that could be misread are quoted.
std::string full_name(const std::string& name, const std::vector<std::string>& keys);

/// Whether it is a comparison of sums.
bool is_linear(const Condition& condition);

/// An expression under given numbers: constant plus one term a decision, by id, zeros left out.
struct LinearForm {
  Rational constant;
  std::vector<Expression::Term> terms;
};
class Collector {
 public:
  /// What stands for a derived term: the number of its column.
  using ColumnOf = std::function<Index(const std::shared_ptr<const Derived>&)>;
  /// Without `column_of`, derived terms are refused with UsageError.
  explicit Collector(const ModelData& model, ColumnOf column_of = {});
  LinearForm collect(const Expression& e);
  /// Adds scale * e to the form being built; finish with take().
  void add(const Expression& e, const Rational& scale);
  LinearForm take();
  [[nodiscard]] const std::vector<Rational>& numbers() const noexcept { return numbers_; }

 private:
  ColumnOf column_of_;
  std::vector<Rational> numbers_;
  std::vector<Rational> value_;
  std::vector<char> listed_;
  std::vector<Index> list_;
  Rational constant_;
};

/// A condition under given numbers, all decisions on one side: low <= sum <= high, constant moved
/// over.
struct LinearRule {
  std::vector<Expression::Term> terms;
  Rational low = Rational::minus_infinity(), high = Rational::infinity();
  Rational moved;  // constant of the body, for telling the value as the user stated it
};
LinearRule linear_rule(Collector& collector, const Condition& condition);

}  // namespace kiteknot
