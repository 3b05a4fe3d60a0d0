#pragma once
// Figures of a report: in line with its text, in the colours of its style sheet (report_style.hpp),
// so that they follow it into the dark and onto paper.

#include <optional>
#include <string>
#include <vector>

#include "kiteknot/result.hpp"

namespace kiteknot::report {

struct Bar {
  std::string name;
  std::optional<Rational> value;  // none: there is nothing to draw
  std::string told;               // what stands behind it
  bool best = false;
  bool valid = true;  // drawn hatched where it is not
};

/// Values side by side as bars from 0; empty where no two have a value, or where signs differ.
std::string bars(const std::vector<Bar>& bars, const std::string& caption);

/// The best plan and what is still possible over time, as SVG; empty where the search was over
/// before there was anything to see.
std::string search_figure(const Result& result);

/// How much of an upper limit is used, as a small bar; empty where that says nothing.
std::string fill(const RuleValue& rule);

}  // namespace kiteknot::report
