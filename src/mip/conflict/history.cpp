#include "mip/conflict/history.hpp"

namespace kiteknot::mip {

void History::read(const Domain& domain, Place from) {
  domain_ = &domain;
  from_ = from;
  columns_ = domain.problem().num_columns();
  last_.resize(2 * at(columns_) + at(domain.problem().num_conditions()), kFromTheStart);
  for (const Key k : touched_) last_[at(k)] = kFromTheStart;
  touched_.clear();
  before_.clear();
  for (Place p = from; p < domain.mark(); ++p) {
    const Key k = key(step(p).change);
    before_.push_back(last_[at(k)]);
    if (last_[at(k)] == kFromTheStart) touched_.push_back(k);
    last_[at(k)] = p;
  }
}

Place History::last(Key key, Place before) const {
  Place p = last_[at(key)];
  while (p != kFromTheStart && p >= before) p = before_[p - from_];
  return p;
}

Place History::first_saying(const Change& bound, Place before) const {
  const auto says = [&](double value) {
    return bound.what == Change::What::lower   ? value >= bound.value
           : bound.what == Change::What::upper ? value <= bound.value
                                               : value == bound.value;
  };
  if (bound.what != Change::What::condition &&
      says(bound_from_start(bound.index, bound.what == Change::What::upper)))
    return kFromTheStart;
  Place first = before;
  for (Place p = last(key(bound), before); p != kFromTheStart && says(step(p).change.value);
       p = before_[p - from_])
    first = p;
  if (bound.what == Change::What::condition && first == before &&
      last_[at(key(bound))] == kFromTheStart && domain_->state(bound.index) != State::open)
    return kFromTheStart;  // settled before all steps
  return first;
}

double History::bound(Index column, bool upper, Place before) const {
  const Key k = 2 * column + (upper ? 1 : 0);
  const Place p = last(k, before);
  if (p != kFromTheStart) return step(p).change.value;
  // The first step knows what was there before; without one nothing has moved.
  Place first = last_[at(k)];
  if (first == kFromTheStart) return upper ? domain_->upper(column) : domain_->lower(column);
  while (before_[first - from_] != kFromTheStart) first = before_[first - from_];
  return step(first).before;
}

}  // namespace kiteknot::mip
