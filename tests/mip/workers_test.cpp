// Two workers fed by hand, in one thread and in two: what they answer depends on what they are
// given only, and nothing they find is lost.
#include <map>
#include <thread>

#include <catch2/catch.hpp>

#include "mip/kinds/generated_rows.hpp"
#include "mip/search/search.hpp"
#include "support/brute_force.hpp"
#include "support/search_families.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

// Forbids points one by one: a twin for every worker.
class ForbidOdd final : public mip::RowGenerator {
 public:
  explicit ForbidOdd(linalg::Index n) : n_(n) {}
  [[nodiscard]] bool wants_fractions() const override { return false; }
  std::vector<mip::LinearRow> look(std::span<const double> point, bool integral) override {
    double sum = 0.0;
    for (const double x : point) sum += x;
    if (!integral || static_cast<long long>(std::llround(sum)) % 2 == 0) return {};
    // Of binaries: sum over ones (1 - x) + sum over zeros x >= 1.
    mip::LinearRow row;
    row.lower = 1.0;
    row.upper = kInf;
    for (linalg::Index j = 0; j < n_; ++j) {
      const bool one = point[static_cast<std::size_t>(j)] > 0.5;
      row.entries.push_back({j, one ? -1.0 : 1.0});
      if (one) row.lower -= 1.0;
    }
    return {row};
  }

 private:
  linalg::Index n_;
};

// What two workers find when they take the best open nodes in turn, round by round.
struct Pair {
  mip::SearchOptions options;
  mip::Judge judge;
  Stopwatch clock;
  std::unique_ptr<mip::Worker> workers[2];
  mip::Tree tree;
  mip::Frontier open;
  mip::Incumbents best;
  std::shared_ptr<const mip::RootFacts> root;
  std::map<std::size_t, mip::SharedKnowledge> news;  // for either worker
  std::int64_t nodes = 0, number = 0, rows = 0;
  double used[2] = {kInf, kInf};    // best at the root, by worker
  std::vector<std::int64_t> order;  // node numbers, in the order in which they were merged

  Pair(const mip::Problem& p, mip::Judge j, mip::SearchOptions o,
       const std::function<std::shared_ptr<mip::RowGenerator>()>& generator = {})
      : options(std::move(o)), judge(std::move(j)) {
    best.enter(mip::Translation(), p);
    for (int w = 0; w < 2; ++w) {
      mip::Problem own = p;
      if (generator) mip::set_generator(own, generator());
      workers[w] = std::make_unique<mip::Worker>(own, judge, options, clock, &mip::sub_search, w);
    }
  }

  void merge(std::size_t from, mip::NodeId id, mip::NodeOutcome outcome) {
    REQUIRE(outcome.end != mip::NodeOutcome::End::stopped);
    REQUIRE(outcome.by != mip::ClosedBy::unresolved);
    order.push_back(tree[id].number);
    rows += static_cast<std::int64_t>(outcome.rows.size());
    for (mip::Found& f : outcome.plans) (void)best.offer(std::move(f));
    if (outcome.root) root = outcome.root;
    mip::SharedKnowledge& other = news[1 - from];
    other.rows.insert(other.rows.end(), outcome.rows.begin(), outcome.rows.end());
    other.observations.insert(other.observations.end(), outcome.observations.begin(),
                              outcome.observations.end());
    for (mip::Child& c : outcome.children) {
      mip::Node child;
      child.parent = id;
      child.depth = tree[id].depth + 1;
      child.number = ++number;
      child.bound = outcome.bound;
      child.changes = c.changes;
      child.branched = c.branched;
      child.basis = outcome.basis;
      const mip::NodeId made = tree.add(std::move(child));
      open.push(made, tree[made]);
    }
    if (outcome.children.empty()) tree.close(id);
  }

  // `together`: both workers at the same time.
  void run(bool together) {
    (void)workers[1]->solve_as_stated();
    const mip::RootOutcome first = workers[0]->solve_as_stated();
    if (first.relaxed.status == lp::Status::infeasible || !first.possible) return;
    mip::Node start;
    start.bound = first.bound;
    const mip::NodeId at_root = tree.add(start);
    open.push(at_root, tree[at_root]);
    while (!open.empty()) {
      std::vector<mip::NodeId> ids;
      while (ids.size() < 2 && !open.empty()) {
        const mip::NodeId id = open.pop();
        if (best.cutoff().closes(tree[id].bound))
          tree.close(id);
        else
          ids.push_back(id);
      }
      std::vector<mip::NodeOutcome> outcomes(ids.size());
      std::vector<mip::Task> tasks(ids.size());
      std::vector<mip::SharedKnowledge> known(ids.size());
      for (std::size_t w = 0; w < ids.size(); ++w) {
        mip::Task& t = tasks[w];
        const mip::Node& node = tree[ids[w]];
        t.number = node.number;
        t.depth = node.depth;
        t.bound = node.bound;
        t.branched = node.branched;
        t.basis = node.basis;
        known[w] = std::exchange(news[w], {});
        known[w].root = root;
        known[w].nodes = ++nodes;
        if (best.any()) known[w].goal = best.plan().goal;
        known[w].best = best.best();
        // A better plan makes the root tighter: the way starts there.
        const bool afresh = root && best.best() < used[w];
        if (afresh) used[w] = best.best();
        t.stops = tree.legs_to(ids[w], afresh ? std::span<const std::int64_t>() : workers[w]->way(),
                               t.legs);
      }
      const auto work = [&](std::size_t w) {
        outcomes[w] = workers[w]->process(tasks[w], known[w]);
      };
      if (together && ids.size() == 2) {
        std::thread second(work, 1);
        work(0);
        second.join();
      } else {
        for (std::size_t w = 0; w < ids.size(); ++w) work(w);
      }
      for (std::size_t w = 0; w < ids.size(); ++w) merge(w, ids[w], std::move(outcomes[w]));
    }
    CHECK(tree.alive() == 0);
  }
};

}  // namespace

TEST_CASE("two workers fed by hand find the best point of every small problem", "[mip][threads]") {
  Random random(2026);
  for (int round = 0; round < 150; ++round) {
    const mip::Problem p = draw_problem(random, {});
    Pair pair(p, judge_of(p), {});
    pair.run(round % 3 == 0);
    const auto expected = best_by_trying(p);
    INFO("round " << round);
    REQUIRE(pair.best.any() == expected.has_value());
    if (expected) CHECK(pair.best.plan().goal == Rational(*expected));
  }
}

TEST_CASE("two workers answer alike in one thread and in two, node for node", "[mip][threads]") {
  for (const std::uint64_t seed : {1, 2, 3}) {
    const mip::Problem p =
        seed == 1 ? assignment(6, 30, 9) : many_knapsacks(4 + static_cast<int>(seed), 24, seed);
    mip::SearchOptions options;
    options.node.enumeration = seed == 3;
    if (seed != 2) options.cuts = mip::CutSwitches::none();  // more is left to the tree
    Pair one(p, judge_of(p), options), two(p, judge_of(p), options);
    one.run(false);
    two.run(true);
    CHECK(one.order == two.order);
    REQUIRE(one.best.any());
    CHECK(one.best.plan().plan == two.best.plan().plan);
    CHECK(one.nodes > (seed == 2 ? 1 : 10));
    const mip::SearchResult alone = mip::Search(p, judge_of(p), options).run();
    CHECK(alone.outcome == Outcome::optimal);
    CHECK(alone.goal == one.best.plan().goal);
  }
}

TEST_CASE(
    "rows that one worker generates hold for the other, and bases that rest on them are taken",
    "[mip][threads]") {
  Random random(31);
  std::int64_t rows = 0;
  for (int round = 0; round < 12; ++round) {
    const mip::Problem p = many_knapsacks(2, 9, 100 + static_cast<std::uint64_t>(round));
    const auto generator = [&] { return std::make_shared<ForbidOdd>(p.num_columns()); };
    Pair pair(p, judge_of(p), {}, generator);
    pair.run(round % 2 == 0);
    rows += pair.rows;
    double best = kInf;  // by trying all even points
    for (unsigned set = 0; set < 1U << 9U; ++set) {
      std::vector<double> x(9);
      int ones = 0;
      for (std::size_t j = 0; j < 9; ++j) {
        const int one = static_cast<int>(set >> j & 1U);
        x[j] = one;
        ones += one;
      }
      if (ones % 2 != 0) continue;
      bool fits = true;
      double goal = 0.0;
      for (linalg::Index i = 0; i < p.num_rows(); ++i) {
        double sum = 0.0;
        for (std::size_t k = 0; k < p.row(i).index.size(); ++k)
          sum += p.row(i).value[k] * x[at(p.row(i).index[k])];
        fits = fits && sum <= p.row_upper(i);
      }
      for (linalg::Index j = 0; j < 9; ++j) goal += p.cost(j) * x[at(j)];
      if (fits) best = std::min(best, goal);
    }
    REQUIRE(pair.best.any());
    CHECK(pair.best.plan().goal == Rational(best));
  }
  CHECK(rows > 20);
}
