#include "mip/propagators/ordered_sets.hpp"

namespace kiteknot::mip {

OrderedSetPropagator::OrderedSetPropagator(Domain& domain)
    : reader_(domain.add_reader()), sets_of_(at(domain.problem().num_columns())) {
  const auto& sets = domain.problem().ordered_sets();
  awake_.assign(sets.size(), 0);
  for (std::size_t s = 0; s < sets.size(); ++s) {
    for (const Index j : sets[s].columns) sets_of_[at(j)].push_back(static_cast<Index>(s));
    wake(static_cast<Index>(s));
  }
}

void OrderedSetPropagator::wake(Index set) {
  if (awake_[at(set)]) return;
  awake_[at(set)] = 1;
  queue_.push_back(set);
}

void OrderedSetPropagator::follow_trail(Domain& domain) {
  domain.read_trail(
      reader_, [](std::size_t) {},
      [&](const Domain::Step& step, std::size_t) {
        if (step.change.what == Change::What::condition) return;
        for (const Index s : sets_of_[at(step.change.index)]) wake(s);
      });
}

bool OrderedSetPropagator::look_at(const OrderedSet& set, Domain& domain) {
  const auto size = static_cast<Index>(set.columns.size());
  Index first = -1, last = -1;
  for (Index k = 0; k < size; ++k) {
    const Index j = set.columns[at(k)];
    if (domain.lower(j) <= 0.0 && domain.upper(j) >= 0.0) continue;
    if (first < 0) first = k;
    last = k;
  }
  if (first < 0) return true;
  if (last - first + 1 > set.width) return false;
  for (Index k = 0; k < size; ++k) {
    if (k > last - set.width && k < first + set.width) continue;
    const Index j = set.columns[at(k)];
    if (!domain.raise_lower(j, 0.0) || !domain.drop_upper(j, 0.0)) return false;
  }
  return true;
}

bool OrderedSetPropagator::propagate(Domain& domain, const Allowance& allowance) {
  follow_trail(domain);
  for (std::size_t next = 0; next < queue_.size() && !allowance.spent(); ++next) {
    const Index s = queue_[next];
    awake_[at(s)] = 0;
    const OrderedSet& set = domain.problem().ordered_sets()[at(s)];
    allowance.work.add(static_cast<std::int64_t>(set.columns.size()));
    domain.because({Reason::By::ordered_set, s});
    if (!look_at(set, domain)) return false;
    follow_trail(domain);
  }
  for (const Index s : queue_) awake_[at(s)] = 0;
  queue_.clear();
  return true;
}

void OrderedSetPropagator::forget(Domain& domain) {
  follow_trail(domain);
  for (const Index s : queue_) awake_[at(s)] = 0;
  queue_.clear();
}

}  // namespace kiteknot::mip
