#pragma once
// A model from its statements: names first, then one statement after the other, each when something
// needs it (binder.cpp: names, scenarios, a question; statement_binder.cpp: what each statement
// means).

#include <map>

#include "formats/knot/binder.hpp"
#include "formats/knot/evaluator.hpp"
#include "formats/knot/resolver.hpp"
#include "formats/knot/scenarios.hpp"

namespace kiteknot::formats::knot {

class Binder final : public NameSource {
 public:
  Binder(std::vector<Statement> statements, const BindSource& source, Diagnostics notes);
  Reading<Question> run();
  Named find(const std::string& name, Position at) override;
  Table need_table(const std::string& name, Position at) override;
  void need_column(const TableData& table, const std::string& column) override;
  void warn(Position at, std::string message) override;
  std::vector<std::string> known_values() const override;
  void note_use(const TableData& table, const std::string& column) override;
  std::vector<std::string> known_curves() const override;

 private:
  enum class State { fresh, busy, done, failed };
  std::string title() const;
  void error(Position at, std::string message);
  std::string place(Position at) const;
  // Every name is stated once.
  void enter_names();
  // All scenarios are looked at, whichever is asked for: a wrong name in one is told at once.
  void enter_scenarios();
  // Whether the number, rule or table that is changed is there.
  void need_changed(const ScenarioChange& c) const;
  // The changes that are not to tables, once everything stands.
  void apply_changes();
  // The condition that was asked, once everything stands.
  void ask();
  void bind_statement(std::size_t s);
  void bind_table(const Statement& st);
  void bind_column(const Statement& st);
  // In `column shows.cost = crew * wage` plain names are columns of the table.
  SyntaxNode with_row_prefix(const SyntaxNode& node, const std::string& row,
                             const TableData& table);
  void bind_number(const Statement& st);
  void bind_curve(const Statement& st);
  // What a family ranges over, with its where condition; the resolver keeps the rows open.
  struct Ranged {
    Over over;
    MeaningPtr where;
  };
  Ranged range(const Heading& heading, Resolver& resolver, Evaluator& evaluator);
  // Whether a bound is a cell with inf.
  static bool endless(const Meaning& bound, Evaluator& evaluator, bool lower);
  void bind_decide(const Statement& st);
  void bind_let(const Statement& st);
  void bind_goal(const Statement& st);
  void bind_rule(const Statement& st);
  // A rule of figures alone stays a comparison, so that it can be told with its values.
  static Condition compared(Evaluator& evaluator, const Meaning& m);

  std::vector<Statement> statements_;
  BindSource source_;
  Diagnostics notes_;
  Model model_;
  Condition answered_;
  std::vector<State> states_;
  std::vector<std::size_t> busy_;
  std::map<std::string, std::size_t> table_statements_, values_, rules_;
  Scenarios scenarios_;
  std::vector<ScenarioChange> other_data_;  // of the source
  std::vector<const ScenarioChange*> changes_;
  std::map<std::pair<std::string, std::string>, std::size_t> columns_;
  std::map<std::string, Table> tables_;
  std::map<std::string, Index> numbers_;
  std::map<std::string, std::shared_ptr<const Family>> families_;
  std::map<std::string, std::shared_ptr<const LetFamily>> lets_;
  std::map<std::string, std::shared_ptr<const CurveData>> curves_;
};

}  // namespace kiteknot::formats::knot
