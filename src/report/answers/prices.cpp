#include "report/answers/prices.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/held.hpp"
#include "model/derived.hpp"

namespace kiteknot::report {
namespace {

constexpr double kNothing = 1e-9;
constexpr std::size_t kMostPrices = 24;
using Rows = std::vector<std::vector<std::string>>;

std::string told(const Stretch& s) {
  if (std::isinf(s.from) && std::isinf(s.to)) return "anything";
  if (std::isinf(s.to)) return fmt::format("at least {}", figure(s.from));
  if (std::isinf(s.from)) return fmt::format("at most {}", figure(s.to));
  return fmt::format("from {} to {}", figure(s.from), figure(s.to));
}

// Over which limits a price holds; of a rule with decisions on both sides, by how much its right
// side may be changed.
std::string as_long_as(const RuleValue& v, const Stretch& s) {
  if (s.from == s.to)
    return v.two_sided ? ", for the least change only" : ", at this very limit only";
  if (!v.two_sided) return fmt::format(", as long as the limit is {}", told(s));
  const double now = v.value.to_double();  // of the difference of both sides
  const auto change = [&](double end) {
    const double by = end - now;
    return std::abs(by) <= kNothing
               ? std::string("none")
               : fmt::format("{} {}", figure(std::abs(by)), by > 0.0 ? "more" : "less");
  };
  if (std::isinf(s.from) && std::isinf(s.to)) return ", however many";
  if (std::isinf(s.to)) return fmt::format(", from {} on", change(s.from));
  if (std::isinf(s.from)) return fmt::format(", up to {}", change(s.to));
  return fmt::format(", from {} to {}", change(s.from), change(s.to));
}

// Limits of decisions have prices too; with them all prices add up to the goal.
void tell_own_limits(Page& page, const Result& r) {
  const ModelData& m = r.model().data();
  Rows rows;
  std::size_t all = 0;
  for (Index d = 0; d < m.num_decisions; ++d) {
    if (m.held.contains(d)) continue;  // its value is not to move
    const double price = r.relaxed.reduced_costs[static_cast<std::size_t>(d)];
    if (std::abs(price) <= kNothing || (*r.plan)[d].is_zero() || ++all > kMostPrices) continue;
    rows.push_back({m.decision_name(d),
                    fmt::format("one more changes {} by {}", r.goals[0].name, figure(price))});
  }
  if (rows.empty()) return;
  page.heading("What the decisions' own limits are worth");
  page.table(rows);
  if (all > rows.size())
    page.say(fmt::format("... and {}", counted(all - rows.size(), "decision")), 2);
}

// What is not taken, with what it would take; the nearest first.
void tell_left_at_zero(Page& page, const Result& r) {
  constexpr std::size_t kMost = 12;
  const ModelData& m = r.model().data();
  const bool maximize = r.goals[0].sense == Sense::maximize;
  std::vector<std::pair<double, Index>> left;
  for (Index d = 0; d < m.num_decisions; ++d) {
    const double price = r.relaxed.reduced_costs[static_cast<std::size_t>(d)];
    if (!m.held.contains(d) && std::abs(price) > kNothing && (*r.plan)[d].is_zero())
      left.emplace_back(std::abs(price), d);
  }
  if (left.empty()) return;
  std::stable_sort(left.begin(), left.end(),
                   [](const auto& a, const auto& b) { return a.first < b.first; });
  Rows rows;
  for (std::size_t k = 0; k < left.size() && k < kMost; ++k)
    rows.push_back({m.decision_name(left[k].second),
                    fmt::format("would have to {} {} {}", maximize ? "bring" : "cost",
                                figure(left[k].first), maximize ? "more" : "less")});
  page.heading("What is left at 0, the nearest first");
  page.table(rows);
  if (left.size() > kMost)
    page.say(fmt::format("... and {}", counted(left.size() - kMost, "decision")), 2);
}

}  // namespace

void tell_prices(Page& page, const Result& r, std::size_t count, const std::string& heading) {
  const Relaxed& x = r.relaxed;
  const auto decisions = static_cast<std::size_t>(r.model().data().num_decisions);
  if (!r.plan || !r.report || r.goals.empty() || r.report->rules.size() < count ||
      x.shadow_prices.size() < count || x.reduced_costs.size() != decisions ||
      (!x.limit_stretches.empty() && x.limit_stretches.size() < count))
    return;  // made by hand
  Rows rows;
  std::size_t all = 0;
  for (std::size_t k = 0; k < count; ++k) {
    const RuleValue& v = r.report->rules[k];
    if (std::abs(x.shadow_prices[k]) <= kNothing || ++all > kMostPrices) continue;
    std::string line =
        fmt::format("one more changes {} by {}", r.goals[0].name, figure(x.shadow_prices[k]));
    if (v.two_sided)
      line = fmt::format("one more on its right side changes {} by {}", r.goals[0].name,
                         figure(x.shadow_prices[k]));
    if (!x.limit_stretches.empty() && v.binding) line += as_long_as(v, x.limit_stretches[k]);
    rows.push_back({r.model().data().rule_name(v.family, v.member), line});
  }
  if (!rows.empty()) {
    page.heading(heading);
    page.table(rows);
    if (all > rows.size())
      page.say(fmt::format("... and {}", counted(all - rows.size(), "rule")), 2);
    if (x.degenerate)
      page.say(
          "The plan rests on more limits than it needs: these prices may hold in one direction "
          "only.",
          2);
  }
  tell_own_limits(page, r);
  tell_left_at_zero(page, r);
}

void tell_firmness(Page& page, const Result& r) {
  const Relaxed& x = r.relaxed;
  const ModelData& m = r.model().data();
  const auto decisions = static_cast<std::size_t>(m.num_decisions);
  if (!r.plan || r.goals.empty() || x.coefficient_stretches.size() != decisions ||
      x.coefficients.size() != decisions)
    return;
  struct Line {
    double room;
    std::vector<std::string> cells;
  };
  // What a curve of the goal is taken of counts there, not by a coefficient.
  std::set<Index> inside;
  for (const auto& t : m.first_goal().expression.derived())
    for (const Expression& arg : t.what->args)
      for (const auto& term : arg.terms()) inside.insert(term.decision);
  std::vector<Line> lines;
  for (Index d = 0; d < m.num_decisions; ++d) {
    const auto k = static_cast<std::size_t>(d);
    if ((*r.plan)[d].is_zero() || inside.contains(d)) continue;
    const Stretch s = x.coefficient_stretches[k];
    const double room = std::min(x.coefficients[k] - s.from, s.to - x.coefficients[k]);
    if (std::isinf(room)) continue;
    lines.push_back(
        {room,
         {m.decision_name(d), fmt::format("counts {} in {}; the plan stays while that is {}",
                                          figure(x.coefficients[k]), r.goals[0].name, told(s))}});
  }
  if (lines.empty()) return;
  std::stable_sort(lines.begin(), lines.end(),
                   [](const Line& a, const Line& b) { return a.room < b.room; });
  page.heading("What the plan hangs on, tightest first");
  Rows rows;
  for (const Line& line : lines)
    if (rows.size() < kMostPrices / 3) rows.push_back(line.cells);
  page.table(rows);
  if (lines.size() > rows.size())
    page.say(fmt::format("... and {}", counted(lines.size() - rows.size(), "decision")), 2);
}

}  // namespace kiteknot::report

namespace kiteknot {

std::string held_prices_page(const HeldPrices& held, const PageOptions& options) {
  report::Page page(options);
  report::tell_prices(page, held.relaxed, held.rows,
                      "What limits are worth while the whole decisions stay");
  return page.take();
}

}  // namespace kiteknot
