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
  /// Of the rules added so far, each once, in order.
  [[nodiscard]] const std::vector<std::string>& names() const noexcept { return names_; }

 private:
  Model model_;
  std::unique_ptr<kiteknot::Generator> generator_;
  std::vector<std::string> names_;
  std::unordered_set<std::string> known_;  // the same
};

/// UsageError where it gives nothing.
std::unique_ptr<kiteknot::Generator> twin_of(const kiteknot::Generator& generator);

/// Solves, looks, adds what the plan breaks, and solves again, until nothing is broken.
Result search_in_rounds(const Model& model, const SolveOptions& options, Observer* observer);

}  // namespace kiteknot::methods
