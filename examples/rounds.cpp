// A round trip as people teach it: two legs at every stop, look at the loops, rule them out, solve
// again. The same generator serves in rounds and within one search.
#include <cmath>
#include <iostream>
#include <set>

#include "kiteknot/generator.hpp"
#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

namespace {

class Loops final : public kk::Generator {
 public:
  Loops(const kk::Table& stops, const kk::Table& legs, const kk::Decisions& go)
      : stops_(stops), legs_(legs), go_(go) {}

  void look(const kk::Candidate& plan, kk::Additions& additions) override {
    std::set<int> seen;
    for (const kk::Row first : stops_) {
      if (seen.count(first.index()) > 0) continue;
      std::set<int> loop{first.index()};  // whatever hangs together with the first stop
      for (std::size_t size = 0; size != loop.size();) {
        size = loop.size();
        for (const kk::Row leg : legs_)
          if (plan[go_[leg]] > 0.5 && leaves(leg, loop))
            loop.insert({leg.row("a").index(), leg.row("b").index()});
      }
      seen.insert(loop.begin(), loop.end());
      if (loop.size() == std::size_t(stops_.size())) return;  // one trip
      additions.rule(
          "out of the loop at " + first.keys()[0],
          total(legs_, [&](kk::Row leg) { return leaves(leg, loop) ? 1 * go_[leg] : 0; }) >= 2);
    }
  }
  std::unique_ptr<kk::Generator> twin() const override { return std::make_unique<Loops>(*this); }

 private:
  static bool leaves(kk::Row leg, const std::set<int>& set) {
    return set.count(leg.row("a").index()) != set.count(leg.row("b").index());
  }
  kk::Table stops_, legs_;
  kk::Decisions go_;
};

class Told final : public kk::Observer {
  void round(const kk::Round& r) override {
    std::cout << "round " << r.number << ": " << r.added.size() << " loops ruled out\n";
  }
};

}  // namespace

int main() {
  const auto stops = kk::Table::read("stops.csv", {.key = {"stop"}});
  auto legs = kk::Table::pairs("legs", stops);
  legs.add_numbers("km", [](kk::Row leg) {
    const auto apart = [&](const char* axis) {
      return (leg.row("a").number(axis) - leg.row("b").number(axis)).to_double();
    };
    return kk::Rational(std::llround(1000 * std::hypot(apart("x"), apart("y")))) / 1000;
  });
  const auto km = legs.numbers("km");

  kk::Model model{"The crew's round"};
  const auto go = model.binary("go", legs);
  model.minimize("length", total(legs, [&](kk::Row l) { return km[l] * go[l]; }));
  model.rule("in and out", stops, [&](kk::Row s) {
    return total(legs.where("a", s), go) + total(legs.where("b", s), go) == 2;
  });

  const auto loops = std::make_shared<Loops>(stops, legs, go);
  Told told;
  const kk::Result rounds = kk::solve(model, {.generator = loops, .in_rounds = true}, &told);
  const kk::Result tree = kk::solve(model, {.generator = loops});
  std::cout << "in rounds " << rounds.goal().text() << ", in one search " << tree.goal().text()
            << " with " << tree.generated.size() << " rules\n";
}
