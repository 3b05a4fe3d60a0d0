// The real executable, as its users meet it: output, exit codes, files written.
#include "support/tool.hpp"

#include <chrono>
#include <cstdio>
#include <thread>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <signal.h>

#include "kiteknot/kiteknot.hpp"

using namespace tool;
using Json = nlohmann::json;

TEST_CASE("show reads the model back", "[cli]") {
  const Ran r = run("show " + in_demo("programme.knot"));
  CHECK(r.code == 0);
  CHECK(r.err.empty());
  CHECK(has(r.out, "14 decisions to take, all yes or no; 5 rules."));
  CHECK(has(r.out, "crew: figures from 2 to 12"));
  CHECK(has(r.out, "<= 35"));
  CHECK_FALSE(has(r.out, "\033["));
  CHECK(has(run("show " + in_demo("programme.knot") + " --set crew_hours=40").out, "<= 40"));
}

TEST_CASE("check judges a plan by hand with exit code 0 or 4", "[cli]") {
  const Ran broken =
      run("check " + in_demo("programme.knot") + " --plan " + in_demo("by_hand.csv"));
  CHECK(broken.code == 4);
  CHECK(has(broken.out, "breaks 2 rules"));
  CHECK(has(broken.out, "37 of at most 35: 2 too much"));
  const std::string plan =
      file("good.csv", "decision,value\nrun[tail parade],1\nrun[story circle],1\n");
  const Ran good = run("check " + in_demo("programme.knot") + " --plan " + plan);
  CHECK(good.code == 0);
  CHECK(has(good.out, "meets all rules"));
  CHECK(has(good.out, "crowd is 80"));
}

TEST_CASE("solve proves the optimum and writes result and plan", "[cli]") {
  const std::string result = (scratch() / "r.json").string(), plan = (scratch() / "p.csv").string();
  const Ran r =
      run("solve " + in_demo("programme.knot") + " --result " + result + " --plan " + plan);
  CHECK(r.code == 0);
  CHECK(has(r.out, "Festival programme: proven optimal"));
  CHECK(has(r.out, "crowd is 492, and no plan reaches more."));
  CHECK(r.err.empty());
  const Json d = Json::parse(slurp(result));
  CHECK(d["outcome"] == "optimal");
  CHECK(d["goals"][0]["value"] == 492);
  // The plan that was written is the plan that check accepts.
  const Ran checked = run("check " + in_demo("programme.knot") + " --plan " + plan);
  CHECK(checked.code == 0);
  CHECK(has(checked.out, "crowd is 492"));
}

TEST_CASE("what is kept apart in pairs is seen as machines, from a model and from MPS", "[cli]") {
  const Ran r = run("solve " + in_demo("workshop.knot"));
  CHECK(r.code == 0);
  CHECK(has(r.out, "ready_at is 395, and no plan reaches less."));
  CHECK(has(r.out, "seen together, as 4 machines that do one thing at a time"));
  const std::string mps = (scratch() / "workshop.mps").string();
  CHECK(run("convert " + in_demo("workshop.knot") + " " + mps).code == 0);
  const Ran back = run("solve " + mps);
  CHECK(has(back.out, "is 395, and no plan reaches less."));
  CHECK(has(back.out, "as 4 machines"));
  CHECK_FALSE(has(run("solve " + in_demo("programme.knot")).out, "machine"));
  const std::string svg = (scratch() / "workshop.svg").string();
  CHECK(run("draw " + in_demo("workshop.knot") + " --plan --write " + svg).code == 0);
  const std::string picture = slurp(svg);
  for (const char* stand : {"cutting table", "sewing machine", "paint bench", "rigging frame"})
    CHECK(has(picture, stand));
  CHECK(has(picture, "one thing at a time in each row"));
  const Ran bars = run("draw " + in_demo("crate.knot") + " --plan --as times --write " + svg);
  CHECK(bars.code == 3);
  CHECK(has(bars.err, "pack cannot be drawn as times; what fits its tables: bars"));
}

TEST_CASE("quiet says nothing, relaxed says what limits are worth", "[cli]") {
  const Ran quiet = run("solve " + in_demo("crate.knot") + " --quiet");
  CHECK(quiet.code == 0);
  CHECK(quiet.out.empty());
  CHECK(quiet.err.empty());
  const Ran relaxed = run("solve " + in_demo("programme.knot") + " --relaxed");
  CHECK(relaxed.code == 0);
  CHECK(has(relaxed.out, "whole decisions relaxed"));
  CHECK(
      has(relaxed.out, "one more changes crowd by 11.493333, as long as the limit is from 32.38"));
}

TEST_CASE("compare puts the methods side by side", "[cli]") {
  const Ran r = run("compare " + in_demo("stewards.knot"));
  CHECK(r.code == 0);
  for (const char* part : {"exact", "relaxed", "rounded to nearest", "rounded down", "rounded up",
                           "greedy", "proven best", "breaks watched["})
    CHECK(has(r.out, part));
  const Ran two = run("compare " + in_demo("crate.knot") + " --methods exact,greedy");
  CHECK(has(two.out, "2 ways side by side"));
}

TEST_CASE("the demo tells the whole story", "[cli]") {
  const Ran r = run("demo");
  CHECK(r.code == 0);
  CHECK(r.err.empty());
  for (int step = 1; step <= 8; ++step) CHECK(has(r.out, "\n" + std::to_string(step) + ". "));
  CHECK(run("demo --data /nowhere").code == 3);
}

TEST_CASE("infeasible is 4, unbounded 5", "[cli]") {
  const Ran none = run("solve " + in_demo("programme.knot") + " --set crew_hours=2");
  CHECK(none.code == 4);
  CHECK(has(none.out, "no plan meets all rules"));
  const Ran endless =
      run("solve " + file("endless.knot", "decide x integer 0 .. inf\nmaximize gain: x\n"));
  CHECK(endless.code == 5);
  CHECK(has(endless.out, "gain has no end"));
}

TEST_CASE("limits end with 6, the best plan told and written", "[cli]") {
  const std::string model = long_model(), plan = (scratch() / "limit.csv").string(),
                    result = (scratch() / "limit.json").string();
  for (const char* limit : {"--seconds 0.3", "--nodes 50"}) {
    CAPTURE(limit);
    const Ran r = run("solve " + model + " " + limit + " --plan " + plan + " --result " + result);
    CHECK(r.code == 6);
    CHECK(has(r.out, "the best plan so far, not proven best"));
    CHECK(has(r.out, "Stopped at the"));
    CHECK(r.err.empty());  // no progress line into a pipe
    CHECK(run("check " + model + " --plan " + plan).code == 0);
    const Json d = Json::parse(slurp(result));
    CHECK(d["outcome"] == "unproven");
    CHECK(d["goals"][0]["bound"] >= d["goals"][0]["value"]);
    CHECK(d["search"]["stopped_by"] ==
          (std::string(limit).find("nodes") != std::string::npos ? "nodes" : "time"));
  }
  const Ran gap = run("solve " + model + " --gap 0.05");
  CHECK(gap.code == 0);
  CHECK((has(gap.out, "within the gap you accept") || has(gap.out, "proven optimal")));
}

TEST_CASE("Ctrl-C gives the best plan so far and exit code 6", "[cli]") {
  const std::string model = long_model(), plan = (scratch() / "stopped.csv").string();
  const pid_t child = ::fork();
  if (child == 0) {
    const std::string out = (scratch() / "stopped.out").string();
    (void)!std::freopen(out.c_str(), "w", stdout);
    ::execl(kTool.c_str(), kTool.c_str(), "solve", model.c_str(), "--plan", plan.c_str(),
            "--seconds", "60", nullptr);
    ::_exit(99);
  }
  std::this_thread::sleep_for(std::chrono::milliseconds(700));
  ::kill(child, SIGINT);
  int status = 0;
  ::waitpid(child, &status, 0);
  REQUIRE(WIFEXITED(status));
  CHECK(WEXITSTATUS(status) == 6);
  CHECK(has(slurp(scratch() / "stopped.out"), "Stopped by hand"));
  CHECK(run("check " + model + " --plan " + plan).code == 0);
}

TEST_CASE("MPS files go through every command", "[cli]") {
  const std::string model =
      file("m.mps",
           "NAME tiny\nOBJSENSE\n MAX\nROWS\n N gain\n L room\nCOLUMNS\n x gain 3 room 2\n y gain "
           "5 room 4\nRHS\n RHS room 7\nBOUNDS\n UI BND x 2\n UI BND y 2\nENDATA\n");
  CHECK(has(run("show " + model).out, "2 x + 4 y <= 7"));
  const Ran solved = run("solve " + model);
  CHECK(solved.code == 0);
  CHECK(has(solved.out, "gain is 8"));
  CHECK(run("compare " + model).code == 0);
  CHECK(run("check " + model + " --plan " + file("m.csv", "decision,value\nx,1\ny,1\n")).code == 0);
}

TEST_CASE("wrong usage is 2 and says what was wrong", "[cli]") {
  const std::pair<std::string, std::string> cases[] = {
      {"frobnicate", "frobnicate"},
      {"solve", "FILE"},
      {"solve " + in_demo("crate.knot") + " --bogus", "--bogus"},
      {"solve " + in_demo("crate.knot") + " --seconds soon", "--seconds"},
      {"solve " + in_demo("crate.knot") + " --seconds -1", "--seconds"},
      {"solve " + in_demo("crate.knot") + " --set mass_limit", "NAME=VALUE"},
      {"solve " + in_demo("crate.knot") + " --set mass_limit=heavy", "NAME=VALUE"},
      {"solve " + in_demo("crate.knot") + " --set mas_limit=3", "nearest is 'mass_limit'"},
      {"compare " + in_demo("crate.knot") + " --methods magic", "there is no method 'magic'"},
      {"check " + in_demo("crate.knot"), "--plan"},
  };
  for (const auto& [arguments, expected] : cases) {
    CAPTURE(arguments);
    const Ran r = run(arguments);
    CHECK(r.code == 2);
    CHECK(r.out.empty());
    INFO(r.err);
    CHECK(has(r.err, expected));
  }
  CHECK(run("--help").code == 0);
  CHECK(run("solve --help").code == 0);
  CHECK(run("--version").code == 0);
}

TEST_CASE("input with errors is 3, one line each, and nothing is written", "[cli]") {
  const std::string result = (scratch() / "never.json").string();
  const std::pair<std::string, std::string> cases[] = {
      {"/nowhere/m.knot", "/nowhere/m.knot: cannot be read"},
      {scratch().string(), "a model file ends in .knot or .mps"},
      {file("empty.knot", ""), "the file is empty"},
      {file("norows.knot", "table t key k rows\n  k\ndecide x[r in t] binary\n"),
       "table t has no rows"},
      {file("nobounds.knot", "decide x integer\n"), ":1:17: the bounds of x are missing"},
      {file("nan.knot",
            "table t key k rows\n  k,v\n  a,NaN\ndecide x[r in t] binary\nmaximize g: total(r.v * "
            "x[r] over r in t)\n"),
       ":3:5: 'NaN' in column v is not a finite figure"},
      {file("inf.knot",
            "table t key k rows\n  k,v\n  a,inf\ndecide x[r in t] binary\nmaximize g: total(r.v * "
            "x[r] over r in t)\n"),
       ":3:5: 'inf' is allowed only as a bound of a decision"},
      {file("word.knot",
            "table t key k rows\n  k,v\n  a,many\ndecide x[r in t] binary\nmaximize g: total(r.v * "
            "x[r] over r in t)\n"),
       ":3:5: 'many' in column v is not a finite figure"},
      {file("bad.mps", "NAME x\nROWS\n Q r\nENDATA\n"),
       "bad.mps:3: a row is N, L, G or E and a name"},
      {file("text.knot", "this is no model\n"), "no statement starts with 'this'"},
  };
  for (const auto& [model, expected] : cases) {
    CAPTURE(model);
    const Ran r = run("solve '" + model + "' --result " + result);
    CHECK(r.code == 3);
    CHECK(r.out.empty());
    INFO(r.err);
    CHECK(has(r.err, expected));
    CHECK(std::count(r.err.begin(), r.err.end(), '\n') == 1);
    CHECK_FALSE(fs::exists(result));
  }
  CHECK(run("solve " + in_demo("crate.knot") + " --result /nowhere/r.json").code == 1);
  CHECK(run("check " + in_demo("crate.knot") + " --plan /nowhere/p.csv").code == 3);
}

TEST_CASE("warnings go to stderr and do not stop the work", "[cli]") {
  const std::string model = file("warn.mps",
                                 "NAME t\nROWS\n N g\n G r\nCOLUMNS\n M 'MARKER' 'INTORG'\n x g 1 "
                                 "r 1\n M 'MARKER' 'INTEND'\nRHS\n RHS r 2\nENDATA\n");
  const Ran r = run("solve " + model);
  CHECK(r.code == 0);
  CHECK(has(r.err, "worth a look"));
  CHECK(has(r.out, "g is 2"));
}

namespace {

// Runs the tool with a real terminal as stdout and stderr; gives back all that the terminal got.
std::string on_terminal(const std::string& arguments, const std::string& environment) {
  const std::string out = (scratch() / "typescript").string();
  const std::string command = environment + " script -qec \"'" + kTool + "' " + arguments + "\" '" +
                              out + "' >/dev/null 2>&1";
  (void)!std::system(command.c_str());
  return slurp(out);
}

}  // namespace

TEST_CASE("a terminal gets colours and a live line, NO_COLOR and a pipe do not", "[cli]") {
  const std::string model = long_model();
  const std::string live = on_terminal("solve " + model + " --seconds 1.5", "TERM=xterm");
  CHECK(has(live, "nothing above"));
  CHECK(has(live, "\r\033[K"));  // written over and wiped
  CHECK(has(live, "\033[1;38;5;166m"));
  const std::string quiet = on_terminal("solve " + model + " --seconds 1 --quiet", "TERM=xterm");
  CHECK_FALSE(has(quiet, "nothing above"));
  const std::string plain = on_terminal("show " + in_demo("crate.knot"), "NO_COLOR=1 TERM=xterm");
  CHECK(has(plain, "Repair crate"));
  CHECK_FALSE(has(plain, "\033["));
  CHECK(has(on_terminal("show " + in_demo("crate.knot"), "TERM=xterm"), "\033[1m"));
  // Quick answers leave no line behind.
  CHECK_FALSE(has(on_terminal("solve " + in_demo("crate.knot"), "TERM=xterm"), "\033[K"));
}

TEST_CASE("what takes long to read says so on a terminal, and leaves nothing behind", "[cli]") {
  const std::string csv = file("slow.csv", "item,w\na,1\n");
  const std::string model =
      file("slow.knot",
           "model \"m\"\ntable a from \"-\" key item\ndecide x[i in a] binary\n"
           "maximize g: total(i.w * x[i] over i in a)\nrule r: total(x[i] over i in a) <= 1\n");
  const std::string out = (scratch() / "reading").string();
  const std::string command = "TERM=xterm script -qec \"(sleep 1.5; cat '" + csv + "') | '" +
                              kTool + "' solve " + model + "\" '" + out + "' >/dev/null 2>&1";
  (void)!std::system(command.c_str());
  const std::string seen = slurp(out);
  CHECK(has(seen, " s   reading "));
  CHECK(has(seen, "\r\033[K\033["));  // wiped before the answer
  CHECK(has(seen, "proven optimal"));
}

TEST_CASE("numbers can be set for every command that reads a model", "[cli]") {
  const std::string crate = in_demo("crate.knot");
  CHECK(has(run("show " + crate + " --set mass_limit=12.5").out, "<= 12.5"));
  CHECK(has(run("compare " + crate + " --set mass_limit=5 --methods exact").out, "37"));
  CHECK(run("check " + crate + " --set mass_limit=1 --plan " +
            file("one.csv", "decision,value\npack[cord drum],1\n"))
            .code == 4);
  CHECK(has(run("solve " + in_demo("programme.knot") + " --set grant=1300 --set crew_hours=30").out,
            "of 1,300"));
}

TEST_CASE("the same run twice says the same, seed by seed", "[cli]") {
  for (const char* seed : {"1", "7"}) {
    const std::string a = (scratch() / "a.json").string(), b = (scratch() / "b.json").string();
    const std::string command =
        "solve " + in_demo("stewards.knot") + " --seed " + seed + " --quiet --result ";
    CHECK(run(command + a).code == 0);
    CHECK(run(command + b).code == 0);
    Json first = Json::parse(slurp(a)), second = Json::parse(slurp(b));
    CHECK(first["search"]["nodes"] == second["search"]["nodes"]);
    CHECK(first["search"]["lp_iterations"] == second["search"]["lp_iterations"]);
    CHECK(first["decisions"] == second["decisions"]);
  }
}

TEST_CASE("a part of a plan is completed, or told to be impossible", "[cli]") {
  const std::string plan = file("part.csv", "decision,value\n\"sits[Oren, night glow]\",1\n");
  CHECK(run("check " + in_demo("judges.knot") + " --plan " + in_demo("part.csv") + " --complete")
            .code == 0);
  const Ran r = run("check " + in_demo("judges.knot") + " --plan " + plan + " --complete");
  CHECK(r.code == 0);
  CHECK(has(r.out, "cost is 61"));
  CHECK(has(r.out, "Kept as given: 1 decision; the rest is the best that goes with them, proven"));
  file("part.csv",
       "decision,value\n\"sits[Oren, night glow]\",1\n\"sits[Tamsin, night glow]\",1\n");
  const Ran never = run("check " + in_demo("judges.knot") + " --plan " + plan + " --complete");
  CHECK(never.code == 4);
  CHECK(has(never.out, "no plan that keeps the 2 decisions of"));
}

TEST_CASE("a search starts from a plan, from part of one, or says that none keeps it", "[cli]") {
  const std::string start =
      file("start.csv", "decision,value\nrun[rokka battle],1\nrun[tail parade],1\n");
  const Ran part = run("solve " + in_demo("programme.knot") + " --start " + start);
  CHECK(part.code == 0);
  CHECK(has(part.out, "crowd is 492"));
  CHECK(has(part.out, "The start, filled in where it was open, is a plan: crowd is 486."));
  const Ran broken =
      run("solve " + in_demo("programme.knot") + " --start " + in_demo("by_hand.csv"));
  CHECK(broken.code == 0);
  CHECK(has(broken.out, "No plan was found that keeps what the start decides."));
  // Solved as one knapsack: the start counts all the same.
  file("start.csv", "decision,value\npack[spar set],1\n");
  const std::string result = (scratch() / "started.json").string();
  const Ran crate =
      run("solve " + in_demo("crate.knot") + " --start " + start + " --result " + result);
  CHECK(has(crate.out, "The start, filled in where it was open, is a plan: worth is "));
  const Json search = Json::parse(slurp(result))["search"];
  CHECK(search["start"] == "plan");
  CHECK(search["start_value"] <= 161.0);
  CHECK(search["reduced"].is_null());  // a brief look settled it
  CHECK(search["cuts"].is_number());
  CHECK(run("solve " + in_demo("crate.knot") + " --relaxed --start " + start).code == 2);
  file("start.csv", "decision,value\npack[spar sets],1\n");
  const Ran unknown = run("solve " + in_demo("crate.knot") + " --start " + start);
  CHECK(unknown.code == 3);
  CHECK(has(unknown.err, "nearest is 'spar set'"));
}

TEST_CASE("convert writes MPS and the names beside it", "[cli]") {
  const std::string target = (scratch() / "depots.mps").string();
  const Ran r = run("convert " + in_demo("depots.knot") + " " + target);
  CHECK(r.code == 0);
  CHECK(has(run("solve " + target).out, "goal is 967"));
  CHECK(has(slurp(target + ".names.csv"), "\"ship[North Mole, Reed Meadow]\""));
  CHECK(run("convert " + in_demo("depots.knot") + " depots.txt").code == 2);
}

TEST_CASE("show by family, by rows and as Markdown", "[cli]") {
  const Ran family = run("show " + in_demo("cord.knot") + " --family oil --rows 2");
  CHECK(has(family.out, "oil[w3]: at most 2 of (runs[w2], runs[w3], runs[w4])"));
  CHECK_FALSE(has(family.out, "oil[w4]"));
  CHECK_FALSE(has(family.out, "worth_it"));
  const Ran wrong = run("show " + in_demo("cord.knot") + " --family oils");
  CHECK(wrong.code == 3);
  CHECK(has(wrong.err, "nearest is 'oil'"));
  const Ran markdown = run("show " + in_demo("lamps.knot") + " --markdown");
  CHECK(has(markdown.out, "# Lamps for the night glow\n"));
  CHECK(has(markdown.out, "## How it is solved"));
  CHECK(has(markdown.out, "curve club: by its 3 lines, no binaries"));
  CHECK(has(markdown.out, "| --- |"));
}

TEST_CASE("every demo model goes through show, solve and compare", "[cli]") {
  for (const std::string name : {"judges", "depots", "lamps", "cord"}) {
    CAPTURE(name);
    for (const std::string command : {"show ", "solve ", "solve --relaxed ", "compare "}) {
      CAPTURE(command);
      const Ran r = run(command + in_demo(name + ".knot"));
      CHECK(r.code == 0);
      CHECK(r.err.empty());
      CHECK(r.out.size() > 200);
    }
  }
}

TEST_CASE("vary puts scenarios, rules and values side by side", "[cli]") {
  const Ran r = run("vary " + in_demo("judges.knot"));
  CHECK(r.code == 0);
  CHECK(has(r.out, "5 scenarios side by side"));
  CHECK(has(r.out, "doing nothing at all is best"));
  CHECK(has(r.out, "no plan meets all rules"));
  CHECK(has(run("vary " + in_demo("judges.knot") + " --only \"at most one each\"").out, "+3"));
  const std::string csv = (scratch() / "sweep.csv").string(),
                    json = (scratch() / "sweep.json").string();
  const Ran sweep = run("vary " + in_demo("programme.knot") + " --sweep grant=800..1600/9 --csv " +
                        csv + " --json " + json);
  CHECK(sweep.code == 0);
  CHECK(has(sweep.out, "as before"));
  CHECK(has(slurp(csv), "1300,optimal,500,8,"));
  CHECK(Json::parse(slurp(json))["variants"].size() == 9);
  CHECK(has(run("vary " + in_demo("programme.knot") + " --without-each").out, "+117"));
  CHECK(has(run("solve " + in_demo("judges.knot") + " --scenario \"at most one each\"").out,
            "cost is 61"));
  CHECK(run("solve " + in_demo("judges.knot") + " --scenario \"most one\"").code == 3);
  CHECK(run("vary " + in_demo("programme.knot")).code == 2);
  CHECK(run("vary " + in_demo("programme.knot") + " --sweep grant=800..1600/0").code == 2);
  CHECK(run("vary " + in_demo("programme.knot") + " --sweep grand=800..1600/3").code == 2);
  CHECK(run("vary " + in_demo("programme.knot") + " --sweep grant=8").code == 2);
}

TEST_CASE("explain names the clash, or says that there is none", "[cli]") {
  const Ran r = run("explain " + in_demo("judges.knot") + " --scenario \"exactly one each\"");
  CHECK(r.code == 4);
  CHECK(has(r.out, "These cannot hold together, though any smaller part of them can:"));
  CHECK(has(r.out, "exactly_one[Mira]"));
  const Ran fine = run("explain " + in_demo("judges.knot"));
  CHECK(fine.code == 0);
  CHECK(has(fine.out, "a plan meets all rules"));
}

TEST_CASE("a hard model's answer tells what was left to search and what cuts did", "[cli]") {
  const std::string result = (scratch() / "wheel.json").string();
  const Ran r = run("solve " + in_demo("wheel.knot") + " --result " + result);
  CHECK(r.code == 0);
  CHECK(has(r.out, "What could be told beforehand left"));
  CHECK(has(r.out, "cuts moved the relaxed goal to"));
  CHECK(has(r.out, "before the search branched."));
  const Json search = Json::parse(slurp(result))["search"];
  const auto& left = search["reduced"];
  CHECK(left["columns"] < left["columns_before"]);
  CHECK(left["rows"] < left["rows_before"]);
  CHECK(left["columns_before"] == 144);
  CHECK(left["relaxed"] < search["root_bound"]);
  CHECK(search["cuts"] > 0);
  bool probed = false;
  for (const auto& part : search["parts"]) probed = probed || part["name"] == "probing";
  CHECK(probed);
}
