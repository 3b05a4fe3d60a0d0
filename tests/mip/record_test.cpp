// The recorded tree of a search: every branch that was closed holds nothing better, as trying all
// points shows; the parts of a branch leave nothing of it out; and little room loses no better
// plan's way.
#include <catch2/catch.hpp>

#include "mip/search/tree_record.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

mip::SearchOptions plain(std::size_t nodes) {
  mip::SearchOptions o;
  o.record_nodes = nodes;
  o.presolving.on = o.presolving.brief_look = o.finding.rounding = o.node.enumeration =
      o.finding.core = o.finding.dives = o.finding.near_plan = o.finding.pump =
          o.finding.construction = false;
  o.node.strong = o.presolving.probing = o.node.learning = o.structures = o.node.price_fixing =
      o.presolving.orbits = false;
  o.cuts = mip::CutSwitches::none();
  return o;
}

// Whether a point is within the bounds that lead to a node; conditions are not looked at.
bool reaches(const std::vector<mip::NodeRecord>& tree, std::int64_t node,
             std::span<const Rational> x) {
  for (; node >= 0; node = tree[at(node)].parent)
    for (const mip::Change& c : tree[at(node)].changes) {
      if (c.what == mip::Change::What::lower && x[at(c.index)] < Rational::exactly(c.value))
        return false;
      if (c.what == mip::Change::What::upper && x[at(c.index)] > Rational::exactly(c.value))
        return false;
    }
  return true;
}

mip::Node node_with(std::int64_t number, double bound) {
  mip::Node n;
  n.number = number;
  n.bound = bound;
  n.changes = {{mip::Change::What::upper, static_cast<mip::Index>(number), 0.0}};
  return n;
}

}  // namespace

TEST_CASE("closed branches hold nothing better, and parts make a whole", "[mip][oracle]") {
  Random random(1641);
  int closed = 0, divided = 0, plans = 0;
  for (int round = 0; round < 1500; ++round) {
    CAPTURE(round);
    const mip::Problem p =
        draw_problem(random, {.columns = 7, .rows = 6, .conditional = 0.0, .ordered = 0.0});
    const mip::SearchResult found = mip::Search(p, judge_of(p), plain(1000)).run();
    const std::optional<Rational> best = best_by_trying(p);
    REQUIRE(found.outcome == (best ? Outcome::optimal : Outcome::infeasible));
    const std::vector<mip::NodeRecord>& tree = found.tree;
    std::vector<std::vector<std::int64_t>> parts(tree.size());
    for (std::size_t k = 1; k < tree.size(); ++k) {
      REQUIRE(tree[k].parent >= 0);
      REQUIRE(tree[k].parent < static_cast<std::int64_t>(k));
      parts[at(tree[k].parent)].push_back(static_cast<std::int64_t>(k));
    }
    each_point(p, [&](std::span<const Rational> x) {
      if (!satisfies(p, x)) return;
      const Rational goal = goal_of(p, x);
      for (std::size_t k = 0; k < tree.size(); ++k) {
        if (!reaches(tree, static_cast<std::int64_t>(k), x)) continue;
        // A bound is one.
        REQUIRE(goal >= Rational::exactly(std::max(tree[k].bound, -1e15)));
        if (tree[k].divided) {
          int holders = 0;
          for (const std::int64_t part : parts[k]) holders += reaches(tree, part, x);
          REQUIRE(holders == 1);
        } else if (tree[k].closed != mip::ClosedBy::none && std::isfinite(tree[k].best)) {
          REQUIRE(goal >= Rational::exactly(tree[k].best));
        }
      }
    });
    for (const mip::NodeRecord& n : tree) {
      closed += n.closed != mip::ClosedBy::none;
      divided += n.divided;
      plans += n.plan.has_value();
      CHECK_FALSE((n.divided && n.closed != mip::ClosedBy::none));
      CHECK(n.left_out == 0);
    }
  }
  CHECK(closed > 500);
  CHECK(divided > 60);
  CHECK(plans > 200);
}

TEST_CASE("a record changes nothing of a search", "[mip]") {
  Random random(1642);
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    const mip::Problem p = draw_problem(random, {});
    mip::SearchOptions seen;
    seen.record_nodes = 50;
    const mip::SearchResult a = mip::Search(p, judge_of(p), {}).run(),
                            b = mip::Search(p, judge_of(p), seen).run();
    CHECK(a.outcome == b.outcome);
    CHECK(a.counts.nodes == b.counts.nodes);
    CHECK(a.counts.pivots == b.counts.pivots);
    CHECK(a.counts.work == b.counts.work);
    CHECK(a.tree.empty());
    CHECK(a.history.size() <= b.history.size());
  }
}

TEST_CASE("what a record has no room for is counted above it", "[mip]") {
  mip::TreeRecord record(2);
  mip::Node root = node_with(0, 1.0), left = node_with(1, 2.0), right = node_with(2, 2.0),
            deeper = node_with(3, 3.0), deepest = node_with(4, 4.0);
  record.add(root, nullptr);
  record.add(left, &root);
  record.add(right, &root);
  record.add(deeper, &right);
  record.add(deepest, &deeper);
  record.looked_at(root, 1.5);
  record.divided(root);
  record.looked_at(left, 2.5);
  record.closed(left, mip::ClosedBy::bound, 9.0);
  record.looked_at(right, 2.25);
  record.looked_at(deeper, 3.5);
  CHECK(left.is_recorded);
  CHECK_FALSE(right.is_recorded);
  // A better plan at the deepest: its whole way is written out all the same.
  record.found({&root, &right, &deeper, &deepest}, 7.0);
  const std::vector<mip::NodeRecord> tree = record.take();
  REQUIRE(tree.size() == 4);  // twice what was asked for, and no more
  CHECK(tree[0].bound == 1.5);
  CHECK(tree[0].look == 1);
  CHECK(tree[1].look == 2);
  CHECK(tree[1].closed == mip::ClosedBy::bound);
  CHECK(tree[1].best == 9.0);
  CHECK(tree[2].parent == 0);
  CHECK(tree[3].parent == 2);
  CHECK(tree[2].divided);
  CHECK(tree[0].left_out == 0);
  CHECK(tree[3].left_out == 1);  // the deepest found no room any more
  CHECK(tree[0].left_out_looks == 2);
  CHECK(tree[0].left_out_bound == 2.25);
}

TEST_CASE("nothing is recorded unless somebody asks", "[mip]") {
  mip::TreeRecord record(0);
  mip::Node root = node_with(0, 1.0);
  record.add(root, nullptr);
  record.looked_at(root, 2.0);
  record.found({&root}, 3.0);
  record.divided(root);
  CHECK_FALSE(record.on());
  CHECK(record.take().empty());
}
