#pragma once
// Which changes a scenario makes, its own and those of the ones it is like.

#include <map>

#include "formats/knot/meaning.hpp"

namespace kiteknot::formats::knot {

class Scenarios {
 public:
  /// Enters a scenario; Failure where its name is there already, or it changes one thing twice.
  void enter(const Statement& st);
  /// The changes of a scenario in the order to be made: inherited ones first, but for those that it
  /// replaces. Failure for a name that is none (at `at`), and for a circle.
  [[nodiscard]] std::vector<const Change*> changes(const std::string& name, Position at) const;
  [[nodiscard]] std::vector<std::string> names() const;

 private:
  std::map<std::string, const Statement*> by_name_;
};

}  // namespace kiteknot::formats::knot
