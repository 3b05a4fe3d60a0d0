// Steps in words: what they do, how they are told, taken back and refused.
#include <functional>

#include <catch2/catch.hpp>

#include "support/knot.hpp"
#include "support/random_hand.hpp"

using namespace kiteknot;

namespace {

const std::string kHour =
    "model \"Hour\"\ndecide box integer 0 .. inf\ndecide delta integer 0 .. inf\n"
    "decide sled integer 0 .. inf\nmaximize joy: 3 * box + 9 * delta + 7 * sled\n"
    "rule spars: 4 * box + delta + 2 * sled <= 11\nrule cord: 4 * box + 3 * delta + 2 * sled <= "
    "16\n";

Deed done(Workbench& bench, const std::string& words) {
  const Reading<Deed> deed = bench.step(words);
  INFO(words << ": " << deed.notes().text());
  REQUIRE(deed.ok());
  return deed.value();
}

std::string refused(Workbench& bench, const std::string& words) {
  const BenchState* before = &bench.state();
  const Reading<Deed> deed = bench.step(words);
  REQUIRE_FALSE(deed.ok());
  CHECK(&bench.state() == before);
  const Diagnostic& d = deed.notes().items()[0];
  return std::to_string(d.column) + ": " + d.message;
}

// Branch and bound as a patient person does it; false where it takes too many copies.
bool branch_to_the_end(Workbench& bench) {
  for (int turn = 0; turn < 400; ++turn) {
    const std::vector<std::int32_t> open = open_copies(bench.state());
    if (open.empty()) return true;
    if (bench.state().at != open.back()) done(bench, "copy " + std::to_string(open.back()));
    if (!bench.state().copy().empty) {
      const Deed deed = done(bench, "to the end");
      const TableauRun::End end = std::get<deeds::Stepped>(deed.what).run.end;
      if (end == TableauRun::End::neither) {
        done(bench, "first phase");
        done(bench, "to the end");
      }
    }
    if (can_be_closed(bench.state(), bench.state().at)) {
      done(bench, "close");
      continue;
    }
    const Tableau& t = bench.tableau();
    for (std::int32_t j = 0; j < t.num_own(); ++j) {
      const Rational v = t.value(j);
      if (t.column(j).step.is_zero() || v.is_integer()) continue;
      const std::string name = t.column(j).name, here = std::to_string(bench.state().at);
      done(bench, name + " <= " + v.floor().text());
      done(bench, "copy " + here);
      done(bench, name + " >= " + v.ceil().text());
      break;
    }
  }
  return false;
}

}  // namespace

TEST_CASE("branch and bound by hand ends at the solver's optimum", "[workbench][oracle]") {
  Random random(1621);
  int proven = 0, branched = 0;
  for (int round = 0; round < 120; ++round) {
    CAPTURE(round);
    const Model model = test::hand_model(random, {.closed = true});
    const Result known = solve(model);
    Workbench bench(model, {random.chance(0.3), false});
    REQUIRE(branch_to_the_end(bench));
    branched += bench.state().copies.size() > 1;
    if (known.outcome == Outcome::infeasible) {
      CHECK_FALSE(bench.state().best_value);
      continue;
    }
    ++proven;
    REQUIRE(bench.state().best_value);
    CHECK(*bench.state().best_value == known.goal());
    CHECK(sides_missing(bench.state()).empty());
  }
  CHECK(proven > 35);
  CHECK(branched > 20);
}

TEST_CASE("undo and redo restore to the digit", "[workbench]") {
  Workbench bench(test::model_of(kHour));
  const std::vector<std::string> steps = {
      "next",   "next by first", "cut on sled", "to the end",  "delta <= 2", "to the end",
      "copy 1", "delta >= 3",    "to the end",  "all the way", "close"};
  std::vector<std::string> pages = {tableau_page(bench.tableau())};
  for (const std::string& s : steps) {
    done(bench, s);
    pages.push_back(tableau_page(bench.tableau()));
  }
  CHECK(bench.num_deeds() == static_cast<std::int32_t>(steps.size()));
  const std::string story = story_document(bench);
  for (std::size_t k = steps.size(); k-- > 0;) {
    done(bench, "undo");
    CHECK(tableau_page(bench.tableau()) == pages[k]);
  }
  CHECK(refused(bench, "undo") == "1: there is nothing to undo");
  for (std::size_t k = 0; k < steps.size(); ++k) {
    done(bench, "redo");
    CHECK(tableau_page(bench.tableau()) == pages[k + 1]);
  }
  CHECK(refused(bench, "redo") == "1: nothing was taken back");
  CHECK(story_document(bench) == story);
  done(bench, "back to 3");
  CHECK(tableau_page(bench.tableau()) == pages[3]);
  done(bench, "back to 11");
  CHECK(tableau_page(bench.tableau()) == pages[11]);
  done(bench, "back to 2");
  done(bench, "cut on delta");  // from here on it goes another way
  CHECK(refused(bench, "redo") == "1: nothing was taken back");
  CHECK(bench.num_deeds() == 3);
}

TEST_CASE("every slip in a step has its words and its place", "[workbench]") {
  Workbench bench(test::model_of(kHour));
  CHECK(refused(bench, "") == "1: expected a step; 'help' lists them");
  CHECK(refused(bench, "brin in box") ==
        "1: no step begins with 'brin'; nearest is 'bring'; 'help' lists them");
  CHECK(refused(bench, "bring box") ==
        "1: expected 'bring in', found 'bring box'; 'help' lists the steps");
  CHECK(refused(bench, "shwo") ==
        "1: no step begins with 'shwo'; nearest is 'show'; 'help' lists them");
  CHECK(
      refused(bench, "bring in bax") ==
      "10: expected what comes in: a decision or a room that is not basic, found 'bax'; nearest is "
      "'box'");
  CHECK(refused(bench, "bring in") ==
        "9: expected what comes in: a decision or a room that is not basic here");
  CHECK(refused(bench, "bring in room of spars") ==
        "10: room of spars is basic already; it has a row, and no column that could come in");
  CHECK(refused(bench, "bring in box for delta") ==
        "18: delta is not basic: it has a column, and no row that could go out");
  CHECK(refused(bench, "bring in box for room of cord now") ==
        "31: nothing more is expected after 'bring in NAME', found 'now'");
  CHECK(refused(bench, "bring in delta for spars") ==
        "20: that would take room of cord to -17, below 0 (the smallest ratio is that of room of "
        "cord); "
        "with 'anyway' behind it, it is done all the same");
  CHECK(refused(bench, "take out spars") ==
        "10: room of spars is 11, within its limits: a dual step takes out what is beyond one; "
        "'bring in "
        "... for room of spars' exchanges it all the same");
  CHECK(refused(bench, "next by luck") ==
        "9: expected a rule for choosing steps: largest, first, steepest or best, found 'luck'");
  CHECK(refused(bench, "cut on spars") == "8: room of spars is whole: its row gives no cut");
  CHECK(refused(bench, "cut on box") ==
        "8: box is not basic: it has a column, and no row that a cut could be read off");
  CHECK(refused(bench, "delta <= 5/2") ==
        "1: delta is whole: the branches are delta <= 2 and delta >= 3");
  CHECK(refused(bench, "delta <= sled") ==
        "10: a branch is a decision and one figure, as in 'x <= 2'; with 'add' in front it is a "
        "rule");
  CHECK(refused(bench, "spars <= 2") ==
        "1: branches are made on decisions, and room of spars is none");
  CHECK(refused(bench, "2 delta <= 3") ==
        "1: a rule of your own begins with 'add', a branch is a decision and its limit, as in 'x "
        "<= 2'");
  CHECK(refused(bench, "add delta") == "10: expected <= or >= and the other side of the rule");
  CHECK(refused(bench, "add delta + 7 * <= 3") ==
        "17: expected a decision or a figure, found '<='");
  CHECK(refused(bench, "add 3 <= 4") == "5: a rule needs a decision in it");
  CHECK(refused(bench, "add delta + spars <= 3") ==
        "13: a rule is said in decisions, and room of spars is none");
  CHECK(refused(bench, "add delta <= 3 as") == "18: expected a name for the rule");
  CHECK(refused(bench, "add delta <= 1/0") ==
        "14: a fraction has a whole number other than 0 below the line");
  CHECK(refused(bench, "drop cut 1") ==
        "6: there is no cut nor anything else added that could be dropped");
  CHECK(refused(bench, "copy two") == "6: expected the number of a copy, found 'two'");
  CHECK(refused(bench, "copy 2") == "6: there is no copy 2; there is copy 1 only");
  CHECK(refused(bench, "copy 1") == "6: copy 1 is at hand already");
  CHECK(refused(bench, "back to 4") == "9: there is no step 4; the history has 0 steps");
  CHECK(refused(bench, "first phase") ==
        "1: nothing is outside its limits: a first phase has nothing to do");
  CHECK(refused(bench, "prices") ==
        "1: prices are read off a tableau whose goal is at its best; 'to the end' goes there");
  CHECK(
      refused(bench, "close") ==
      "1: nothing shows that copy 1 holds no better plan: its tableau was not brought to the end");
  done(bench, "to the end");
  CHECK(refused(bench, "close") ==
        "1: nothing shows that copy 1 holds no better plan: its joy may be 209/4, and the best "
        "plan has 0");
  CHECK(refused(bench, "bring in box for sled anyhow") ==
        "23: nothing more is expected after 'bring in NAME', found 'anyhow'");
  CHECK(refused(bench, "bring in box for delta") ==
        "18: the entry of box in the row of delta is 0: there is nothing to turn on");
  done(bench, "delta <= 2");
  CHECK(refused(bench, "take out delta for spars") ==
        "20: room of spars can only move delta further away from its limit");
  CHECK(refused(bench, "take out delta for box") ==
        "20: the entry of box in the row of delta is 0: there is nothing to turn on");
}

TEST_CASE("a step that breaks limits is done with 'anyway', and a first phase mends it",
          "[workbench]") {
  Workbench bench(test::model_of(kHour));
  done(bench, "bring in box for cord anyway");
  CHECK_FALSE(bench.tableau().is_feasible());
  CHECK(bench.tableau().value(0) == Rational(4));
  const Deed stuck = done(bench, "to the end");
  CHECK(std::get<deeds::Stepped>(stuck.what).run.end == TableauRun::End::neither);
  CHECK(stuck.number == 0);
  done(bench, "first phase");
  CHECK(bench.tableau().in_first_phase());
  CHECK(bench.tableau().missing() == Rational(5));
  done(bench, "to the end");
  CHECK(bench.tableau().goal_value() == Rational::ratio(209, 4));
}

TEST_CASE("a row with a decision without limits gives no cut, and says so", "[workbench]") {
  Model model("Free");
  const Decision a = model.integer("a", {}, between(0, 9)).only(),
                 b = model.real("b", {}, anything()).only();
  model.maximize("z", Expression(2) * a);
  model.rule("r", Expression(4) * a + Expression(2) * b <= Expression(7));
  model.rule("s", Expression(2) * b >= Expression(1) - Expression(2) * a);
  Workbench bench(model);
  done(bench, "bring in b for r anyway");
  done(bench, "to the end");
  const Reading<Deed> cut = bench.step("all the way");
  if (!cut.ok()) CHECK(cut.notes().items()[0].message.find("has no limits") != std::string::npos);
  Workbench free_other(model);
  done(free_other, "bring in a for r anyway");
  const std::string why = refused(free_other, "mixed cut on a");
  CHECK(why.find("b has no limits, and stands in the row of a: it gives no cut") !=
        std::string::npos);
}

TEST_CASE("a rule of one's own is held against the point and all whole plans", "[workbench]") {
  Workbench bench(test::model_of(kHour));
  done(bench, "to the end");
  const auto added = [&](const std::string& words) {
    return std::get<deeds::Added>(done(bench, words).what);
  };
  using Whole = deeds::Added::Whole;
  const deeds::Added cut = added("add 2 box + delta + sled <= 6 as handy");
  CHECK(cut.name == "handy");
  CHECK(cut.now == Rational::ratio(27, 4));
  CHECK(cut.cuts_off_point);
  CHECK(cut.whole == Whole::none_lost);
  CHECK(bench.state().narrowed.empty());
  const deeds::Added greedy = added("add sled >= 4 - 1/2 box");
  CHECK(greedy.name == "own rule 2");
  CHECK_FALSE(greedy.cuts_off_point);
  CHECK(greedy.whole == Whole::loses);
  REQUIRE(greedy.lost);
  CHECK(bench.state().narrowed == std::vector<std::string>{"own rule 2"});
  CHECK(refused(bench, "add sled >= 1 as handy") ==
        "5: there is a rule 'handy' already; give it another name with 'as'");
  done(bench, "to the end");
  done(bench, "all the way");
  done(bench, "close");
  const std::string page = deed_page(bench, done(bench, "copies"));
  CHECK(page.find("no plan has a better joy, as long as own rule 2 has to hold") !=
        std::string::npos);
}

TEST_CASE("the story is told as text, Markdown, HTML and TeX", "[workbench][report]") {
  Workbench bench(
      test::model_of("model \"A & B <odd>\"\ndecide a integer 0 .. inf\nmaximize z: 3 * a\nrule "
                     "r_1: 2 * a <= 5\n"));
  for (const char* s : {"next", "cut on a", "next", "prices", "copies"}) done(bench, s);
  const std::string text = story_document(bench);
  CHECK(text.find("A & B <odd>, worked by hand\n") == 0);
  CHECK(text.find("Step 1. a came in for room of r_1: z rose from 0 to 15/2.") !=
        std::string::npos);
  CHECK(text.find("in decisions   a <= 2") != std::string::npos);
  CHECK(text.find("Step 3. room of cut 1 went out for room of r_1: z fell from 15/2 to 6.") !=
        std::string::npos);
  const std::string markdown = story_document(bench, {.form = PageForm::markdown});
  CHECK(markdown.find("# A & B \\<odd>, worked by hand") == 0);
  const std::string html = story_document(bench, {.form = PageForm::html});
  CHECK(html.find("<!doctype html>") == 0);
  CHECK(html.find("A &amp; B &lt;odd&gt;") != std::string::npos);
  CHECK(html.find("<odd>") == std::string::npos);
  const std::string tex = story_document(bench, {.form = PageForm::tex});
  CHECK(tex.find("\\section*{A \\& B \\ensuremath{<}odd\\ensuremath{>}, worked by hand}") !=
        std::string::npos);
  CHECK(tex.find("room of r\\_1") != std::string::npos);
  CHECK(tex.find("$\\frac{15}{2}$") != std::string::npos);
  CHECK(tex.ends_with("\\end{document}\n"));
}

TEST_CASE("a wide tableau comes in groups of columns that fit the line", "[workbench][report]") {
  std::string text = "model \"Wide\"\ntable t key k rows\n  k\n";
  for (int k = 0; k < 20; ++k) text += "  strand number " + std::to_string(k) + "\n";
  text +=
      "decide x[r in t] integer 0 .. inf\nmaximize z: total(x[r] over r in t)\n"
      "rule crew: total(x[r] over r in t) <= 7\n";
  const Workbench bench(test::model_of(text));
  const std::string page = tableau_page(bench.tableau(), {.width = 80});
  std::size_t lines = 0, groups = 0;
  for (std::size_t at = 0; at < page.size(); ++lines) {
    const std::size_t end = page.find('\n', at);
    CHECK(end - at <= 80);
    if (page.compare(at, 14, "  room of crew") == 0) ++groups;
    at = end + 1;
  }
  CHECK(groups >= 3);
  CHECK(page.find("19]") != std::string::npos);
}

TEST_CASE("what may be typed next is known", "[workbench]") {
  Workbench bench(test::model_of(kHour));
  using Words = std::vector<std::string>;
  CHECK(bench.completions("bring in d") == Words{"elta"});
  CHECK(bench.completions("hist") == Words{"ory"});
  CHECK(bench.completions("bring in box for room of s") == Words{"pars"});
  CHECK(bench.completions("xyz").empty());
}
