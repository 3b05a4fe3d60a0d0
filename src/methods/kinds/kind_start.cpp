#include "methods/kinds/kind_start.hpp"

#include <cmath>

#include "methods/kinds/special_kinds.hpp"

namespace kiteknot::methods {
namespace {

// Entries looked at: as much as some hundred pivots on such a problem.
constexpr double kWork = 1e8;

class Starter {
 public:
  Starter(Index columns, std::uint64_t seed, const Interrupt& interrupt)
      : values_(at(columns), 0.0), random_(seed), interrupt_(interrupt) {}

  bool operator()(const std::monostate&) { return false; }

  bool operator()(const CoverKind& k) {
    std::size_t entries = k.decision.size();
    for (const auto& needs : k.problem.needs) entries += needs.size();
    const structures::CoverWatch watch{
        [&](const structures::CoverPlan& plan) { cover_ = plan; },
        [&, looks = 0.0, most = kWork / static_cast<double>(entries)]() mutable {
          return ++looks > most || interrupt_.now();
        }};
    (void)structures::priced_covers(k.problem, random_, 1, watch);
    for (const Index s : cover_.sets) values_[at(k.decision[at(s)])] = 1.0;
    return !cover_.sets.empty();
  }

  bool operator()(const BoxKind& k) {
    const structures::Boxes boxes = structures::best_fit(k.sizes, k.room);
    if (at(boxes.used) > k.used.size()) return false;
    for (std::size_t i = 0; i < k.sizes.size(); ++i)
      values_[at(k.put[i][at(boxes.box_of[i])])] = 1.0;
    for (Index b = 0; b < boxes.used; ++b) values_[at(k.used[at(b)])] = 1.0;
    return true;
  }

  bool operator()(const LocationKind& k) {
    structures::LocationPlan plan = structures::dual_ascent(k.problem).plan;
    if (plan.open.empty()) return false;
    const double round =
        static_cast<double>(k.open.size()) * static_cast<double>(k.amount.size() + k.open.size());
    plan = structures::swap_places(k.problem, std::move(plan),
                                   static_cast<int>(std::min(1e3, kWork / round)));
    if (!std::isfinite(plan.cost)) return false;
    for (std::size_t f = 0; f < k.open.size(); ++f)
      values_[at(k.open[f])] = plan.open[f] ? 1.0 : 0.0;
    for (std::size_t c = 0; c < k.amount.size(); ++c)
      values_[at(k.ship[c][at(plan.from[c])])] = k.amount[c];
    return true;
  }

  bool operator()(const RoomKind& k) {
    double most = kWork / static_cast<double>(k.does.size() + 1);
    const auto over = [&] { return --most < 0.0 || interrupt_.now(); };
    bool found = false;
    structures::exchange(
        k.problem, structures::by_regret(k.problem), random_,
        [&](const structures::RoomPlan& plan) {
          constexpr double kAlike = 1e-9;
          if (plan.over > kAlike) return;
          found = true;
          std::ranges::fill(values_, 0.0);
          for (Index j = 0; j < k.problem.jobs; ++j)
            values_[at(k.does[k.problem.place(plan.agent_of[at(j)], j)])] = 1.0;
        },
        over);
    return found;
  }

  [[nodiscard]] std::vector<Rational> plan() const { return {values_.begin(), values_.end()}; }

 private:
  std::vector<double> values_;
  Random random_;
  const Interrupt& interrupt_;
  structures::CoverPlan cover_;
};

}  // namespace

std::optional<KindPlan> plan_of_kind(const mip::Problem& problem, std::uint64_t seed,
                                     const Interrupt& interrupt) {
  constexpr Index kSmall = 300;  // the search's own ways find those
  if (problem.num_columns() < kSmall || !problem.linear() || problem.num_integers() == 0) return {};
  const std::optional<PlainProblem> plain = plain_problem(problem);
  if (!plain) return {};
  Starter start(problem.num_columns(), seed, interrupt);
  const SpecialKind kind = special_kind(*plain);
  if (!std::visit(start, kind)) return {};
  static constexpr const char* kBy[] = {"", "prices on needs", "the best fit of each item",
                                        "what customers pay for places", "exchanges of jobs"};
  return KindPlan{start.plan(), kBy[kind.index()]};
}

}  // namespace kiteknot::methods
