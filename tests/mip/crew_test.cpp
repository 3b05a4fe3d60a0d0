// Several workers in one tree: the best plan of every small problem, whatever happens at
// hand-overs; the same course however the threads are slowed down; limits, exceptions, twins.
#include <atomic>
#include <cstdlib>
#include <map>
#include <thread>

#include <catch2/catch.hpp>

#include "mip/kinds/generated_rows.hpp"
#include "support/random_mips.hpp"
#include "support/search_families.hpp"
#include "support/slow_build.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

constexpr std::int64_t kShare = kSlowBuild ? 10 : 1;

// Sleeps now and then, or lets others go first: of its own lots for every thread.
std::function<void()> delays(std::uint64_t seed) {
  return [seed, count = std::make_shared<std::atomic<std::uint64_t>>(0)] {
    Random random(seed * 1000 + count->fetch_add(1));
    if (random.chance(0.3)) std::this_thread::yield();
    if (random.chance(0.1))
      std::this_thread::sleep_for(std::chrono::microseconds(random.between(1, 300)));
  };
}

// A tree that begins at once, with nothing that could spare it.
mip::SearchOptions crowd(int threads, std::uint64_t seed) {
  mip::SearchOptions o;
  o.crew = {threads, 0, delays(seed)};
  o.presolving.brief_look = o.node.enumeration = o.structures = false;
  o.budget.seed = seed;
  return o;
}

mip::SearchOptions bare(mip::SearchOptions o) {
  o.presolving.on = o.presolving.probing = o.node.strong = false;
  o.finding.core = o.finding.dives = o.finding.near_plan = o.finding.pump = false;
  o.cuts = mip::CutSwitches::none();
  return o;
}

// Who was looked at, in which order, with which bound.
std::vector<std::pair<std::int64_t, double>> course(const mip::SearchResult& r) {
  std::vector<std::pair<std::int64_t, double>> looks;
  for (const mip::NodeRecord& node : r.tree)
    if (node.look > 0) looks.emplace_back(node.look, node.bound);
  std::sort(looks.begin(), looks.end());
  return looks;
}

}  // namespace

TEST_CASE("several workers find the best plan of tiny problems of every kind", "[mip][threads]") {
  Random random(37);
  std::int64_t together = 0;
  int open = 0;
  const char* more = std::getenv("KITEKNOT_STRESS");  // by hand: 5
  const std::int64_t problems = 2'000 * (more == nullptr ? 1 : std::atoi(more)) / kShare;
  for (std::int64_t k = 0; k < problems; ++k) {
    const TinyMip t = draw_tiny(random, k);
    const auto seed = static_cast<std::uint64_t>(random.between(1, 1000));
    const int threads = static_cast<int>(random.between(2, 8));
    mip::SearchOptions options =
        random.chance(0.5)
            ? Trials::options(static_cast<std::size_t>(k) % Trials::kCount, seed)
            : (random.chance(0.7) ? bare(crowd(threads, seed)) : crowd(threads, seed));
    options.crew = {threads, 0, delays(seed)};
    CAPTURE(k, t.kind, threads);
    const Said said = asked_about(t, options);
    REQUIRE(said.wrong == "");
    open += said.open ? 1 : 0;
    together += said.workers > 1 ? 1 : 0;
  }
  CHECK(open < problems / 20);
  CHECK(together > problems / 20);
}

TEST_CASE("the course of several workers does not depend on how fast they are", "[mip][threads]") {
  for (const std::uint64_t seed : {1, 2, 3, 4}) {
    const mip::Problem p = seed == 1   ? assignment(6, 24, 9)
                           : seed == 4 ? lots(3, 6, 5)
                                       : many_knapsacks(3 + static_cast<int>(seed), 24, seed);
    for (const int threads : {2, 3}) {
      mip::SearchOptions options = crowd(threads, seed);
      if (seed != 2) options = bare(std::move(options));
      options.record_nodes = 100'000;
      options.crew.at_handover = {};
      const mip::SearchResult quick = mip::Search(p, judge_of(p), options).run();
      options.crew.at_handover = delays(seed);
      const mip::SearchResult slow = mip::Search(p, judge_of(p), options).run();
      CAPTURE(seed, threads);
      CHECK(quick.outcome == Outcome::optimal);
      CHECK(quick.crew.workers == threads);
      CHECK(quick.counts.nodes > 20);
      CHECK(course(quick) == course(slow));
      CHECK(quick.counts.pivots == slow.counts.pivots);
      CHECK(quick.plan == slow.plan);
      options.crew = {};
      const mip::SearchResult alone = mip::Search(p, judge_of(p), options).run();
      CHECK(alone.crew.workers == 1);
      CHECK(alone.goal == quick.goal);
    }
  }
}

namespace {

// Sums of binaries must be even.
class ForbidOdd final : public mip::RowGenerator {
 public:
  static std::atomic<bool>& clash() {
    static std::atomic<bool> any = false;
    return any;
  }
  explicit ForbidOdd(linalg::Index n, bool twins, std::shared_ptr<std::atomic<int>> made)
      : n_(n), twins_(twins), made_(std::move(made)) {
    ++*made_;
  }
  [[nodiscard]] bool wants_fractions() const override { return false; }
  [[nodiscard]] std::shared_ptr<mip::RowGenerator> twin() const override {
    return twins_ ? std::make_shared<ForbidOdd>(n_, twins_, made_) : nullptr;
  }
  std::vector<mip::LinearRow> look(std::span<const double> point, bool integral) override {
    if (busy_.exchange(true)) clash() = true;  // somebody else is in here
    std::vector<mip::LinearRow> rows;
    double sum = 0.0;
    for (const double x : point) sum += x;
    if (integral && std::llround(sum) % 2 != 0) {
      mip::LinearRow row{{}, 1.0, kInf, true};
      for (linalg::Index j = 0; j < n_; ++j) {
        const bool one = point[static_cast<std::size_t>(j)] > 0.5;
        row.entries.push_back({j, one ? -1.0 : 1.0});
        if (one) row.lower -= 1.0;
      }
      rows.push_back(std::move(row));
    }
    busy_ = false;
    return rows;
  }

 private:
  linalg::Index n_;
  bool twins_;
  std::shared_ptr<std::atomic<int>> made_;
  std::atomic<bool> busy_ = false;
};

}  // namespace

TEST_CASE("every worker asks a generator of its own; without twins one works alone",
          "[mip][threads]") {
  for (int round = 0; round < 12; ++round) {
    const mip::Problem stated = many_knapsacks(2, 14, 100 + static_cast<std::uint64_t>(round));
    std::optional<Rational> goals[2];
    for (const bool twins : {true, false}) {
      mip::Problem p = stated;
      const auto made = std::make_shared<std::atomic<int>>(0);
      mip::set_generator(p, std::make_shared<ForbidOdd>(p.num_columns(), twins, made));
      const mip::SearchResult r =
          mip::Search(p, judge_of(stated), bare(crowd(4, static_cast<std::uint64_t>(round)))).run();
      REQUIRE(r.outcome == Outcome::optimal);
      goals[twins ? 1 : 0] = r.goal;
      CHECK((r.crew.workers > 1 ? made->load() >= 4 : true));
      if (!twins) CHECK(r.crew.workers == 1);
    }
    CHECK(goals[0] == goals[1]);
  }
  CHECK(!ForbidOdd::clash());
}

TEST_CASE("what a worker throws comes out, and all threads end", "[mip][threads]") {
  const mip::Problem p = many_knapsacks(6, 30, 3);
  const mip::Judge judge = judge_of(p);
  std::atomic<int> asked = 0;
  const mip::Judge throwing = [&](std::span<const Rational> x) {
    if (++asked > 1) throw std::runtime_error("the judge is ill");
    return judge(x);
  };
  mip::SearchOptions options = bare(crowd(3, 1));
  CHECK_THROWS_WITH(mip::Search(p, throwing, options).run(), "the judge is ill");
}

TEST_CASE("limits stop all workers, and what was proven by then holds", "[mip][threads]") {
  const mip::Problem p = many_knapsacks(8, 40, 7);
  const mip::Judge judge = judge_of(p);
  mip::SearchOptions options = bare(crowd(3, 1));
  options.crew.at_handover = {};
  const mip::SearchResult whole = mip::Search(p, judge, options).run();
  REQUIRE(whole.outcome == Outcome::optimal);

  SECTION("branches") {
    options.budget.nodes = 200;
    const mip::SearchResult some = mip::Search(p, judge, options).run();
    CHECK(some.stopped_by == mip::StoppedBy::nodes);
    CHECK(some.counts.nodes >= 200);
    CHECK(some.counts.nodes < 200 + 3 * 50);
    CHECK(Rational::exactly(some.bound) <= whole.goal);
    if (some.plan) CHECK(some.goal >= whole.goal);
    const mip::SearchResult again = mip::Search(p, judge, options).run();
    CHECK(again.bound == some.bound);
    CHECK(again.counts.nodes == some.counts.nodes);
  }
  SECTION("a gap") {
    options.gap = 0.05;
    const mip::SearchResult near = mip::Search(p, judge, options).run();
    CHECK((near.outcome == Outcome::accepted || near.outcome == Outcome::optimal));
    CHECK(Rational::exactly(near.bound) <= whole.goal);
  }
  SECTION("by hand, from a thread beside") {
    std::atomic<bool> stop = false;
    std::atomic<int> handed = 0;
    options.budget.stop = &stop;
    options.crew.at_handover = [&] {
      if (++handed == 12) stop = true;
    };
    const mip::SearchResult some = mip::Search(p, judge, options).run();
    CHECK(some.stopped_by == mip::StoppedBy::hand);
    CHECK(Rational::exactly(some.bound) <= whole.goal);
  }
  SECTION("memory that runs out in a worker") {
    std::atomic<int> handed = 0;
    options.crew.at_handover = [&] {
      if (++handed == 15) throw std::bad_alloc();
    };
    const mip::SearchResult some = mip::Search(p, judge, options).run();
    CHECK(some.stopped_by == mip::StoppedBy::memory);
    CHECK(some.outcome != Outcome::optimal);
    CHECK(Rational::exactly(some.bound) <= whole.goal);
  }
  SECTION("memory: branches wait on disk, and come back") {
    options.memory_bytes = 60'000.0;
    const mip::SearchResult same = mip::Search(p, judge, options).run();
    CHECK(same.outcome == Outcome::optimal);
    CHECK(same.goal == whole.goal);
  }
}

TEST_CASE("the best few plans are the same with several workers", "[mip][threads]") {
  Random random(5);
  for (int round = 0; round < 60; ++round) {
    const mip::Problem p = many_knapsacks(2, 8, 300 + static_cast<std::uint64_t>(round));
    mip::FewWanted wanted;
    wanted.count = static_cast<std::size_t>(random.between(2, 6));
    for (linalg::Index j = 0; j < p.num_columns(); ++j) wanted.key.push_back(j);
    const mip::SearchResult one =
        mip::Search(p, judge_of(p), mip::for_few(bare(crowd(1, 1)), wanted)).run();
    const mip::SearchResult three =
        mip::Search(p, judge_of(p),
                    mip::for_few(bare(crowd(3, static_cast<std::uint64_t>(round) + 1)), wanted))
            .run();
    REQUIRE(one.few.plans.size() == three.few.plans.size());
    CHECK(one.few.in_place == three.few.in_place);
    for (std::size_t k = 0; k < one.few.plans.size(); ++k)
      CHECK(one.few.plans[k].goal == three.few.plans[k].goal);
  }
}
