#include "methods/greedy_steps.hpp"

#include <algorithm>

namespace kiteknot::methods {
namespace {
constexpr int kMostDepth = 24;           // decisions that lean on one another in one step
constexpr int kMostTries = 400;          // moves tried for one step
constexpr std::size_t kMostHelpers = 6;  // tried for one row, the cheapest first
}  // namespace

bool GreedySteps::make(Index d, const Rational& amount) {
  const std::size_t mark = rows_.mark();
  tries_ = 0;
  blocked_by_.clear();
  if (fits(d, amount, 0)) return true;
  rows_.take_back(mark);
  return false;
}

Rational GreedySteps::most(Index d) const {
  Rational most =
      rows_.upper(d).is_finite() ? rows_.upper(d) - rows_.value(d) : Rational::infinity();
  for (const auto& use : rows_.uses(d)) {
    const GreedyRow& row = rows_.row(use.row);
    const bool above = use.coefficient.sign() > 0;
    const Rational& limit = above ? row.rule.high : row.rule.low;
    if (!limit.is_finite()) continue;
    Rational room = std::max<Rational>(above ? limit - row.activity : row.activity - limit, 0);
    const bool helped = above ? row.falls : row.rises;  // a row of a sack is long, and never is
    for (std::size_t k = 0; helped && k < row.rule.terms.size(); ++k) {
      const auto& t = row.rule.terms[k];
      if (t.decision == d || (t.coefficient.sign() > 0) == above) continue;
      if (!rows_.upper(t.decision).is_finite()) {
        room = Rational::infinity();
        break;
      }
      room += t.coefficient.abs() * (rows_.upper(t.decision) - rows_.value(t.decision));
    }
    if (room.is_finite()) most = std::min(most, room / use.coefficient.abs());
  }
  return rows_.integer(d) && most.is_finite() ? most.floor() : most;
}

// Raises it; every row that is worse off for it is helped.
bool GreedySteps::fits(Index d, const Rational& amount, int depth) {
  if (depth > kMostDepth || ++tries_ > kMostTries) return false;
  const auto by = rows_.increase(d, amount);
  if (!by) return false;
  std::vector<std::pair<Index, Rational>> worse;  // row, by how much (above its limit: positive)
  for (const auto& use : rows_.uses(d)) {
    const GreedyRow& row = rows_.row(use.row);
    const Rational after = row.activity + use.coefficient * *by;
    if (use.coefficient.sign() > 0 && after > row.rule.high)
      worse.emplace_back(use.row, after - std::max(row.rule.high, row.activity));
    if (use.coefficient.sign() < 0 && after < row.rule.low)
      worse.emplace_back(use.row, after - std::min(row.rule.low, row.activity));
  }
  rows_.raise(d, *by);
  // Helping one row may have helped, or hurt, the next: it is asked for what is missing now.
  for (const auto& [r, excess] : worse) {
    const GreedyRow& row = rows_.row(r);
    const bool above = excess.sign() > 0;
    const Rational now = above ? row.activity - row.rule.high : row.rule.low - row.activity;
    if (now.sign() > 0 && !help(r, std::min(now, excess.abs()), above, depth + 1)) return false;
  }
  return true;
}

// Moves a row back by raising something else in it, the cheapest that can.
bool GreedySteps::help(Index r, const Rational& excess, bool above, int depth) {
  struct Helper {
    Index decision;
    Rational amount;
    double cost;
  };
  std::vector<Helper> helpers;
  for (const auto& t : rows_.row(r).rule.terms) {
    if ((t.coefficient.sign() > 0) == above) continue;
    const auto by = rows_.increase(t.decision, excess / t.coefficient.abs());
    if (!by) continue;
    helpers.push_back({t.decision, *by, (-rows_.worth(t.decision) * *by).to_double()});
  }
  if (helpers.empty()) blocked_by_.push_back(r);
  const auto some = std::min(helpers.size(), kMostHelpers);
  std::partial_sort(helpers.begin(), helpers.begin() + static_cast<std::ptrdiff_t>(some),
                    helpers.end(), [](const Helper& a, const Helper& b) {
                      return a.cost != b.cost ? a.cost < b.cost : a.decision < b.decision;
                    });
  helpers.resize(some);
  for (const Helper& h : helpers) {
    const std::size_t mark = rows_.mark();
    if (fits(h.decision, h.amount, depth)) return true;
    rows_.take_back(mark);
  }
  return false;
}

}  // namespace kiteknot::methods
