#pragma once
// Expressions and conditions as readable mathematics, with the data in place, and why a condition
// fails under a plan.

#include <string>
#include <unordered_map>
#include <vector>

#include "model/evaluation.hpp"

namespace kiteknot::report {

/// "3 to 99", or the figure that both are.
std::string range_of(const Rational& least, const Rational& most);

class Algebra {
 public:
  explicit Algebra(const ModelData& model);
  /// "4 run[night glow] - 2 max(boxes, 3) + 1"
  std::string text(const Expression& e);
  /// "run[night glow] implies (2 crates >= 3 or not open[Gull Bank])"
  std::string text(const Condition& c);
  /// The same of at most so many letters where it is a sum: else its families are summed up.
  std::string short_text(const Condition& c, std::size_t most);
  /// "20 of run with figures from 3 to 99 and 4 of crates with 1"
  [[nodiscard]] std::string by_family(const std::vector<Expression::Term>& terms) const;
  [[nodiscard]] Collector& collector() noexcept { return collector_; }
  /// "the left side holds, the right one does not: crates is 1, at least 3 is needed"
  std::string why_not(const Condition& c, const Evaluation& at, bool wanted = true);

 private:
  std::string terms(const LinearForm& form);
  std::string part(const Condition& c);  // in brackets where it needs them
  std::string derived(const Derived& d, bool& negative);
  std::string sided(const Condition& c);

  const ModelData& model_;
  std::vector<std::shared_ptr<const Derived>> derived_;
  std::unordered_map<const Derived*, Index> number_of_;
  Collector collector_;
};

}  // namespace kiteknot::report
