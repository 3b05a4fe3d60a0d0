// Needs met by sets, each at least once.

#include "structures/covers.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "methods/kinds/special_kind.hpp"

namespace kiteknot::methods {
namespace {

struct Cover final : SpecialKind {
  structures::CoverProblem problem;  // sets are the decisions
  double entries = 0.0;

  [[nodiscard]] std::string told() const override {
    return fmt::format("a cover of {} by {}", counted(at(problem.num_needs), "need"),
                       counted(problem.cost.size(), "set"));
  }
};

std::unique_ptr<SpecialKind> find_cover(const PlainProblem& p) {
  if (p.num_rows() == 0 || !p.all_binary()) return {};
  if (std::ranges::any_of(p.cost, [](double c) { return c < 0.0; })) return {};
  auto k = std::make_unique<Cover>();
  k->problem.cost = p.cost;
  k->problem.needs.resize(p.cost.size());
  k->problem.num_needs = p.num_rows();
  for (Index i = 0; i < p.num_rows(); ++i) {
    const double w = p.same_weight(i);
    if (w == 0.0 || p.low[at(i)] != w || std::isfinite(p.high[at(i)])) return {};
    for (const WeightedNode& t : p.row(i)) k->problem.needs[at(t.node)].push_back(i);
  }
  k->entries = static_cast<double>(p.rows.entries.size() + p.cost.size());
  return k;
}

void take_cover(KindRun& r, const structures::CoverPlan& plan) {
  std::vector<double> values = r.nothing();
  for (const Index s : plan.sets) values[at(s)] = 1.0;
  r.take(plan.cost, std::move(values));
}

void cover_greedy(KindRun& r, const SpecialKind& kind) {
  const structures::CoverPlan plan =
      structures::greedy_cover(static_cast<const Cover&>(kind).problem);
  if (!plan.sets.empty()) take_cover(r, plan);
}

void cover_by_prices(KindRun& r, const Cover& k, int rounds) {
  constexpr std::int64_t kLooks = 3'000;
  (void)structures::priced_covers(k.problem, r.random, rounds,
                                  {[&](const structures::CoverPlan& plan) { take_cover(r, plan); },
                                   [&] { return r.over(kLooks, k.entries); }});
}
void prices_to_the_end(KindRun& r, const SpecialKind& kind) {
  constexpr int kToTheEnd = 1'000'000;
  cover_by_prices(r, static_cast<const Cover&>(kind), kToTheEnd);
}
void start_cover(KindRun& r, const SpecialKind& kind) {
  cover_by_prices(r, static_cast<const Cover&>(kind), 1);
}

}  // namespace

KindEntry cover_kind() {
  return {"cover",
          find_cover,
          {{"cover greedy", "of a cover: most needs for its cost first, then needless sets out",
            "Chvatal 1979", cover_greedy},
           {"cover prices", "of a cover: prices on needs, covers near them, sets fixed bit by bit",
            "Caprara, Fischetti and Toth 1999", prices_to_the_end, true}},
          start_cover,
          "prices on needs"};
}

}  // namespace kiteknot::methods
