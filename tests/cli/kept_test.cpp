// `solve --keep` and `resume` from the shell: limits, kills at any moment, files that are none.
#include <csignal>

#include <catch2/catch.hpp>
#include <fcntl.h>
#include <nlohmann/json.hpp>

#include "support/boxes_model.hpp"
#include "support/tool.hpp"

using namespace tool;

namespace {

nlohmann::json result_of(const std::string& path) {
  return nlohmann::json::parse(slurp(path));
}

// Starts the tool and kills it after so many milliseconds; false where it ended before.
bool killed_after(const std::vector<std::string>& arguments, int milliseconds) {
  const pid_t child = ::fork();
  if (child == 0) {
    const int nothing = ::open("/dev/null", O_WRONLY);
    ::dup2(nothing, 1);
    ::dup2(nothing, 2);
    std::vector<char*> raw{const_cast<char*>(kTool.c_str())};
    for (const std::string& a : arguments) raw.push_back(const_cast<char*>(a.c_str()));
    raw.push_back(nullptr);
    ::execv(kTool.c_str(), raw.data());
    ::_exit(127);
  }
  ::usleep(static_cast<useconds_t>(milliseconds) * 1000);
  ::kill(child, SIGKILL);
  int status = 0;
  ::waitpid(child, &status, 0);
  return WIFSIGNALED(status);
}

}  // namespace

TEST_CASE("a search that a limit stopped goes on from its file alone", "[cli][kept]") {
  const std::string model = boxes_model(50, 4);
  const std::string kept = (scratch() / "boxes.kept").string();
  const std::string whole = (scratch() / "whole.json").string();
  const std::string end = (scratch() / "end.json").string();
  REQUIRE(run("solve " + model + " --threads 1 --result " + whole).code == 0);
  const auto expected = result_of(whole);
  const auto branches = expected["search"]["nodes"].get<int>();
  REQUIRE(branches > 300);

  Ran r = run("solve " + model + " --threads 1 --nodes " + std::to_string(branches / 3) +
              " --keep " + kept);
  CHECK(r.code == 6);
  const Ran told = run("runs " + kept);
  CHECK(told.code == 0);
  CHECK(has(told.out, "Boxes"));
  CHECK(has(told.out, "boxes.kept"));
  CHECK(run("runs " + scratch().string()).out.find("boxes.kept") != std::string::npos);
  fs::remove(model);
  fs::remove(scratch() / "boxes.csv");
  r = run("resume " + kept + " --nodes 50");
  CHECK(r.code == 6);
  CHECK(has(r.out, "It went on from a search that was kept"));
  r = run("resume " + kept + " --threads 2 --result " + end);
  CHECK(r.code == 0);
  CHECK(has(r.out, "Boxes: proven optimal"));
  CHECK(result_of(end)["goals"] == expected["goals"]);
  CHECK(result_of(end)["search"]["nodes"].get<int>() < branches);
  // What is finished says so at once.
  r = run("resume " + kept);
  CHECK(r.code == 0);
  CHECK(has(r.out, "proven optimal"));
}

TEST_CASE("a search that is killed at any moment is there again", "[cli][kept]") {
  const char* more = std::getenv("KITEKNOT_STRESS");  // by hand: 10 for a hundred kills
  const int kills = 10 * (more == nullptr ? 1 : std::atoi(more));
  std::mt19937 lots(8);
  int killed = 0, gone_on = 0;
  for (int round = 0; killed < kills && round < 10 * kills; ++round) {
    const std::string model = boxes_model(40, 20 + static_cast<unsigned>(round % 7));
    const std::string kept = (scratch() / "killed.kept").string();
    const std::string whole = (scratch() / "whole.json").string();
    const std::string end = (scratch() / "end.json").string();
    REQUIRE(run("solve " + model + " --result " + whole).code == 0);
    fs::remove(kept);
    const std::string threads = std::to_string(1 + lots() % 3);
    std::vector<std::string> arguments = {"solve",        model, "--keep",    kept,
                                          "--keep-every", "1ms", "--threads", threads};
    for (int times = 0; times < 3; ++times) {
      if (!killed_after(arguments, 20 + static_cast<int>(lots() % 250))) break;
      ++killed;
      if (!fs::exists(kept)) break;
      ++gone_on;
      arguments = {"resume", kept, "--keep-every", "1ms", "--threads", threads};
    }
    if (!fs::exists(kept)) continue;  // nothing was found yet
    const Ran r = run("resume " + kept + " --result " + end);
    CHECK(r.code == 0);
    CHECK(result_of(end)["goals"] == result_of(whole)["goals"]);
  }
  CHECK(killed >= kills / 2);
  CHECK(gone_on > 0);
}

TEST_CASE("files that are no kept search, of another version, or damaged, are refused by name",
          "[cli][kept]") {
  const std::string model = boxes_model(40, 4);
  const std::string kept = (scratch() / "some.kept").string();
  CHECK(run("solve " + model + " --nodes 20 --keep " + kept).code == 6);
  const std::string bytes = slurp(kept);
  REQUIRE(has(bytes, "kiteknot kept search "));
  const auto refused = [](const std::string& name, const std::string& content) {
    const Ran r = run("resume " + file(name, content));
    CHECK(r.code == 3);
    CHECK(has(r.err, name));
    return r.err;
  };
  CHECK(has(refused("none.kept", "hello\n"), "no search that 'solve --keep' kept"));
  CHECK(has(refused("empty.kept", ""), "no search"));
  std::string other = bytes;
  other[std::string("kiteknot kept search ").size()] = '9';
  CHECK(has(refused("other.kept", other), "was kept by version 9"));
  other = bytes;
  other[bytes.size() / 2] = static_cast<char>(other[bytes.size() / 2] + 1);
  CHECK(has(refused("changed.kept", other), "damaged"));
  CHECK(has(refused("short.kept", bytes.substr(0, bytes.size() - 5)), "damaged"));
  const Ran missing = run("resume " + (scratch() / "nowhere.kept").string());
  CHECK(missing.code == 3);
  // It could be the model.
  CHECK(run("solve " + model + " --keep " + model).code == 2);
  CHECK(run("solve " + model + " --threads 0").code == 2);
}

TEST_CASE("where a search cannot be kept it goes on, and says so at its end", "[cli][kept]") {
  const std::string model = boxes_model(40, 4);
  const Ran r = run("solve " + model + " --keep /dev/full");
  CHECK(r.code == 0);
  CHECK(has(r.out, "proven optimal"));
  CHECK(has(r.out, "The search could not be kept"));
  CHECK(has(r.err, "the search was not kept"));
}

TEST_CASE("settings and scenarios are kept with a search", "[cli][kept]") {
  const std::string kept = (scratch() / "crate.kept").string();
  const std::string here = (scratch() / "here.json").string();
  const std::string there = (scratch() / "there.json").string();
  const Ran first = run("solve " + in_demo("crate.knot") + " --set mass_limit=19 --keep " + kept +
                        " --result " + here);
  CAPTURE(first.err);
  REQUIRE(first.code == 0);
  CHECK(run("resume " + kept + " --result " + there).code == 0);
  CHECK(result_of(here)["goals"] == result_of(there)["goals"]);
  CHECK(result_of(here)["decisions"] == result_of(there)["decisions"]);
}
