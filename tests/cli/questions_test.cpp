// Questions asked of the real executable: what if, why not, how firm, against what; and answers
// kept.
#include <chrono>
#include <thread>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <signal.h>

#include "kiteknot/kiteknot.hpp"
#include "support/tool.hpp"

using namespace tool;
using Json = nlohmann::json;

namespace {

// Starts the tool and does not wait.
pid_t start(const std::vector<std::string>& arguments) {
  const pid_t child = ::fork();
  if (child != 0) return child;
  std::vector<char*> list = {const_cast<char*>(kTool.c_str())};
  for (const std::string& a : arguments) list.push_back(const_cast<char*>(a.c_str()));
  list.push_back(nullptr);
  ::execv(kTool.c_str(), list.data());
  ::_exit(127);
}

int wait_for(pid_t child) {
  int status = 0;
  ::waitpid(child, &status, 0);
  return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

}  // namespace

TEST_CASE("the steps of a sweep, every row left out, and firm figures", "[cli][questions]") {
  const std::string programme = in_demo("programme.knot");
  const Ran steps = run("vary " + programme + " --sweep grant=1100..1300/3 --steps");
  CHECK(steps.code == 0);
  CHECK(has(steps.out, "from 1,180 on"));
  CHECK(has(steps.out, "Solved on both sides of every change."));
  const Ran rows = run("vary " + in_demo("stewards.knot") + " --without-each --rows");
  CHECK(has(rows.out, "watched[11:00]"));
  CHECK(has(rows.out, "-91"));
  const Ran firm = run("vary " + programme + " --firm");
  CHECK(firm.code == 0);
  CHECK(has(firm.out, "Check these three before you sign"));
  CHECK(has(firm.out, "from 35 to below 36"));
  CHECK(has(run("vary " + programme + " --firm --solves 3").out, "not settled within the budget"));
  CHECK(run("vary " + programme + " --firm --without-each").code == 2);
  const fs::path csv = scratch() / "firm.csv";
  CHECK(run("vary " + programme + " --firm --csv '" + csv.string() + "'").code == 0);
  CHECK(has(slurp(csv),
            "figure,kind,now,low,high,settled,cell\nthe most in crew,most,35,35,36,yes,\n"));
  // Options that may be said again leave the file alone.
  const Ran only = run("vary --only 'at most one each' " + in_demo("judges.knot"));
  CHECK(only.code == 0);
  CHECK(has(only.out, "1 scenario side by side"));
  CHECK(run("vary " + programme + " --rows").code == 2);
  CHECK(run("vary " + programme + " --steps").code == 2);
}

TEST_CASE("a trade-off, as a table, figures and CSV", "[cli][questions]") {
  const std::string depots = in_demo("depots.knot");
  const fs::path csv = scratch() / "trade.csv", svg = scratch() / "trade.svg",
                 png = scratch() / "sweep.png";
  const Ran r = run("vary " + depots + " --trade 'cost,minimize busiest' --points 5 --csv '" +
                    csv.string() + "' --figure '" + svg.string() + "'");
  CHECK(r.code == 0);
  CHECK(has(r.out, "no plan betters one of these in both"));
  CHECK(has(slurp(csv), "cost,busiest,proven,seconds,"));
  CHECK(has(slurp(csv), "967,46,yes,"));
  CHECK(
      has(run("vary " + depots + " --trade 'cost,minimize opened'").out, "These are all of them"));
  CHECK(run("vary " + depots + " --trade cost").code == 2);
  const Ran wrong = run("vary " + depots + " --trade cost,crowd");
  CHECK(wrong.code == 2);
  CHECK(has(wrong.err, "no goal 'crowd'"));
  CHECK(has(run("vary " + depots + " --trade 'cost,minimize busiest'").err, "any amount"));
  CHECK(run("vary " + depots + " --trade 'cost,minimize opened' --points 0").code == 2);
  CHECK(run("vary " + depots + " --sweep open_limit=1..6/6 --figure '" + png.string() + "'").code ==
        0);
  CHECK(run("vary " + depots + " --sweep open_limit=1..6/6 --figure x.gif").code == 2);
  if (std::system("gnuplot --version >/dev/null 2>&1") == 0) {
    CHECK(has(slurp(svg), "<svg"));
    CHECK(slurp(png).substr(1, 3) == "PNG");
  }
}

TEST_CASE("without gnuplot the numbers are written, and it is said", "[cli][questions]") {
  const fs::path empty = scratch() / "nothing", figure = scratch() / "none.svg",
                 csv = scratch() / "none.csv", err = scratch() / "none.err";
  fs::create_directories(empty);
  const int status =
      std::system(("PATH='" + empty.string() + "' '" + kTool + "' vary " +
                   in_demo("programme.knot") + " --sweep grant=900..1200/4 --figure '" +
                   figure.string() + "' >/dev/null 2>'" + err.string() + "'")
                      .c_str());
  CHECK(WEXITSTATUS(status) == 0);
  CHECK(has(slurp(err), "gnuplot is not installed"));
  CHECK(has(slurp(csv), "1200,optimal,492,0,"));
  CHECK_FALSE(fs::exists(figure));
}

TEST_CASE("why not, with its cost, its break-even and its clash", "[cli][questions]") {
  const std::string programme = in_demo("programme.knot");
  const Ran out = run("explain " + programme + " --why 'run[\"wind garden\"] = 1'");
  CHECK(out.code == 0);
  CHECK(has(out.out, "crowd is 492 without it, and 488 with it: 4 worse."));
  CHECK(has(out.out, "at 48 both plans are equally good"));
  CHECK(has(run("explain " + programme + " --why 'run[\"sled race\"]'").out, "meets it already"));
  const Ran never = run("explain " + in_demo("judges.knot") + " --why 'load[\"Oren\"] >= 3'");
  CHECK(never.code == 4);
  CHECK(has(never.out, "one_each[Oren]"));
  CHECK(has(never.out, "the condition asked"));
  const Ran wrong = run("explain " + programme + " --why 'run[\"wind gardn\"] = 1'");
  CHECK(wrong.code == 3);
  CHECK(has(wrong.err, "the condition:1:5:"));
  CHECK(has(run("explain " + programme + " --why 'run[\"tea tent\"] = '").err, "the condition:1:"));
  CHECK(run("explain " + programme + " --why ' '").code == 3);
  CHECK(run("explain " + programme + " --why 'run[\"tea tent\"]' --keep crew").code == 2);
}

TEST_CASE("the way out of a clash, with rules kept and weighed", "[cli][questions]") {
  const std::string asked = "explain " + in_demo("judges.knot") + " --scenario 'exactly one each'";
  CHECK(has(run(asked).out, "That is 2 in all; proven"));
  CHECK(has(run(asked + " --keep cover").out, "let exactly_one["));
  CHECK(has(run(asked + " --keep cover --weigh exactly_one=5").out, "That is 10 in all"));
  CHECK(has(run(asked + " --keep cover --keep exactly_one").out, "None: what has to be kept"));
  CHECK(has(run(asked + " --keep covr").err, "nearest is 'cover'"));
  CHECK(run(asked + " --weigh cover").code == 2);
  CHECK(run(asked + " --weigh cover=0").code == 2);
  const Ran endless = run("explain '" +
                          file("endless.knot",
                               "model \"Endless\"\ndecide a integer 0 .. inf\n"
                               "maximize worth: 3 * a\nrule some: a >= 2\n") +
                          "'");
  CHECK(endless.code == 5);
  CHECK(has(endless.out, "a greatest value for a"));
}

TEST_CASE("two saved answers side by side", "[cli][questions]") {
  const std::string a = (scratch() / "a.json").string(), b = (scratch() / "b.json").string();
  const std::string programme = in_demo("programme.knot");
  CHECK(run("solve " + programme + " --quiet --save '" + a + "'").code == 0);
  CHECK(run("solve " + programme + " --quiet --set grant=1300 --save '" + b + "'").code == 0);
  CHECK(Json::parse(slurp(b))["origin"]["set"][0] == "grant=1300");
  const Ran r = run("compare '" + a + "' '" + b + "'");
  CHECK(r.code == 0);
  CHECK(has(r.out, "+8"));
  CHECK(has(r.out, "only in the second   run[tea tent] and run[wind garden]"));
  CHECK(has(r.out, "1,280 of at most 1,300"));
  CHECK(has(r.out, "4 other rules stand as before."));
  CHECK(has(run("compare '" + a + "' '" + a + "'").out, "The same."));
  CHECK(run("compare '" + a + "'").code == 2);
  CHECK(run("compare '" + a + "' " + programme).code == 2);
  const std::string junk = file("junk.json", "{\"format\": \"kiteknot-result\", \"version\": 1}");
  CHECK(run("compare '" + a + "' '" + junk + "'").code == 3);
  CHECK(has(run("compare '" + a + "' '" + file("no.json", "not at all") + "'").err,
            "is no saved answer"));
  CHECK(run("compare '" + a + "' '" + (scratch() / "missing.json").string() + "'").code == 3);
}

TEST_CASE("a history of runs: newest first, with two writers, and after a kill",
          "[cli][questions]") {
  const std::string db = (scratch() / "history.db").string();
  fs::remove(db);
  const std::string judges = in_demo("judges.knot");
  CHECK(run("solve " + judges + " --quiet --history '" + db + "'").code == 0);
  CHECK(run("solve " + judges + " --scenario 'exactly one each' --quiet --history '" + db + "'")
            .code == 4);
  // Two at once, several times: each waits for the other.
  std::vector<pid_t> writers;
  for (int k = 0; k < 8; ++k)
    writers.push_back(start({"solve", kDemo + "/crate.knot", "--quiet", "--history", db}));
  for (const pid_t w : writers) CHECK(wait_for(w) == 0);
  CHECK(kiteknot::History(db, true).runs().size() == 10);
  // Killed in the middle of a search: its best plan so far is there, and all the others.
  const pid_t killed = start({"solve", long_model(), "--quiet", "--history", db});
  std::this_thread::sleep_for(std::chrono::milliseconds(2500));
  ::kill(killed, SIGKILL);
  wait_for(killed);
  const Ran listed = run("runs '" + db + "'");
  CHECK(listed.code == 0);
  CHECK(has(listed.out, "unfinished"));
  CHECK(listed.out.find("Long") < listed.out.find("Repair crate"));
  CHECK(listed.out.find("Repair crate") < listed.out.find("exactly"));
  const auto lines = kiteknot::History(db, true).runs();
  REQUIRE(lines.size() == 11);
  CHECK(lines[0].outcome.empty());
  CHECK(lines[10].value == 58.0);
  const std::string saved = (scratch() / "again.json").string();
  CHECK(run("runs '" + db + "' --answer 1 --save '" + saved + "'").code == 0);
  CHECK(Json::parse(slurp(saved))["goals"][0]["value"] == 58);
  if (lines[0].value)  // a plan was found in time
    CHECK(Json::parse(run("runs '" + db + "' --answer 11").out)["outcome"] == "unproven");
  CHECK(run("runs '" + db + "' --answer 99").code == 3);
  CHECK(run("runs " + judges).code == 3);
  CHECK(has(run("runs " + judges).err, "is no history of runs"));
  CHECK(run("runs '" + (scratch() / "none.db").string() + "'").code == 3);
  CHECK(
      run("solve " + judges + " --quiet --history '" + scratch().string() + "/no/such.db'").code ==
      1);
  CHECK_FALSE(fs::exists(scratch() / "none.db"));
}

TEST_CASE("plans in order, ties, and circumstances in every heading", "[cli][questions]") {
  const std::string programme = in_demo("programme.knot");
  const fs::path file = scratch() / "plans.json";
  const Ran three = run("solve " + programme + " --set grant=1300 --plans 3 --plans-file '" +
                        file.string() + "'");
  CHECK(three.code == 0);
  CHECK(has(three.out, "Festival programme: proven optimal\nWith grant = 1300.\n"));
  CHECK(has(three.out, "\nThe plans that come next\n  2   crowd 495   -5   takes run[night glow]"));
  const Json plans = Json::parse(slurp(file))["plans"];
  REQUIRE(plans.size() == 3);
  CHECK(plans[1]["goals"]["crowd"] == 495);
  CHECK(has(run("solve " + programme).out, "The best other plan comes to "));
  CHECK(run("solve " + programme + " --plans 2 --differ runs").code == 2);
  CHECK(run("solve " + in_demo("depots.knot") + " --plans 2 --differ ship").code == 2);
  CHECK(run("solve " + programme + " --plans 2 --relaxed").code == 2);
  CHECK(run("solve " + programme + " --differ run").code == 2);
  CHECK_FALSE(has(run("solve " + programme + " --plans 1").out, "come next"));
  CHECK(has(run("solve " + in_demo("depots.knot") + " --plans 2 --differ open").out,
            "differ in open from"));
  const Ran out = run("solve " + programme + " --left-out --rows 3");
  CHECK(has(out.out, "Left out: what taking each one does, the rest as it is\n"));
  CHECK(has(out.out, "too much)"));
  CHECK(has(out.out, "... and 5 others"));
  CHECK(has(run("solve " + in_demo("depots.knot") + " --left-out --family open").out,
            "open[Gull Bank]     breaks busy[Gull Bank]"));
  const Ran prices = run("solve " + in_demo("depots.knot") + " --prices");
  CHECK(has(prices.out, "What limits are worth while the whole decisions stay"));
  CHECK(has(run("solve " + programme + " --prices").out, "There are no prices"));
  // What is in force is said by every command.
  const std::string with = " --scenario 'at most one each'";
  const std::string judges = in_demo("judges.knot");
  for (const char* command : {"solve ", "show ", "explain ", "compare ", "vary --without-each "}) {
    CAPTURE(command);
    CHECK(has(run(command + judges + with).out, "\nWith scenario \"at most one each\".\n"));
    CHECK_FALSE(has(run(command + judges).out, "\nWith "));
  }
  CHECK(has(run("vary --without-each " + judges + with).out, "as it is set it is"));
  // Time is for the whole question, or for each solve; what stays open is told by the code.
  const std::string hard = "vary --without-each '" + long_model() + "'";
  CHECK(run(hard + " --seconds 1").code == 6);
  CHECK(run(hard + " --seconds-each 0.1s").code == 6);
  const auto start = std::chrono::steady_clock::now();
  CHECK(has(run(hard + " --seconds 1").out, "without"));
  CHECK(std::chrono::steady_clock::now() - start < std::chrono::seconds(20));
}
