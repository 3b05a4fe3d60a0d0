// Generated rules through the public interface: cables without loops, and loads that no subset of
// stands may pass, each with the whole model known by trying all networks.
#include "kiteknot/generator.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numeric>

#include <catch2/catch.hpp>
#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

// Stands 0 .. n - 1, 0 the source; a network of n - 1 links that hangs together, in which
// everything behind one link of the source needs at most `room`.
struct Network {
  int stands = 5;
  std::vector<std::pair<int, int>> links;
  std::vector<int> cost, need;
  int room = 0, most_plugs = 0;
};

Network draw(Random& random) {
  Network n;
  n.stands = static_cast<int>(random.between(3, 5));
  for (int a = 0; a < n.stands; ++a) {
    n.need.push_back(a == 0 ? 0 : static_cast<int>(random.between(1, 5)));
    for (int b = a + 1; b < n.stands; ++b) {
      n.links.emplace_back(a, b);
      n.cost.push_back(static_cast<int>(random.between(1, 20)));
    }
  }
  const int all = std::accumulate(n.need.begin(), n.need.end(), 0);
  n.room = static_cast<int>(random.between(5, std::max(5, all)));
  n.most_plugs = static_cast<int>(random.between(2, n.stands - 1));
  return n;
}

// By trying every set of links; nothing where no network fits.
std::optional<int> cheapest(const Network& n) {
  std::optional<int> best;
  for (unsigned set = 0; set < (1U << n.links.size()); ++set) {
    if (std::popcount(set) != n.stands - 1) continue;
    int cost = 0;
    std::vector<int> plugs(static_cast<std::size_t>(n.stands));
    for (std::size_t l = 0; l < n.links.size(); ++l)
      if ((set >> l & 1U) != 0) {
        cost += n.cost[l];
        ++plugs[static_cast<std::size_t>(n.links[l].first)];
        ++plugs[static_cast<std::size_t>(n.links[l].second)];
      }
    bool fits = *std::max_element(plugs.begin(), plugs.end()) <= n.most_plugs;
    // Walk away from the source: every stand reached once, loads by first link.
    std::vector<int> branch(static_cast<std::size_t>(n.stands), -1);
    std::vector<int> queue = {0}, load(static_cast<std::size_t>(n.stands), 0);
    branch[0] = 0;
    for (std::size_t k = 0; k < queue.size(); ++k)
      for (std::size_t l = 0; l < n.links.size(); ++l) {
        if ((set >> l & 1U) == 0) continue;
        const auto [a, b] = n.links[l];
        const int from = queue[k], to = a == from ? b : (b == from ? a : -1);
        if (to < 0 || branch[static_cast<std::size_t>(to)] >= 0) continue;
        branch[static_cast<std::size_t>(to)] =
            from == 0 ? to : branch[static_cast<std::size_t>(from)];
        load[static_cast<std::size_t>(branch[static_cast<std::size_t>(to)])] +=
            n.need[static_cast<std::size_t>(to)];
        queue.push_back(to);
      }
    fits = fits && static_cast<int>(queue.size()) == n.stands &&
           *std::max_element(load.begin(), load.end()) <= n.room;
    if (fits && (!best || cost < *best)) best = cost;
  }
  return best;
}

struct Stated {
  Model model{"Network"};
  std::vector<Decision> lay;
};

Stated state(const Network& n) {
  Stated s;
  Expression cost, all;
  std::vector<Expression> plugs(static_cast<std::size_t>(n.stands));
  for (std::size_t l = 0; l < n.links.size(); ++l) {
    s.lay.push_back(s.model.binary(fmt::format("lay{}", l)).only());
    cost += n.cost[l] * Expression(s.lay[l]);
    all += s.lay[l];
    plugs[static_cast<std::size_t>(n.links[l].first)] += s.lay[l];
    plugs[static_cast<std::size_t>(n.links[l].second)] += s.lay[l];
  }
  s.model.minimize("cost", cost);
  s.model.rule("enough", all == n.stands - 1);
  for (std::size_t k = 0; k < plugs.size(); ++k)
    s.model.rule(fmt::format("plugs{}", k), plugs[k] <= n.most_plugs);
  return s;
}

// For every set S of stands without the source: links within S are at most |S| less the cables it
// takes to feed it, need(S) / room rounded up; with the source, at most |S| in all.
class Feeds final : public Generator {
 public:
  Feeds(const Network& network, std::vector<Decision> lay, bool fractions, bool here)
      : n_(network), lay_(std::move(lay)), fractions_(fractions), here_(here) {}
  bool wants_fractions() const override { return fractions_; }
  void look(const Candidate& candidate, Additions& additions) override {
    for (unsigned set = 1; set < (1U << n_.stands); ++set) {
      Expression inside;
      double value = 0.0;
      int need = 0;
      const auto in = [&](int stand) { return (set >> stand & 1U) != 0; };
      for (int k = 0; k < n_.stands; ++k) need += in(k) ? n_.need[static_cast<std::size_t>(k)] : 0;
      for (std::size_t l = 0; l < lay_.size(); ++l)
        if (in(n_.links[l].first) && in(n_.links[l].second)) {
          inside += lay_[l];
          value += candidate[lay_[l]];
        }
      const int feeds = in(0) ? 1 : (need + n_.room - 1) / n_.room;
      const int most = std::popcount(set) - feeds;
      if (candidate.whole()) CHECK(value == std::round(value));
      if (value <= most + 1e-6) continue;
      auto name = fmt::format("feed {:b}", set);
      if (here_)
        additions.rule_here(std::move(name), inside <= most);
      else
        additions.rule(std::move(name), inside <= most);
    }
  }
  std::unique_ptr<Generator> twin() const override { return std::make_unique<Feeds>(*this); }

 private:
  Network n_;
  std::vector<Decision> lay_;
  bool fractions_, here_;
};

class Rounds final : public Observer {
 public:
  void round(const Round& r) override {
    CHECK(r.number == static_cast<int>(added.size()) + 1);
    added.push_back(r.added.size());
  }
  std::vector<std::size_t> added;
};

}  // namespace

TEST_CASE("generated rules lead to the best network, in one search and in rounds", "[generator]") {
  Random random(77);
  int found = 0, none = 0, generated = 0, rounds = 0;
  for (int k = 0; k < 120; ++k) {
    CAPTURE(k);
    const Network n = draw(random);
    const std::optional<int> truth = cheapest(n);
    const Stated s = state(n);
    const auto expect = [&](const Result& r) {
      REQUIRE(r.outcome == (truth ? Outcome::optimal : Outcome::infeasible));
      if (truth) CHECK(r.goal() == Rational(*truth));
    };
    for (const bool fractions : {false, true})
      for (const bool here : {false, true}) {
        CAPTURE(fractions, here);
        const Result r =
            solve(s.model, {.generator = std::make_shared<Feeds>(n, s.lay, fractions, here)});
        expect(r);
        generated += static_cast<int>(r.generated.size());
      }
    Rounds told;
    const Result r = solve(
        s.model, {.generator = std::make_shared<Feeds>(n, s.lay, false, false), .in_rounds = true},
        &told);
    expect(r);
    rounds += static_cast<int>(told.added.size());
    if (truth) CHECK(told.added.back() == 0);
    CHECK(static_cast<std::size_t>(r.search.generated_constraints) == r.generated.size());
    ++(truth ? found : none);
  }
  CHECK(found > 60);
  CHECK(none > 1);
  CHECK(generated > 200);
  CHECK(rounds > 150);
}

TEST_CASE("real decisions take part in generated rules, exactly", "[generator]") {
  // maximise x + y, y real, while 3 y <= 1 + x is told only when broken.
  class Third final : public Generator {
   public:
    Third(Decision x, Decision y) : x_(std::move(x)), y_(std::move(y)) {}
    void look(const Candidate& c, Additions& additions) override {
      if (3 * c[y_] > 1 + c[x_]) additions.rule("third", 3 * Expression(y_) <= 1 + Expression(x_));
    }
    std::unique_ptr<Generator> twin() const override { return std::make_unique<Third>(*this); }

   private:
    Decision x_, y_;
  };
  Model m{"Thirds"};
  const Decision x = m.binary("x").only(), y = m.real("y", {}, between(0, 5)).only();
  m.maximize("sum", y - Rational::ratio(1, 2) * Expression(x));
  for (const bool in_rounds : {false, true}) {
    const Result r = solve(m, {.generator = std::make_shared<Third>(x, y), .in_rounds = in_rounds});
    REQUIRE(r.outcome == Outcome::optimal);
    CHECK(r.goal() == Rational::ratio(1, 3));
    CHECK(r.generated == std::vector<std::string>{"third"});
  }
}

TEST_CASE("what a generator may not do is told by name", "[generator]") {
  struct Wrong final : Generator {
    std::function<void(Additions&)> add;
    void look(const Candidate&, Additions& additions) override { add(additions); }
    std::unique_ptr<Generator> twin() const override { return std::make_unique<Wrong>(*this); }
  };
  Model m{"Small"}, other{"Other"};
  const Decision x = m.binary("x").only(), z = other.binary("z").only();
  m.maximize("goal", x);
  const auto wrong = std::make_shared<Wrong>();
  const auto told = [&](bool in_rounds, const std::string& words) {
    CHECK_THROWS_WITH(solve(m, {.generator = wrong, .in_rounds = in_rounds}),
                      Catch::Contains(words));
  };
  for (const bool in_rounds : {false, true}) {
    wrong->add = [&](Additions& a) {
      a.rule("either", any_of({Expression(x) >= 1, Expression(x) <= 0}));
    };
    told(in_rounds, "'either' is not a comparison");
    wrong->add = [&](Additions& a) { a.rule("far", Expression(z) <= 0); };
    told(in_rounds, "'far': an expression of model 'Other' was given");
  }
  wrong->add = [&](Additions& a) { a.rule_here("part", Expression(x) <= 0); };
  told(true, "rounds have no parts");
  CHECK_THROWS_WITH(method("greedy").run(m, {.generator = wrong}, nullptr),
                    Catch::Contains("cannot follow"));
  const Candidate candidate(m, {1.0}, true);
  CHECK(candidate[x] == 1.0);
  CHECK_THROWS_AS(candidate[z], UsageError);
}

TEST_CASE("a search that a limit ends tells no plan that a generated rule would break",
          "[generator]") {
  Random random(78);
  for (int k = 0; k < 20; ++k) {
    const Network n = draw(random);
    const Stated s = state(n);
    const auto feeds = std::make_shared<Feeds>(n, s.lay, false, false);
    for (const bool in_rounds : {false, true})
      for (const std::int64_t nodes : {0, 1, 2, 5}) {
        const Result r =
            solve(s.model, {.nodes = nodes, .generator = feeds, .in_rounds = in_rounds});
        if (!r.plan) continue;
        std::vector<double> values;
        for (const Rational& x : r.plan->values()) values.push_back(x.to_double());
        Additions additions;
        feeds->twin()->look(Candidate(s.model, values, true), additions);
        CHECK(additions.rules().empty());
      }
  }
}
