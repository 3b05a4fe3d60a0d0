#include "report/answers/rule_rows.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"

namespace kiteknot::report {
namespace {

class RuleRows {
 public:
  RuleRows(const ModelData& model, const PlanReport& report) : m_(model), report_(report) {}

  std::vector<Cells> run(bool in_fractions) {
    const std::vector<RuleValue>& rules = report_.rules;
    for (std::size_t begin = 0; begin < rules.size();) {
      std::size_t end = begin;
      while (end < rules.size() && rules[end].family == rules[begin].family) ++end;
      family(std::span(rules).subspan(begin, end - begin));
      begin = end;
    }
    put(missed_, "missed, and paid for");
    put(binding_, "at the limit");
    put(others_, "room left");
    put(idle_, "idle");
    if (!held_.empty())
      rows_.push_back({in_fractions ? "in fractions" : "holds", counted(num_held_, "condition"),
                       listed(held_, kMostRows)});
    return std::move(rows_);
  }

 private:
  static constexpr std::size_t kFew = 6, kMostRows = 40;

  void family(std::span<const RuleValue> rules) {
    const std::string& name = m_.rule_with(rules[0].family, rules[0].member).name;
    Cells at_limit;
    Rational least = Rational::infinity();
    std::size_t logical = 0, free = 0, idle = 0;
    for (const RuleValue& v : rules) {
      const std::string own = m_.rule_name(v.family, v.member);
      if (v.soft && !v.met) {
        missed_.push_back({"", own, standing(v)});
      } else if (v.logical) {
        ++logical;
      } else if (is_idle(v)) {
        ++idle;
      } else if (rules.size() <= kFew) {
        (v.binding ? binding_ : others_).push_back({"", own, standing(v)});
      } else if (v.binding) {
        at_limit.push_back(told_keys(m_.rule_with(v.family, v.member).index.keys(v.member)));
      } else {
        least = std::min(least, v.slack);
        ++free;
      }
    }
    const std::size_t all = rules.size();
    constexpr std::size_t kMostNames = 10;
    if (at_limit.size() == all)
      binding_.push_back({"", name, fmt::format("all {}", all)});
    else if (!at_limit.empty())
      binding_.push_back(
          {"", name,
           fmt::format("{} of {}: {}", at_limit.size(), all, listed(at_limit, kMostNames))});
    if (free > 0)
      others_.push_back(
          {"", name, fmt::format("{} of {}, {} to spare or more", free, all, figure(least))});
    if (idle > 0)
      idle_.push_back({"", name,
                       all == 1 ? std::string("0 on both sides")
                                : fmt::format("{} of {}, 0 on both sides", idle, all)});
    if (logical > 0) {
      held_.push_back(all == 1 ? name : fmt::format("{} ({})", name, logical));
      num_held_ += logical;
    }
  }

  void put(std::vector<Cells>& from, const char* what) {
    for (std::size_t k = 0; k < from.size() && k < kMostRows; ++k) {
      if (k == 0) from[k][0] = what;
      rows_.push_back(from[k]);
    }
    if (from.size() > kMostRows)
      rows_.push_back({"", "...", fmt::format("and {} more", from.size() - kMostRows)});
  }

  const ModelData& m_;
  const PlanReport& report_;
  std::vector<Cells> rows_, missed_, binding_, others_, idle_;
  Cells held_;  // conditions are met or not, and nothing between
  std::size_t num_held_ = 0;
};

}  // namespace

bool is_idle(const RuleValue& v) {
  return v.binding && v.two_sided && v.left.is_zero() && v.right.is_zero();
}

std::string summed_up(const std::vector<const RuleValue*>& met) {
  std::size_t at_limit = 0, logical = 0;
  bool one_value = true, equal = true;
  Rational least = Rational::infinity();
  for (const RuleValue* v : met) {
    logical += v->logical;
    at_limit += !v->logical && v->binding;
    if (!v->logical && !v->binding) least = std::min(least, v->slack);
    one_value = one_value && v->value == met.front()->value;
    equal = equal && !v->logical && !v->two_sided && v->low == v->high;
  }
  const std::string all = figure(Rational(static_cast<long long>(met.size())));
  if (logical == met.size()) return fmt::format("all {} hold", all);
  if (equal)
    return one_value
               ? fmt::format("all {} are {}, as they must be", all, figure(met.front()->value))
               : fmt::format("all {} are what they must be", all);
  if (at_limit == met.size()) return fmt::format("all {} are at their limit", all);
  std::string text = fmt::format("{} rows, {} at the limit", all, at_limit);
  if (least.is_finite())
    text += fmt::format(", the others with {} to spare or more", figure(least));
  return text;
}

std::vector<Cells> rule_rows(const ModelData& model, const PlanReport& report, bool in_fractions) {
  return RuleRows(model, report).run(in_fractions);
}

}  // namespace kiteknot::report
