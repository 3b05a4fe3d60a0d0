#pragma once
// A model with memory: change a number, switch a rule, solve again. Later solves start from the
// plans found before, as far as they still hold, from what was learned of branching, from bounds
// that hold for narrower limits too, and, where the relaxation took long, from its last basis.
//
//   kk::Study study{model};
//   study.solve();
//   study.set(limit, 3).without("pair").solve();

#include <limits>
#include <memory>
#include <string>
#include <vector>

#include "kiteknot/methods.hpp"
#include "kiteknot/result.hpp"

namespace kiteknot::methods {
class Memory;
}

#pragma GCC visibility push(default)
namespace kiteknot {

class Study {
 public:
  /// Of a copy of the model: the original stays as it is.
  explicit Study(const Model& model);
  ~Study();
  Study(Study&&) noexcept;
  Study& operator=(Study&&) noexcept;

  /// A number's value, or a rule, from now on; UsageError for a name that is not there.
  Study& set(const Number& number, const Rational& value);
  /// As Model::set; the next answer starts from what the last ones found.
  Study& set(const std::string& number, const Rational& value);
  /// As Model::without.
  Study& without(const std::string& rule);
  /// As Model::with.
  Study& with(const std::string& rule);
  /// The model as it stands now.
  Result solve(const SolveOptions& options = {}, Observer* observer = nullptr);
  /// The same of a variant of the model (the same decisions, other rules, goals or limits), with
  /// all that is remembered; the study's own model stays as it is.
  Result ask(const Model& variant, const SolveOptions& options = {});
  /// As it stands now.
  [[nodiscard]] const Model& model() const noexcept { return model_; }

 private:
  methods::Memory* memory();
  Model model_;
  std::unique_ptr<methods::Memory> memory_;
};

/// Several methods side by side.
struct Comparison {
  std::vector<MethodAnswer> answers;
  /// The proven best value (or the best bound), that distances are measured from.
  std::optional<Rational> best;
  std::optional<double> bound;
  bool proven = false;
  /// That all ways had together: the proof half of it, each other an equal part of what was left.
  double seconds = std::numeric_limits<double>::infinity();
  /// That each of them had.
  double seconds_each = std::numeric_limits<double>::infinity();
};

/// Methods of the user's own, beside those of the library.
using OwnMethods = std::vector<std::shared_ptr<const Method>>;

/// Runs the named methods in order ("exact" is run for the reference in any case, and shown if
/// named), then all of `own`. Throws UsageError for a name that is none. SolveOptions::seconds is
/// for all of them together, seconds_each for each, the proof included.
Comparison compare(const Model& model, const std::vector<std::string>& names,
                   const SolveOptions& options = {}, Observer* observer = nullptr,
                   const OwnMethods& own = {});
/// The same where the model has been solved already.
Comparison compare(const Result& exact, const std::vector<std::string>& names,
                   const SolveOptions& options = {}, Observer* observer = nullptr,
                   const OwnMethods& own = {});

/// The best plan in which the given decisions have the given values.
Result complete(const Model& model, const std::vector<std::pair<Decision, Rational>>& given,
                const SolveOptions& options = {}, Observer* observer = nullptr);

/// One thing about a model that a careful reader would look at twice.
struct Remark {
  std::string text;
};
/// Decisions that no rule and no goal uses, rules that always hold or never can, a goal that
/// nothing at all satisfies best.
std::vector<Remark> worth_a_look(const Model& model);

}  // namespace kiteknot
#pragma GCC visibility pop
