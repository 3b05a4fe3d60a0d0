#include "report/answers/search_words.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include <fmt/format.h>

#include "base/text.hpp"
#include "report/drawing/drawing.hpp"

namespace kiteknot::report {
namespace {

// "a, b and c" of counts with words, the largest first; those of 0 left out.
std::string counted_list(std::vector<std::pair<std::int64_t, std::string>> parts) {
  std::erase_if(parts, [](const auto& p) { return p.first <= 0; });
  std::stable_sort(parts.begin(), parts.end(),
                   [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<std::string> words;
  for (const auto& [count, what] : parts)
    words.push_back(fmt::format("{} {}", figure(static_cast<double>(count)), what));
  return listed(words);
}

// What a part of the search is for.
const char* purpose(const std::string& kind) {
  if (kind == "branching") return "trying out where to branch";
  if (kind == "heuristic") return "looking for plans";
  if (kind.starts_with("cuts") || kind == "separator") return "cuts";
  if (kind == "propagator") return "telling what follows from a branch";
  if (kind == "learning") return "learning from lost branches";
  if (kind == "presolve") return "what could be told beforehand";
  return nullptr;
}

}  // namespace

void tell_branching(Page& page, const Result& r) {
  constexpr std::int64_t kFew = 4;
  if (r.search.nodes < kFew || r.relaxed_only) return;
  const GoalResult* goal = r.goals.empty() ? nullptr : &r.goals[0];
  if (goal != nullptr && goal->bound && r.search.root_bound &&
      brief_figure(*goal->bound) != brief_figure(*r.search.root_bound))
    page.say(fmt::format("Branching brought what can exist from {} to {}{}.",
                         brief_figure(*r.search.root_bound), brief_figure(*goal->bound),
                         r.outcome == Outcome::optimal ? ", where the plan is" : " so far"),
             2);
  std::map<std::string, std::int64_t> by;
  for (const auto& [how, count] : r.search.closed) by[how] += count;
  const std::string ends = counted_list(
      {{by["bound"] + by["nearly"], "could not beat the best plan"},
       {by["conflict"] + by["relaxation"] + by["children"],
        r.has_plan() ? "held no better one" : "held no plan"},
       {by["remainder"], by["remainder"] == 1 ? "was looked through" : "were looked through"},
       {by["point"], by["point"] == 1 ? "was a single point" : "were single points"},
       {by["unresolved"], "stayed unsettled"}});
  if (!ends.empty()) page.say("Of the branches that were closed " + ends + ".", 2);
}

void tell_machines(Page& page, const Result& r) {
  for (const SearchPart& part : r.search.parts)
    if (part.kind == "presolve" && part.name == "machines" && part.found > 0)
      page.say(fmt::format("What is kept apart in pairs was seen together, as {} that {} one thing "
                           "at a time.",
                           counted(static_cast<std::size_t>(part.found), "machine"),
                           part.found == 1 ? "does" : "do"),
               2);
}

void tell_work(Page& page, const Result& r) {
  constexpr std::int64_t kMuch = 5'000'000;  // units of work
  constexpr double kLeast = 0.05;            // a share worth telling
  if (r.search.work < kMuch || r.relaxed_only) return;
  std::map<std::string, std::int64_t> work;
  std::int64_t rest = r.search.work;
  for (const SearchPart& part : r.search.parts)
    if (const char* what = purpose(part.kind)) {
      work[what] += part.work;
      rest -= part.work;
    }
  work["the relaxations"] += std::max<std::int64_t>(rest, 0);
  std::int64_t all = 0;
  for (const auto& [what, units] : work) all += units;
  std::vector<std::pair<double, std::string>> shares;
  for (const auto& [what, units] : work)
    if (const double share = static_cast<double>(units) / static_cast<double>(all); share >= kLeast)
      shares.emplace_back(share, what);
  std::stable_sort(shares.begin(), shares.end(),
                   [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<std::string> words;
  for (const auto& [share, what] : shares)
    words.push_back(fmt::format("{:.0f} % into {}", 100.0 * share, what));
  page.say("Of the work went " + listed(words) + ".", 2);
}

}  // namespace kiteknot::report
