// Several processes in one tree, here as threads that share nothing but letters: the best plan of
// every small problem whatever letters take, proofs that hold when one falls silent, and states
// from which any number of them goes on.
#include "mip/parallel/ranks.hpp"

#include <atomic>
#include <mutex>
#include <thread>

#include <catch2/catch.hpp>

#include "mip/parallel/post_office.hpp"
#include "support/random_mips.hpp"
#include "support/search_families.hpp"
#include "support/slow_build.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

mip::SearchOptions bare(std::uint64_t seed) {
  mip::SearchOptions o;
  o.presolving.on = o.presolving.probing = o.node.strong = o.node.enumeration = o.structures =
      false;
  o.finding.core = o.finding.dives = o.finding.near_plan = o.finding.pump = false;
  o.cuts = mip::CutSwitches::none();
  o.budget.seed = seed;
  return o;
}

struct Asked {
  std::vector<mip::SearchResult> results;  // by rank
  std::vector<std::int64_t> nodes;         // that each looked at itself
};

// `options` by rank; limits are rank 0's.
Asked ask(int ranks, mip::PostOffice& office, const std::function<mip::Problem(int)>& problem,
          const std::function<mip::SearchOptions(int)>& options) {
  Asked asked;
  asked.results.resize(static_cast<std::size_t>(ranks));
  asked.nodes.resize(static_cast<std::size_t>(ranks));
  std::vector<std::atomic<bool>> stop(static_cast<std::size_t>(ranks));
  std::vector<std::thread> threads;
  for (int r = 0; r < ranks; ++r)
    threads.emplace_back([&, r] {
      const auto k = static_cast<std::size_t>(r);
      mip::SearchOptions own = options(r);
      own.ranks = std::make_shared<mip::Ranks>(
          office.of(r), [&stop, k] { stop[k] = true; }, 2.0);
      if (r > 0) own.budget.stop = &stop[k];
      const mip::Problem p = problem(r);
      asked.results[k] = mip::Search(p, judge_of(p), own).run();
      asked.nodes[k] = asked.results[k].counts.nodes;
    });
  for (std::thread& t : threads) t.join();
  return asked;
}

std::optional<Rational> goal_alone(const mip::Problem& p, mip::SearchOptions options) {
  options.ranks.reset();
  return mip::Search(p, judge_of(p), options).run().goal;
}

}  // namespace

TEST_CASE("a supervisor has few given to who has none, and bounds what is on its way",
          "[mip][ranks]") {
  mip::Supervisor s(3);
  const auto told = [](std::int64_t open, double bound, bool idle, std::int64_t taken = 0) {
    mip::RankStanding r;
    r.open = open;
    r.bound = bound;
    r.idle = idle;
    r.taken = taken;
    return r;
  };
  CHECK(s.all_done());
  s.heard(0, told(10, 5.0, false));
  s.heard(1, told(0, kInf, true));
  CHECK_FALSE(s.all_done());
  const auto first = s.gives();
  REQUIRE(first.size() == 1);
  CHECK(first[0].from == 0);
  CHECK(first[0].to == 1);
  CHECK(first[0].nodes == 5);
  CHECK(first[0].first);
  CHECK(s.gives().empty());  // it is on its way
  // The giver has nothing left, and the other says what it said before.
  s.heard(0, told(0, kInf, true));
  s.heard(1, told(0, kInf, true));
  CHECK_FALSE(s.all_done());
  CHECK(s.bound_from(1) == 5.0);
  s.heard(1, told(5, 6.0, false, first[0].parcel));
  CHECK(s.bound_from(1) == 6.0);
  // Rank 0 is idle now, and the third joins.
  const auto second = s.gives();
  REQUIRE(second.size() == 1);
  CHECK(second[0].to == 0);
  CHECK_FALSE(second[0].first);
  s.refused(second[0].parcel);
  s.heard(1, told(0, kInf, true, first[0].parcel));
  CHECK(s.all_done());
  CHECK(s.gives().empty());
}

TEST_CASE("several ranks find the best plan of tiny problems, however slow letters are",
          "[mip][ranks][threads]") {
  Random random(91);
  const std::int64_t problems = kSlowBuild ? 40 : 300;
  for (std::int64_t k = 0; k < problems; ++k) {
    const TinyMip t = draw_tiny(random, k);
    const auto seed = static_cast<std::uint64_t>(random.between(1, 1000));
    const int ranks = static_cast<int>(random.between(2, 4));
    mip::PostOffice office(ranks);
    std::mutex mutex;
    Random way(seed);
    office.on_the_way([&](int, int) {
      const std::scoped_lock lock(mutex);
      return way.chance(0.3) ? 0.001 * static_cast<double>(way.between(0, 5)) : 0.0;
    });
    CAPTURE(k, t.kind, ranks);
    const Asked asked = ask(
        ranks, office, [&](int) { return t.problem; }, [&](int) { return bare(seed); });
    const mip::SearchResult alone = mip::Search(t.problem, judge_of(t.problem), bare(seed)).run();
    CHECK(asked.results[0].outcome == alone.outcome);
    CHECK(asked.results[0].goal == alone.goal);
  }
}

TEST_CASE("trees that are large enough are shared, and come out as with one",
          "[mip][ranks][threads]") {
  for (const std::uint64_t seed : {1, 2, 3}) {
    const mip::Problem p = seed == 3 ? many_knapsacks(4, 45, seed) : many_knapsacks(5, 36, seed);
    for (const int threads : {1, 2}) {
      mip::PostOffice office(3);
      const auto options = [&](int) {
        mip::SearchOptions o = bare(seed);
        o.crew = {threads, 0, {}};
        return o;
      };
      const Asked asked = ask(
          3, office, [&](int) { return p; }, options);
      CAPTURE(seed, threads, asked.nodes, asked.results[0].seconds);
      CHECK(asked.results[0].outcome == Outcome::optimal);
      CHECK(asked.results[0].goal == goal_alone(p, bare(seed)));
      CHECK(asked.nodes[1] + asked.nodes[2] > 0);
      CHECK(asked.nodes[0] >= asked.nodes[1] + asked.nodes[2]);  // all of them are told
    }
  }
}

TEST_CASE("ranks of different problems, and one that falls silent, end the search with what holds",
          "[mip][ranks][threads]") {
  const mip::Problem p = many_knapsacks(5, 40, 4), other = many_knapsacks(5, 40, 5);
  const auto options = [&](int) {
    mip::SearchOptions o = bare(1);
    o.budget.seconds = 20.0;
    return o;
  };
  mip::PostOffice office(2);
  const Asked asked = ask(
      2, office, [&](int r) { return r == 0 ? p : other; }, options);
  CHECK(asked.results[0].outcome == Outcome::unproven);
  CHECK(asked.results[0].reason == "rank 1 has another model, or another version");
  CHECK(asked.nodes[1] == 0);  // it was given nothing

  // One is cut off while it works: what it has is not proven, and its bound stays.
  const mip::Problem large = many_knapsacks(15, 100, 4);
  mip::PostOffice cut(3);
  const Stopwatch watch;
  cut.on_the_way([&](int from, int) { return from == 2 && watch.seconds() > 0.4 ? -1.0 : 0.0; });
  const Asked rest = ask(
      3, cut, [&](int) { return large; },
      [&](int r) {
        mip::SearchOptions o = options(r);
        if (r == 2) o.budget.seconds = 5.0;  // nobody tells it to stop
        return o;
      });
  CHECK(rest.results[0].outcome == Outcome::unproven);
  CHECK(rest.results[0].reason == "rank 2 has fallen silent");
  CHECK(rest.results[0].bound < rest.results[0].goal.to_double());
}

TEST_CASE("what several ranks have is kept, and any number goes on from it",
          "[mip][ranks][threads]") {
  const mip::Problem p = many_knapsacks(7, 50, 9);
  const std::optional<Rational> best = goal_alone(p, bare(2));
  for (const int ranks : {2, 3}) {
    std::mutex mutex;
    std::vector<std::string> kept;
    const auto keeper = [&] {
      auto k = std::make_shared<mip::Keeper>();
      k->every = 0.02;
      k->write = [&](const mip::KeptState& state) {
        const std::scoped_lock lock(mutex);
        if (state.tree) kept.push_back(mip::packed(state));
      };
      return k;
    };
    mip::PostOffice office(ranks);
    (void)ask(
        ranks, office, [&](int) { return p; },
        [&](int r) {
          mip::SearchOptions o = bare(2);
          if (r == 0) o.keeper = keeper();
          if (r == 0) o.budget.seconds = 0.6;
          return o;
        });
    REQUIRE_FALSE(kept.empty());
    // Whatever was kept on the way: nothing is missing, whoever was at what.
    for (std::size_t k = 0; k < kept.size(); k += std::max<std::size_t>(1, kept.size() / 3)) {
      for (const int after : {1, 2}) {
        mip::KeptState state = mip::unpacked(kept[k]);
        mip::PostOffice again(after);
        // What was found already is left out: all has to be found again.
        const Asked asked = ask(
            after, again, [&](int) { return p; },
            [&](int) {
              mip::SearchOptions o = bare(2);
              o.given.tree = std::make_shared<mip::KeptTree>(*state.tree);
              if (state.plan) o.given.plans.push_back(*state.plan);
              return o;
            });
        CAPTURE(ranks, k, after);
        CHECK(asked.results[0].outcome == Outcome::optimal);
        CHECK(asked.results[0].goal == best);
      }
    }
  }
}

namespace {

// Works for a while.
class Breaking final : public Transport {
 public:
  Breaking(std::unique_ptr<Transport> inner, int letters)
      : inner_(std::move(inner)), letters_(letters) {}
  int rank() const override { return inner_->rank(); }
  int ranks() const override { return inner_->ranks(); }
  void send(int to, std::string bytes) override {
    if (--letters_ < 0) throw std::runtime_error("the line is dead");
    inner_->send(to, std::move(bytes));
  }
  std::optional<Letter> receive(double seconds) override { return inner_->receive(seconds); }

 private:
  std::unique_ptr<Transport> inner_;
  int letters_;
};

}  // namespace

TEST_CASE("a transport that fails ends the search, and nothing else", "[mip][ranks][threads]") {
  const mip::Problem p = many_knapsacks(15, 100, 4);
  mip::PostOffice office(2);
  mip::SearchOptions options = bare(1);
  options.budget.seconds = 200.0;  // never gone
  options.ranks = std::make_shared<mip::Ranks>(
      std::make_unique<Breaking>(office.of(0), 1), [] {}, 2.0);
  std::atomic<bool> stop = false;
  std::thread other([&] {
    mip::SearchOptions own = bare(1);
    own.budget.stop = &stop;
    own.ranks = std::make_shared<mip::Ranks>(
        office.of(1), [] {}, 2.0);
    (void)mip::Search(p, judge_of(p), own).run();
  });
  const mip::SearchResult r = mip::Search(p, judge_of(p), options).run();
  CHECK(r.outcome == Outcome::unproven);
  CHECK(r.reason == "letters are not carried any more: the line is dead");
  CHECK(r.seconds < 150.0);
  stop = true;
  other.join();
}
