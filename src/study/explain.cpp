#include "kiteknot/explain.hpp"

#include <set>

#include "kiteknot/solve.hpp"
#include "model/model_data.hpp"

namespace kiteknot {
namespace {

class ClashFinder {
 public:
  ClashFinder(const Model& model, const SolveOptions& options) : model_(model), options_(options) {
    model_.forget_goals();
    const ModelData& m = model_.data();
    for (std::size_t r = 0; r < m.rules.size(); ++r)
      for (Index i = 0; i < m.rules[r]->index.count; ++i)
        if (!m.rules_off.contains(static_cast<Index>(r)) && !m.rules[r]->soft())
          all_.push_back({static_cast<std::int32_t>(r), i});
  }

  Clash run() {
    const Outcome outcome = outcome_with(all_);
    if (outcome != Outcome::infeasible) {
      clash_.kind = outcome == Outcome::optimal || outcome == Outcome::unproven ||
                            outcome == Outcome::accepted
                        ? Clash::Kind::none
                        : Clash::Kind::undecided;
      return std::move(clash_);
    }
    if (outcome_with({}) == Outcome::infeasible) {
      clash_.kind = Clash::Kind::bounds;
      return std::move(clash_);
    }
    clash_.rows = smallest({}, false, all_);
    // Verified: together they leave nothing, and each is needed for that.
    clash_.kind = outcome_with(clash_.rows) == Outcome::infeasible ? Clash::Kind::found
                                                                   : Clash::Kind::undecided;
    for (std::size_t k = 0; k < clash_.rows.size(); ++k) {
      std::vector<RuleRow> others = clash_.rows;
      others.erase(others.begin() + static_cast<std::ptrdiff_t>(k));
      const Outcome without = outcome_with(others);
      clash_.shown_needed.push_back(without == Outcome::optimal || without == Outcome::accepted ||
                                    without == Outcome::unproven);
    }
    return std::move(clash_);
  }

 private:
  Outcome outcome_with(const std::vector<RuleRow>& kept) {
    ++clash_.solves;
    Model m = model_;
    std::set<std::pair<std::int32_t, std::int32_t>> in;
    for (const RuleRow& row : kept) in.emplace(row.family, row.member);
    m.keep_rows([&](std::int32_t family, std::int32_t member) {
      return in.contains({family, member}) && !switched_off(family);
    });
    return solve(m, options_).outcome;
  }

  // The rows of `of` that clash together with the background; `grown`: it has just become larger.
  std::vector<RuleRow> smallest(const std::vector<RuleRow>& background, bool grown,
                                const std::vector<RuleRow>& of) {
    if (grown && outcome_with(background) == Outcome::infeasible) return {};
    if (of.size() == 1) return of;
    const auto half = of.begin() + static_cast<std::ptrdiff_t>(of.size() / 2);
    const std::vector<RuleRow> first(of.begin(), half), second(half, of.end());
    const auto joined = [](std::vector<RuleRow> a, const std::vector<RuleRow>& b) {
      a.insert(a.end(), b.begin(), b.end());
      return a;
    };
    const std::vector<RuleRow> from_second = smallest(joined(background, first), true, second);
    const std::vector<RuleRow> from_first =
        smallest(joined(background, from_second), !from_second.empty(), first);
    return joined(from_first, from_second);
  }

  [[nodiscard]] bool switched_off(std::int32_t family) const {
    return model_.data().rules_off.contains(family);
  }

  Model model_;
  SolveOptions options_;
  std::vector<RuleRow> all_;
  Clash clash_;
};

}  // namespace

Clash find_clash(const Model& model, const SolveOptions& options) {
  return ClashFinder(model, options).run();
}

}  // namespace kiteknot
