#include "kiteknot/workbench.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "workbench/bench_steps.hpp"

namespace kiteknot {
namespace {

using workbench::Step;
using workbench::StepError;
using workbench::StepKind;

Diagnostics diagnostics(const StepError& error) {
  Diagnostics out;
  Diagnostic d;
  d.column = static_cast<int>(std::max<std::size_t>(error.column, 1));
  d.message = error.message;
  out.error(std::move(d));
  return out;
}

}  // namespace

Workbench::Workbench(const Model& model, const TableauOptions& options) : model_(model) {
  BenchState state;
  BranchCopy copy;
  auto tableau = std::make_shared<const Tableau>(model, options);
  copy.tableau = tableau;
  state.copies.push_back(std::move(copy));
  if (tableau->is_feasible() && tableau->is_whole()) {
    Plan plan = tableau->plan();
    if (check_exactly(model, plan).feasible) {
      state.best = std::move(plan);
      state.best_value = tableau->goal_value();
    }
  }
  if (tableau->has_right_signs()) state.copies[0].bound = tableau->goal_value();
  first_ = now_ = std::make_shared<const BenchState>(std::move(state));
}

std::int32_t Workbench::num_deeds() const {
  return static_cast<std::int32_t>(
      std::count_if(story_.begin(), story_.end(), [](const Deed& d) { return d.number > 0; }));
}

// Goes back and forth between what was done and what was taken back.
class BenchMoves {
 public:
  BenchMoves(std::vector<Deed>& story, std::vector<Deed>& undone,
             std::shared_ptr<const BenchState>& now, std::int32_t done)
      : story_(story), undone_(undone), now_(now), done_(done) {}

  bool back() {
    if (done_ == 0) return false;
    while (story_.back().number == 0) move(story_, undone_);  // asked and noted behind it
    now_ = story_.back().before;
    move(story_, undone_);
    --done_;
    return true;
  }
  bool forth() {
    if (undone_.empty()) return false;
    now_ = undone_.back().after;
    move(undone_, story_);
    while (!undone_.empty() && undone_.back().number == 0) move(undone_, story_);
    ++done_;
    return true;
  }
  [[nodiscard]] std::int32_t done() const noexcept { return done_; }

 private:
  static void move(std::vector<Deed>& from, std::vector<Deed>& to) {
    to.push_back(std::move(from.back()));
    from.pop_back();
  }

  std::vector<Deed>& story_;
  std::vector<Deed>& undone_;
  std::shared_ptr<const BenchState>& now_;
  std::int32_t done_;
};

Reading<Deed> Workbench::step(const std::string& words) {
  try {
    const Step step = workbench::read_step(tableau(), words);
    Deed deed;
    deed.words = words;
    deed.before = now_;
    BenchMoves moves(story_, undone_, now_, num_deeds());
    const std::int32_t from = moves.done();
    if (step.kind == StepKind::undo || step.kind == StepKind::redo ||
        step.kind == StepKind::back_to) {
      if (step.kind == StepKind::undo && !moves.back())
        throw StepError{1, "there is nothing to undo"};
      if (step.kind == StepKind::redo && !moves.forth())
        throw StepError{1, "nothing was taken back"};
      if (step.kind == StepKind::back_to) {
        const auto all =
            from + static_cast<std::int32_t>(std::count_if(
                       undone_.begin(), undone_.end(), [](const Deed& d) { return d.number > 0; }));
        if (*step.number > all)
          throw StepError{step.name_at,
                          fmt::format("there is no step {}; the history has {}", *step.number,
                                      counted(static_cast<std::size_t>(all), "step"))};
        while (moves.done() > *step.number && moves.back()) {
        }
        while (moves.done() < *step.number && moves.forth()) {
        }
      }
      deed.what = deeds::Moved{from, moves.done()};
      deed.after = now_;
      return deed;
    }
    workbench::BenchSteps steps(*now_);
    deed.what = steps.take(step);
    deed.after = now_;
    if (steps.is_change()) {
      deed.number = from + 1;
      now_ = std::make_shared<const BenchState>(std::move(steps).state());
      deed.after = now_;
      keep_what_is_given_up(deed.number);
    }
    const bool is_page = step.kind == StepKind::history || step.kind == StepKind::help ||
                         step.kind == StepKind::show;
    if (!is_page) story_.push_back(deed);
    return deed;
  } catch (const StepError& error) {
    return diagnostics(error);
  } catch (const UsageError& error) {  // what a step asked for cannot be done
    return diagnostics({1, error.what()});
  }
}

void Workbench::note(const std::string& text) {
  Deed deed;
  deed.words = text;
  deed.what = deeds::Note{text};
  deed.before = deed.after = now_;
  story_.push_back(std::move(deed));
}

// A step that is taken after going back gives up what came then: the record has it, up to here.
void Workbench::keep_what_is_given_up(std::int32_t number) {
  if (undone_.empty()) return;
  std::int32_t last = number - 1;  // of those that are given up
  given_up_ = record();
  if (!given_up_.empty() && std::holds_alternative<deeds::Moved>(given_up_.back().what))
    given_up_.pop_back();
  for (std::size_t k = undone_.size(); k-- > 0;) {
    last = std::max(last, undone_[k].number);
    if (!is_told(undone_[k])) given_up_.push_back(undone_[k]);
  }
  Deed back;
  back.words = "back to " + std::to_string(number - 1);
  back.what = deeds::Moved{last, number - 1};
  back.before = undone_.front().after;
  back.after = story_.empty() ? first_ : story_.back().after;
  given_up_.push_back(std::move(back));
  told_ = story_.size();
  undone_.clear();
}

bool Workbench::is_told(const Deed& deed) const {
  return std::any_of(given_up_.begin(), given_up_.end(), [&](const Deed& d) {
    return d.words == deed.words && d.after == deed.after && d.number == deed.number;
  });
}

std::vector<Deed> Workbench::record() const {
  std::vector<Deed> all = given_up_;
  if (story_.size() >= told_) {
    all.insert(all.end(), story_.begin() + static_cast<std::ptrdiff_t>(told_), story_.end());
    return all;
  }
  Deed back;  // to before what was told last
  back.words = "back to " + std::to_string(num_deeds());
  back.what = deeds::Moved{num_deeds() + 1, num_deeds()};
  back.before = all.back().after;
  back.after = now_;
  all.push_back(std::move(back));
  return all;
}

const std::vector<StepWords>& step_words() {
  static const std::vector<StepWords> kWords = {
      {"bring in NAME", "it becomes basic; the smallest ratio tells who leaves"},
      {"bring in NAME for ROW", "the same for a row of your choice"},
      {"take out NAME", "a dual step: a row beyond its limit goes out to it"},
      {"take out NAME for OTHER", "the same with what comes in of your choice"},
      {"next [by largest|first|steepest|best]", "one step, chosen by the rule"},
      {"to the end [by ...]", "steps until the goal is at its best"},
      {"first phase", "where neither method can begin: first bring all within limits"},
      {"ratios of NAME", "what a step would look at, without taking it"},
      {"fractions", "which rows could give a cut"},
      {"cut on NAME", "the fractional cut of its row, derived and appended"},
      {"mixed cut on NAME", "the mixed-integer cut"},
      {"all the way [mixed] [anyway]",
       "cuts and dual steps until all is whole; 'anyway': however long fractions get"},
      {"add 2 x + y <= 5 [as NAME]", "a rule of your own, checked against the whole plans"},
      {"drop NAME", "a cut or own rule that holds nothing back"},
      {"x <= 2", "a branch: a copy in which that holds"},
      {"copies", "all copies, and what is still open"},
      {"copy NUMBER", "goes to one"},
      {"close [copy NUMBER]", "closes one, if something shows that it holds nothing better"},
      {"undo, redo, back to NUMBER", "takes steps back, does them again, goes to any"},
      {"history", "all steps in sentences"},
      {"prices", "what limits are worth, and how firm the plan is"},
      {"show", "the tableau"},
      {"help", "these words"},
      {"end", "leaves ('quit' and 'exit' do, too)"}};
  return kWords;
}

std::vector<std::string> Workbench::completions(const std::string& typed) const {
  static const std::vector<std::string> kNamed = {"bring in ", "take out ",     "ratios of ",
                                                  "cut on ",   "mixed cut on ", "drop "};
  std::vector<std::string> out;
  const auto add_if = [&](const std::string& whole) {
    if (whole.size() > typed.size() && whole.starts_with(typed))
      out.push_back(whole.substr(typed.size()));
  };
  for (const std::string& head : kNamed) {
    if (!typed.starts_with(head)) {
      add_if(head);
      continue;
    }
    for (const TableauColumn& c : tableau().columns()) {
      if (c.gone ||
          (head == "bring in " ? c.basic : head != "ratios of " && head != "drop " && !c.basic))
        continue;
      if (head == "drop ") {
        if (c.row >= 0) add_if(head + tableau().stated()[static_cast<std::size_t>(c.row)].name);
      } else {
        add_if(head + c.name);
      }
    }
  }
  for (const char* plain : {"next", "next by ", "to the end", "first phase", "fractions",
                            "all the way", "add ", "copies", "copy ", "close", "undo", "redo",
                            "back to ", "history", "prices", "show", "help"})
    add_if(plain);
  // A name as the last word.
  for (const std::string& before :
       {std::string(" for "), std::string("add "), std::string(" + ")}) {
    const std::size_t from = typed.rfind(before);
    if (from == std::string::npos || typed.empty()) continue;
    const std::string begun = typed.substr(from + before.size());
    for (const std::string& name : tableau().names())
      if (name.size() > begun.size() && name.starts_with(begun))
        out.push_back(name.substr(begun.size()));
  }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

}  // namespace kiteknot
