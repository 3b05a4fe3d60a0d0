#include "mip/relaxation/row_pool.hpp"

#include <algorithm>
#include <cmath>
#include <functional>

#include "base/check.hpp"
#include "mip/problem/violation.hpp"

namespace kiteknot::mip {

RowPool::RowPool(const Problem& problem, const Relaxation& relaxation, std::int32_t owner)
    : owner_(owner), first_(relaxation.simplex().program().num_rows()) {
  store_.add_columns(problem.num_columns());
}

std::size_t RowPool::hash_of(const LinearRow& row, std::int64_t scope) {
  std::uint64_t hash = std::hash<std::int64_t>{}(scope);
  const auto mix = [&](std::uint64_t v) {
    hash ^= v + 0x9e3779b97f4a7c15ULL + (hash << 6U) + (hash >> 2U);
  };
  for (const Entry& e : row.entries) {
    mix(static_cast<std::uint64_t>(e.index));
    mix(std::hash<double>{}(e.value));
  }
  mix(std::hash<double>{}(row.lower));
  mix(std::hash<double>{}(row.upper));
  return static_cast<std::size_t>(hash);
}

bool RowPool::same(Index name, const LinearRow& row, std::int64_t scope) const {
  const auto index = store_.rows().index(name);
  const auto value = store_.rows().value(name);
  if (scope_[at(name)] != scope || index.size() != row.entries.size() ||
      stated_.lower[at(name)] != row.lower || stated_.upper[at(name)] != row.upper)
    return false;
  for (std::size_t k = 0; k < index.size(); ++k)
    if (index[k] != row.entries[k].index || value[k] != row.entries[k].value) return false;
  return true;
}

Index RowPool::find(const LinearRow& row, std::int64_t scope, std::size_t hash) const {
  const auto alike = by_hash_.find(hash);
  if (alike == by_hash_.end()) return -1;
  for (const Index name : alike->second)
    if (same(name, row, scope)) return name;
  return -1;
}

Index RowPool::take(const LinearRow& row, std::int64_t scope, bool implied, std::size_t hash) {
  const Index name = store_.add(row, false);
  by_hash_[hash].push_back(name);
  for (Sides* s : {&stated_, &sides_}) {
    s->lower.push_back(row.lower);
    s->upper.push_back(row.upper);
  }
  scope_.push_back(scope);
  implied_.push_back(implied ? 1 : 0);
  if (scope >= 0) local_.push_back(name);
  place_.push_back(-1);
  slack_for_.push_back(0);
  foreign_.push_back(-1);
  return name;
}

Index RowPool::add(const LinearRow& row, std::int64_t scope, bool implied) {
  const std::size_t hash = hash_of(row, scope);
  const Index known = find(row, scope, hash);
  return known >= 0 ? known : take(row, scope, implied, hash);
}

void RowPool::adopt(const PooledRow& found) {
  const std::size_t hash = hash_of(found.row, found.scope);
  Index name = find(found.row, found.scope, hash);
  if (name < 0) {
    name = take(found.row, found.scope, found.implied, hash);
    foreign_[at(name)] = found.name;
  }
  adopted_.emplace(found.name, name);
}

PooledRow RowPool::told(Index name) const {
  const RowView row = store_.view(name, stated_.lower[at(name)], stated_.upper[at(name)]);
  PooledRow told{name_of(name),
                 {{}, row.lower, row.upper, row.exact},
                 scope_[at(name)],
                 implied_[at(name)] != 0};
  for (std::size_t k = 0; k < row.index.size(); ++k)
    told.row.entries.push_back({row.index[k], row.value[k]});
  if (const lp::Exact* known = store_.known(name)) told.row.known = *known;
  return told;
}

std::vector<PooledRow> RowPool::take_found() {
  std::vector<PooledRow> found;
  for (; told_ < size(); ++told_)
    if (foreign_[at(told_)] < 0) found.push_back(told(told_));
  return found;
}

std::vector<PooledRow> RowPool::all() const {
  std::vector<PooledRow> rows;
  for (Index name = 0; name < size(); ++name) rows.push_back(told(name));
  return rows;
}

RowName RowPool::name_of(Index name) const {
  if (foreign_[at(name)] >= 0) return foreign_[at(name)];
  return (RowName{owner_} << 32U) + name;
}

Index RowPool::called(RowName name) const {
  if (name >> 32U == owner_) return static_cast<Index>(name & 0xffffffff);
  return adopted_.at(name);
}

void RowPool::bring_in(Index name, Relaxation& relaxation) {
  if (in_relaxation(name)) return;
  place_[at(name)] = relaxation.add(view(name), store_.known(name));
  slack_for_[at(name)] = 0;
  named_.push_back(name);
}

Index RowPool::bring_in_broken(std::span<const double> point, Relaxation& relaxation,
                               bool stated_only) {
  Index count = 0;
  for (Index name = 0; name < size(); ++name) {
    if ((stated_only && implied_[at(name)]) || in_relaxation(name) ||
        row_violation(view(name), point) == 0.0)
      continue;
    bring_in(name, relaxation);
    ++count;
  }
  return count;
}

bool RowPool::met_exactly(std::span<const Rational> point) const {
  for (Index name = 0; name < size(); ++name) {
    const RowView row = view(name);
    const lp::Exact* known = store_.known(name);
    const bool own = known != nullptr && !known->values.empty();
    if (implied_[at(name)] || (!row.exact && !own)) continue;  // or its numbers are not known
    Rational sum = 0;
    for (std::size_t k = 0; k < row.index.size(); ++k)
      if (!point[at(row.index[k])].is_zero())
        sum += (own ? known->values[k] : Rational::exactly(row.value[k])) * point[at(row.index[k])];
    const auto limit = [&](double as_it_holds, bool upper) {
      if (known != nullptr && as_it_holds == (upper ? known->high_as : known->low_as))
        return upper ? known->high : known->low;
      return std::isfinite(as_it_holds) ? Rational::exactly(as_it_holds)
             : as_it_holds > 0.0        ? Rational::infinity()
                                        : Rational::minus_infinity();
    };
    if (sum < limit(row.lower, false) || sum > limit(row.upper, true)) return false;
  }
  return true;
}

void RowPool::switch_to(Index name, bool on, Relaxation& relaxation) {
  double& lower = sides_.lower[at(name)];
  double& upper = sides_.upper[at(name)];
  const double to_lower = on ? stated_.lower[at(name)] : -kInf;
  const double to_upper = on ? stated_.upper[at(name)] : kInf;
  if (lower == to_lower && upper == to_upper) return;
  lower = to_lower;
  upper = to_upper;
  if (in_relaxation(name)) relaxation.set_limits(place_[at(name)], lower, upper);
}

bool RowPool::age(Relaxation& relaxation, int most) {
  constexpr std::size_t kFew = 8;  // are not worth a new factorisation
  if (named_.empty()) return false;
  const std::span<const lp::VariableStatus> place = relaxation.simplex().row_places();
  std::size_t old = 0;
  for (const Index name : named_) {
    // Rows that came after the last solve have not been slack yet.
    const std::size_t row = at(place_[at(name)]);
    int& slack_for = slack_for_[at(name)];
    slack_for = row < place.size() && place[row] == lp::VariableStatus::basic ? slack_for + 1 : 0;
    old += slack_for > most ? 1 : 0;
  }
  if (old < kFew || 4 * old < named_.size()) return false;
  let_go(relaxation, [&](Index name) { return slack_for_[at(name)] > most; });
  return true;
}

void RowPool::let_implied_go(Relaxation& relaxation) {
  let_go(relaxation, [&](Index name) { return implied_[at(name)] != 0; });
}

void RowPool::check_invariants(const Relaxation& relaxation) const {
  const lp::Program& program = relaxation.simplex().program();
  KITEKNOT_CHECK(at(program.num_rows()) == at(first_) + named_.size(),
                 "the pool's rows are the relaxation's last ones");
  for (std::size_t k = 0; k < named_.size(); ++k)
    KITEKNOT_CHECK(place_[at(named_[k])] == first_ + static_cast<Index>(k),
                   "a row stands where its name says");
  std::size_t placed = 0;
  for (Index name = 0; name < size(); ++name) {
    const std::size_t i = at(name);
    placed += in_relaxation(name) ? 1 : 0;
    const bool on = sides_.lower[i] == stated_.lower[i] && sides_.upper[i] == stated_.upper[i];
    const bool off = sides_.lower[i] == -kInf && sides_.upper[i] == kInf;
    KITEKNOT_CHECK(on || (off && scope_[i] >= 0), "a row holds as stated, or not here");
    if (!in_relaxation(name)) continue;
    KITEKNOT_CHECK((program.row_lower(place_[i]) == -kInf) == (sides_.lower[i] == -kInf) &&
                       (program.row_upper(place_[i]) == kInf) == (sides_.upper[i] == kInf),
                   "the relaxation has the limits that hold here");
    KITEKNOT_CHECK(called(name_of(name)) == name, "a name leads back to its row");
  }
  KITEKNOT_CHECK(placed == named_.size(), "every row in the relaxation has a name");
}

NodeBasis RowPool::basis(const Relaxation& relaxation) const {
  NodeBasis kept{relaxation.simplex().basis(), {}, owner_};
  kept.named.reserve(named_.size());
  for (const Index name : named_) kept.named.push_back(name_of(name));
  return kept;
}

void RowPool::set_basis(const NodeBasis& kept, Relaxation& relaxation) {
  const std::size_t fixed = at(first_);
  const auto rests_on = [&](std::size_t k) {
    return fixed + k < kept.basis.rows.size() &&
           kept.basis.rows[fixed + k] != lp::VariableStatus::basic;
  };
  std::vector<Index> named;
  for (const RowName name : kept.named) named.push_back(called(name));
  for (std::size_t k = 0; k < named.size(); ++k)
    if (kept.owner != owner_ || rests_on(k)) bring_in(named[k], relaxation);
  if (named.size() <= named_.size() && std::equal(named.begin(), named.end(), named_.begin())) {
    relaxation.simplex().set_basis(kept.basis);  // what came since is basic
    return;
  }
  std::unordered_map<Index, lp::VariableStatus> by_name;
  for (std::size_t k = 0; k < named.size(); ++k)
    if (rests_on(k)) by_name.emplace(named[k], kept.basis.rows[fixed + k]);
  lp::Basis basis{kept.basis.columns,
                  {kept.basis.rows.begin(),
                   kept.basis.rows.begin() +
                       static_cast<std::ptrdiff_t>(std::min(fixed, kept.basis.rows.size()))},
                  {}};
  for (const Index name : named_) {
    const auto it = by_name.find(name);
    basis.rows.push_back(it == by_name.end() ? lp::VariableStatus::basic : it->second);
  }
  relaxation.simplex().set_basis(basis);
}

}  // namespace kiteknot::mip
