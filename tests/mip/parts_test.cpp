// The parts of the search on their own: open nodes, pseudo-costs, the relaxation's scaling,
// problems.
#include <map>
#include <set>

#include <catch2/catch.hpp>

#include "kiteknot/errors.hpp"
#include "support/brute_force.hpp"
#include "support/search_families.hpp"

using namespace kiteknot;
using namespace kiteknot::test;
using linalg::Index;

TEST_CASE("open nodes come by best bound, then the deepest, then the newest", "[mip][parts]") {
  mip::Tree tree;
  mip::Frontier open;
  open.take_best_bound_first();
  const auto put = [&](double bound, int depth, std::int64_t number) {
    mip::Node node;
    node.bound = bound;
    node.depth = depth;
    node.number = number;
    const mip::NodeId id = tree.add(node);
    open.push(id, tree[id]);
  };
  put(3.0, 1, 1);
  put(2.0, 1, 2);
  put(2.0, 4, 3);
  put(2.0, 4, 4);
  put(-1.0, 0, 5);
  CHECK(open.best_bound() == -1.0);
  std::vector<std::int64_t> order;
  while (!open.empty()) order.push_back(tree[open.pop()].number);
  CHECK(order == std::vector<std::int64_t>{5, 4, 3, 2, 1});
}

TEST_CASE("while there is no plan open nodes come by what they promise, and know their best bound",
          "[mip][parts]") {
  Random random(8);
  mip::Tree tree;
  mip::Frontier open;
  std::multiset<double> bounds;
  std::vector<double> promised;
  for (int k = 0; k < 300; ++k) {
    mip::Node node;
    node.bound = static_cast<double>(random.between(0, 50));
    node.estimate = node.bound + static_cast<double>(random.between(0, 20));
    node.number = k;
    bounds.insert(node.bound);
    const mip::NodeId id = tree.add(node);
    open.push(id, tree[id]);
    CHECK(open.best_bound() == *bounds.begin());
  }
  for (int k = 0; k < 100; ++k) {
    const mip::Node& node = tree[open.pop()];
    promised.push_back(node.estimate);
    bounds.erase(bounds.find(node.bound));
    CHECK(open.best_bound() == *bounds.begin());
  }
  CHECK(std::is_sorted(promised.begin(), promised.end()));
  for (const mip::NodeId id : open.take_worse_half()) {
    CHECK(tree[id].estimate >= promised.back());
    bounds.erase(bounds.find(tree[id].bound));
  }
  CHECK(open.size() == bounds.size());
  CHECK(open.best_bound() == *bounds.begin());
  open.check_invariants();
  open.take_best_bound_first();
  open.check_invariants();
  double last = -kInf;
  while (!open.empty()) {
    CHECK(open.best_bound() >= last);
    last = open.best_bound();
    CHECK(tree[open.pop()].bound == last);
  }
}

namespace {

// A tree as a search builds it: every node but the root drops the upper bound of one column.
struct Planted {
  mip::Tree tree;
  std::int64_t next = 0;
  mip::NodeId root() {
    mip::Node node;
    node.number = next++;
    return tree.add(node);
  }
  mip::NodeId child(mip::NodeId of, Index j, double upper) {
    mip::Node node;
    node.parent = of;
    node.depth = tree[of].depth + 1;
    node.number = next++;
    node.changes = {{mip::Change::What::upper, j, upper}};
    return tree.add(node);
  }
};

}  // namespace

TEST_CASE("the way to a node is walked from the nearest common ancestor", "[mip][parts]") {
  mip::Problem p;
  for (int j = 0; j < 4; ++j) p.add_column(0.0, 9.0, true, 0.0);
  mip::Domain domain(p);
  Planted planted;
  mip::Tree& tree = planted.tree;
  const auto root = planted.root(), left = planted.child(root, 0, 3.0),
             right = planted.child(root, 0, 7.0), middle = planted.child(right, 1, 5.0),
             deep = planted.child(middle, 2, 4.0), near = planted.child(left, 3, 1.0),
             other = planted.child(middle, 3, 2.0), none = planted.child(left, 0, -1.0);
  mip::NodePath way;
  std::vector<mip::TreeStep> legs;
  const auto go = [&](mip::NodeId id, std::size_t most_legs) {
    const std::size_t stops = tree.legs_to(id, way.numbers(), legs);
    CHECK(legs.size() <= most_legs);
    return way.go(stops, legs, 0, domain);
  };
  way.leave(tree[root].number, domain.mark());
  REQUIRE(go(left, 1));
  way.leave(tree[left].number, domain.mark());
  REQUIRE(go(near, 1));
  CHECK((domain.upper(0) == 3.0 && domain.upper(3) == 1.0));
  REQUIRE(go(deep, 3));  // over a node that the search never left
  CHECK((domain.upper(0) == 7.0 && domain.upper(1) == 5.0 && domain.upper(2) == 4.0));
  CHECK(domain.upper(3) == 9.0);
  REQUIRE(go(other, 1));
  CHECK((domain.upper(1) == 5.0 && domain.upper(2) == 9.0 && domain.upper(3) == 2.0));
  CHECK_FALSE(go(none, 2));
  CHECK_NOTHROW(way.check_invariants());
}

TEST_CASE("random walks in a tree stand where a walk from the root would", "[mip][parts]") {
  Random random(12);
  mip::Problem p;
  for (int j = 0; j < 5; ++j) p.add_column(0.0, 1000.0, true, 0.0);
  for (int round = 0; round < 60; ++round) {
    Planted planted;
    mip::Tree& tree = planted.tree;
    std::vector<mip::NodeId> nodes = {planted.root()};
    for (int k = 0; k < 60; ++k) {
      const auto of = nodes[static_cast<std::size_t>(
          random.between(std::max<std::int64_t>(0, k - 6), static_cast<std::int64_t>(k)))];
      nodes.push_back(planted.child(of, static_cast<Index>(random.between(0, 4)),
                                    static_cast<double>(random.between(0, 999))));
    }
    mip::Domain domain(p);
    mip::NodePath way;
    std::vector<mip::TreeStep> legs;
    for (int step = 0; step < 100; ++step) {
      const auto id = nodes[static_cast<std::size_t>(random.between(0, 60))];
      const std::size_t stops = tree.legs_to(id, way.numbers(), legs);
      REQUIRE(way.go(stops, legs, 0, domain));
      if (random.chance(0.5)) way.leave(tree[id].number, domain.mark());
      std::vector<double> upper(5, 1000.0);
      for (mip::NodeId k = id; k != mip::kNoNode; k = tree[k].parent)
        for (const mip::Change& c : tree[k].changes)
          upper[at(c.index)] = std::min(upper[at(c.index)], c.value);
      for (Index j = 0; j < 5; ++j) CHECK(domain.upper(j) == upper[at(j)]);
    }
  }
}

TEST_CASE(
    "a chain of a million nodes is taken apart without recursion, and its slots are used again",
    "[mip][parts]") {
  Planted planted;
  mip::Tree& tree = planted.tree;
  mip::NodeId last = planted.root();
  for (int k = 0; k < 1'000'000; ++k) last = planted.child(last, 0, 1.0);
  const mip::NodeId beside = planted.child(tree[last].parent, 0, 0.0);
  CHECK(tree.alive() == 1'000'002);
  tree.close(last);
  CHECK(tree.alive() == 1'000'001);
  tree.close(beside);
  CHECK(tree.alive() == 0);
  CHECK(planted.root() < 1'000'002);
  CHECK(tree.alive() == 1);
}

TEST_CASE("pseudo-costs prefer the column that moved the goal most on both sides", "[mip][parts]") {
  mip::Problem p;
  for (int j = 0; j < 3; ++j) p.add_column(0.0, 1.0, true, 0.0);
  const mip::Domain domain(p);
  mip::PseudoCosts costs(3);
  const std::vector<double> point = {0.5, 0.5, 1.0};
  costs.learn({0, false, 0.5, 1.0});
  costs.learn({0, true, 0.5, 1.0});
  costs.learn({1, false, 0.5, 9.0});
  costs.learn({1, true, 0.5, 9.0});
  CHECK(costs.choose(domain, point) == 1);
  CHECK(costs.choose(domain, std::vector<double>{0.4, 1.0, 0.0}) == 0);
  CHECK(costs.choose(domain, std::vector<double>{0.0, 1.0, 1.0 - 1e-9}) == -1);
  costs.learn({1, true, 0.0, 5.0});  // no distance, nothing learned
  CHECK(costs.choose(domain, point) == 1);
}

TEST_CASE("the relaxation scales rows by powers of two and unscales duals", "[mip][parts]") {
  // minimise x with 1000 x >= 3000: the goal changes by 1/1000 per unit of the limit.
  mip::Problem p;
  p.add_column(0.0, 10.0, false, 1.0);
  p.add_row({{{0, 1000.0}}, 3000.0, kInf, true});
  mip::Relaxation relaxation(p);
  const lp::Program& program = relaxation.simplex().program();
  CHECK(program.rows().value(0)[0] == 1000.0 / 512.0);
  CHECK(program.row_lower(0) == 3000.0 / 512.0);
  REQUIRE(relaxation.solve({}).status == lp::Status::optimal);
  CHECK(relaxation.point()[0] == Approx(3.0));
  CHECK(relaxation.row_duals()[0] == Approx(0.001));
  CHECK(relaxation.limit_room(0).high == Approx(7000.0));
}

TEST_CASE("loose bounds give reals their own limits back and leave whole decisions fixed",
          "[mip][parts]") {
  mip::Problem p;
  p.add_column(0.0, 5.0, true, 0.0);
  p.add_column(0.0, 10.0, false, 0.0);
  mip::Domain d(p);
  REQUIRE(d.raise_lower(0, 2.0));
  REQUIRE(d.drop_upper(1, 10.0 / 3.0));
  mip::Relaxation relaxation(p);
  relaxation.take(d);
  CHECK(relaxation.simplex().program().upper(1) == 10.0 / 3.0);
  relaxation.take(d, true);
  CHECK(relaxation.simplex().program().upper(1) == 10.0);
  CHECK(relaxation.simplex().program().lower(0) == 2.0);
  REQUIRE(d.drop_upper(1, 0.0));  // a whole bound is exact and stays
  relaxation.take(d, true);
  CHECK(relaxation.simplex().program().upper(1) == 0.0);
}

TEST_CASE("problems refuse bad numbers and round limits only where rows are whole",
          "[mip][parts]") {
  mip::Problem p;
  CHECK_THROWS_AS(p.add_column(std::nan(""), 1.0, true, 0.0), UsageError);
  CHECK_THROWS_AS(p.add_column(0.0, 1.0, true, kInf), UsageError);
  p.add_column(0.0, 9.0, true, 1.0);
  p.add_column(0.0, 9.0, false, 1.0);
  CHECK_THROWS_AS(p.add_row({{{0, std::nan("")}}, 0.0, 1.0, true}), UsageError);
  mip::Problem q;
  q.add_column(0.0, 9.0, true, 1.0);
  q.add_column(0.0, 9.0, false, 1.0);
  q.add_row({{{0, 2.0}}, 0.5, 7.5, true});
  q.add_row({{{0, 2.0}, {1, 1.0}}, 0.5, 7.5, true});
  q.add_row({{{0, 2.5}}, 0.5, 7.5, true});
  q.add_row({{{0, 2.0}}, 0.5, 7.5, false});
  REQUIRE(q.round_limits());
  CHECK(q.row_lower(0) == 1.0);
  CHECK(q.row_upper(0) == 7.0);
  for (linalg::Index i = 1; i < 4; ++i) CHECK(q.row_upper(i) == 7.5);
}

TEST_CASE("gaps are relative to the value and 0 when equal", "[mip][parts]") {
  CHECK(mip::relative_gap(482.0, 482.0, 1.0) == 0.0);
  CHECK(mip::relative_gap(100.0, 98.0, 1.0) == Approx(0.02));
  CHECK(mip::relative_gap(-100.0, -102.0, 1.0) == Approx(0.02));
  CHECK(mip::relative_gap(0.0, -1.0, 1.0) == Approx(1e10));
}

TEST_CASE("nodes that wait on disk come back as they were, the best ones first", "[mip][parts]") {
  Random random(3);
  mip::Overflow overflow;
  CHECK(overflow.best_bound() == kInf);
  std::map<std::int64_t, mip::Node> put;
  std::int64_t number = 0;
  for (int batch = 0; batch < 4; ++batch) {
    std::vector<mip::Node> nodes;
    for (int k = 0; k < 2'500; ++k) {
      mip::Node node;
      node.number = ++number;
      node.bound = static_cast<double>(random.between(-500, 500));
      node.branched = {static_cast<linalg::Index>(k), random.chance(0.5), 0.25, 1.5};
      for (auto c = random.between(0, 5); c > 0; --c)
        node.changes.push_back(
            {random.chance(0.5) ? mip::Change::What::lower : mip::Change::What::upper,
             static_cast<linalg::Index>(random.between(0, 99)),
             static_cast<double>(random.between(-9, 9))});
      put[node.number] = node;
      nodes.push_back(std::move(node));
    }
    REQUIRE(overflow.put(std::move(nodes)));
    double best = kInf;
    for (const auto& [unused, node] : put) best = std::min(best, node.bound);
    CHECK(overflow.best_bound() == best);
    const std::vector<mip::Node> back = overflow.take();
    REQUIRE_FALSE(back.empty());
    CHECK(back.front().bound == best);
    for (const mip::Node& node : back) {
      const auto it = put.find(node.number);
      REQUIRE(it != put.end());
      CHECK(node.bound == it->second.bound);
      CHECK(node.branched.column == it->second.branched.column);
      CHECK(node.branched.up == it->second.branched.up);
      REQUIRE(node.changes.size() == it->second.changes.size());
      for (std::size_t k = 0; k < node.changes.size(); ++k) {
        CHECK(node.changes[k].what == it->second.changes[k].what);
        CHECK(node.changes[k].index == it->second.changes[k].index);
        CHECK(node.changes[k].value == it->second.changes[k].value);
      }
      put.erase(it);
    }
    CHECK(overflow.size() == static_cast<std::int64_t>(put.size()));
  }
  while (!overflow.empty())
    for (const mip::Node& node : overflow.take()) CHECK(put.erase(node.number) == 1);
  CHECK(put.empty());
}

TEST_CASE("a search with little memory proves what one with much does", "[mip][parts]") {
  for (const std::uint64_t seed : {1U, 2U, 3U}) {
    CAPTURE(seed);
    const mip::Problem p = many_knapsacks(4, 34, seed);
    mip::SearchOptions options;
    options.node.enumeration = false;  // more is left to the tree
    const mip::SearchResult much = mip::Search(p, judge_of(p), options).run();
    options.memory_bytes = 4'000.0;
    const mip::SearchResult little = mip::Search(p, judge_of(p), options).run();
    REQUIRE(much.outcome == Outcome::optimal);
    CHECK(little.outcome == Outcome::optimal);
    CHECK(little.goal == much.goal);
    CHECK(little.proven_exactly);
    CHECK(little.counts.nodes < 2 * much.counts.nodes);
    const auto waited = std::find_if(
        little.parts.begin(), little.parts.end(),
        [](const mip::PartTally& part) { return part.name == "branches that waited on disk"; });
    REQUIRE(waited != little.parts.end());
    CHECK(waited->tally.calls > 20);
  }
}
