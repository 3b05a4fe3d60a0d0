#pragma once
// Comparisons over cases as pages and figures tell them.

#include <string>

#include "kiteknot/pages.hpp"

namespace kiteknot::report {

/// "2.0 %", "0", "below 0.01 %", "no plan"
std::string told_distance(double distance);

/// The page with its figures, as a part of an HTML page.
std::string trials_chapter(const Trials& trials, const PageOptions& options);

}  // namespace kiteknot::report
