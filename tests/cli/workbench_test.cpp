// The workbench and the figures from the real executable: steps from a file, from input and at a
// terminal; documents; figures of every kind.
#include <catch2/catch.hpp>
#include <poll.h>
#include <pty.h>

#include "support/svg.hpp"
#include "support/tool.hpp"

using namespace tool;

namespace {

// A terminal with the tool in it: what was typed, and what stood there at the end.
std::string conversation(const std::vector<std::string>& typed) {
  int terminal = -1;
  winsize size{40, 100, 0, 0};
  const pid_t child = ::forkpty(&terminal, nullptr, nullptr, &size);
  REQUIRE(child >= 0);
  if (child == 0) {
    ::setenv("TERM", "xterm", 1);
    ::setenv("NO_COLOR", "1", 1);
    ::execl(kTool.c_str(), kTool.c_str(), "tableau", (kDemo + "/hour.knot").c_str(), nullptr);
    ::_exit(127);
  }
  std::string seen;
  // Reads until the words stand there, or ten seconds went by.
  const auto until = [&](const std::string& words, std::size_t from) {
    for (int turn = 0; turn < 100 && seen.find(words, from) == std::string::npos; ++turn) {
      pollfd ready{terminal, POLLIN, 0};
      if (::poll(&ready, 1, 100) <= 0) continue;
      char buffer[4096];
      const ssize_t count = ::read(terminal, buffer, sizeof buffer);
      if (count <= 0) return;
      seen.append(buffer, static_cast<std::size_t>(count));
    }
  };
  until("step> ", 0);
  for (const std::string& line : typed) {
    const std::size_t from = seen.size();
    REQUIRE(::write(terminal, line.data(), line.size()) == static_cast<ssize_t>(line.size()));
    if (line != "end\r" && line.back() == '\r') until("step> ", from + line.size());
    if (line.back() == '\t') until("lta", from);
  }
  int status = 0;
  for (int turn = 0; turn < 100 && ::waitpid(child, &status, WNOHANG) == 0; ++turn) {
    pollfd ready{terminal, POLLIN, 0};
    if (::poll(&ready, 1, 100) <= 0) continue;
    char buffer[4096];
    if (const ssize_t count = ::read(terminal, buffer, sizeof buffer); count > 0)
      seen.append(buffer, static_cast<std::size_t>(count));
  }
  ::close(terminal);
  CHECK(WIFEXITED(status));
  CHECK(WEXITSTATUS(status) == 0);
  return seen;
}

}  // namespace

TEST_CASE("the hour worked from its first tableau to its best whole plan", "[cli][workbench]") {
  const Ran r = run("tableau " + in_demo("hour.knot") + " --steps " + in_demo("hour.steps") +
                    " --write '" + (scratch() / "hour.html").string() + "'");
  CHECK(r.code == 0);
  CHECK(r.err.empty());
  CHECK(has(r.out,
            "Kites for the children's hour, worked by hand\nAs much as there can be of joy, "
            "all decisions whole.\nThe first tableau:\n\n"));
  CHECK(has(r.out, "> cut on sled\n"));
  CHECK(has(r.out, "in decisions   6 box + 3 delta + 3 sled <= 20\n"));
  CHECK(has(r.out, "joy is at its best, 50, and all that has to be whole is.\n"));
  CHECK(has(r.out, "cord   one more changes joy by 2, as long as the limit is from 13 to 18"));
  const std::string html = slurp(scratch() / "hour.html");
  CHECK(has(html, "<h3>3. cut on sled</h3>"));
  CHECK(has(html, "6\u00a0box + 3\u00a0delta + 3\u00a0sled &lt;= 20"));
}

TEST_CASE("steps from standard input, and a slip with its line and column", "[cli][workbench]") {
  const std::string steps =
      file("slip.steps", "# remark\n\nto the end   # and on\n  cut on spurs\n");
  const Ran r = run("tableau " + in_demo("hour.knot") + " <'" + steps + "'");
  CHECK(r.code == 3);
  CHECK(r.err ==
        "standard input:4:10: expected the basic one whose row is cut, or the goal, found 'spurs'; "
        "nearest is "
        "'spars'\n");
  const Ran f = run("tableau " + in_demo("hour.knot") + " --steps '" + steps + "' --write '" +
                    (scratch() / "never.md").string() + "'");
  CHECK(f.code == 3);
  CHECK(has(f.err, "slip.steps:4:10: "));
  CHECK_FALSE(fs::exists(scratch() / "never.md"));
  const std::string over = file("over.steps", "to the end\nend\nnever read\n");
  CHECK(run("tableau " + in_demo("hour.knot") + " --steps '" + over + "'").code == 0);
}

TEST_CASE("a story is written in every form", "[cli][workbench]") {
  const std::string steps = file("short.steps", "to the end\nall the way\n");
  for (const auto& [ending, begins] : std::vector<std::pair<std::string, std::string>>{
           {"md", "# Kites for the children's hour, worked by hand"},
           {"txt", "Kites for the children's hour, worked by hand"},
           {"tex", "\\documentclass"},
           {"html", "<!doctype html>"}}) {
    const fs::path out = scratch() / ("story." + ending);
    const Ran r = run("tableau " + in_demo("hour.knot") + " --steps '" + steps + "' --write '" +
                      out.string() + "'");
    CHECK(r.code == 0);
    CHECK(slurp(out).starts_with(begins));
  }
  CHECK(
      run("tableau " + in_demo("hour.knot") + " --steps '" + steps + "' --write story.pdf").code ==
      2);
  CHECK(run("tableau " + in_demo("hour.knot") + " --steps '" + steps + "' --write '" + steps + "'")
            .code == 2);
}

TEST_CASE("models that no tableau takes", "[cli][workbench]") {
  const Ran r = run("tableau " + in_demo("programme.knot") + " </dev/null");
  CHECK(r.code == 3);
  CHECK(has(r.err, "rule family is a condition; asked for as sums (--as-sums)"));
  const Ran sums = run("tableau " + in_demo("programme.knot") + " --as-sums </dev/null");
  CHECK(sums.code == 0);
  CHECK(has(sums.out, "room of needs"));
  CHECK(
      has(run("tableau " + in_demo("day.knot") + " </dev/null").err, "a tableau takes at most 60"));
  CHECK(run("tableau " + in_demo("crate.knot") + " --limits-as-rows </dev/null").code == 0);
}

TEST_CASE("at a terminal slips are told and names completed", "[cli][workbench]") {
  const std::string seen =
      conversation({"bring in bax\r", "bring in de\t", "\r", "undo\r", "copies\r", "end\r"});
  CHECK(has(seen, "'help' lists them, 'end' leaves."));
  CHECK(has(seen, "found 'bax'; nearest is 'box'"));
  CHECK(has(seen, "delta came in for room of cord: joy rose from 0 to 48."));
  CHECK(has(seen, "Back to where the first tableau stood."));
  CHECK(has(seen, "Still open: copy 1"));
}

TEST_CASE("figures of every kind are drawn", "[cli][workbench]") {
  const auto drawn = [&](const std::string& arguments) {
    const fs::path out = scratch() / "figure.svg";
    fs::remove(out);
    const Ran r = run("draw " + arguments + " --write '" + out.string() + "'");
    INFO(arguments << r.err);
    CHECK(r.code == 0);
    CHECK(has(r.out, "The figure is in "));
    const std::string svg = slurp(out);
    kiteknot::test::need_readable(svg);
    return svg;
  };
  CHECK(has(drawn(in_demo("hour.knot") + " --plane delta,sled"), "best whole plan: joy 50"));
  CHECK(has(drawn(in_demo("hour.knot") + " --plane 'delta, sled' --at box=1 --dark"), "#182127"));
  CHECK(has(drawn(in_demo("hour.knot") + " --plane delta,sled --steps " + in_demo("hour.steps")),
            "With cut 1"));
  CHECK(has(drawn(in_demo("hour.knot") + " --tree --plain"), "delta at least 4"));
  CHECK(has(drawn(in_demo("wheel.knot") + " --progress"), "nothing better can exist"));
  CHECK(has(drawn(in_demo("judges.knot") + " --plan"), "As a grid"));
  CHECK(has(drawn(in_demo("depots.knot") + " --plan --of open --as bars"), "As bars"));
  CHECK(has(drawn(in_demo("programme.knot") + " --plane 'run[night glow],run[sled race]'"),
            "where all rules hold"));
}

TEST_CASE("figures take saved answers, several side by side", "[cli][workbench]") {
  const std::string saved = (scratch() / "saved.json").string();
  REQUIRE(run("solve " + in_demo("wheel.knot") + " --quiet --result '" + saved + "'").code == 0);
  const std::string figure = (scratch() / "saved.svg").string();
  CHECK(run("draw " + in_demo("wheel.knot") + " --plan --from '" + saved + "' --write '" + figure +
            "'")
            .code == 0);
  CHECK(has(slurp(figure), "As steps over weeks"));
  CHECK(run("draw " + in_demo("wheel.knot") + " --progress --from '" + saved + "' --beside '" +
            saved + "' --write '" + figure + "'")
            .code == 0);
  kiteknot::test::need_readable(slurp(figure));
  CHECK(run("draw " + in_demo("wheel.knot") + " --plane 'line[week 1],tail[week 1]' --from '" +
            saved + "' --write '" + figure + "'")
            .code == 0);
  kiteknot::test::need_readable(slurp(figure));
}

TEST_CASE("what cannot be drawn is said before any work", "[cli][workbench]") {
  const auto refused = [&](const std::string& arguments) {
    const Ran r = run("draw " + in_demo("hour.knot") + " " + arguments);
    CHECK(r.code == 2);
    return r.err;
  };
  CHECK(
      has(refused("--write x.svg"), "say one of --plane, --tree, --progress, --plan and --curve"));
  CHECK(has(refused("--tree --plan --write x.svg"), "say one of"));
  CHECK(has(refused("--tree --write x.pdf"), "ends in .svg or .png"));
  CHECK(has(refused("--plan --write x.dot"), "a .dot file is for --tree"));
  CHECK(has(refused("--plane delta --write x.svg"), "two decisions with a comma"));
  CHECK(has(refused("--plane delta,slad --write x.svg"), "nearest is 'sled'"));
  CHECK(has(refused("--plane delta,sled --at box --write x.svg"), "--at takes NAME=VALUE"));
  CHECK(has(refused("--tree --from x.json --write x.svg"), "holds no branches"));
  CHECK(has(refused("--tree --of box --write x.svg"), "--of and --as go with --plan"));
  CHECK(has(refused("--plan --beside x.json --write x.svg"), "--beside goes with --progress"));
  // A search that was stopped is drawn, and says so by its exit code.
  const std::string svg = (scratch() / "stopped.svg").string();
  for (const char* figure : {" --progress", " --tree"})
    CHECK(
        run("draw " + in_demo("wheel.knot") + figure + " --nodes 120 --write '" + svg + "'").code ==
        6);
  CHECK(has(slurp(svg), "left open"));
  const std::string none =
      file("none.knot", "model \"n\"\ndecide a integer 0 .. 3\nmaximize z: a\nrule r: a >= 5\n");
  const Ran r =
      run("draw '" + none + "' --plan --write '" + (scratch() / "none.svg").string() + "'");
  CHECK(r.code == 4);
  CHECK(has(r.err, "there is no plan to draw: the model is infeasible"));
}
