#include "methods/greedy_picks.hpp"

#include <algorithm>
#include <limits>
#include <map>
#include <tuple>

namespace kiteknot::methods {

GreedyPicks::GreedyPicks(const ModelData& model, const GreedyRows& rows, const Interrupt& interrupt)
    : m_(model), rows_(rows), interrupt_(interrupt) {
  if (!m_.goals.empty() && m_.first_goal().sense == Sense::minimize) goal_sign_ = -1;
  find_scarce();
}

// Rows of one rule are one kind of resource (a sack each, a machine, a day). The rule whose limits
// are asked for most often over by the decisions that improve the goal; one that only lets one of
// several be chosen is none, unless there is no other.
void GreedyPicks::find_scarce() {
  struct Asked {
    Rational asked = 0, left = 0;
    std::vector<Index> rows;
    bool one_of = true;
  };
  std::map<Index, Asked> rules;
  std::vector<Rational> wanted(at(rows_.num_decisions()));
  for (Index d = 0; d < rows_.num_decisions(); ++d) {
    if (rows_.worth(d).sign() <= 0) continue;
    const Rational more = rows_.upper(d).is_finite() ? rows_.upper(d) - rows_.value(d)
                                                     : rows_.room(d);  // what its rows let in
    if (more.is_finite()) wanted[at(d)] = more;
  }
  for (std::size_t k = 0; k < rows_.rows().size(); ++k) {
    if (interrupt_.now()) return;  // whoever asked will find out
    const GreedyRow& row = rows_.rows()[k];
    if (row.family == kOfCurve || !row.rule.high.is_finite()) continue;
    const Rational left = row.rule.high - row.activity;
    if (left.sign() <= 0) continue;
    Asked& rule = rules[row.family];
    rule.rows.push_back(static_cast<Index>(k));
    rule.left += left;
    for (const auto& t : row.rule.terms) {
      if (t.coefficient.sign() > 0) rule.asked += t.coefficient * wanted[at(t.decision)];
      rule.one_of = rule.one_of && t.coefficient == row.rule.high;
    }
  }
  const Asked* scarce = nullptr;
  const auto scarcer = [](const Asked& a, const Asked& b) {
    return a.one_of != b.one_of ? b.one_of : a.asked * b.left > b.asked * a.left;
  };
  for (const auto& [family, rule] : rules)
    if (rule.asked.sign() > 0 && (scarce == nullptr || scarcer(rule, *scarce))) scarce = &rule;
  if (scarce == nullptr) return;
  scarce_ = scarce->rows;
  of_scarce_.assign(rows_.rows().size(), 0);
  for (const Index r : scarce_) of_scarce_[at(r)] = 1;
}

Rational GreedyPicks::use_of_scarce(Index d) const {
  Rational use = 0;
  for (const auto& u : rows_.uses(d))
    if (!scarce_.empty() && of_scarce_[at(u.row)] != 0) use += u.coefficient;
  return use;
}

double GreedyPicks::gain_ratio(Index d) const {
  const Rational use = use_of_scarce(d);
  return use.sign() > 0 ? (rows_.worth(d) / use).to_double()
                        : std::numeric_limits<double>::infinity();
}

// Of decisions with one ratio, those first that need least of all limits for what they bring
// (Toyoda 1975, "A simplified algorithm for obtaining approximate solutions to zero-one programming
// problems").
double GreedyPicks::gain_by_shares(Index d) const {
  Rational shares = 0;
  for (const auto& u : rows_.uses(d)) {
    const Rational& high = rows_.row(u.row).rule.high;
    if (u.coefficient.sign() > 0 && high.is_finite() && high.sign() > 0)
      shares += u.coefficient / high;
  }
  return shares.sign() > 0 ? (rows_.worth(d) / shares).to_double()
                           : std::numeric_limits<double>::infinity();
}

// Neither worth nor what a decision uses depends on the plan: they are ranked once.
const std::vector<Index>& GreedyPicks::by_ratio() {
  constexpr Index kBetweenLooks = 500;
  if (is_ranked_) return ranked_;
  struct Ranked {
    double ratio, by_shares, worth;
    Index decision;
  };
  std::vector<Ranked> ranked;
  for (Index d = 0; d < rows_.num_decisions(); ++d) {
    if (d % kBetweenLooks == 0 && interrupt_.now()) return ranked_;
    if (rows_.worth(d).sign() > 0)
      ranked.push_back({gain_ratio(d), gain_by_shares(d), rows_.worth(d).to_double(), d});
  }
  std::ranges::stable_sort(ranked, [](const Ranked& a, const Ranked& b) {
    return std::tie(a.ratio, a.by_shares, a.worth) > std::tie(b.ratio, b.by_shares, b.worth);
  });
  place_.assign(at(rows_.num_decisions()), -1);
  for (const Ranked& r : ranked) {
    place_[at(r.decision)] = static_cast<Index>(ranked_.size());
    ranked_.push_back(r.decision);
  }
  is_ranked_ = true;
  return ranked_;
}

std::vector<Index> GreedyPicks::by_ratio(std::vector<Index> candidates) {
  (void)by_ratio();
  if (!is_ranked_) return {};
  std::erase_if(candidates, [&](Index d) { return place_[at(d)] < 0; });
  std::ranges::sort(candidates, {}, [&](Index d) { return place_[at(d)]; });
  return candidates;
}

void GreedyPicks::note(Index d, std::size_t mark, double ratio, bool by_need,
                       const std::string& why) {
  const auto moves = rows_.moves_since(mark);
  for (const bool own : {true, false})
    for (const auto& [moved, by] : moves) {
      if ((moved == d) != own) continue;
      const bool again = own && !picks_.empty() && picks_.back().decision == d &&
                         picks_.back().needed_by < 0 && picks_.back().ratio == ratio;
      GreedyPick& p = again ? picks_.back() : picks_.emplace_back();
      p.decision = moved;
      p.amount += by;
      p.used = 0;
      p.ratio = own ? ratio : std::numeric_limits<double>::quiet_NaN();
      p.worth += rows_.worth(moved) * by * goal_sign_;
      p.needed_by = own ? -1 : d;
      p.by_need = own && by_need;
      if (own && !again) p.why = why;
      for (const Index r : scarce_) p.used += rows_.row(r).activity + rows_.row(r).rule.moved;
    }
}

void GreedyPicks::tell(MethodAnswer& answer, bool done) {
  answer.picks = picks_;
  answer.scarce.clear();
  answer.no_room.clear();
  if (scarce_.empty()) return;
  const GreedyRow& first = rows_.row(scarce_[0]);
  answer.scarce = scarce_.size() == 1 ? m_.rule_name(first.family, first.member)
                                      : m_.rules[at(first.family)]->name;
  answer.scarce_limit = 0;
  for (const Index r : scarce_)
    answer.scarce_limit += rows_.row(r).rule.high + rows_.row(r).rule.moved;
  if (!done) return;  // a look at every decision would come after the limit
  // What would bring something and is held back by the scarce rule alone.
  for (const Index d : by_ratio()) {
    if (interrupt_.now()) {
      answer.no_room.clear();
      return;
    }
    if (!rows_.value(d).is_zero() || rows_.room(d).sign() > 0) continue;
    bool by_scarce = false, by_others = false;
    for (const auto& u : rows_.uses(d)) {
      const GreedyRow& row = rows_.row(u.row);
      const Rational& limit = u.coefficient.sign() > 0 ? row.rule.high : row.rule.low;
      if (!limit.is_finite() || (limit - row.activity) / u.coefficient >= Rational(1)) continue;
      (of_scarce_[at(u.row)] != 0 ? by_scarce : by_others) = true;
    }
    if (by_scarce && !by_others) answer.no_room.push_back(d);
  }
}

}  // namespace kiteknot::methods
