// The tool among other things on the machine: terminals, files, devices, signals, limits.
#include <algorithm>
#include <chrono>
#include <csignal>
#include <thread>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <sys/stat.h>

#include "support/tool.hpp"

using namespace tool;
using Json = nlohmann::json;

namespace {
const std::string kSmall =
    "table shows key show rows\n  show,crowd\n  tail parade,5\n  tea tent,3\n"
    "decide run[s in shows] binary\nmaximize crowd: total(s.crowd * run[s] over s in shows)\n";

double seconds_of(const std::function<void()>& what) {
  const auto start = std::chrono::steady_clock::now();
  what();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}
}  // namespace

TEST_CASE("signs that a terminal would obey are shown, and kept in documents", "[cli][trust]") {
  const std::string evil = std::string("red \x1b[31m ") + "bell\x07 \xc2\x9b turn\xe2\x80\xae";
  const std::string model =
      file("evil.knot", "model \"" + evil + "\"\ntable t key k rows\n  k\n  \"" + evil +
                            "\"\ndecide x[r in t] binary\n"
                            "maximize g: total(x[r] over r in t)\n");
  const std::string json = (scratch() / "evil.json").string();
  for (const std::string command : {"show ", "solve ", "vary --without-each ", "compare "}) {
    const Ran r = run(command + "'" + model + "'");
    INFO(command << r.out << r.err);
    for (const char* sign : {"\x1b", "\x07", "\xc2\x9b", "\xe2\x80\xae"}) {
      CHECK_FALSE(has(r.out, sign));
      CHECK_FALSE(has(r.err, sign));
    }
    CHECK(has(r.out, "\xe2\x90\x9b[31m"));  // a picture of ESC
  }
  CHECK(run("solve '" + model + "' --result '" + json + "'").code == 0);
  CHECK(Json::parse(slurp(json))["model"] == evil);
  const Ran wrong = run("solve '" + file("wrong.knot", "number a\x1b[2J = \n") + "'");
  CHECK(wrong.code == 3);
  CHECK_FALSE(has(wrong.err, "\x1b"));
}

TEST_CASE("an output that is an input of the run is refused", "[cli][trust]") {
  const std::string csv = file("in.csv", "show,crowd\na,1\n");
  const std::string model = file("in.knot",
                                 "table shows from \"in.csv\" key show\n"
                                 "decide run[s in shows] binary\n"
                                 "maximize g: total(s.crowd * run[s] over s in shows)\n");
  const std::string link = (scratch() / "link.json").string();
  fs::remove(link);
  fs::create_symlink(csv, link);
  for (const std::string& said :
       {"--result '" + model + "'", "--plan '" + csv + "'", "--save '" + link + "'",
        "--history '" + model + "'", "--result '" + (scratch() / "." / "in.csv").string() + "'"}) {
    const Ran r = run("solve '" + model + "' " + said);
    INFO(said << r.err);
    CHECK(r.code == 2);
    CHECK(has(r.err, "would overwrite what this run reads"));
  }
  CHECK(run("vary '" + model + "' --without-each --csv '" + csv + "'").code == 2);
  CHECK(slurp(csv) == "show,crowd\na,1\n");
  const std::string both = (scratch() / "both").string();
  CHECK(has(run("solve '" + model + "' --result " + both + " --plan " + both).err, "same file"));
}

TEST_CASE("a full or closed standard output is told, and files are written all the same",
          "[cli][trust]") {
  const std::string model = file("small.knot", kSmall);
  const std::string json = (scratch() / "full.json").string();
  const std::string err = (scratch() / "full.err").string();
  for (const char* to : {">/dev/full", ">&-"}) {
    fs::remove(json);
    const int status = std::system(
        ("'" + kTool + "' solve '" + model + "' --result '" + json + "' " + to + " 2>'" + err + "'")
            .c_str());
    CHECK(WEXITSTATUS(status) == 1);
    CHECK(has(slurp(err), "standard output: writing failed"));
    CHECK(has(slurp(json), "\"optimal\""));
  }
  const Ran r = run("solve '" + model + "' --result /nowhere/r.json --plan '" + json + "'");
  CHECK(r.code == 1);
  CHECK(has(r.out, "proven optimal"));
  CHECK(has(r.err, "/nowhere/r.json: cannot be written"));
  CHECK(has(slurp(json), "\"show\": \"tail parade\", \"value\": 1}"));
}

TEST_CASE("links are written through, and what is no file stays what it is", "[cli][trust]") {
  const std::string model = file("small.knot", kSmall);
  const fs::path target = scratch() / "target.json", link = scratch() / "through.json",
                 pipe = scratch() / "pipe";
  fs::remove(link);
  fs::remove(pipe);
  file("target.json", "old");
  fs::permissions(target, fs::perms::owner_read | fs::perms::owner_write);
  fs::create_symlink("target.json", link);
  CHECK(run("solve '" + model + "' --result '" + link.string() + "'").code == 0);
  CHECK(fs::is_symlink(link));
  CHECK(has(slurp(target), "kiteknot-result"));
  CHECK(fs::status(target).permissions() == (fs::perms::owner_read | fs::perms::owner_write));
  REQUIRE(::mkfifo(pipe.c_str(), 0600) == 0);
  const std::string read = (scratch() / "read").string();
  const int status =
      std::system(("cat '" + pipe.string() + "' >'" + read + "' & '" + kTool + "' solve '" + model +
                   "' --quiet --result '" + pipe.string() + "'; code=$?; wait; exit $code")
                      .c_str());
  CHECK(WEXITSTATUS(status) == 0);
  CHECK(fs::is_fifo(pipe));
  CHECK(has(slurp(read), "kiteknot-result"));
}

TEST_CASE("devices and what is no text are refused as input", "[cli][trust]") {
  const auto refused = [](const std::string& table) {
    const Ran r = run("solve '" +
                      file("device.knot", "table t from \"" + table +
                                              "\" key k\ndecide x[r in t] binary\n"
                                              "maximize g: total(x[r] over r in t)\n") +
                      "'");
    CHECK(r.code == 3);
    return r.err;
  };
  CHECK(has(refused("/dev/zero"), "is a device, not a file"));
  file("latin.csv",
       "k\nSch\xe4"
       "fer\n");
  CHECK(has(refused("latin.csv"), "latin.csv:2:4: byte 0xE4 is not UTF-8"));
  CHECK(has(run("solve '" +
                file("latin.knot",
                     "model \"Sch\xe4"
                     "fer\"\n") +
                "'")
                .err,
            "latin.knot:1:11: byte 0xE4 is not UTF-8"));
}

TEST_CASE("a wish to end from elsewhere leaves the best plan", "[cli][trust]") {
  const std::string model = long_model();
  for (const char* name : {"TERM", "HUP"}) {
    const std::string json = (scratch() / "ended.json").string();
    const int status =
        std::system(("'" + kTool + "' solve '" + model + "' --quiet --result '" + json +
                     "' & pid=$!; sleep 1; kill -" + name + " $pid; wait $pid")
                        .c_str());
    CHECK(WEXITSTATUS(status) == 6);
    const Json document = Json::parse(slurp(json));
    CHECK(document["search"]["stopped_by"] == "hand");
    CHECK(document["decisions"].size() == 200);
  }
}

TEST_CASE("memory and time are limits that are kept", "[cli][trust]") {
  const std::string model = long_model();
  const std::string json = (scratch() / "memory.json").string();
  CHECK(run("solve '" + model + "' --memory 0.0001 --nodes 3000 --result '" + json + "'").code ==
        6);
  const Json search = Json::parse(slurp(json))["search"];
  CHECK(search["stopped_by"] == "nodes");
  CHECK(std::any_of(search["parts"].begin(), search["parts"].end(), [](const Json& part) {
    return part["name"] == "branches that waited on disk" && part["calls"] > 100;
  }));
  std::string cover = "table t key k rows\n  k\n";
  for (int k = 0; k < 1200; ++k) cover += "  c" + std::to_string(k) + "\n";
  cover +=
      "decide x[r in t] binary\nminimize g: total(x[r] over r in t)\n"
      "rule r[s in t]: total(x[r] over r in t where r != s) >= 600\n";
  const std::string file_name = file("cover.knot", cover);
  CHECK(seconds_of([&] { (void)run("compare '" + file_name + "' --methods greedy --seconds 1"); }) <
        10.0);
}

TEST_CASE("wrong limits are told in one short line", "[cli][trust]") {
  const std::string model = file("small.knot", kSmall);
  for (const char* said :
       {"--seconds nan", "--seconds -1", "--seconds 0", "--gap nan", "--gap -0.1", "--seed -1",
        "--seed 1.5", "--nodes 0", "--nodes 1e400", "--seconds inf", "--memory x"}) {
    const Ran r = run("solve '" + model + "' " + said);
    INFO(said << r.err);
    CHECK(r.code == 2);
    CHECK(has(r.err, "was expected"));
    CHECK(r.err.size() < 250);
  }
}

TEST_CASE("errors found while solving tell file, line and column", "[cli][trust]") {
  const auto told = [](const std::string& text) {
    const Ran r = run("solve '" + file("place.knot", text) + "'");
    CHECK(r.code == 3);
    return r.err;
  };
  CHECK(has(told("decide x real 0 .. 9\nnumber n = 0\nmaximize g: x / n\n"),
            "place.knot:3:10: g: division by 0"));
  CHECK(has(told("decide x real 0 .. 9\nnumber n = 0\nnumber k = 1 / n\nmaximize g: x * k\n"),
            "place.knot:3:8: k: division by 0"));
  CHECK(has(told("curve c tiers: 3 each for first 4, 2 each after\ndecide x real 0 .. inf\n"
                 "minimize g: c(x)\nrule r: c(x) <= 99\nrule s: x >= 2\n"),
            "curve c has no end here"));
  CHECK(has(told("curve c all units: 3 below 4, 1 from 4\ndecide x real 0 .. 9\n"
                 "minimize h: x\nrule r: c(x) >= 11\n"),
            "place.knot:4:6: rule r: curve c jumps at 4"));
}

TEST_CASE("without a command the first steps are told, and help speaks in words", "[cli]") {
  const Ran first = run("");
  CHECK(first.code == 0);
  CHECK(first.err.empty());
  CHECK(std::count(first.out.begin(), first.out.end(), '\n') <= 12);
  for (const char* command :
       {"show", "check", "solve", "compare", "vary", "explain", "tour", "convert", "runs"}) {
    const Ran help = run(std::string(command) + " --help");
    CAPTURE(command, help.out);
    CHECK(help.code == 0);
    for (const char* type : {" TEXT", " FLOAT", " INT", " UINT", "REQUIRED", "Excludes"})
      CHECK_FALSE(has(help.out, type));
  }
}

TEST_CASE("times and shares are written as people write them", "[cli]") {
  const std::string solve = "solve " + in_demo("crate.knot") + " --quiet ";
  for (const char* fine :
       {"--seconds 10s", "--seconds '5 min'", "--seconds 1.5h", "--seconds 1e3", "--seconds 300ms",
        "--gap 5%", "--gap '0.5 %'", "--gap 0", "--gap 0.05"}) {
    CAPTURE(fine);
    CHECK(run(solve + fine).code == 0);
  }
  const auto told = [&](const char* option) {
    const Ran r = run(solve + option);
    CHECK(r.code == 2);
    return r.err;
  };
  CHECK(has(told("--gap 5"), "'5' may mean 5% or 5 times as much: say 5%, or a figure below 1"));
  CHECK(has(told("--gap 100%"), "a share below 100% was expected"));
  CHECK(has(told("--seconds 3weeks"), "such as 10, 10s, 5min or 2h, not '3weeks'"));
  CHECK(has(told("--seconds s"), "not 's'"));
  const Ran tours = run("tour --random 0");
  CHECK(tours.code == 2);
  CHECK(has(tours.err, "a whole number from 1 to 5000000 was expected, not '0'"));
}

TEST_CASE("help, the manual page and completion are of one piece with --help", "[cli]") {
  CHECK(run("help solve").out == run("solve --help").out);
  CHECK(has(run("help").out, "explain"));
  const Ran none = run("help sole");
  CHECK(none.code == 2);
  CHECK(has(none.err, "there is no command 'sole'"));
  const Ran man = run("help --as man");
  CHECK(man.code == 0);
  CHECK(man.out.starts_with(".TH KITEKNOT 1\n"));
  CHECK(has(man.out, ".SS solve\n"));
  CHECK(has(man.out, ".B \\-\\-plan ...\nwrite the plan here"));
  // Completion of a word that is begun, in a shell.
  const std::string script = (scratch() / "completion").string();
  REQUIRE(std::system(("'" + kTool + "' help --as bash > '" + script + "'").c_str()) == 0);
  const auto completed = [&](const std::string& words, int at) {
    const std::string out = (scratch() / "completed").string();
    const std::string line = "bash -c 'set -eu; . " + script + "; COMP_WORDS=(" + words +
                             "); COMP_CWORD=" + std::to_string(at) +
                             "; _kiteknot; echo \"${COMPREPLY[@]}\"' > '" + out + "'";
    CHECK(std::system(line.c_str()) == 0);
    return slurp(out);
  };
  CHECK(completed("kiteknot so", 1) == "solve\n");
  CHECK(completed("kiteknot vary x.knot --without", 3) == "--without-each\n");
  CHECK(run("help --as powder").code == 2);
}

TEST_CASE("a report is one page, written whole or not at all", "[cli][report]") {
  const std::string page = (scratch() / "report.html").string();
  const Ran ran = run("report " + in_demo("judges.knot") + " --html '" + page + "' --rule-costs");
  CHECK(ran.code == 0);
  CHECK(has(ran.out, "The report is in "));
  const std::string html = slurp(page);
  for (const char* part : {"<section id=\"scenarios\">", "<section id=\"prices\">",
                           "cost is 58, and no plan reaches less.", "bids.price", "</html>"})
    CHECK(has(html, part));
  const Ran under = run("report " + in_demo("judges.knot") + " --html '" + page +
                        "' --scenario 'at most one each' --only-answer");
  CHECK(under.code == 0);
  CHECK(has(slurp(page), "With scenario &quot;at most one each&quot;."));
  CHECK_FALSE(has(slurp(page), "<section id=\"ways\">"));
  const Ran clash = run("report " + in_demo("judges.knot") + " --html '" + page +
                        "' --scenario 'exactly one each'");
  CHECK(clash.code == 4);
  CHECK(has(slurp(page), "<section id=\"clash\">"));
  const Ran ending = run("report " + in_demo("judges.knot") + " --html answer.pdf");
  CHECK(ending.code == 2);
  CHECK(has(ending.err, "--html takes a file that ends in .html"));
  CHECK(run("report " + in_demo("judges.knot") + " --html /nowhere/page.html").code == 1);
}
