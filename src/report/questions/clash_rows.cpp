#include "report/questions/clash_rows.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"

namespace kiteknot::report {
namespace {

constexpr std::size_t kLongest = 600;  // letters; longer sums are told by families

}  // namespace

ClashRows::Form ClashRows::form_of(const LinearForm& f) {
  Form form;
  for (const auto& t : f.terms) form.emplace_back(t.decision, t.coefficient.text());
  return form;
}

ClashRows::ClashRows(const ModelData& model) : m_(model), algebra_(model) {
  constexpr Index kMostNames = 5000;
  Index names = 0;
  for (const auto& l : m_.lets) names += l->index.count;
  if (names > kMostNames) return;
  Collector collector(m_);
  for (const auto& l : m_.lets)
    for (Index i = 0; i < l->index.count; ++i) {
      const Expression& e = l->values[static_cast<std::size_t>(i)];
      if (!e.is_linear()) continue;
      const LinearForm f = collector.collect(e);
      if (f.terms.size() > 1 && f.constant.is_zero())
        named_.emplace(form_of(f), full_name(l->name, l->index.keys(i)));
    }
}

Cells ClashRows::rule(const RuleRow& row) {
  const Condition& c =
      m_.rule_with(row.family, row.member).conditions[static_cast<std::size_t>(row.member)];
  const std::string name = m_.rule_name(row.family, row.member);
  if (!named_.empty() && is_linear(c) && !c.low.has_decisions() && !c.high.has_decisions()) {
    Collector collector(m_);
    const LinearForm body = collector.collect(c.body);
    const auto known = named_.find(form_of(body));
    if (known != named_.end() && body.constant.is_zero()) {
      const LinearRule limits = linear_rule(collector, c);
      std::string text = known->second;
      if (limits.low.is_finite() && limits.low == limits.high)
        text += " = " + figure(limits.low);
      else if (limits.low.is_finite() && limits.high.is_finite())
        text = figure(limits.low) + " <= " + text + " <= " + figure(limits.high);
      else if (limits.high.is_finite())
        text += " <= " + figure(limits.high);
      else
        text += " >= " + figure(limits.low);
      Cells stands{known->second, algebra_.short_text(Expression(c.body) >= 0, kLongest)};
      if (const std::size_t sign = stands[1].rfind(" >= 0"); sign != std::string::npos)
        stands[1].resize(sign);
      if (std::find(used_.begin(), used_.end(), stands) == used_.end())
        used_.push_back(std::move(stands));
      return {name, text};
    }
  }
  return {name, algebra_.short_text(c, kLongest)};
}

std::vector<Cells> ClashRows::names() {
  return std::exchange(used_, {});
}

void ClashRows::add_limits(const Clash& c, std::vector<Cells>& rows) const {
  const std::vector<Rational> numbers = m_.number_values();
  std::vector<std::pair<std::string, std::vector<std::string>>> told;
  for (std::size_t k = 0; k < c.limits.size(); ++k) {
    const DecisionLimit& l = c.limits[k];
    const Family& f = m_.family_of(l.decision);
    const Index i = l.decision - f.first;
    using W = DecisionLimit::Which;
    std::string text = l.which == W::whole
                           ? "whole"
                           : (l.which == W::least ? "at least " + figure(m_.lower(f, i, numbers))
                                                  : "at most " + figure(m_.upper(f, i, numbers)));
    if (k >= c.limit_needed.size() || !c.limit_needed[k]) text += " (not shown needed)";
    const auto same =
        std::find_if(told.begin(), told.end(), [&](const auto& t) { return t.first == text; });
    if (same == told.end())
      told.push_back({text, {m_.decision_name(l.decision)}});
    else
      same->second.push_back(m_.decision_name(l.decision));
  }
  for (std::size_t k = 0; k < told.size(); ++k)
    rows.push_back(
        {k == 0 ? "limits" : "", fmt::format("{}: {}", told[k].first, listed(told[k].second, 6))});
}

}  // namespace kiteknot::report
