// `mpirun kiteknot-mpi`: the answer, words, files and codes of the tool alone; what is left when a
// process dies.
#include <csignal>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "support/boxes_model.hpp"
#include "support/tool.hpp"

#ifdef KITEKNOT_MPI_TOOL

using namespace tool;

namespace {

std::string together(int ranks, const std::string& arguments) {
  return "OMPI_ALLOW_RUN_AS_ROOT=1 OMPI_ALLOW_RUN_AS_ROOT_CONFIRM=1 mpirun -n " +
         std::to_string(ranks) + " --oversubscribe " KITEKNOT_MPI_TOOL " " + arguments;
}

Ran run_together(int ranks, const std::string& arguments) {
  const std::string out = (scratch() / "out").string(), err = (scratch() / "err").string();
  const int status = std::system(
      (together(ranks, arguments) + " >'" + out + "' 2>'" + err + "' </dev/null").c_str());
  return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, slurp(out), slurp(err)};
}

// One of the processes that have this in their arguments; 0: there is none.
pid_t one_of(const std::string& argument) {
  pid_t last = 0;
  for (const auto& entry : fs::directory_iterator("/proc")) {
    std::error_code ignored;
    if (fs::read_symlink(entry.path() / "exe", ignored) != fs::path(KITEKNOT_MPI_TOOL)) continue;
    if (slurp(entry.path() / "cmdline").find(argument) != std::string::npos)
      last = std::max(last, static_cast<pid_t>(std::stol(entry.path().filename().string())));
  }
  return last;
}

}  // namespace

TEST_CASE("several processes share out the cases of a comparison", "[cli][machines]") {
  const std::string table = (scratch() / "table.csv").string(),
                    kept = (scratch() / "kept.jsonl").string();
  const std::string weeks = in_demo("stewards.knot") + " " + in_demo("crate.knot") + " " +
                            in_demo("judges.knot") + " --ways exact,greedy --seconds 20";
  const Ran alone = run("compare " + weeks + " --table " + table + ".alone --threads 1");
  REQUIRE(alone.code == 0);
  const Ran r =
      run_together(2, "compare " + weeks + " --threads 1 --table " + table + " --keep " + kept);
  CAPTURE(r.err);
  CHECK(r.code == 0);
  CHECK(has(r.out, "2 processes at work"));
  const std::size_t title = r.out.find("Reading a model is nobody");
  REQUIRE(title != std::string::npos);
  CHECK(r.out.find("Reading a model is nobody", title + 1) == std::string::npos);
  const auto lines = [](const std::string& text) {
    return std::count(text.begin(), text.end(), '\n');
  };
  CHECK(lines(slurp(table)) == lines(slurp(table + ".alone")));
  CHECK(lines(slurp(kept)) + 1 == lines(slurp(table)));  // each attempt once, by rank 0
  const Ran one = run_together(2, "compare " + in_demo("crate.knot"));
  CHECK(one.code == 0);
  CHECK(has(one.err, "one case is compared by one process"));
  CHECK(run_together(2, "compare " + weeks + " --ways nonsense").code == 2);
}

TEST_CASE("several processes say and write what one does, once", "[cli][machines]") {
  const std::string model = boxes_model(55, 4);
  const std::string alone = (scratch() / "alone.json").string(),
                    result = (scratch() / "together.json").string(),
                    plan = (scratch() / "together.csv").string();
  REQUIRE(run("solve " + model + " --threads 1 --result " + alone).code == 0);
  for (const int ranks : {1, 2, 3}) {
    const Ran r = run_together(
        ranks, "solve " + model + " --threads 1 --result " + result + " --plan " + plan);
    CAPTURE(ranks, r.err);
    CHECK(r.code == 0);
    const auto expected = nlohmann::json::parse(slurp(alone)),
               got = nlohmann::json::parse(slurp(result));
    CHECK(got["outcome"] == "optimal");
    CHECK(got["goals"][0]["value"] == expected["goals"][0]["value"]);
    CHECK(got["search"]["processes"] == ranks);
    CHECK(run("check " + model + " --plan " + plan).code == 0);
    const std::string title = "Boxes: proven optimal";
    const std::size_t first = r.out.find(title);
    REQUIRE(first != std::string::npos);
    CHECK(r.out.find(title, first + 1) == std::string::npos);
    CHECK((r.out.find(std::to_string(ranks) + " processes searched it") != std::string::npos) ==
          (ranks > 1));
  }
  // Limits are those of rank 0, and all end.
  const Ran limited = run_together(2, "solve " + model + " --threads 1 --nodes 40");
  CHECK(limited.code == 6);
  const Ran wrong = run_together(2, "solve " + model + " --nonsense");
  CHECK(wrong.code != 0);
  const Ran shown = run_together(2, "show " + model);
  CHECK(shown.code == 0);
  CHECK(shown.err.find("'show' is done by one process") != std::string::npos);
  CHECK(shown.out.find("Boxes") == shown.out.rfind("Boxes"));  // said once
}

TEST_CASE("a process that is killed ends the run; what was kept goes on with any number",
          "[cli][machines]") {
  const std::string model = boxes_model(60, 7);
  const std::string kept = (scratch() / "machines.kept").string();
  const std::string whole = (scratch() / "machines-whole.json").string(),
                    rest = (scratch() / "machines-rest.json").string();
  REQUIRE(run("solve " + model + " --result " + whole).code == 0);
  bool any = false;
  for (const int wait : {600, 900}) {
    fs::remove(kept);
    const pid_t child = ::fork();
    if (child == 0) {
      const std::string line = together(3, "solve " + model + " --threads 1 --keep " + kept +
                                               " --keep-every 0.1s >/dev/null 2>&1 </dev/null");
      ::execl("/bin/sh", "sh", "-c", line.c_str(), static_cast<char*>(nullptr));
      ::_exit(127);
    }
    ::usleep(static_cast<useconds_t>(wait) * 1000);
    if (const pid_t one = one_of(kept)) ::kill(one, SIGKILL);
    int status = 0;
    ::waitpid(child, &status, 0);
    if (!fs::exists(kept)) continue;  // the root was not divided
    any = true;
    for (const bool several : {false, true}) {
      const std::string arguments = "resume " + kept + " --keep " +
                                    (scratch() / "machines-2.kept").string() + " --result " + rest;
      const Ran r = several ? run_together(2, arguments) : run(arguments);
      CAPTURE(wait, several, r.err, r.out);
      CHECK(r.code == 0);
      CHECK(nlohmann::json::parse(slurp(rest))["goals"][0]["value"] ==
            nlohmann::json::parse(slurp(whole))["goals"][0]["value"]);
    }
  }
  CHECK(any);
}

#endif
