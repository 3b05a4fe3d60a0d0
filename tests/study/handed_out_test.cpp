// Jobs shared out to several processes, here threads of one: each is done, whoever falls silent.
#include "study/handed_out.hpp"

#include <atomic>
#include <map>
#include <mutex>
#include <thread>

#include <catch2/catch.hpp>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "mip/parallel/post_office.hpp"

using namespace kiteknot;

namespace {

struct Shared {
  std::mutex mutex;
  std::map<std::size_t, std::string> took;
  std::map<int, int> done_by;
  int twice = 0;  // taken
};

HandedOut squares(std::size_t jobs, std::size_t lanes, int rank, Shared& shared) {
  HandedOut work;
  work.jobs = jobs;
  work.lanes = lanes;
  work.mark = 7;
  work.act = [&shared, rank](std::size_t job) {
    const std::scoped_lock lock(shared.mutex);
    ++shared.done_by[rank];
    return std::to_string(job * job);
  };
  work.take = [&shared](std::size_t job, const std::string& came) {
    const std::scoped_lock lock(shared.mutex);
    if (!shared.took.emplace(job, came).second) ++shared.twice;
  };
  work.stopped = [] { return false; };
  work.unwanted = [] {};
  return work;
}

std::string cover(std::uint64_t seed) {
  Random random(seed);
  std::string text = "table item key name rows\n  name,weight,worth\n";
  for (int k = 0; k < 16; ++k)
    text += "  i" + std::to_string(k) + "," + std::to_string(random.between(3, 30)) + "," +
            std::to_string(random.between(5, 60)) + "\n";
  return text +
         "decide take[i in item] binary\n"
         "maximize worth: total(i.worth * take[i] over i in item)\n"
         "rule room: total(i.weight * take[i] over i in item) <= 90\n";
}

std::vector<TrialCase> weeks(int count) {
  std::vector<TrialCase> cases;
  for (int k = 0; k < count; ++k)
    cases.push_back(
        {"week " + std::to_string(k), [k] {
           return parse_knot(cover(static_cast<std::uint64_t>(k + 1)), "week.knot").value();
         }});
  return cases;
}

}  // namespace

TEST_CASE("every job is done once and taken once, by any number of processes", "[study][threads]") {
  for (const int ranks : {1, 2, 4})
    for (const std::size_t lanes : {1U, 3U}) {
      mip::PostOffice office(ranks);
      Random random(5);
      std::mutex drawing;
      office.on_the_way([&](int, int) {
        const std::scoped_lock lock(drawing);
        return 0.01 * random.fraction();
      });
      Shared shared;
      std::vector<std::thread> others;
      for (int r = 1; r < ranks; ++r)
        others.emplace_back([&, r] {
          const auto line = office.of(r);
          do_handed_out(*line, squares(200, lanes, r, shared));
        });
      const auto line = office.of(0);
      hand_out(*line, squares(200, lanes, 0, shared));
      for (std::thread& t : others) t.join();
      CAPTURE(ranks, lanes);
      CHECK(shared.twice == 0);
      REQUIRE(shared.took.size() == 200);
      for (const auto& [job, came] : shared.took) CHECK(came == std::to_string(job * job));
    }
}

TEST_CASE("what a process has that falls silent is done by another", "[study][threads]") {
  mip::PostOffice office(2);
  Shared shared;
  std::atomic<bool> has_one = false, free = false;
  // Its signs do not come through once it has a job.
  office.on_the_way([&](int from, int) { return from == 1 && has_one ? -1.0 : 0.0; });
  std::thread other([&] {
    const auto line = office.of(1);
    HandedOut work = squares(12, 1, 1, shared);
    work.act = [&](std::size_t) -> std::string {
      has_one = true;
      while (!free) std::this_thread::sleep_for(std::chrono::milliseconds(2));
      return "late";  // another has done it by then
    };
    do_handed_out(*line, work);
  });
  const auto line = office.of(0);
  HandedOut work = squares(12, 1, 0, shared);
  work.silent = 0.4;
  const auto quick = work.act;
  work.act = [&](std::size_t job) {
    while (!has_one) std::this_thread::sleep_for(std::chrono::milliseconds(1));
    return quick(job);
  };
  hand_out(*line, work);
  free = true;
  other.join();
  CHECK(shared.twice == 0);
  REQUIRE(shared.took.size() == 12);
  for (const auto& [job, came] : shared.took) CHECK(came == std::to_string(job * job));
}

TEST_CASE("what fails elsewhere fails at rank 0, and processes with other jobs are refused",
          "[study][threads]") {
  mip::PostOffice office(2);
  Shared shared;
  {
    std::thread other([&] {
      const auto line = office.of(1);
      HandedOut work = squares(5, 1, 1, shared);
      work.act = [](std::size_t) -> std::string { throw UsageError("not here"); };
      do_handed_out(*line, work);
    });
    const auto line = office.of(0);
    HandedOut work = squares(5, 1, 0, shared);
    work.act = [](std::size_t job) -> std::string {
      std::this_thread::sleep_for(std::chrono::milliseconds(30));
      if (job == 4) throw UsageError("nor here");
      return "x";
    };
    CHECK_THROWS_WITH(hand_out(*line, work), "nor here");
    other.join();
  }
  mip::PostOffice second(2);
  std::thread other([&] {
    const auto line = second.of(1);
    HandedOut work = squares(500, 1, 1, shared);
    work.mark = 8;
    do_handed_out(*line, work);
  });
  const auto line = second.of(0);
  Shared own;
  HandedOut work = squares(500, 1, 0, own);
  work.act = [](std::size_t) -> std::string {
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
    return "x";
  };
  CHECK_THROWS_WITH(hand_out(*line, work), Catch::Contains("process 1 has other cases"));
  other.join();
}

TEST_CASE("a comparison over several processes is that of one", "[study][threads]") {
  TrialOptions options;
  options.ways = {"exact", "greedy", "climb"};
  options.seconds = 20.0;
  const Trials alone = run_trials(weeks(6), options);
  for (const int ranks : {2, 3}) {
    mip::PostOffice office(ranks);
    std::vector<std::thread> others;
    for (int r = 1; r < ranks; ++r)
      others.emplace_back([&, r] {
        TrialOptions own = options;
        own.ranks = office.of(r);
        (void)run_trials(weeks(6), own);
      });
    TrialOptions own = options;
    own.ranks = office.of(0);
    std::size_t told = 0;
    own.done = [&](const Attempt&) { ++told; };
    const Trials together = run_trials(weeks(6), own);
    for (std::thread& t : others) t.join();
    CHECK(together.processes == ranks);
    CHECK(told == together.attempts.size());
    REQUIRE(together.cases.size() == alone.cases.size());
    CHECK(together.ways == alone.ways);
    for (std::size_t k = 0; k < alone.cases.size(); ++k) {
      CHECK(together.cases[k].name == alone.cases[k].name);
      CHECK(together.cases[k].best == alone.cases[k].best);
      CHECK(together.cases[k].proven);
    }
    REQUIRE(together.attempts.size() == alone.attempts.size());
    for (std::size_t k = 0; k < alone.attempts.size(); ++k) {
      CHECK(together.attempts[k].of == alone.attempts[k].of);
      CHECK(together.attempts[k].way == alone.attempts[k].way);
      CHECK(together.attempts[k].value == alone.attempts[k].value);
    }
  }
  // Other cases there: refused by name.
  mip::PostOffice office(2);
  std::thread other([&] {
    TrialOptions own = options;
    own.ranks = office.of(1);
    (void)run_trials(weeks(5), own);
  });
  TrialOptions own = options;
  own.ranks = office.of(0);
  own.threads = 1;
  std::vector<TrialCase> many = weeks(40);
  CHECK_THROWS_AS(run_trials(many, own), UsageError);
  other.join();
}
