#include "mip/propagators/probing.hpp"

#include <algorithm>
#include <unordered_map>

namespace kiteknot::mip {
namespace {

/// What a trial moved: the last bound of every column on either side.
struct Moved {
  std::unordered_map<Index, double> lower, upper;
};

Moved moved_since(const Domain& domain, std::size_t mark) {
  Moved moved;
  for (std::size_t k = mark; k < domain.trail().size(); ++k) {
    const Change& c = domain.trail()[k].change;
    if (c.what == Change::What::lower) moved.lower[c.index] = c.value;
    if (c.what == Change::What::upper) moved.upper[c.index] = c.value;
  }
  return moved;
}

// What both trials brought holds anyhow.
bool keep_common(const Moved& zero, const Moved& one, Domain& domain) {
  std::vector<Change> common;
  for (const auto& [j, value] : zero.lower)
    if (const auto it = one.lower.find(j); it != one.lower.end())
      common.push_back({Change::What::lower, j, std::min(value, it->second)});
  for (const auto& [j, value] : zero.upper)
    if (const auto it = one.upper.find(j); it != one.upper.end())
      common.push_back({Change::What::upper, j, std::max(value, it->second)});
  std::sort(common.begin(), common.end(), [](const Change& a, const Change& b) {
    return a.index != b.index ? a.index < b.index : a.what < b.what;
  });
  return std::all_of(common.begin(), common.end(),
                     [&](const Change& c) { return domain.apply(c); });
}

// What a trial moved follows from its value.
void keep_implied(const Moved& moved, Literal when, std::size_t most, Implications& implied) {
  const std::size_t first = implied.size();
  for (const bool upper : {false, true})
    for (const auto& [j, bound] : upper ? moved.upper : moved.lower)
      if (j != column_of(when) && implied.size() < most) implied.push_back({when, j, upper, bound});
  std::sort(implied.begin() + static_cast<std::ptrdiff_t>(first), implied.end(),
            [](const Implication& a, const Implication& b) {
              return a.column != b.column ? a.column < b.column : a.upper < b.upper;
            });
}

}  // namespace

bool probe(Domain& domain, Propagation& propagation, std::int64_t most, WorkCounter& work,
           Implications& implied) {
  const std::size_t most_implied = 5 * at(domain.problem().num_columns()) + 10'000;
  const Problem& p = domain.problem();
  std::vector<Index> order;
  for (Index j = 0; j < p.num_columns(); ++j)
    if (p.integer(j) && domain.lower(j) == 0.0 && domain.upper(j) == 1.0 && p.columns().size(j) > 1)
      order.push_back(j);
  std::stable_sort(order.begin(), order.end(),
                   [&](Index a, Index b) { return p.columns().size(a) > p.columns().size(b); });
  const std::int64_t until = work.units() + most;
  const Reason reason{Reason::By::probing, -1};
  for (const Index j : order) {
    if (work.units() >= until || work.interrupted()) return true;
    if (domain.fixed(j)) continue;
    const std::size_t mark = domain.mark();
    const auto try_value = [&](bool one, Moved& moved) {
      const bool possible = (one ? domain.raise_lower(j, 1.0) : domain.drop_upper(j, 0.0)) &&
                            propagation.run(domain, work);
      if (possible) moved = moved_since(domain, mark);
      domain.undo_to(mark);
      return possible;
    };
    Moved moved[2];
    const bool zero = try_value(false, moved[0]);
    const bool one = try_value(true, moved[1]);
    if (!zero && !one) return false;
    if (zero && one) {
      keep_implied(moved[0], 2 * j + 1, most_implied, implied);
      keep_implied(moved[1], 2 * j, most_implied, implied);
    }
    domain.because(reason);
    const bool possible = zero && one ? keep_common(moved[0], moved[1], domain)
                          : zero      ? domain.drop_upper(j, 0.0)
                                      : domain.raise_lower(j, 1.0);
    domain.because({});
    if (!possible || (domain.mark() != mark && !propagation.run(domain, work))) return false;
  }
  return true;
}

}  // namespace kiteknot::mip
