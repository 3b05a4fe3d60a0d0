// Changed limits, against lowering the variant from scratch.
#include "model/limit_changes.hpp"

#include <algorithm>
#include <cmath>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"

using namespace kiteknot;

namespace {

using Line = std::vector<std::pair<Index, double>>;

Line line(const mip::Problem& p, Index i) {
  Line l;
  for (std::size_t k = 0; k < p.rows().index(i).size(); ++k)
    l.emplace_back(p.rows().index(i)[k], p.rows().value(i)[k]);
  std::ranges::sort(l);
  return l;
}

// The problem with changed limits has the rows of the variant's own lowering.
void same_rows(mip::Problem changed, const mip::LimitChanges& changes, const mip::Problem& own) {
  for (const mip::RowLimits& c : changes) changed.set_limits(c.row, c.lower, c.upper);
  Index k = 0;
  for (Index i = 0; i < changed.num_rows(); ++i) {
    if (std::isinf(changed.row_lower(i)) && std::isinf(changed.row_upper(i))) continue;  // left out
    REQUIRE(k < own.num_rows());
    CHECK(line(changed, i) == line(own, k));
    CHECK(changed.row_lower(i) == own.row_lower(k));
    CHECK(changed.row_upper(i) == own.row_upper(k));
    ++k;
  }
  CHECK(k == own.num_rows());
}

struct Stated {
  Model model{"Limits"};
  std::vector<Decision> x;
  Number n, other, twice;

  Stated() : n(model.number("n", 12)), other(model.number("other", 5)), twice(doubled()) {
    for (int k = 0; k < 6; ++k)
      x.push_back(model.integer(fmt::format("x{}", k), {}, between(0, 4)).only());
  }
  [[nodiscard]] Expression at(std::size_t k) const { return Expression(x[k]); }

 private:
  Number doubled() { return model.number("twice", 2 * Expression(n) + 1); }
};

bool only_limits(const Model& m) {
  return MovedLimits(m.data(), lower(m.data()), 0).only_limits();
}

}  // namespace

TEST_CASE("a number in limits moves the rows it stands in", "[model][limits]") {
  Random random(55);
  for (int round = 0; round < 300; ++round) {
    CAPTURE(round);
    Stated s;
    const auto some = [&] {
      Expression e;
      for (std::size_t k = 0; k < 6; ++k)
        if (random.chance(0.6)) e += Rational::ratio(random.between(1, 9), 3) * s.at(k);
      return e + s.at(0);
    };
    s.model.rule("plain", some() <= Expression(s.n));
    s.model.rule("apart", some() <= Expression(s.other));
    s.model.rule("by way of another", some() - Expression(s.twice) <= s.at(1));
    s.model.rule("both ends", within(Expression(s.n) / 7, some(), 3 * Expression(s.n)));
    s.model.rule("product", some() >= Expression(s.n) * Expression(s.other) / 40 - 2);
    s.model.rule("equal", some() - some() == Expression(s.n) - 12);
    s.model.maximize("worth", some());
    const Lowering base = lower(s.model.data());
    const MovedLimits moved(s.model.data(), base, 0);
    REQUIRE(moved.only_limits());
    for (int k = 0; k < 5; ++k) {
      Model there = s.model;
      there.set(s.n, Rational::ratio(random.between(0, 100), 3));
      const mip::LimitChanges changes = moved.under(there.data());
      CHECK(changes.size() == 5);
      same_rows(base.problem, changes, lower(there.data()).problem);
    }
  }
}

TEST_CASE("a number anywhere else moves more than limits", "[model][limits]") {
  const auto stated = [](const auto& add) {
    Stated s;
    s.model.rule("plain", s.at(0) + s.at(1) <= Expression(s.n));
    add(s);
    return only_limits(s.model);
  };
  CHECK(stated([](Stated&) {}));
  CHECK(stated([](Stated& s) { s.model.maximize("g", s.at(0) * Expression(s.other)); }));
  CHECK_FALSE(stated([](Stated& s) { s.model.maximize("g", s.at(0) * Expression(s.n)); }));
  CHECK_FALSE(stated([](Stated& s) { s.model.maximize("g", s.at(0) + Expression(s.twice)); }));
  CHECK_FALSE(stated([](Stated& s) { s.model.rule("r", Expression(s.n) * s.at(0) <= 3); }));
  CHECK_FALSE(
      stated([](Stated& s) { s.model.rule("r", s.at(0) <= Expression(s.twice) * s.at(1)); }));
  CHECK_FALSE(stated([](Stated& s) {
    s.model.rule("r", largest({s.at(0), s.at(1)}) <= Expression(s.n));
  }));
  CHECK_FALSE(stated(
      [](Stated& s) { s.model.rule("r", implies(s.at(0) <= 1, s.at(1) >= Expression(s.n) - 9)); }));
  CHECK_FALSE(stated([](Stated& s) { s.model.rule("r", s.at(0) - s.at(0) <= Expression(s.n)); }));
  CHECK_FALSE(
      stated([](Stated& s) { (void)s.model.integer("y", {}, between(0, Expression(s.n))); }));
  CHECK_FALSE(stated([](Stated& s) {  // the wrong way round as it stands
    s.model.rule("r", within(30, s.at(0) + s.at(1), Expression(s.n)));
  }));
}

TEST_CASE("a rule whose limits cross has no plan", "[model][limits]") {
  Stated s;
  s.model.rule("r", within(3, s.at(0) + s.at(1), Expression(s.n)));
  const Lowering base = lower(s.model.data());
  Model there = s.model;
  there.set(s.n, 2);
  const mip::LimitChanges c = MovedLimits(s.model.data(), base, 0).under(there.data());
  REQUIRE(c.size() == 1);
  CHECK(c[0].lower > c[0].upper);
}

TEST_CASE("a rule that became rows only can be left out", "[model][limits]") {
  Model m{"Left out"};
  std::vector<Decision> x;
  for (int k = 0; k < 4; ++k) x.push_back(m.binary(fmt::format("x{}", k)).only());
  m.rule("sum", Expression(x[0]) + x[1] + x[2] <= 2);
  m.rule("always", Expression(x[0]) - x[0] <= 2);
  m.rule("implied", implies(x[0], x[1]));
  m.rule("count", exactly(2, {x[0], x[1], x[3]}));
  m.rule("helped", exclusive(all_of({x[0], x[1]}), any_of({x[2], x[3]})));
  m.rule("product", Expression(x[0]) * Expression(x[1]) <= Expression(x[2]));
  const Lowering base = lower(m.data());
  REQUIRE(base.rows.size() == 6);
  for (std::size_t k = 0; k < 4; ++k) {
    CAPTURE(k);
    const auto changes = without_row(base, k);
    REQUIRE(changes);
    Model less = m;
    less.without(m.data().rules[k]->name);
    same_rows(base.problem, *changes, lower(less.data()).problem);
  }
  CHECK_FALSE(without_row(base, 4));  // it brought columns of its own
  CHECK_FALSE(without_row(base, 5));
}
