#pragma once
// Rules that are too many to state: every closed loop of a network, every set of stops that is too
// heavy for one van. The search comes to a point; a generator looks at it and adds the few that it
// breaks. A rule that nobody breaks is never stated.

#include <memory>
#include <string>
#include <vector>

#include "kiteknot/model.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// A point that the search has come to.
class Candidate {
 public:
  /// For tests: the model's decisions in their order.
  Candidate(const Model& model, std::vector<double> values, bool whole);
  /// The decision's value; exactly whole for whole decisions where whole() is true. Throws
  /// UsageError for a decision of another model.
  [[nodiscard]] double operator[](const Decision& decision) const;
  /// Every whole decision is whole: it will be a plan unless a rule is added.
  [[nodiscard]] bool whole() const noexcept { return whole_; }

 private:
  std::shared_ptr<const ModelTag> model_;
  std::vector<double> values_;
  bool whole_;
};

/// What a generator has to say about a candidate. Rules are comparisons of sums of decisions; those
/// that the candidate does not break are left out.
class Additions {
 public:
  struct Rule {
    std::string name;
    Condition condition;
    bool here = false;
  };
  /// Every plan meets it.
  void rule(std::string name, Condition condition);
  /// Every plan in this part of the search meets it: a rule drawn from bounds that hold there only.
  void rule_here(std::string name, Condition condition);
  /// What was added so far.
  [[nodiscard]] const std::vector<Rule>& rules() const noexcept { return rules_; }

 private:
  std::vector<Rule> rules_;
};

class Generator {
 public:
  virtual ~Generator() = default;
  /// Whether to be asked about points with fractions, too: more rules, fewer branches.
  [[nodiscard]] virtual bool wants_fractions() const { return false; }
  /// Must add a rule for every whole candidate that is no plan; it need not find one for others.
  virtual void look(const Candidate& candidate, Additions& additions) = 0;
  /// One like this for a search of its own: searches at the same time share nothing, so that no
  /// generator needs a lock.
  [[nodiscard]] virtual std::unique_ptr<Generator> twin() const = 0;
};

}  // namespace kiteknot
#pragma GCC visibility pop
