// `compare` over many cases and with programs of the user's own, `make`, from the shell.
#include <chrono>
#include <thread>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <sys/stat.h>

#include "kiteknot/kiteknot.hpp"
#include "support/tool.hpp"

using namespace tool;

namespace {

std::string script(const std::string& name, const std::string& text) {
  const std::string path = file(name, "#!/bin/sh\n" + text);
  chmod(path.c_str(), 0700);
  return path;
}

// Takes the first three items of the crate's table: the columns are found in the folder.
const char* const kMine =
    "test -f \"$1/tables/items.csv\" && test -f \"$1/numbers.csv\" && test -f "
    "\"$1/decisions.csv\" || exit 5\n"
    "echo \"decision,item,value\" > \"$1/plan.csv\"\n"
    "sed -n 2,3p \"$1/tables/items.csv\" | cut -d, -f1 | sed 's/^/pack,/; s/$/,1/' >> "
    "\"$1/plan.csv\"\n";

}  // namespace

TEST_CASE("thirty weeks of one model: every way, a table, figures, a page", "[cli][compare]") {
  const std::string folder = (scratch() / "weeks-out").string();
  fs::create_directories(folder);
  const Ran r = run("compare " + in_demo("stewards.knot") + " --data '" + kDemo +
                    "/weeks/*.csv' --as hours --seconds 10 --ways exact,greedy,climb,tabu" +
                    " --table " + folder + "/t.csv --save " + folder + "/t.json --figure " +
                    folder + "/time.svg --distances " + folder + "/far.svg --shares " + folder +
                    "/near.svg --html " + folder + "/t.html");
  CHECK(r.code == 0);
  CHECK(r.err.empty());
  CHECK(has(r.out, "30 cases: 4 ways side by side"));
  CHECK(has(r.out, "The best is proven on all 30 cases"));
  CHECK(has(r.out, "week-30"));
  CHECK(has(r.out, "nearer than greedy"));
  const auto document = nlohmann::json::parse(slurp(folder + "/t.json"));
  CHECK(document["cases"].size() == 30);
  CHECK(document["attempts"].size() == 120);
  for (const char* name : {"/time.svg", "/far.svg", "/near.svg"})
    CHECK(has(slurp(folder + name), "</svg>"));
  CHECK(has(slurp(folder + "/t.html"), "</html>"));
  CHECK(has(slurp(folder + "/t.csv"), "week-01,exact,1,1,"));
}

TEST_CASE("a report has a chapter on many cases where it is asked for", "[cli][compare]") {
  const std::string page = (scratch() / "weeks.html").string();
  const Ran r = run("report " + in_demo("stewards.knot") + " --html " + page + " --data '" + kDemo +
                    "/weeks/week-0*.csv' --as hours --seconds-each 0.3");
  CHECK(r.code == 0);
  const std::string html = slurp(page);
  CHECK(has(html, "Ways on many cases"));
  CHECK(has(html, "9 cases: "));
  CHECK(has(html, "week-09"));
  CHECK(run("report " + in_demo("stewards.knot") + " --html " + page + " --data x.csv").code == 2);
}

TEST_CASE("folders, scenarios and rows of settings are cases", "[cli][compare]") {
  const Ran scenarios =
      run("compare " + in_demo("judges.knot") + " --each-scenario --seconds 10 --ways exact,climb");
  CHECK(scenarios.code == 0);
  CHECK(has(scenarios.out, "6 cases: 2 ways"));
  CHECK(has(scenarios.out, "as it stands"));
  CHECK(has(scenarios.out, "dear judges"));
  CHECK(has(scenarios.out, "1 case is proven to have no plan"));
  const std::string rows = file("grants.csv", "year,grant,crew_hours\nlean,800,30\nfat,1600,40\n");
  const Ran settings = run("compare " + in_demo("programme.knot") + " --each-row " + rows +
                           " --seconds 10 --ways exact,tabu");
  CHECK(settings.code == 0);
  CHECK(has(settings.out, "lean"));
  CHECK(has(settings.out, "fat"));
  const std::string folder = (scratch() / "made").string();
  CHECK(run("make knapsack --size 30 --count 3 --planted --to " + folder).code == 0);
  const Ran all = run("compare " + folder + " --seconds 10 --ways exact,climb");
  CHECK(all.code == 0);
  CHECK(has(all.out, "knapsack-3"));
  CHECK(has(slurp(folder + "/optima.csv"), "knapsack-1,"));
}

TEST_CASE("an interrupted comparison goes on where it stopped", "[cli][compare]") {
  const std::string kept = (scratch() / "kept.jsonl").string();
  const std::string asked = "compare " + in_demo("stewards.knot") + " --data '" + kDemo +
                            "/weeks/*.csv' --as hours --seconds 10 --ways exact,climb,tabu" +
                            " --keep " + kept;
  const Ran whole = run(asked);
  const std::string all = slurp(kept);
  // Killed in the middle of a line.
  std::ofstream(kept, std::ios::binary) << all.substr(0, all.size() / 2);
  const std::size_t before = static_cast<std::size_t>(
      std::count(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2), '\n'));
  const Ran again = run(asked);
  CHECK(again.code == 0);
  const std::string now = slurp(kept);
  CHECK(std::count(now.begin(), now.end(), '\n') == 90);
  const auto lines = [](const std::string& text, std::size_t count) {
    std::size_t at = 0;
    for (std::size_t k = 0; k < count; ++k) at = text.find('\n', at) + 1;
    return text.substr(0, at);
  };
  CHECK(lines(now, before) == lines(all, before));
  CHECK(has(again.out, "The best is proven on all 30 cases"));
  const Ran other =
      run("compare " + in_demo("crate.knot") + " --keep " + file("other.txt", "nothing of ours\n"));
  CHECK(other.code == 2);
  CHECK(has(other.err, "line 1 is none that a comparison has kept"));
}

TEST_CASE("programs of one's own: judged, stopped, and told where they fail", "[cli][compare]") {
  const std::string good = script("mine.sh", kMine);
  const std::string fails = script("fails.sh", "echo 'no solver today' >&2\nexit 3\n");
  const std::string hangs = script("hangs.sh", "sleep 60 & sleep 60\n");
  const std::string rubbish = script("rubbish.sh", "echo 'this is ; no plan' > \"$1/plan.csv\"\n");
  const std::string half = script(
      "half.sh", "printf 'decision,item,value\\npack,spar set,' > \"$1/plan.csv\"\nkill -9 $$\n");
  const auto asked = [](const std::string& seconds, const std::string& ways) {
    return run("compare " + in_demo("crate.knot") + " --ways exact,greedy --seconds " + seconds +
               ways);
  };
  const Ran r = asked("20", " --way 'mine=" + good + "' --way 'fails=" + fails +
                                "' --way 'rubbish=" + rubbish + "' --way 'half=" + half +
                                "' --way 'gone=" + (scratch() / "not_there").string() + "'");
  CHECK(r.code == 0);
  CHECK(has(r.out, "mine "));
  CHECK(has(r.out, "fails: it ended with code 3 (\"no solver today\"), it left no plan.csv"));
  CHECK(has(r.out, "rubbish: its plan cannot be read"));
  CHECK(has(r.out, "half: it was ended by signal 9, its plan cannot be read"));
  CHECK(has(r.out, "gone: it ended with code 127"));
  // Its children end with it: nobody waits a minute.
  const auto start = std::chrono::steady_clock::now();
  CHECK(
      has(asked("0.5", " --way 'hangs=" + hangs + "'").out, "hangs: it was stopped at its limit"));
  const std::chrono::duration<double> took = std::chrono::steady_clock::now() - start;
  CHECK(took.count() < 50.0);
  // Every table is there, also those that rules only walk over; so are cells that were replaced.
  const Ran tables =
      run("compare " + in_demo("stewards.knot") + " --data '" + kDemo +
          "/weeks/week-0[12].csv' --as hours --seconds 20 --ways exact" + " --way 't=" +
          script("tables.sh",
                 "cat \"$1\"/tables/covers.csv \"$1\"/tables/patterns.csv | wc -l >&2; "
                 "grep 09:00 \"$1\"/tables/hours.csv >&2; exit 4\n") +
          "'");
  CHECK(has(tables.out, "(\"09:00,1\")"));
  // Over cases as well; and a plan that is there already.
  const Ran cases = run("compare " + in_demo("crate.knot") + " --runs 2 --seconds 20 --ways exact" +
                        " --way 'mine=" + good + "' --plan " +
                        file("p.csv", "decision,item,value\npack,spar set,2\n"));
  CHECK(cases.code == 0);
  CHECK(has(cases.out, "mine"));
  CHECK(has(cases.out, "p.csv"));
  CHECK(run("compare " + in_demo("crate.knot") + " --way mine").code == 2);
  CHECK(run("compare " + in_demo("crate.knot") + " --plan nowhere.csv").code == 2);
}

TEST_CASE("wrong wishes of compare and make are told in one line", "[cli][compare]") {
  const auto refused = [](const std::string& asked, const std::string& said) {
    INFO(asked);
    const Ran r = run(asked);
    CHECK(r.code == 2);
    CHECK(has(r.err, said));
  };
  const std::string crate = "compare " + in_demo("crate.knot");
  refused(crate + " --ways climp", "nearest is 'climb'");
  refused(crate + " --runs 0", "from 1");
  refused(crate + " --data 'none/*.csv' --as items", "no file is called none/*.csv");
  refused(crate + " --data x.csv", "--as");
  refused(crate + " --table " + in_demo("crate.knot") + "", "would overwrite");
  refused(crate + " --figure x.pdf", ".svg or .png");
  refused("compare " + in_demo("stops.csv") + " --runs 3", "one file at a time");
  refused("make knapsak --to /tmp/x", "nearest is 'knapsack'");
  refused("make cover --size 5 --to /tmp/x", "needs and sets");
  refused("make cover --size 5y5 --to /tmp/x", "20x400");
  refused("make cover", "--to");
  refused("make shop --planted --to /tmp/x", "no planted cases");
  const Ran table =
      run(crate + " --data '" + kDemo + "/weeks/week-01.csv' --as shelves --seconds 0.1");
  CHECK(table.code == 3);
  CHECK(has(table.out, "there is no table 'shelves'"));
  // What is there stays.
  const std::string folder = (scratch() / "kept").string();
  CHECK(run("make shop --size 2x2 --to " + folder).code == 0);
  const Ran again = run("make shop --size 2x2 --to " + folder);
  CHECK(again.code == 1);
  CHECK(has(again.err, "is there already"));
  CHECK(has(run("make").out, "Kinds of cases that can be made"));
}

TEST_CASE("compare alone tells all ways, with what they do and where they come from",
          "[cli][compare]") {
  const Ran r = run("compare");
  CHECK(r.code == 0);
  CHECK(has(r.out, "tabu"));
  CHECK(has(r.out, "Glover 1989"));
  CHECK(has(r.out, "draws lots (--seed, --runs)"));
  CHECK(has(r.out, "dual ascent"));
  CHECK(has(r.out, "Erlenkotter 1978"));
  for (const auto& m : kiteknot::all_methods()) {
    CHECK(has(r.out, "  " + m->name() + " "));
    if (m->name() != "relaxed" && m->name() != "rounded" && !m->name().starts_with("local"))
      CHECK(!m->source().empty());
  }
  const Ran none = run("compare --ways greedy");
  CHECK(none.code == 2);
  CHECK(has(none.err, "what is compared?"));
}
