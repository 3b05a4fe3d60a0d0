#include "methods/greedy_gains.hpp"

#include <algorithm>
#include <limits>
#include <set>

namespace kiteknot::methods {

bool GreedyGains::take_by_ratio() {
  std::string why = picks_.empty() ? "" : "all needs are looked after, now for the goal";
  for (const Index d : picks_.by_ratio()) {
    if (interrupt_.now()) return false;
    const Rational amount = rows_.room(d);
    if (amount.sign() <= 0) continue;
    if (!amount.is_finite()) {
      endless_ = m_.decision_name(d);
      return true;
    }
    const std::size_t mark = rows_.mark();
    rows_.raise(d, amount);
    picks_.note(d, mark, picks_.gain_ratio(d), false, why);
    why.clear();
  }
  return !interrupt_.now();
}

// One after the other the opening that brings most, while there is one that brings anything.
bool GreedyGains::open() {
  std::vector<Index> opener(at(rows_.num_decisions()), -1);  // what stood in the way last time
  std::vector<char> hopeless(at(rows_.num_decisions()), 0);
  for (;;) {
    Rational most_net = 0;
    std::vector<GreedyRows::Move> best;
    std::set<Index> tried;
    for (const Index d : picks_.by_ratio()) {
      if (interrupt_.now()) return false;
      if (hopeless[at(d)] || tried.contains(opener[at(d)]) || rows_.room(d).sign() > 0) continue;
      const Rational most = steps_.most(d);
      if (most.sign() <= 0 || !most.is_finite()) continue;
      const std::size_t mark = rows_.mark();
      if (!steps_.make(d, rows_.integer(d) ? Rational(1) : most)) {
        hopeless[at(d)] = 1;
        continue;
      }
      for (const auto& [moved, by] : rows_.moves_since(mark))
        if (moved != d) opener[at(d)] = moved;
      tried.insert(opener[at(d)]);
      take_what_fits(mark);
      const auto moves = rows_.moves_since(mark);
      Rational net = 0;
      for (const auto& [moved, by] : moves) net += rows_.worth(moved) * by;
      if (net > most_net) {
        most_net = net;
        best.assign(moves.begin(), moves.end());
      }
      rows_.take_back(mark);
    }
    if (interrupt_.now()) return false;
    if (best.empty()) return true;
    make(best);
  }
}

// All gains that have room now, among what shares a row with the moves since a mark.
void GreedyGains::take_what_fits(std::size_t mark) {
  std::set<Index> near;
  for (const auto& [moved, by] : rows_.moves_since(mark))
    for (const auto& use : rows_.uses(moved))
      for (const auto& t : rows_.row(use.row).rule.terms) near.insert(t.decision);
  for (const Index d : picks_.by_ratio({near.begin(), near.end()})) {
    const Rational room = rows_.room(d);
    if (room.sign() > 0 && room.is_finite()) rows_.raise(d, room);
  }
}

// The first one and what it needed; then what there is room for.
void GreedyGains::make(const std::vector<GreedyRows::Move>& moves) {
  const Index first = moves[0].first;
  for (const auto& [d, by] : moves) {
    const std::size_t mark = rows_.mark();
    rows_.raise(d, by);
    const bool needed = d != first && rows_.worth(d).sign() <= 0;
    picks_.note(d, mark, picks_.gain_ratio(d), false,
                d == first ? "with all it makes room for, worth what it needs" : "");
    if (!needed) continue;
    picks_.last().needed_by = first;
    picks_.last().ratio = std::numeric_limits<double>::quiet_NaN();
  }
}

}  // namespace kiteknot::methods
