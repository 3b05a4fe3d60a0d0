// Products, the largest of some, distances and curves against their plain textbook forms: a product
// by four rows, the largest by one binary a member, a curve by one binary a piece. The optimum must
// be the same, and the relaxation no weaker.
#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/solve.hpp"

using namespace kiteknot;

namespace {

constexpr int kGreatest = 4;  // of every whole decision

class Drawn {
 public:
  explicit Drawn(std::uint64_t seed) : random_(seed) {}

  int between(int a, int b) { return static_cast<int>(random_.between(a, b)); }

  // The same decisions in both models, and a plain goal to start from.
  void decisions() {
    for (Model* m : {&tight, &plain}) {
      auto& all = m == &tight ? of_tight_ : of_plain_;
      for (int k = 0; k < 3; ++k) all.push_back(m->binary(fmt::format("b{}", k)).only());
      for (int k = 0; k < 3; ++k)
        all.push_back(m->integer(fmt::format("n{}", k), {}, kiteknot::between(0, kGreatest)));
    }
    for (std::size_t d = 0; d < of_tight_.size(); ++d) add_to_goal(between(-4, 4), pair(d));
    const Sides load = sum(3);
    const int least = between(0, 4);
    tight.rule("load", load.tight >= least);
    plain.rule("load", load.plain >= least);
  }

  // A term of some kind, in the goal or in a rule, from either side.
  void term(int t) {
    Sides z;
    switch (between(0, 3)) {
      case 0:
        z = product();
        break;
      case 1:
        z = largest_of(between(0, 1) == 1);
        break;
      case 2:
        z = distance();
        break;
      default:
        z = curve();
    }
    const int use = between(0, 2), limit = between(-2, 12);
    if (use == 0) add_to_goal(between(0, 1) == 0 ? -2 : 3, z);
    const std::string name = fmt::format("use{}", t);
    if (use == 1) tight.rule(name, z.tight <= limit), plain.rule(name, z.plain <= limit);
    if (use == 2) tight.rule(name, z.tight >= limit), plain.rule(name, z.plain >= limit);
  }

  void goals() {
    tight.minimize("goal", goal_.tight);
    plain.minimize("goal", goal_.plain);
  }

  Model tight{"Tight"}, plain{"Plain"};

 private:
  struct Sides {
    Expression tight, plain;
    int low = 0, high = 0;  // generous
  };

  [[nodiscard]] Sides pair(std::size_t d) const {
    return {of_tight_[d], of_plain_[d], 0, d < 3 ? 1 : kGreatest};
  }
  void add_to_goal(int times, const Sides& s) {
    goal_.tight += Expression(times) * s.tight;
    goal_.plain += Expression(times) * s.plain;
  }
  Sides sum(int terms) {
    Sides s;
    for (int k = 0; k < terms; ++k) {
      const Sides one = pair(static_cast<std::size_t>(between(0, 5)));
      const int times = between(1, 3) * (between(0, 2) == 0 ? -1 : 1);
      s.tight += Expression(times) * one.tight;
      s.plain += Expression(times) * one.plain;
      (times < 0 ? s.low : s.high) += times * one.high;
    }
    const int constant = between(-2, 2);
    s.tight += constant;
    s.plain += constant;
    s.low += constant - 1;  // generous by 1
    s.high += constant + 1;
    return s;
  }

  Expression helper(int low, int high) {
    return plain.real(fmt::format("h{}", ++helpers_), {}, kiteknot::between(low, high)).only();
  }
  Expression binary() { return plain.binary(fmt::format("y{}", ++helpers_)).only(); }
  void hold(const Condition& c) { plain.rule(fmt::format("t{}", ++rules_), c); }

  // z = b e by four rows (McCormick 1976; Glover 1975 for binaries).
  Sides product() {
    const Sides b = pair(static_cast<std::size_t>(between(0, 2))), e = sum(between(1, 3));
    const int low = std::min(0, e.low), high = std::max(0, e.high);
    const Expression z = helper(low, high);
    hold(z <= high * b.plain);
    hold(z >= low * b.plain);
    hold(z <= e.plain - low * (1 - b.plain));
    hold(z >= e.plain - high * (1 - b.plain));
    return {b.tight * e.tight, z, low, high};
  }

  // z >= every e, and z <= one of them.
  Expression greatest(const std::vector<Sides>& of, int low, int high) {
    const Expression z = helper(low, high);
    Expression chosen;
    for (const Sides& e : of) {
      const Expression y = binary();
      chosen += y;
      hold(z >= e.plain);
      hold(z <= e.plain + (high - low) * (1 - y));
    }
    hold(chosen == 1);
    return z;
  }
  Sides largest_of(bool turned) {
    std::vector<Sides> of;
    std::vector<Expression> stated;
    int low = 1000, high = -1000;
    for (int k = between(2, 3); k > 0; --k) {
      Sides e = sum(between(1, 2));
      stated.push_back(e.tight);
      if (turned) e.plain = -e.plain, std::swap(e.low, e.high), e.low = -e.low, e.high = -e.high;
      low = std::min(low, e.low);
      high = std::max(high, e.high);
      of.push_back(std::move(e));
    }
    const Expression z = greatest(of, low, high);
    if (turned) return {smallest(std::move(stated)), -z, -high, -low};
    return {largest(std::move(stated)), z, low, high};
  }
  Sides distance() {
    const Sides e = sum(between(1, 3));
    const int size = std::max(std::abs(e.low), std::abs(e.high));
    return {absolute(e.tight), greatest({e, {-e.tight, -e.plain, -e.high, -e.low}}, -size, size), 0,
            size};
  }

  // x = sum of f_k y_k + w_k, z likewise, one y_k at 1 (multiple choice; Balakrishnan and Graves
  // 1989). Over whole x a charge once is a piece that starts at 1.
  Sides curve() {
    const Sides x = pair(static_cast<std::size_t>(between(3, 5)));
    const int once = between(0, 1) * between(1, 6), split = between(1, 3);
    const int first = between(1, 6), second = between(1, 6);
    const Curve f = Curve::tiers({{first, Rational(split)}, {second, Rational(kGreatest - split)}},
                                 Rational(once));
    Expression at, value, chosen;
    const auto piece = [&](int from, int to, int start, int slope) {
      const Expression y = binary(), w = helper(0, std::max(1, to - from));
      hold(w <= (to - from) * y);
      chosen += y;
      at += from * y + w;
      value += start * y + slope * w;
    };
    piece(0, 0, 0, 0);
    piece(once > 0 ? 1 : 0, split, once + (once > 0 ? first : 0), first);
    piece(split, kGreatest, once + first * split, second);
    hold(chosen == 1);
    hold(at == x.plain);
    const Expression z = helper(0, 60);
    hold(z == value);
    return {f(x.tight), z, 0, 60};
  }

  Random random_;
  std::vector<Decision> of_tight_, of_plain_;
  Sides goal_;
  int helpers_ = 0, rules_ = 0;
};

}  // namespace

TEST_CASE("products, extremes and curves are as right as the textbook's and never weaker",
          "[derived][textbook]") {
  int compared = 0, tighter = 0;
  for (int round = 0; round < 4000; ++round) {
    CAPTURE(round);
    Drawn d(static_cast<std::uint64_t>(round) + 1);
    d.decisions();
    for (int t = d.between(1, 3); t > 0; --t) d.term(t);
    d.goals();
    const Result a = solve(d.tight), b = solve(d.plain);
    INFO(a.reason << " / " << b.reason);
    REQUIRE(a.outcome == b.outcome);
    if (a.outcome != Outcome::optimal) continue;
    REQUIRE((a.goal() - b.goal()).abs() <= Rational(1e-6));
    if (!a.relaxed.value || !b.relaxed.value) continue;
    ++compared;
    CHECK(*a.relaxed.value >= *b.relaxed.value - 1e-6);
    tighter += *a.relaxed.value > *b.relaxed.value + 1e-6 ? 1 : 0;
  }
  CHECK(compared > 2000);
  CHECK(tighter > compared / 10);
}
