#pragma once
// What stands in a clash, as rows of a page: rules with their algebra, limits of decisions.

#include "kiteknot/explain.hpp"
#include "report/forms/algebra.hpp"
#include "report/forms/page.hpp"

namespace kiteknot::report {

/// Rules as people stated them: a sum that has a name goes by it, and what the name stands for is
/// told once.
class ClashRows {
 public:
  explicit ClashRows(const ModelData& model);
  /// Name and words of a rule.
  Cells rule(const RuleRow& row);
  /// "spent", "100 d + 80 e", for every name that was used so far; and forgets them.
  [[nodiscard]] std::vector<Cells> names();
  /// Limits of the same kind and value in one line.
  void add_limits(const Clash& clash, std::vector<Cells>& rows) const;

 private:
  using Form = std::vector<std::pair<Index, std::string>>;  // decision, coefficient
  static Form form_of(const LinearForm& f);

  const ModelData& m_;
  Algebra algebra_;
  std::map<Form, std::string> named_;
  std::vector<Cells> used_;
};

}  // namespace kiteknot::report
