#include "methods/greedy_picks.hpp"

#include <algorithm>
#include <limits>
#include <numeric>

namespace kiteknot::methods {

GreedyPicks::GreedyPicks(const ModelData& model, const GreedyRows& rows) : m_(model), rows_(rows) {
  if (!m_.goals.empty() && m_.goals[0].sense == Sense::minimize) goal_sign_ = -1;
  find_scarce();
}

// The rule whose limit is asked for most often over by the decisions that improve the goal.
void GreedyPicks::find_scarce() {
  Rational most = 0;
  for (std::size_t k = 0; k < rows_.rows().size(); ++k) {
    const GreedyRow& row = rows_.rows()[k];
    if (row.family == kOfCurve) continue;
    const Rational left = row.rule.high.is_finite() ? row.rule.high - row.activity : Rational(0);
    if (left.sign() <= 0) continue;
    Rational asked = 0;
    for (const auto& t : row.rule.terms)
      if (t.coefficient.sign() > 0 && rows_.worth(t.decision).sign() > 0 &&
          rows_.upper(t.decision).is_finite())
        asked += t.coefficient * (rows_.upper(t.decision) - rows_.value(t.decision));
    if (asked / left <= most) continue;
    most = asked / left;
    scarce_ = static_cast<Index>(k);
  }
}

double GreedyPicks::gain_ratio(Index d) const {
  Rational use = 0;
  for (const auto& u : rows_.uses(d))
    if (u.row == scarce_) use += u.coefficient;
  const Rational limit = scarce_ >= 0 ? rows_.row(scarce_).rule.high : Rational(1);
  return use.sign() > 0 && limit.sign() > 0 ? (rows_.worth(d) * limit / use).to_double()
                                            : std::numeric_limits<double>::infinity();
}

std::vector<Index> GreedyPicks::by_ratio(std::vector<Index> candidates) const {
  std::erase_if(candidates, [&](Index d) { return rows_.worth(d).sign() <= 0; });
  std::vector<std::pair<double, Index>> ranked;
  for (const Index d : candidates) ranked.emplace_back(gain_ratio(d), d);
  std::stable_sort(ranked.begin(), ranked.end(),
                   [](const auto& a, const auto& b) { return a.first > b.first; });
  for (std::size_t k = 0; k < ranked.size(); ++k) candidates[k] = ranked[k].second;
  return candidates;
}

std::vector<Index> GreedyPicks::by_ratio() const {
  std::vector<Index> all(at(rows_.num_decisions()));
  std::iota(all.begin(), all.end(), 0);
  return by_ratio(std::move(all));
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
      p.ratio = own ? ratio : std::numeric_limits<double>::quiet_NaN();
      p.worth += rows_.worth(moved) * by * goal_sign_;
      p.needed_by = own ? -1 : d;
      p.by_need = own && by_need;
      if (own && !again) p.why = why;
      if (scarce_ >= 0) p.used = rows_.row(scarce_).activity + rows_.row(scarce_).rule.moved;
    }
}

void GreedyPicks::tell(MethodAnswer& answer) const {
  answer.picks = picks_;
  if (scarce_ < 0) return;
  const GreedyRow& row = rows_.row(scarce_);
  answer.scarce = m_.rule_name(row.family, row.member);
  answer.scarce_limit = row.rule.high + row.rule.moved;
}

}  // namespace kiteknot::methods
