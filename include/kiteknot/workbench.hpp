#pragma once
// Simplex, cutting planes and branch and bound by hand: steps said in words, copies for branches, a
// numbered story in which one can go back and forth. What a step did is a Deed, which the pages
// tell (pages.hpp); nothing is printed here.
//
//   kk::Workbench bench(model);
//   for (const char* step : {"to the end", "cut on kites", "to the end"})
//     std::cout << kk::deed_page(bench, bench.step(step).value());
//
// The words of steps are in docs/guide.md, and step_words() lists them.

#include <memory>
#include <variant>

#include "kiteknot/errors.hpp"
#include "kiteknot/solve.hpp"
#include "kiteknot/tableau_cuts.hpp"

#pragma GCC visibility push(default)
namespace kiteknot {

/// What was looked at, and what changed. Tableaus are as they were then.
namespace deeds {
/// Steps from one tableau to another, one or many.
struct Stepped {
  StepRule rule = StepRule::largest;
  TableauRun run;
  bool one = true;  ///< a single step, told with its ratios
};
struct FirstPhase {
  Rational missing;
};
struct AskedRatios {
  std::optional<Ratios> ratios;
  std::optional<DualRatios> dual;
};
struct Fractions {};
struct Cut {
  TableauCut cut;
  bool kept = true;
  Rational now;  ///< of the left side, as the tableau stood
};
struct CutAllTheWay {
  bool mixed = false;
  CutRun run;
};
/// The user's own sum.
struct Added {
  std::string name;
  TableauSum sum;
  Rational now;
  bool cuts_off_point = false;
  enum class Whole { none_lost, loses, open } whole = Whole::none_lost;
  std::optional<Plan> lost;  ///< a whole plan that it cuts off
};
struct Dropped {
  std::string name;
};
struct Opened {
  std::int32_t copy = 0, from = 0;
};
struct WentTo {
  std::int32_t copy = 0;
};
struct Closed {
  std::int32_t copy = 0;
};
struct Prices {
  Result result;
};
struct Shown {};
struct Copies {};
struct History {};
struct Moved {
  std::int32_t from = 0, to = 0;  ///< numbers of deeds
};
/// The author's own words.
struct Note {
  std::string text;
};
struct Help {};
}  // namespace deeds

using DeedKind =
    std::variant<deeds::Stepped, deeds::FirstPhase, deeds::AskedRatios, deeds::Fractions,
                 deeds::Cut, deeds::CutAllTheWay, deeds::Added, deeds::Dropped, deeds::Opened,
                 deeds::WentTo, deeds::Closed, deeds::Prices, deeds::Shown, deeds::Copies,
                 deeds::History, deeds::Moved, deeds::Note, deeds::Help>;

/// One of the tableaus of a branch and bound by hand.
struct BranchCopy {
  std::int32_t number = 1, parent = 0;  ///< parent 0: the first
  std::string condition;                ///< "kites <= 2"; empty for the first
  Tableau::Column column = -1;
  bool at_most = false;
  Rational limit;
  std::shared_ptr<const Tableau> tableau;
  std::optional<Rational> bound;  ///< no plan of it is better, proven
  bool empty = false;             ///< a step has shown that it has no plan
  enum class Closing { open, whole, no_plan, cannot_beat, divided } closing = Closing::open;
  std::optional<Rational> value;  ///< of its whole optimum, where that is why
};

/// What stands after a number of deeds.
struct BenchState {
  std::vector<BranchCopy> copies;
  std::int32_t at = 1;  ///< the copy at hand
  StepRule rule = StepRule::largest;
  std::optional<Plan> best;  ///< best whole plan met so far
  std::optional<Rational> best_value;
  std::vector<std::string> narrowed;  ///< rules added by hand that may cut off whole plans
  /// The one that is worked on.
  [[nodiscard]] const BranchCopy& copy() const { return copies[static_cast<std::size_t>(at) - 1]; }
  /// That of the copy worked on.
  [[nodiscard]] const Tableau& tableau() const { return *copy().tableau; }
};

struct Deed {
  std::int32_t number = 0;  ///< 0: a question, which changes nothing
  std::string words;        ///< the step as it was said
  DeedKind what;
  std::shared_ptr<const BenchState> before, after;
};

class Workbench {
 public:
  /// Throws UsageError as Tableau does.
  explicit Workbench(const Model& model, const TableauOptions& options = {});
  Workbench(const Workbench&) = default;  // also where it is moved from: it stays usable
  Workbench& operator=(const Workbench&) = default;

  /// Takes one step, or answers one question. Where the words cannot be read, or what they ask for
  /// cannot be done, nothing changes; the diagnostic's column says where, and its message what was
  /// expected or why.
  Reading<Deed> step(const std::string& words);

  /// As it stands now.
  [[nodiscard]] const Tableau& tableau() const { return state().tableau(); }
  /// Everything as it stands now.
  [[nodiscard]] const BenchState& state() const { return *now_; }
  /// As the model was stated.
  [[nodiscard]] const BenchState& first() const { return *first_; }
  /// Deeds that stand, in order, with the questions between them.
  [[nodiscard]] const std::vector<Deed>& story() const noexcept { return story_; }
  /// The whole work in order, as a document tells it: the deeds that stand, and before them what
  /// was given up when another step was taken after going back.
  [[nodiscard]] std::vector<Deed> record() const;
  /// A remark of the author's, kept where it stands.
  void note(const std::string& text);
  /// Changes that were taken back and can be done again, the next one last.
  [[nodiscard]] const std::vector<Deed>& taken_back() const noexcept { return undone_; }
  /// Those that change something: what `back to` counts.
  [[nodiscard]] std::int32_t num_deeds() const;
  /// Words that a step may go on with after what was typed: for completion.
  [[nodiscard]] std::vector<std::string> completions(const std::string& typed) const;

 private:
  Model model_;
  std::shared_ptr<const BenchState> first_, now_;
  void keep_what_is_given_up(std::int32_t number);
  [[nodiscard]] bool is_told(const Deed& deed) const;

  std::vector<Deed> story_, undone_;
  std::vector<Deed> given_up_;  // as record() had it, up to the going back
  std::size_t told_ = 0;        // of the story, that given_up_ holds
};

/// Copies that are neither closed nor divided into others in whole; none: the best plan, if there
/// is one, is proven (as long as what `narrowed` names has to hold).
std::vector<std::int32_t> open_copies(const BenchState& state);
/// Whether something shows that a copy holds no plan better than the best one.
bool can_be_closed(const BenchState& state, std::int32_t number);
/// What was opened on one side only: "kites >= 3 of copy 1".
std::vector<std::string> sides_missing(const BenchState& state);

/// A step's form and what it does, for help.
struct StepWords {
  std::string form, does;
};
/// What can be typed, with its meaning.
const std::vector<StepWords>& step_words();

/// What the last tableau's signs tell, in the form of an answer to the relaxed model: prices,
/// reduced costs and their stretches. UsageError where the tableau is not optimal.
Result relaxed_answer(const Tableau& tableau);

}  // namespace kiteknot
#pragma GCC visibility pop
