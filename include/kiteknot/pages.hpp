#pragma once
// Pages for people, as text, Markdown or HTML: a model read back, a plan tried, an answer, methods
// side by side, and what the questions around a model came to. Every page speaks in the names of
// the data. Pure functions; nothing is printed here.

#include <functional>
#include <span>
#include <string>
#include <vector>

#include "kiteknot/explain.hpp"
#include "kiteknot/firm.hpp"
#include "kiteknot/held.hpp"
#include "kiteknot/kept.hpp"
#include "kiteknot/methods.hpp"
#include "kiteknot/ranking.hpp"
#include "kiteknot/result.hpp"
#include "kiteknot/saved.hpp"
#include "kiteknot/study.hpp"
#include "kiteknot/tour.hpp"
#include "kiteknot/trade.hpp"
#include "kiteknot/trials.hpp"
#include "kiteknot/vary.hpp"
#include "kiteknot/why.hpp"
#include "kiteknot/workbench.hpp"

namespace kiteknot::report {
class Page;
}

#pragma GCC visibility push(default)
namespace kiteknot {

/// A text from data as pages show it: signs that a terminal would obey are made visible.
std::string shown(const std::string& text);

struct PageOptions;
/// A page that is told besides an answer. Where making it throws, a line that says so and why
/// stands in its place: it must never cost the answer.
std::string besides(const std::string& what, const std::function<std::string()>& page,
                    const PageOptions& options);

/// Plain text, wrapped; Markdown; a part of an HTML page (headings from h2 on, tables); or a part
/// of a TeX document.
enum class PageForm { text, markdown, html, tex };

struct PageOptions {
  bool colour = false;  ///< headings and verdicts set off by terminal colours
  int width = 100;      ///< characters a line; long lists wrap
  PageForm form = PageForm::text;
  std::string under{};  ///< circumstances, said below the title: "scenario \"rain\""
};

/// What of a model or an answer is shown.
struct ShowOptions {
  int rows = 0;        ///< of each family; 0: as many as fit
  std::string family;  ///< only this family of decisions, rules or expressions; empty: all
};

/// A model read back: kinds of decisions, data in sentences, the algebra (in full for a small
/// model, by family with one worked row for a big one), and what is worth a look.
/// Throws UsageError with the nearest name for a family that is not there.
std::string show_page(const Model& model, const PageOptions& options = {},
                      const ShowOptions& what = {});
/// A plan tried by hand: every rule's value against its limits.
std::string check_page(const Model& model, const Plan& plan, const PlanReport& report,
                       const std::string& plan_name, const PageOptions& options = {});
/// An answer: what is decided (as `what` says), which rules are at their limit, how it went.
/// `remark` stands behind the goal's value.
std::string answer_page(const Result& result, const PageOptions& options = {},
                        const ShowOptions& what = {}, const std::string& remark = {});
/// Each yes-or-no decision that the best plan leaves out: which rules taking it breaks, or what it
/// does to the goal, the rest as it is; checked exactly. `what`: how many, of which family.
std::string left_out_page(const Result& best, const PageOptions& options = {},
                          const ShowOptions& what = {});
/// What limits are worth while the whole decisions stay.
std::string held_prices_page(const HeldPrices& held, const PageOptions& options = {});
/// The plans after the best one, with what each does otherwise; to stand behind the answer.
std::string ranking_page(const Ranking& ranking, const PageOptions& options = {});
/// The same piece by piece, to tell each plan when it is there (Observer::next_plan): all pieces
/// together are the page, but for columns that had to become wider on the way.
class RankingPieces {
 public:
  RankingPieces(const Model& model, RankingQuestion question, const Plan& best,
                const PageOptions& options = {});
  /// The plans that come next after those told so far.
  std::string more(std::span<const RankedPlan> plans);
  /// What was not told yet, and the last words.
  std::string rest(const Ranking& ranking);

 private:
  void tell(report::Page& page, std::span<const RankedPlan> plans, std::size_t proven);
  Model model_;
  RankingQuestion question_;
  RankedPlan best_;
  PageOptions options_;
  std::size_t told_ = 1;  // the best one stands on the page of the answer
  bool headed_ = false;
  std::vector<std::size_t> widths_;
};
/// Of a ranking of two: whether another plan is as good, in one sentence; empty where that is open.
std::string ties_line(const Ranking& ranking);
/// Methods side by side, and which decisions differ.
std::string comparison_page(const Model& model, const Comparison& comparison,
                            const PageOptions& options = {});
/// Ways over cases: how near, how soon, how often, and what the spread allows to conclude.
std::string trials_page(const Trials& trials, const PageOptions& options = {});
/// One line about a running search: "12 s   best 482 (by rounding)   nothing above 491.5 can exist
/// ..."
std::string progress_line(const Model& model, const Progress& progress);

/// What is wrong with a model, if anything is: rules that cannot hold together, the cheapest way
/// out, or why the goal has no end.
std::string explanation_page(const Model& model, const Explanation& explanation,
                             const PageOptions& options = {});
/// A round trip: its stops in order with running length, at most `most_stops` of them, what one
/// trip costs over loose loops, and the proof.
std::string tour_page(const Stops& stops, const TourAnswer& answer, const PageOptions& options = {},
                      std::int32_t most_stops = 60);
/// Ways to a tour in one table, the shortest first, against the proven shortest or the bound.
std::string tour_comparison_page(const Stops& stops, const std::vector<TourAnswer>& answers,
                                 const PageOptions& options = {});
/// One line about a running search for a tour.
std::string tour_line(const Stops& stops, const TourProgress& progress);

/// `asked`: the condition in the user's words.
std::string why_page(const Why& why, const std::string& asked, const PageOptions& options = {});
std::string firmness_page(const Firmness& firmness, const PageOptions& options = {});
/// Scenarios, rules left out or a sweep, side by side.
std::string variation_page(const Model& model, const Variation& variation,
                           const PageOptions& options = {});
std::string trade_page(const Model& model, const TradeOff& trade, const PageOptions& options = {});
/// Goal, rules and decisions that differ; by full name, so that rows may come and go.
std::string saved_page(const SavedAnswer& first, const SavedAnswer& second,
                       const PageOptions& options = {});
std::string history_page(const std::string& path, const std::vector<RunLine>& runs,
                         const PageOptions& options = {});
/// Searches that were kept, by file: where each stands, and that 'resume' goes on.
std::string kept_page(
    const std::vector<std::pair<std::string, std::shared_ptr<const KeptSearch>>>& kept,
    const PageOptions& options = {});

/// A tableau in the names of its model, in groups of columns where it is wide, and what its signs
/// call for next.
std::string tableau_page(const Tableau& tableau, const PageOptions& options = {});
/// What a step did, or the answer to a question, and the tableau where it is another one.
std::string deed_page(const Workbench& bench, const Deed& deed, const PageOptions& options = {});
/// The same in one sentence, without its full stop.
std::string deed_sentence(const Deed& deed);
/// From the first tableau to where the bench stands: a whole Markdown, HTML or TeX document, or
/// text.
std::string story_document(const Workbench& bench, const PageOptions& options = {});

}  // namespace kiteknot
#pragma GCC visibility pop
