#include "mip/propagators/learned.hpp"

#include <algorithm>

namespace kiteknot::mip {

LearnedPropagator::LearnedPropagator(Domain& domain)
    : columns_(domain.problem().num_columns()), reader_(domain.add_reader()) {
  watchers_.resize(2 * at(columns_) + at(domain.problem().num_conditions()));
}

std::vector<Index>& LearnedPropagator::watchers(const Change& bound) {
  return bound.what == Change::What::condition
             ? watchers_[at(2 * columns_ + bound.index)]
             : watchers_[at(2 * bound.index + (bound.what == Change::What::upper ? 1 : 0))];
}

void LearnedPropagator::add(Conflict conflict) {
  constexpr std::size_t kMost = 1'000;
  ++learned_;
  const auto id = static_cast<Index>(known_.size());
  if (conflict.bounds.size() == 1)
    alone_.push_back(id);
  else
    for (const std::size_t k : {std::size_t{0}, std::size_t{1}}) watch(id, conflict.bounds[k]);
  known_.push_back({std::move(conflict), uses_});
  if (++alive_ > kMost) let_old_go();
}

void LearnedPropagator::let_old_go() {
  std::vector<std::pair<std::int64_t, Index>> order;  // the oldest first
  for (std::size_t id = 0; id < known_.size(); ++id)
    if (known_[id].conflict.bounds.size() > 1)
      order.emplace_back(known_[id].used, static_cast<Index>(id));
  const std::size_t half = order.size() / 2;
  std::nth_element(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(half), order.end());
  for (std::size_t k = 0; k < half; ++k) known_[at(order[k].second)].conflict.bounds = {};
  alive_ -= half;
  for (std::vector<Index>& list : watchers_)
    std::erase_if(list, [&](Index id) { return find(id) == nullptr; });
}

const Conflict* LearnedPropagator::find(Index id) const {
  if (at(id) >= known_.size()) return nullptr;
  const Conflict& conflict = known_[at(id)].conflict;
  return conflict.bounds.empty() ? nullptr : &conflict;
}

std::vector<Conflict> LearnedPropagator::all() const {
  std::vector<Conflict> all;
  for (const Known& known : known_)
    if (!known.conflict.bounds.empty()) all.push_back(known.conflict);
  return all;
}

bool LearnedPropagator::rule_out(Index id, const Change& bound, Domain& domain) {
  const Change rest = beyond(domain.problem(), bound);
  if (holds(domain, rest)) return true;
  known_[at(id)].used = ++uses_;
  domain.because({Reason::By::conflict, id});
  return domain.apply(rest);
}

// A watched bound may have come to hold: another one takes its place, or the rest decides.
LearnedPropagator::Look LearnedPropagator::look_at(Index id, const Change& moved, Domain& domain,
                                                   WorkCounter& work) {
  std::vector<Change>& bounds = known_[at(id)].conflict.bounds;
  const std::size_t mine = bounds[0].what == moved.what && bounds[0].index == moved.index ? 0 : 1;
  if (!holds(domain, bounds[mine])) return {};
  for (std::size_t k = 2; k < bounds.size(); ++k)
    if (!holds(domain, bounds[k])) {
      std::swap(bounds[mine], bounds[k]);
      watch(id, bounds[mine]);
      work.add(static_cast<std::int64_t>(k));
      return {true, false};
    }
  work.add(static_cast<std::int64_t>(bounds.size()));
  const Change other = bounds[1 - mine];
  if (!holds(domain, other)) return {rule_out(id, other, domain), true};
  known_[at(id)].used = ++uses_;
  domain.because({Reason::By::conflict, id});
  return {false, true};
}

bool LearnedPropagator::propagate(Domain& domain, const Allowance& allowance) {
  const auto read = [&] {
    domain.read_trail(
        reader_, [](std::size_t) {},
        [&](const Domain::Step& step, std::size_t) { moved_.push_back(step.change); });
  };
  read();
  for (const Index id : alone_)
    if (!rule_out(id, known_[at(id)].conflict.bounds.front(), domain)) return false;
  read();
  for (std::size_t next = 0; next < moved_.size() && !allowance.spent(); ++next) {
    const Change moved = moved_[next];
    std::vector<Index>& list = watchers(moved);
    allowance.work.add(1 + 3 * static_cast<std::int64_t>(list.size()));
    std::size_t kept = 0;
    bool possible = true;
    for (std::size_t k = 0; k < list.size(); ++k) {
      const Index id = list[k];
      const Look look = possible ? look_at(id, moved, domain, allowance.work) : Look{};
      possible = possible && look.possible;
      if (look.stays) list[kept++] = id;
    }
    list.resize(kept);
    if (!possible) return false;
    read();
  }
  moved_.clear();
  return true;
}

void LearnedPropagator::forget(Domain& domain) {
  domain.read_trail(
      reader_, [](std::size_t) {}, [](const Domain::Step&, std::size_t) {});
  moved_.clear();
}

}  // namespace kiteknot::mip
