#pragma once
// The user's generators: as the engine meets them, in the tree, and in rounds.

#include <unordered_set>

#include "kiteknot/generator.hpp"
#include "kiteknot/result.hpp"
#include "mip/problem/generator.hpp"

namespace kiteknot::methods {

/// Turns points into candidates, and the rules that come back into rows over the first columns.
class GeneratedRules final : public mip::RowGenerator {
 public:
  GeneratedRules(const Model& model, std::unique_ptr<kiteknot::Generator> generator);
  [[nodiscard]] bool wants_fractions() const override { return generator_->wants_fractions(); }
  std::vector<mip::LinearRow> look(std::span<const double> point, bool integral) override;
  /// Nobody looks at a point meanwhile.
  [[nodiscard]] std::shared_ptr<mip::RowGenerator> twin() const override;
  /// Of the rules that it and its twins added so far, each once, in order. Nobody looks at a point
  /// meanwhile.
  [[nodiscard]] std::vector<std::string> names() const;

 private:
  struct Names {
    std::vector<std::string> in_order;
    std::unordered_set<std::string> known;  // the same
  };
  using Family = std::vector<std::shared_ptr<Names>>;  // one for each twin
  GeneratedRules(const Model& model, std::unique_ptr<kiteknot::Generator> generator,
                 std::shared_ptr<Family> family);

  Model model_;
  std::unique_ptr<kiteknot::Generator> generator_;
  std::shared_ptr<Names> names_ = std::make_shared<Names>();
  std::shared_ptr<Family> family_;
};

/// UsageError where it gives nothing.
std::unique_ptr<kiteknot::Generator> twin_of(const kiteknot::Generator& generator);

/// Solves, looks, adds what the plan breaks, and solves again, until nothing is broken.
Result search_in_rounds(const Model& model, const SolveOptions& options, Observer* observer);

}  // namespace kiteknot::methods
