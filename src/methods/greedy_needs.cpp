#include "methods/greedy_needs.hpp"

#include <algorithm>
#include <limits>

namespace kiteknot::methods {

bool GreedyNeeds::meet(NeedOrder order) {
  first_need_.clear();
  looked_.clear();
  made_ = 0;
  leads_.assign(at(rows_.num_decisions()), {-1, -1});
  for (const GreedyRow& row : rows_.rows()) first_need_.push_back(row.need());
  for (Index d = 0; d < rows_.num_decisions(); ++d) {
    if (interrupt_.now()) return false;
    looked_.push_back(look_at(d));
  }
  constexpr int kMostSteps = 100'000;
  double last = std::numeric_limits<double>::infinity();
  while (made_ < kMostSteps) {
    if (interrupt_.now()) return false;
    const Index d = next(order);
    if (d < 0) return true;
    Step& step = looked_[at(d)];
    if (step.looked_at != made_) {  // things have changed since
      const Index thanks_to = step.thanks_to;
      step = look_at(d);
      step.thanks_to = thanks_to;
      continue;
    }
    std::string why;
    if (order == NeedOrder::best_step && !step.free && step.ratio > last)
      why = step.thanks_to >= 0 ? "cheaper with " + m_.decision_name(step.thanks_to)
                                : "it had no room before";
    if (!step.free) last = step.ratio;
    const std::size_t mark = rows_.mark();
    if (!make(d, why)) return true;  // as it was looked at, it can be made
    ++made_;
    look_again(mark, order);
  }
  return true;
}

bool GreedyNeeds::make(Index d, const std::string& why) {
  const Step step = looked_[at(d)];
  const std::size_t mark = rows_.mark();
  if (!steps_.make(d, step.amount)) return false;
  picks_.note(d, mark, step.ratio, !step.free, why);
  for (const Index f : step.followers) {
    const std::size_t before = rows_.mark();
    rows_.raise(f, own_share(f).amount);
    picks_.note(f, before, step.ratio, true, "");
  }
  return true;
}

// So much of a decision meets the least of the needs that it meets.
Rational GreedyNeeds::wanted(Index d) const {
  std::optional<Rational> least;
  for (const auto& use : rows_.uses(d)) {
    if (use.coefficient.sign() <= 0) continue;
    const Rational missing = rows_.row(use.row).need();
    if (missing.sign() <= 0) continue;
    const Rational fills = missing / use.coefficient;
    least = least ? std::min(*least, fills) : fills;
  }
  if (!least) return 0;
  return rows_.integer(d) ? std::max<Rational>(least->floor(), 1) : *least;
}

GreedyNeeds::Share GreedyNeeds::own_share(Index d) const {
  Share share;
  const Rational most = wanted(d);
  if (most.is_zero()) return share;
  share.amount = std::min(most, rows_.room(d));
  if (share.amount.is_zero()) return share;
  for (const auto& use : rows_.uses(d)) {
    const Rational missing = rows_.row(use.row).need();
    if (use.coefficient.sign() <= 0 || missing.sign() <= 0) continue;
    share.met += (std::min(missing, use.coefficient * share.amount) /
                  std::max(first_need_[at(use.row)], missing))
                     .to_double();
  }
  share.cost = (-rows_.worth(d) * share.amount).to_double();
  return share;
}

// How much of all needs a step meets, per unit of what it costs. What is tried is taken back.
GreedyNeeds::Step GreedyNeeds::look_at(Index d) {
  Step step;
  step.looked_at = made_;
  const Rational wanted = this->wanted(d);
  if (wanted.is_zero()) return step;
  const Rational room = rows_.room(d);
  std::vector<Rational> amounts = {std::min(room, wanted)};
  if (room.sign() <= 0) {
    amounts = {std::min(wanted, steps_.most(d))};
    if (rows_.integer(d) && amounts[0] > Rational(1)) amounts.push_back(1);
  }
  const std::size_t mark = rows_.mark();
  for (const Rational& amount : amounts) {
    if (amount.sign() <= 0) continue;
    if (!steps_.make(d, amount)) continue;
    step.amount = amount;
    gather(step, d, mark);
    rows_.take_back(mark);
    if (step.ratio < 0.0) continue;
    return step;
  }
  return step;
}

// What a step is worth that has been made since a mark, with the followers that make it better: of
// all who could open the same thing, only the one with the best share of its own leads them.
void GreedyNeeds::gather(Step& step, Index d, std::size_t mark) {
  double met = share_met(mark), cost = 0.0, dearest = 0.0;
  if (met <= 0.0) return;
  Index opened = -1;
  for (const auto& [moved, by] : rows_.moves_since(mark)) {
    const double price = (-rows_.worth(moved) * by).to_double();
    cost += price;
    if (moved == d || price <= dearest) continue;
    dearest = price;
    opened = moved;
  }
  step.free = cost <= 0.0;
  step.ratio = step.free ? std::max(picks_.gain_ratio(d), 0.0) : met / cost;
  if (opened < 0 || step.free) return;
  auto& [as_of, leader] = leads_[at(opened)];
  if (as_of == made_ && leader != d) return;
  std::set<Index> near;
  for (const auto& use : rows_.uses(opened))
    for (const auto& t : rows_.row(use.row).rule.terms) near.insert(t.decision);
  near.erase(d);
  std::vector<std::pair<double, Index>> others;  // share of needs for its own cost
  for (const Index f : near)
    if (const Share s = own_share(f); s.met > 0.0)
      others.emplace_back(s.cost > 0.0 ? s.met / s.cost : std::numeric_limits<double>::infinity(),
                          f);
  std::stable_sort(others.begin(), others.end(),
                   [](const auto& a, const auto& b) { return a.first > b.first; });
  const double own_cost = (-rows_.worth(d) * step.amount).to_double();
  const double own = own_cost > 0.0 ? met / own_cost : std::numeric_limits<double>::infinity();
  as_of = made_;
  leader = !others.empty() && others[0].first > own ? others[0].second : d;
  if (leader != d) return;
  for (const auto& [ratio, f] : others) {
    const Share s = own_share(f);
    if (s.met <= 0.0) continue;
    if ((met + s.met) * cost <= met * (cost + s.cost)) break;
    rows_.raise(f, s.amount);
    met += s.met;
    cost += s.cost;
    step.followers.push_back(f);
  }
  step.ratio = cost > 0.0 ? met / cost : step.ratio;
}

// Of all needs as they were at first, the share that the moves since a mark have met.
double GreedyNeeds::share_met(std::size_t mark) const {
  std::vector<std::pair<Index, Rational>> changes;  // of rows
  for (const auto& [d, by] : rows_.moves_since(mark))
    for (const auto& use : rows_.uses(d))
      if (rows_.row(use.row).rule.low.is_finite())
        changes.emplace_back(use.row, use.coefficient * by);
  std::stable_sort(changes.begin(), changes.end(),
                   [](const auto& a, const auto& b) { return a.first < b.first; });
  double share = 0.0;
  for (std::size_t k = 0; k < changes.size();) {
    const Index r = changes[k].first;
    Rational change = 0;
    for (; k < changes.size() && changes[k].first == r; ++k) change += changes[k].second;
    const GreedyRow& row = rows_.row(r);
    const Rational missing = std::max<Rational>(row.rule.low - (row.activity - change), 0);
    const Rational met = missing - row.need();
    if (!met.is_zero()) share += (met / std::max(first_need_[at(r)], missing)).to_double();
  }
  return share;
}

// Whatever shares a row with what has moved. Where a move only used up some of what a row has left,
// the others got no better: they are looked at again once it is their turn, unless ways are
// counted.
void GreedyNeeds::look_again(std::size_t mark, NeedOrder order) {
  const auto moves = rows_.moves_since(mark);
  Index opened = -1;
  std::set<Index> near;
  for (const auto& [d, by] : moves) {
    if (opened < 0 && d != moves[0].first) opened = d;
    for (const auto& use : rows_.uses(d)) {
      const LinearRule& rule = rows_.row(use.row).rule;
      const bool used_up = !rule.low.is_finite() && use.coefficient.sign() > 0 && by.sign() > 0;
      if (used_up && order != NeedOrder::fewest_ways) continue;
      for (const auto& t : rule.terms) near.insert(t.decision);
    }
  }
  for (const Index d : near) {
    if (interrupt_.now()) return;
    Step& step = looked_[at(d)];
    const Step before = step;
    step = look_at(d);
    step.thanks_to = opened >= 0 && step.ratio > before.ratio ? opened : before.thanks_to;
  }
}

Index GreedyNeeds::best_of(const GreedyRow* row) const {
  Index best = -1;
  const auto consider = [&](Index d) {
    const Step& a = looked_[at(d)];
    if (a.ratio < 0.0) return;
    const bool better =
        best < 0 || (a.free == looked_[at(best)].free ? a.ratio > looked_[at(best)].ratio : a.free);
    if (better) best = d;
  };
  if (row == nullptr) {
    for (Index d = 0; d < rows_.num_decisions(); ++d) consider(d);
  } else {
    for (const auto& t : row->rule.terms)
      if (t.coefficient.sign() > 0) consider(t.decision);
  }
  return best;
}

Index GreedyNeeds::next(NeedOrder order) const {
  if (order == NeedOrder::best_step) return best_of(nullptr);
  const GreedyRow* chosen = nullptr;
  std::ptrdiff_t fewest = std::numeric_limits<std::ptrdiff_t>::max();
  for (const GreedyRow& row : rows_.rows()) {
    if (row.need().sign() <= 0) continue;
    const std::ptrdiff_t ways =
        order == NeedOrder::as_stated
            ? 0
            : std::count_if(row.rule.terms.begin(), row.rule.terms.end(), [&](const auto& t) {
                return t.coefficient.sign() > 0 && looked_[at(t.decision)].ratio >= 0.0;
              });
    if (ways >= fewest) continue;
    fewest = ways;
    chosen = &row;
  }
  return chosen == nullptr ? -1 : best_of(chosen);
}

std::vector<std::string> GreedyNeeds::in_the_way(const GreedyRow& row) {
  std::set<std::string> names;
  for (const auto& t : row.rule.terms) {
    if (t.coefficient.sign() <= 0) continue;
    const std::size_t mark = rows_.mark();
    if (steps_.make(t.decision,
                    rows_.integer(t.decision) ? Rational(1) : row.need() / t.coefficient)) {
      rows_.take_back(mark);
      continue;
    }
    for (const Index r : steps_.blocked_by()) {
      const GreedyRow& other = rows_.row(r);
      names.insert(other.family == kOfCurve ? "the end of " + other.curve
                                            : m_.rules[at(other.family)]->name);
    }
  }
  return {names.begin(), names.end()};
}

}  // namespace kiteknot::methods
