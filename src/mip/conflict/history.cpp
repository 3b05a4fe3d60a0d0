#include "mip/conflict/history.hpp"

namespace kiteknot::mip {

void History::read(const Domain& domain, TrailPosition from) {
  domain_ = &domain;
  from_ = from;
  columns_ = domain.problem().num_columns();
  last_.resize(2 * at(columns_) + at(domain.problem().num_conditions()), kFromTheStart);
  for (const Key k : touched_) last_[at(k)] = kFromTheStart;
  touched_.clear();
  before_.clear();
  for (TrailPosition p = from; p < domain.mark(); ++p) {
    const Key k = key(step(p).change);
    before_.push_back(last_[at(k)]);
    if (last_[at(k)] == kFromTheStart) touched_.push_back(k);
    last_[at(k)] = p;
  }
}

TrailPosition History::last(Key key, TrailPosition before) const {
  TrailPosition p = last_[at(key)];
  while (p != kFromTheStart && p >= before) p = before_[p - from_];
  return p;
}

TrailPosition History::first_saying(const Change& bound, TrailPosition before) const {
  const auto says = [&](double value) {
    return bound.what == Change::What::lower   ? value >= bound.value
           : bound.what == Change::What::upper ? value <= bound.value
                                               : value == bound.value;
  };
  if (bound.what != Change::What::condition &&
      says(bound_from_start(bound.index, bound.what == Change::What::upper)))
    return kFromTheStart;
  TrailPosition first = before;
  for (TrailPosition p = last(key(bound), before); p != kFromTheStart && says(step(p).change.value);
       p = before_[p - from_])
    first = p;
  if (bound.what == Change::What::condition && first == before &&
      last_[at(key(bound))] == kFromTheStart && domain_->state(bound.index) != State::open)
    return kFromTheStart;  // settled before all steps
  return first;
}

double History::bound(Index column, bool upper, TrailPosition before) const {
  const Key k = 2 * column + (upper ? 1 : 0);
  const TrailPosition p = last(k, before);
  if (p != kFromTheStart) return step(p).change.value;
  // The first step knows what was there before; without one nothing has moved.
  TrailPosition first = last_[at(k)];
  if (first == kFromTheStart) return upper ? domain_->upper(column) : domain_->lower(column);
  while (before_[first - from_] != kFromTheStart) first = before_[first - from_];
  return step(first).before;
}

}  // namespace kiteknot::mip
