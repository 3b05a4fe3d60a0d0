#pragma once
// A report: everything that a model, its answer and the questions around it came to, as one HTML
// page that needs no network and no other file. Pure functions; nothing is written here.

#include <string>

#include "kiteknot/pages.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// What a report is made of. What is missing has no section.
struct ReportParts {
  Result best;
  std::optional<Explanation> explanation{};  ///< what is wrong, where something is
  std::optional<Comparison> ways{};          ///< the best plan against rounding and greedy
  std::optional<Trials> trials{};            ///< ways on many cases
  std::optional<Variation> scenarios{};      ///< the scenarios that the model states
  std::optional<Variation> rules{};          ///< what each rule costs
  std::string under{};                       ///< circumstances: "scenario "rain""
  std::string made{};                        ///< when and by what, told at the foot
  std::vector<std::string> sources{};        ///< files that were read, told there as well
  std::vector<std::string> left_out{};       ///< sentences: parts that could not be worked out
  /// The answer alone; the other parts come when they are asked for.
  explicit ReportParts(Result answer) : best(std::move(answer)) {}
};

/// The page, UTF-8. Tables with headings sort and filter in a browser; without scripts, and on
/// paper, they stand as they are. Whatever the data hold is text there. Long tables end after some
/// thousands of rows, and say so.
std::string html_report(const ReportParts& parts);

/// A comparison over cases alone, with its figures, as such a page.
std::string trials_report(const Trials& trials, const std::string& made = {});

}  // namespace kiteknot
#pragma GCC visibility pop
