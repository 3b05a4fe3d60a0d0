#include "kiteknot/held.hpp"

#include <cmath>

#include <fmt/format.h>

#include "kiteknot/solve.hpp"
#include "model/free_names.hpp"
#include "model/model_data.hpp"

namespace kiteknot {

std::optional<HeldPrices> held_prices(const Result& best, const SolveOptions& options) {
  if (best.outcome != Outcome::optimal || best.relaxed_only || best.goals.size() != 1 ||
      !best.plan || !best.report)
    return std::nullopt;
  Model model = best.model();
  const ModelData& stated = best.model().data();
  Index held = 0, by_rule = 0;
  for (const auto& f : stated.families)
    for (Index i = 0; i < f->index.count; ++i) {
      if (!stated.whole(*f, i)) continue;
      const Decision d{stated.tag, f->first + i, f->binary};
      ++held;
      // By their limits: a column with one value never enters a basis, so that no price comes from
      // what it costs.
      if (f->listed.empty() && !f->or_zero)
        model.hold(d, (*best.plan)[d.id]);
      else
        model.rule(free_rule(model, fmt::format("held {}", ++by_rule)),
                   Expression(d) == Expression((*best.plan)[d.id]));
    }
  if (held == 0 || held == stated.num_decisions) return std::nullopt;
  HeldPrices prices{solve_relaxed(model, options), best.report->rules.size()};
  const Result& r = prices.relaxed;
  if (r.outcome != Outcome::optimal || !r.plan || r.relaxed.shadow_prices.empty() ||
      r.relaxed.shadow_prices.size() != prices.rows + static_cast<std::size_t>(by_rule))
    return std::nullopt;
  const double value = best.goals[0].value->to_double(), here = r.goals[0].value->to_double();
  constexpr double kSame = 1e-9;
  if (std::abs(value - here) > kSame * std::max(1.0, std::abs(value))) return std::nullopt;
  return prices;
}

}  // namespace kiteknot
