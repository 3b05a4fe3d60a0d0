// Nothing is lost: answers beside which something fails, plans of changed models, files in the way.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "support/tool.hpp"

using namespace tool;

TEST_CASE("what is told besides an answer never costs it", "[cli][solve]") {
  const std::string model =
      file("reals.knot",
           "decide x real 0 or 5 .. 40\ndecide y real 0 or 3 .. 40\nminimize cost: 5 * x + 6 * y\n"
           "rule r: x + y >= 4\n");
  const Ran r = run("solve " + model + " --plan " + (scratch() / "reals.csv").string());
  CHECK(r.code == 0);
  CHECK(has(r.out, "cost is 24"));
  CHECK(!has(r.out, "left out"));
  CHECK(r.err.empty());
  CHECK(has(slurp(scratch() / "reals.csv"), "y,4"));
  // Asked for, it is told that it cannot be had, before any work.
  const Ran asked = run("solve " + model + " --plans 3");
  CHECK(asked.code == 2);
  CHECK(has(asked.err, "no decision is whole"));
}

namespace {

// A folder of its own with a model of one table, whose family has the table's name.
fs::path shop(const std::string& name, const std::string& more = "") {
  const fs::path folder = scratch() / name;
  fs::create_directories(folder / "pl");
  std::ofstream(folder / "pl" / "x.csv") << "r,v\na,3\nb,5\n";
  std::ofstream(folder / "o.csv") << "r,v\na,4\nb,5\n";
  std::ofstream(folder / "m.knot") << "table t from \"pl/x.csv\" key r\ndecide x[r in t] binary\n"
                                      "maximize g: total(r.v * x[r] over r in t)\n"
                                      "rule one: total(x[r] over r in t) <= 1\n"
                                   << more;
  return folder;
}

}  // namespace

TEST_CASE("no output takes the place of an input, folders included", "[cli][files]") {
  const fs::path folder = shop("inputs", "scenario \"other\": table t from \"o.csv\"\n");
  const std::string model = (folder / "m.knot").string(), table = slurp(folder / "pl" / "x.csv"),
                    other = slurp(folder / "o.csv");
  const auto in = [&](const char* file) { return " '" + (folder / file).string() + "'"; };
  for (const std::string& asked :
       {"solve " + model + " --plan" + in("pl/"), "solve " + model + " --plan" + in("pl"),
        "solve " + model + " --result" + in("o.csv"), "solve " + model + " --save" + in("pl/x.csv"),
        "solve " + model + " --plans 2 --plans-file" + in("o.csv"),
        "solve " + model + " --history" + in("o.csv"), "vary " + model + " --csv" + in("o.csv"),
        "vary " + model + " --json" + in("pl/x.csv"), "solve " + model + " --plan" + in("m.knot"),
        "solve " + model + " --scenario other --result" + in("pl/x.csv")}) {
    INFO(asked);
    const Ran r = run(asked);
    CHECK(r.code == 2);
    CHECK((has(r.err, "would overwrite what this run reads") || has(r.err, "holds no plan of")));
  }
  CHECK(slurp(folder / "pl" / "x.csv") == table);
  CHECK(slurp(folder / "o.csv") == other);
}

TEST_CASE("a plan's folder keeps every file that is no plan", "[cli][files]") {
  const fs::path folder = shop("mixed");
  const std::string model = (folder / "m.knot").string(), out = (folder / "out").string();
  fs::create_directories(out);
  std::ofstream(out + "/x.csv") << "somebody,else\n1,2\n";
  std::ofstream(out + "/notes.csv") << "mine\n";
  const Ran refused = run("solve " + model + " --plan " + out + "/");
  CHECK(refused.code == 2);
  CHECK(has(refused.err, "x.csv is there and holds no plan of 'x'; it is left alone"));
  CHECK(slurp(out + "/x.csv") == "somebody,else\n1,2\n");
  fs::remove(out + "/x.csv");
  CHECK(run("solve " + model + " --plan " + out + "/").code == 0);
  CHECK(slurp(out + "/x.csv") == "r,value\nb,1\n");
  // Its own plan is written anew, and what else lies there stays.
  CHECK(run("solve " + model + " --plan " + out + "/ --plan-data").code == 0);
  CHECK(run("solve " + model + " --plan " + out + "/").code == 0);
  CHECK(slurp(out + "/notes.csv") == "mine\n");
  // What is read to begin with is not written over.
  CHECK(run("solve " + model + " --start " + out + "/ --plan " + out + "/").code == 2);
}

TEST_CASE("rows that are gone are left out of a saved plan, and that is said", "[cli][plans]") {
  const fs::path folder = shop("gone");
  const std::string model = (folder / "m.knot").string();
  const auto plan = [&](const char* name, const std::string& text) {
    std::ofstream(folder / name) << text;
    return (folder / name).string();
  };
  const std::string some = plan("some.csv", "decision,r,value\nx,b,1\nx,d,1\nx,e,0\ny,,2\n");
  const Ran checked = run("check " + model + " --plan " + some);
  CHECK(checked.code == 0);
  CHECK(has(checked.out, "g is 5"));
  CHECK(has(checked.err, "some.csv:3"));
  CHECK(has(checked.err, "x[d]"));
  CHECK(has(checked.err, "its value, 1, is left out"));
  CHECK(has(checked.err, "its value, 2, is left out"));
  CHECK(has(checked.err, "1 decision at 0 that the model does not have, left out"));
  CHECK(run("solve " + model + " --start " + some).code == 0);
  CHECK(run("check " + model + " --complete --plan " + some).code == 0);
  // A plan of which nothing is left is another model's.
  CHECK(run("check " + model + " --plan " + plan("other.csv", "decision,value\nw,1\n")).code == 3);
  // So in folders, and in saved answers.
  fs::create_directories(folder / "p");
  plan("p/x.csv", "r,value\nb,1\nd,1\n");
  plan("p/gone.csv", "r,value\nb,1\n");
  const Ran files = run("check " + model + " --plan " + (folder / "p").string());
  CHECK(files.code == 0);
  CHECK(has(files.err, "there are no such decisions: gone; they are left out"));
  std::ofstream(folder / "wide.knot")
      << "table t key r rows\n  r,v\n  b,5\n  d,1\ndecide x[r in t] binary\n"
         "maximize g: total(r.v * x[r] over r in t)\n";
  const std::string saved = (folder / "wide.json").string();
  CHECK(run("solve " + (folder / "wide.knot").string() + " --save " + saved).code == 0);
  const Ran answer = run("check " + model + " --plan " + saved);
  CHECK(answer.code == 0);
  CHECK(has(answer.err, "its value, 1, is left out"));
}

TEST_CASE("an option that is given nothing is told", "[cli]") {
  const std::string model = (shop("nothing") / "m.knot").string();
  for (const char* asked : {"solve @ --result ''", "solve @ --plan ''", "explain @ --why ''",
                            "vary @ --csv ''", "draw @ --plan --write ''"}) {
    std::string words = asked;
    words.replace(words.find('@'), 1, model);
    INFO(words);
    const Ran r = run(words);
    CHECK(r.code == 2);
    CHECK(has(r.err, "was given nothing"));
  }
}

TEST_CASE("a history that cannot be written is an output that failed", "[cli]") {
  const std::string model = (shop("full") / "m.knot").string();
  CHECK(run("solve " + model + " --history /dev/full").code == 1);
  CHECK(run("solve " + model + " --history /nowhere/at/all.db").code == 1);
  CHECK(run("runs /nowhere/at/all.db").code == 3);
}

TEST_CASE("trips that cannot carry the loads are infeasible, whatever shows it", "[cli][tour]") {
  const auto code = [](const std::string& name, const std::string& loads,
                       const std::string& trips) {
    const std::string stops = file(name, "name,x,y,load\nGate,0,0,0\n" + loads);
    return run("tour " + stops + " --capacity 10 --from Gate" + trips).code;
  };
  CHECK(code("one.csv", "A,1,0,12\nB,2,0,1\nC,0,3,1\n", "") == 4);
  CHECK(code("all.csv", "A,1,0,8\nB,2,0,8\nC,0,3,8\n", " --trips 2") == 4);
  CHECK(code("packed.csv", "A,1,0,6\nB,2,0,6\nC,0,3,6\n", " --trips 2") == 4);
}

TEST_CASE("data are read back before the first decision is stated", "[cli][show]") {
  const std::string model =
      file("data.knot", "table t key k rows\n  k,w,\n  a,1,\n  b,2,\nnumber n = 3\n");
  const Ran shown = run("show " + model);
  CHECK(shown.code == 0);
  CHECK(has(shown.out, "Only data so far"));
  CHECK(has(shown.out, "w: figures from 1 to 2"));
  CHECK(!has(shown.out, ": , not used"));
  const Ran solved = run("solve " + model);
  CHECK(solved.code == 3);
  CHECK(has(solved.err, "the model decides nothing"));
}

TEST_CASE("two answers lay rules side by side as they are stated", "[cli][compare]") {
  const std::string text =
      "table t key k rows\n  k,need\n  a,275\n  b,0\n"
      "number price = 1\ndecide open binary\ndecide go[r in t] real 0 .. 300\n"
      "decide spare integer 0 .. 3\n"
      "minimize cost: 10 * open + price * total(go[r] over r in t) + 400 * spare\n"
      "let all = total(go[r] over r in t)\n"
      "rule cap: total(go[r] over r in t) <= 300 * open\n"
      "rule need[r in t]: go[r] >= r.need * (1 + 0 * price)\n";
  const std::string model = file("sides.knot", text);
  const std::string one = (scratch() / "one.json").string(),
                    two = (scratch() / "two.json").string();
  CHECK(run("solve " + model + " --save " + one).code == 0);
  const auto saved = nlohmann::json::parse(slurp(one));
  CHECK(saved["expressions"][0]["name"] == "all");
  CHECK(saved["expressions"][0]["value"] == 275);
  CHECK(saved["rules"][0]["left"] == 275);
  CHECK(saved["rules"][0]["right"] == 300);
  std::string less = text;
  less.replace(less.find("a,275"), 5, "a,200");
  less.erase(less.find("decide spare"), std::string("decide spare integer 0 .. 3\n").size());
  less.erase(less.find(" + 400 * spare"), std::string(" + 400 * spare").size());
  CHECK(run("solve " + file("less.knot", less) + " --save " + two).code == 0);
  const Ran both = run("compare " + one + " " + two);
  CHECK(both.code == 0);
  CHECK(has(both.out, "275 of at most 300"));
  CHECK(has(both.out, "200 of at most 300"));
  CHECK(has(both.out, "1 at 0"));  // what is no longer there
  CHECK(!has(both.out, "-25"));
}

TEST_CASE("a story at the tableau keeps its remarks, and what was taken back", "[cli][workbench]") {
  const std::string model =
      file("story.knot",
           "decide x integer 0 .. 9\ndecide y integer 0 .. 9\nmaximize profit: 3 * x + 2 * y\n"
           "rule one: 2 * x + y <= 7\nrule two: x + 3 * y <= 10\n");
  const std::string steps = file("steps.txt",
                                 "# by the largest gain\nto the end # that is the relaxed best\n"
                                 "cut on y\nback to 1\nx <= 2\nquit\nnonsense\n");
  const std::string out = (scratch() / "story.md").string();
  const Ran r = run("tableau " + model + " --steps " + steps + " --write " + out);
  INFO(r.err);
  REQUIRE(r.code == 0);
  const std::string story = slurp(out);
  CHECK(has(story, "by the largest gain"));
  CHECK(has(story, "that is the relaxed best"));
  const std::size_t cut = story.find("cut on y"), back = story.find("back to 1"),
                    branch = story.find("x \\<= 2");
  CHECK(cut < back);
  CHECK(back < branch);
  CHECK(branch != std::string::npos);
  const Ran help = run("tableau " + model + " --steps " + file("help.txt", "help\n"));
  CHECK(has(help.out, "'quit' and 'exit' do, too"));
  // Going back finds no plan.
  const Ran undone =
      run("tableau " + model + " --steps " + file("undo.txt", "all the way\nundo\n"));
  CHECK(undone.out.rfind("A whole plan, the best so far") < undone.out.find("> undo"));
}

TEST_CASE("what is not known is told with the nearest, or with what there is", "[cli]") {
  const std::string model = file("near.knot",
                                 "number oak = 5\nnumber ash = 2\ndecide d integer 0 .. 3\n"
                                 "maximize g: oak * d + ash\nscenario \"rain\": set oak = 2\n");
  CHECK(has(run("solve " + model + " --set oka=7").err, "nearest is 'oak'"));
  CHECK(has(run("solve " + model + " --set pine=7").err, "there are oak and ash"));
  CHECK(has(run("solve " + model + " --scenario zzz").err, "there is rain"));
  CHECK(has(run("solve " + model + " --second 3").err, "nearest is '--seconds'"));
}
