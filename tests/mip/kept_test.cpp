// Searches that are stopped, packed into bytes, and gone on with, as often as it takes: the best
// goal and the proof are those of a search in one go.
#include <set>

#include <catch2/catch.hpp>

#include "base/pack.hpp"
#include "mip/kinds/generated_rows.hpp"
#include "mip/kinds/indicator_rows.hpp"
#include "mip/kinds/nonlinear_terms.hpp"
#include "mip/kinds/special_ordered_sets.hpp"
#include "mip/parallel/kept_tree.hpp"
#include "support/random_mips.hpp"
#include "support/search_families.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

class Silent final : public mip::RowGenerator {
  [[nodiscard]] bool wants_fractions() const override { return false; }
  std::vector<mip::LinearRow> look(std::span<const double>, bool) override { return {}; }
};

struct InPieces {
  mip::SearchResult last;
  int pieces = 0, with_tree = 0;
  std::int64_t nodes = 0;
};

// So many branches at a time, with what was kept in between and nothing else.
InPieces in_pieces(const mip::Problem& p, const mip::SearchOptions& options, std::int64_t nodes,
                   const std::function<int(int)>& threads) {
  InPieces all;
  std::string bytes;
  for (;;) {
    REQUIRE(all.pieces < 3'000);
    mip::SearchOptions o = options;
    o.budget.nodes = nodes;
    o.crew.threads = threads(all.pieces);
    o.crew.joins_after = 0;
    auto keeper = std::make_shared<mip::Keeper>();
    std::string kept;
    keeper->write = [&](const mip::KeptState& state) { kept = mip::packed(state); };
    o.keeper = keeper;
    if (!bytes.empty()) {
      const mip::KeptState state = mip::unpacked(bytes);
      if (state.plan) o.given.plans = {*state.plan};
      o.given.known_bound = state.bound;
      o.given.counts_before = state.counts;
      if (state.tree) {
        o.given.tree = std::make_shared<const mip::KeptTree>(*state.tree);
        ++all.with_tree;
      }
    }
    all.last = mip::Search(p, judge_of(p), o).run();
    ++all.pieces;
    all.nodes += all.last.counts.nodes;
    REQUIRE(!kept.empty());
    CHECK(mip::unpacked(kept).counts.nodes == all.nodes);
    bytes = kept;
    if (all.last.stopped_by != mip::StoppedBy::nodes) return all;
  }
}

mip::SearchOptions bare() {
  mip::SearchOptions o;
  o.presolving.brief_look = o.node.enumeration = o.structures = false;
  o.cuts = mip::CutSwitches::none();
  return o;
}

}  // namespace

TEST_CASE("a search in pieces ends where one in one go does", "[mip][kept]") {
  for (const std::uint64_t seed : {1, 2, 3, 4}) {
    const mip::Problem p = seed == 1   ? assignment(6, 24, 9)
                           : seed == 4 ? lots(3, 6, 5)
                                       : many_knapsacks(3 + static_cast<int>(seed), 24, seed);
    const mip::SearchOptions options = bare();
    const mip::SearchResult whole = mip::Search(p, judge_of(p), options).run();
    REQUIRE(whole.outcome == Outcome::optimal);
    for (const int threads : {1, 3}) {
      const InPieces parts =
          in_pieces(p, options, std::max<std::int64_t>(7, whole.counts.nodes / 9),
                    [&](int k) { return threads == 1 ? 1 : 1 + k % threads; });
      CAPTURE(seed, threads, parts.pieces);
      CHECK(parts.last.outcome == Outcome::optimal);
      CHECK(parts.last.goal == whole.goal);
      CHECK(parts.last.proven_exactly == whole.proven_exactly);
      CHECK(parts.with_tree > 1);
      // Nothing is done twice but what bases and heuristics would have spared.
      CHECK(parts.nodes < 4 * whole.counts.nodes + 400);
    }
  }
}

TEST_CASE("tiny problems of every kind in pieces of a few branches", "[mip][kept]") {
  Random random(73);
  int open = 0, with_tree = 0;
  for (std::int64_t k = 0; k < 700; ++k) {
    const TinyMip t = draw_tiny(random, k);
    mip::SearchOptions options =
        Trials::options(static_cast<std::size_t>(k) % Trials::kCount, 1 + random.between(0, 99));
    options.presolving.brief_look = options.node.enumeration = options.structures = false;
    if (random.chance(0.5)) {
      options.cuts = mip::CutSwitches::none();
      options.node.strong = false;
    }
    CAPTURE(k, t.kind);
    const InPieces parts = in_pieces(t.problem, options, random.between(3, 12),
                                     [&](int) { return random.chance(0.3) ? 2 : 1; });
    with_tree += parts.with_tree;
    const mip::SearchResult& r = parts.last;
    if (r.outcome == Outcome::unproven || r.outcome == Outcome::undecided) {
      CHECK(!r.reason.empty());
      ++open;
      continue;
    }
    CHECK(r.outcome == t.outcome);
    if (r.plan) CHECK(satisfies(t.problem, *r.plan));
    if (t.outcome == Outcome::optimal && r.proven_exactly) CHECK(r.goal == t.goal);
  }
  CHECK(open < 40);
  CHECK(with_tree > 20);
}

TEST_CASE("fractions of any length, and infinities, come back as they were", "[mip][kept]") {
  Rational huge = *Rational::parse("123456789");
  for (int k = 0; k < 10; ++k) huge = huge * huge + 1;
  const std::vector<Rational> all = {0,
                                     -1,
                                     Rational(1) / 3,
                                     -huge / 7,
                                     1 / huge,
                                     *Rational::parse("1e-300"),
                                     huge,
                                     Rational::infinity(),
                                     Rational::minus_infinity(),
                                     *Rational::parse("0.1")};
  REQUIRE(huge.text().size() > 5'000);
  Packer packer;
  packer(all);
  const std::string bytes = packer.take();
  Unpacker unpacker(bytes);
  std::vector<Rational> again;
  unpacker(again);
  CHECK(unpacker.at_end());
  CHECK(again == all);
}

TEST_CASE("bytes that were changed are refused, or are another state: never a crash",
          "[mip][kept]") {
  const mip::Problem p = many_knapsacks(4, 24, 3);
  mip::SearchOptions options = bare();
  options.budget.nodes = 60;
  std::string kept;
  auto keeper = std::make_shared<mip::Keeper>();
  keeper->write = [&](const mip::KeptState& state) { kept = mip::packed(state); };
  options.keeper = keeper;
  (void)mip::Search(p, judge_of(p), options).run();
  REQUIRE(kept.size() > 1'000);
  REQUIRE(mip::packed(mip::unpacked(kept)) == kept);
  Random random(9);
  int refused = 0;
  for (int round = 0; round < 2'000; ++round) {
    std::string other = kept;
    if (random.chance(0.3))
      other.resize(
          static_cast<std::size_t>(random.between(0, static_cast<std::int64_t>(kept.size()) - 1)));
    else
      for (int k = 0; k < 3; ++k)
        other[static_cast<std::size_t>(
            random.between(0, static_cast<std::int64_t>(kept.size()) - 1))] =
            static_cast<char>(random.between(-128, 127));
    try {
      (void)mip::unpacked(other);
    } catch (const DamagedBytes&) {
      ++refused;
    }
  }
  CHECK(refused > 600);
}

TEST_CASE("the mark of a problem knows every number that it states", "[mip][kept]") {
  // Each of these differs from the first in one of them.
  const auto stated = [](int other) {
    mip::Problem p;
    for (int j = 0; j < 4; ++j)
      (void)p.add_column(0.0, other == 1 && j == 0 ? 2.0 : 1.0, j < 3, 1.0 + j);
    p.add_row({{{0, 1.0}, {1, other == 2 ? 3.0 : 2.0}}, 0.0, 2.0, true});
    const linalg::Index condition = p.add_condition(2);
    mip::LinearRow under{{{0, 1.0}, {3, other == 3 ? 5.0 : 4.0}}, -kInf, 3.0, true};
    if (other == 4)
      under.known = lp::Exact{-kInf, 3.0, Rational::minus_infinity(), 3, {1, Rational(13) / 3}};
    mip::add_indicator_row(p, {{condition, other != 5}, under});
    mip::add_special_ordered_set(p, {{0, 1, 3}, other == 6 ? 2 : 1});
    mip::add_nonlinear_term(
        p, {.value = 3, .x = 0, .f = mip::UnaryFunction::whole_power(other == 7 ? 3 : 2)});
    mip::add_linear_step(p, {2, {{1, 1.0}}, other == 8 ? 1.0 : 0.0});
    if (other == 9) p.set_exact_costs({1, 2, 3, Rational(9) / 2});
    return mip::mark_of(p);
  };
  std::set<std::uint64_t> seen;
  for (int other = 0; other < 10; ++other) {
    const auto mark = stated(other);
    REQUIRE(mark);
    CHECK(mark == stated(other));
    CHECK(seen.insert(*mark).second);
  }
  mip::Problem asked = many_knapsacks(2, 6, 1);
  mip::set_generator(asked, std::make_shared<Silent>());
  CHECK(!mip::mark_of(asked));  // nobody knows what it would add
}

TEST_CASE("a kept tree of another problem is not taken; its plan and bound are", "[mip][kept]") {
  const mip::Problem p = many_knapsacks(4, 24, 3);
  mip::Problem other = p;
  other.set_bounds(0, 1.0, 1.0);
  CHECK(mip::mark_of(p) != mip::mark_of(other));
  CHECK(mip::mark_of(p) == mip::mark_of(mip::Problem(p)));
  mip::SearchOptions options = bare();
  options.budget.nodes = 40;
  std::optional<mip::KeptState> kept;
  auto keeper = std::make_shared<mip::Keeper>();
  keeper->write = [&](const mip::KeptState& state) { kept = state; };
  options.keeper = keeper;
  (void)mip::Search(other, judge_of(other), options).run();
  REQUIRE(kept->tree);
  mip::SearchOptions again = bare();
  again.given.tree = std::make_shared<const mip::KeptTree>(*kept->tree);
  const mip::SearchResult found = mip::Search(p, judge_of(p), again).run();
  const mip::SearchResult expected = mip::Search(p, judge_of(p), bare()).run();
  CHECK(found.outcome == Outcome::optimal);
  CHECK(found.goal == expected.goal);
}
