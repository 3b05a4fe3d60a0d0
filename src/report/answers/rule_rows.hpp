#pragma once
// How the rules of a model stand at a plan, in groups: missed and paid for, at the limit, idle,
// with room left, and conditions, which hold or do not.

#include "report/forms/page.hpp"

namespace kiteknot::report {

/// Both sides hold decisions, and all of them do nothing: no limit that anyone feels.
bool is_idle(const RuleValue& rule);

/// Many rows of one rule that are all met, in a few words.
std::string summed_up(const std::vector<const RuleValue*>& met);

/// Rows of three cells: group, rule, how it stands. Rule families of a few rows one by one, of many
/// summed up.
std::vector<std::vector<std::string>> rule_rows(const ModelData& model, const PlanReport& report,
                                                bool in_fractions);

}  // namespace kiteknot::report
