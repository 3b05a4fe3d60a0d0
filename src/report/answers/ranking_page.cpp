#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "kiteknot/ranking.hpp"
#include "report/forms/page.hpp"

namespace kiteknot {
namespace {

std::string what_differs(const ModelData& m, const std::vector<std::string>& differ,
                         const Plan& before, Plan after) {
  for (const auto& f : m.families)  // those that do not have to differ only follow
    if (!differ.empty() && std::find(differ.begin(), differ.end(), f->name) == differ.end())
      for (Index i = 0; i < f->index.count; ++i)
        after.set({m.tag, f->first + i}, before[f->first + i]);
  return report::told(report::differences(m, before, after, true));
}

// "in run and open"
std::string where(const RankingQuestion& question) {
  return question.differ.empty() ? "in a whole decision" : "in " + listed(question.differ);
}

}  // namespace

RankingPieces::RankingPieces(const Model& model, RankingQuestion question, const Plan& best,
                             const PageOptions& options)
    : model_(model),
      question_(std::move(question)),
      best_(ranked_plan(model, best)),
      options_(options) {}

// Rows under those before them: what a column took it keeps.
void RankingPieces::tell(report::Page& page, std::span<const RankedPlan> plans,
                         std::size_t proven) {
  const ModelData& m = model_.data();
  std::vector<std::vector<std::string>> rows;
  for (const RankedPlan& plan : plans) {
    ++told_;
    std::vector<std::string> row{rows.size() < proven ? std::to_string(told_) : "-"};
    for (std::size_t g = 0; g < plan.goals.size(); ++g) {
      const Rational change = plan.goals[g] - best_.goals[g];
      row.push_back(fmt::format("{} {}", m.goals[g].name, figure(plan.goals[g])));
      row.push_back(change.is_zero() ? "as good" : (change.sign() > 0 ? "+" : "") + figure(change));
    }
    widths_.resize(row.size());
    for (std::size_t c = 0; c < row.size(); ++c)
      widths_[c] = std::max(widths_[c], report::shown_width(row[c]));
    row.push_back(what_differs(m, question_.differ, best_.plan, plan.plan));
    rows.push_back(std::move(row));
  }
  if (!std::exchange(headed_, true)) page.heading("The plans that come next");
  if (rows.empty()) return;
  for (std::size_t c = 0; c < widths_.size(); ++c)
    rows[0][c].resize(rows[0][c].size() + widths_[c] - report::shown_width(rows[0][c]), ' ');
  page.table(rows);
}

std::string RankingPieces::more(std::span<const RankedPlan> plans) {
  report::Page page(options_);
  if (!plans.empty()) tell(page, plans, plans.size());
  return page.take();
}

std::string RankingPieces::rest(const Ranking& ranking) {
  const std::vector<RankedPlan>& plans = ranking.plans;
  const std::size_t proven = std::min(ranking.proven, plans.size());
  report::Page page(options_);
  tell(page, std::span(plans).subspan(std::min(told_, plans.size())),
       proven - std::min(told_, proven));
  if (proven < plans.size())
    page.say(fmt::format("{} marked - {} found before the limit: better ones may be missing.",
                         counted(plans.size() - proven, "plan"),
                         plans.size() - proven == 1 ? "was" : "were"),
             2);
  if (proven > 1)
    page.say(
        fmt::format(
            "{} is proven best of all plans that differ {} from those before it{}; "
            "what is told is against the best one.",
            proven < plans.size() ? "Each with a number" : "Each", where(question_),
            ranking.gap > 0.0 ? fmt::format(", to a relative gap of {:.1g}", ranking.gap) : ""),
        2);
  if (ranking.no_more)
    page.say(plans.size() == 1
                 ? fmt::format("There are none: no other plan that differs {} meets all rules.",
                               where(question_))
                 : "No further plan meets all rules.",
             2);
  else if (!ranking.stopped_by.empty())
    page.say(fmt::format("The search for the {} stopped before its proof.",
                         proven == 1 ? "second one" : "next one"),
             2);
  return page.take();
}

std::string ranking_page(const Ranking& ranking, const PageOptions& options) {
  if (ranking.plans.empty()) throw UsageError("a ranking without its best plan was to be told");
  return RankingPieces(ranking.model, ranking.question, ranking.plans.at(0).plan, options)
      .rest(ranking);
}

std::string ties_line(const Ranking& ranking) {
  const ModelData& m = ranking.model.data();
  if (m.goals.empty()) return {};
  bool with_reals = false;
  for (Index d = 0; d < m.num_decisions && !with_reals; ++d) with_reals = !m.whole(d);
  if (ranking.plans.size() < 2)
    return ranking.no_more ? fmt::format("Nothing else is possible: {} meets all rules.",
                                         with_reals ? "no other choice of the whole decisions"
                                                    : "no other plan")
                           : std::string();
  const std::vector<Rational>&best = ranking.plans[0].goals, &next = ranking.plans[1].goals;
  // Values of real decisions are told to nine digits, and compared so.
  const auto as_good = [&](std::size_t g) {
    constexpr double kDigits = 1e-9;
    const double off = std::abs((next[g] - best[g]).to_double());
    return best[g] == next[g] || (with_reals && off <= kDigits * std::abs(best[g].to_double()));
  };
  bool tied = true;
  for (std::size_t g = 0; g < best.size(); ++g) tied = tied && as_good(g);
  if (tied)
    return fmt::format(
        "{} just as good: {} {}.", with_reals ? "Other whole decisions are" : "Another plan is",
        with_reals ? "one" : "it",
        what_differs(m, ranking.question.differ, ranking.plans[0].plan, ranking.plans[1].plan));
  if (m.goals.size() > 1)
    return fmt::format("No {} as good.",
                       with_reals ? "other whole decisions are" : "other plan is");
  return with_reals ? fmt::format("With other whole decisions the best is {}.", figure(next[0]))
                    : fmt::format("The best other plan comes to {}.", figure(next[0]));
}

}  // namespace kiteknot
