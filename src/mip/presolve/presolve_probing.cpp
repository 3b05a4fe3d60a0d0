#include <algorithm>
#include <cmath>
#include <map>

#include "mip/presolve/reduction.hpp"
#include "mip/propagators/probing.hpp"

namespace kiteknot::mip {
namespace {

// Yes-or-no columns of which each value of one implies a value of the other.
struct Twins {
  Index of = -1, column = -1;
  bool opposite = false;
};

std::vector<Twins> twins_in(const Implications& implied, const Problem& p) {
  // What x_j = 1 implies of k (bit 0: at least 1, bit 1: at most 0), and what x_j = 0 does.
  std::map<std::pair<Index, Index>, std::pair<int, int>> pairs;
  for (const Implication& i : implied) {
    if (!p.integer(i.column) || p.lower(i.column) != 0.0 || p.upper(i.column) != 1.0) continue;
    auto& [one, zero] = pairs[{column_of(i.when), i.column}];
    (is_no(i.when) ? zero : one) |= i.upper ? 2 : 1;
  }
  std::vector<Twins> twins;
  for (const auto& [pair, says] : pairs) {
    if (says.first == 1 && says.second == 2) twins.push_back({pair.first, pair.second, false});
    if (says.first == 2 && says.second == 1) twins.push_back({pair.first, pair.second, true});
  }
  return twins;
}

}  // namespace

void probe_columns(PresolveModel& model, const PresolveBudget& budget, Implications& implied) {
  const PresolveModel::Left now = model.left();
  Domain domain(now.problem);
  Propagation propagation(domain);
  Implications found;
  constexpr std::int64_t kLooks = 20;  // at everything there is
  const std::int64_t most =
      std::min(budget.until - budget.work.units(),
               kLooks * (now.problem.rows().num_nonzeros() + now.problem.num_columns()));
  if (!propagation.run(domain, budget.work) ||
      !probe(domain, propagation, most, budget.work, found)) {
    model.give_up();
    return;
  }
  for (std::size_t k = 0; k < now.kept.size() && model.possible(); ++k) {
    const Index j = now.kept[k];
    if (!model.column(j).integer) continue;
    (void)model.raise_lower(j, domain.lower(static_cast<Index>(k)));
    if (model.possible()) (void)model.drop_upper(j, domain.upper(static_cast<Index>(k)));
  }
  for (const Twins& t : twins_in(found, now.problem)) {
    const Index j = now.kept[at(t.of)], k = now.kept[at(t.column)];
    if (!model.possible() || model.column(j).gone || !model.free_to_go(k) ||
        !model.column(j).binary() || !model.column(k).binary())
      continue;
    (void)model.substitute(k, {{j, t.opposite ? -1.0 : 1.0}}, t.opposite ? 1.0 : 0.0);
  }
  for (Implication i : found) {
    i.when = 2 * now.kept[at(column_of(i.when))] + (is_no(i.when) ? 1 : 0);
    i.column = now.kept[at(i.column)];
    implied.push_back(i);
  }
}

}  // namespace kiteknot::mip
