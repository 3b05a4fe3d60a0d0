#pragma once
// Scenarios: which changes one makes, its own and those of the ones it is like, and making them.

#include <map>

#include "formats/knot/resolver.hpp"

namespace kiteknot::formats::knot {

class Scenarios {
 public:
  /// Enters a scenario; Failure where its name is there already, or it changes one thing twice.
  void enter(const Statement& st);
  /// The changes of a scenario in the order to be made: inherited ones first, but for those that it
  /// replaces. Failure for a name that is none (at `at`), and for a circle.
  [[nodiscard]] std::vector<const ScenarioChange*> changes(const std::string& name,
                                                           Position at) const;
  [[nodiscard]] std::vector<std::string> names() const;

 private:
  std::map<std::string, const Statement*> by_name_;
};

/// Makes a change to a table's cells, before anybody reads them; other changes are passed over.
void change_table(const ScenarioChange& c, TableData& data, NameSource& names, Diagnostics& notes,
                  const Tag& model);
/// Makes a change that is not to a table, once the whole model stands.
void apply_change(const ScenarioChange& c, Model& model, NameSource& names, Diagnostics& notes);

}  // namespace kiteknot::formats::knot
