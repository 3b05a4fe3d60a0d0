// Clashes against trying every subset of the rules.
#include "kiteknot/explain.hpp"

#include <algorithm>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

TEST_CASE("a clash leaves no plan, and every part of it leaves one", "[explain]") {
  Random random(909);
  int found = 0, none = 0, with_limits = 0, unneeded = 0;
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    Model m{"Clashing"};
    std::vector<Decision> x;
    for (int k = 0; k < 3; ++k)
      x.push_back(m.integer(fmt::format("x{}", k), {}, between(0, 2)).only());
    struct Row {
      std::vector<int> c;
      int limit;
    };
    std::vector<Row> rows;
    for (int r = 0; r < 6; ++r) {
      Row row{{}, static_cast<int>(random.between(-2, 2))};
      Expression e;
      for (std::size_t k = 0; k < 3; ++k) {
        row.c.push_back(static_cast<int>(random.between(-2, 2)));
        e += row.c.back() * Expression(x[k]);
      }
      m.rule(fmt::format("r{}", r), e <= row.limit);
      rows.push_back(std::move(row));
    }
    m.maximize("goal", x[0] + Expression(x[1]));
    const auto fits = [&](const std::vector<std::size_t>& some) {
      for (int code = 0; code < 27; ++code) {
        const int plan[] = {code % 3, code / 3 % 3, code / 9};
        bool ok = true;
        for (const std::size_t r : some) {
          int sum = 0;
          for (std::size_t k = 0; k < 3; ++k) sum += rows[r].c[k] * plan[k];
          ok = ok && sum <= rows[r].limit;
        }
        if (ok) return true;
      }
      return false;
    };
    const Clash clash = find_clash(m);
    if (fits({0, 1, 2, 3, 4, 5})) {
      ++none;
      REQUIRE(clash.kind == Clash::Kind::none);
      continue;
    }
    ++found;
    REQUIRE(clash.kind == Clash::Kind::found);
    std::vector<std::size_t> all;
    for (const RuleRow& row : clash.rows) all.push_back(static_cast<std::size_t>(row.family));
    CHECK_FALSE(fits(all));
    // The limits that take part are enough: no point of a wide box fits, whole or in halves.
    const auto limited = [&](DecisionLimit::Which which, int d) {
      const auto& l = clash.limits;
      return std::find(l.begin(), l.end(), DecisionLimit{which, d}) != l.end();
    };
    bool point = false;
    for (int code = 0; code < 25 * 25 * 25 && !point; ++code) {
      const int halves[] = {code % 25 - 10, code / 25 % 25 - 10, code / 625 - 10};
      bool ok = true;
      for (int d = 0; d < 3; ++d)
        ok = ok && !(limited(DecisionLimit::Which::least, d) && halves[d] < 0) &&
             !(limited(DecisionLimit::Which::most, d) && halves[d] > 4) &&
             !(limited(DecisionLimit::Which::whole, d) && halves[d] % 2 != 0);
      for (const std::size_t r : all) {
        int sum = 0;
        for (std::size_t k = 0; k < 3; ++k) sum += rows[r].c[k] * halves[k];
        ok = ok && sum <= 2 * rows[r].limit;
      }
      point = ok;
    }
    CHECK_FALSE(point);
    for (const char needed : clash.limit_needed) unneeded += needed ? 0 : 1;
    with_limits += clash.limits.empty() ? 0 : 1;
    for (std::size_t k = 0; k < all.size(); ++k) {
      std::vector<std::size_t> others = all;
      others.erase(others.begin() + static_cast<std::ptrdiff_t>(k));
      CHECK(fits(others));
      CHECK(clash.row_needed[k]);
    }
  }
  CHECK(found > 50);
  CHECK(none > 50);
  CHECK(with_limits > 30);
  CHECK(unneeded == 0);
}

namespace {

// Two thousand rows that hold easily, but for six among them: x[i] < x[j] < ... in a circle.
Model planted() {
  Model m{"Planted"};
  std::string csv = "row\n";
  for (int k = 0; k < 2000; ++k) csv += fmt::format("i{}\n", k);
  const auto table = Table::parse("t", csv, {.key = {"row"}});
  const auto x = m.integer("x", table, between(0, 9));
  m.rule("step", table, [&](Row r) {
    const int k = r.index();
    const bool planted = k % 300 == 7 && k / 300 < 6;
    const int next = planted ? (k / 300 == 5 ? 7 : k + 300) : (k + 1) % 2000;
    const Expression difference = x[r] - Expression(x[Row(r.table(), next)]);
    return planted ? difference <= -1 : difference <= 9;
  });
  return m;
}

}  // namespace

TEST_CASE("a planted clash of six among two thousand rows is found in few solves", "[explain]") {
  const Model m = planted();
  const Clash clash = find_clash(m);
  REQUIRE(clash.kind == Clash::Kind::found);
  CHECK(clash.rows.size() == 6);
  CHECK(clash.solves <= 100);
  for (const RuleRow& row : clash.rows) CHECK(row.member % 300 == 7);
}

// However early it ends, what is told as a clash is one, and the limit holds for all solves at
// once.
TEST_CASE("a clash cut short by the time limit is still proven", "[explain]") {
  int cut = 0, whole = 0;
  for (const double seconds : {0.0, 0.02, 0.1, 0.3}) {
    CAPTURE(seconds);
    const Model m = planted();
    const Clash clash = find_clash(m, {.seconds = seconds});
    CHECK(clash.kind != Clash::Kind::none);
    if (clash.kind != Clash::Kind::found) continue;
    REQUIRE(clash.row_needed.size() == clash.rows.size());
    ++(std::count(clash.row_needed.begin(), clash.row_needed.end(), 0) > 0 ? cut : whole);
    Model kept = m;
    kept.forget_goals();
    kept.keep_rows([&](std::int32_t family, std::int32_t member) {
      return std::find(clash.rows.begin(), clash.rows.end(), RuleRow{family, member}) !=
             clash.rows.end();
    });
    CHECK(solve(kept).outcome == Outcome::infeasible);
  }
  CHECK(cut + whole > 0);
}

TEST_CASE("logic, bounds and feasible models are explained too", "[explain]") {
  Model m{"Logic"};
  const auto a = m.binary("a"), b = m.binary("b");
  m.rule("first", implies(a, b));
  m.rule("second", implies(b, negated(a)));
  m.rule("third", a);
  m.rule("idle", any_of({a, b}));
  const Clash clash = find_clash(m);
  REQUIRE(clash.kind == Clash::Kind::found);
  CHECK(clash.rows.size() == 3);
  const std::string page = explanation_page(m, explain(m));
  CHECK(page.find("These cannot hold together, though any smaller part of them can") !=
        std::string::npos);
  CHECK(page.find("a implies b") != std::string::npos);
  CHECK(page.find("idle") == std::string::npos);

  Model narrow{"Narrow"};
  const auto n = narrow.integer("n", {}, between(Rational::ratio(1, 4), Rational::ratio(3, 4)));
  narrow.rule("any", n.only() >= 0);
  const Clash by_itself = find_clash(narrow);
  REQUIRE(by_itself.kind == Clash::Kind::found);
  CHECK(by_itself.rows.empty());
  CHECK(by_itself.limits.size() == 3);  // at least, at most, whole
  CHECK(explanation_page(narrow, explain(narrow)).find("It is not the rules") != std::string::npos);
  Model fine{"Fine"};
  fine.rule("any", fine.binary("c").only() >= 0);
  CHECK(find_clash(fine).kind == Clash::Kind::none);
}
