// Lanterns on one cable: every stand lit, as little cable as can be, no stand with more than three
// plugs. "Everything hangs together" is one rule for every set of stands, which are too many to
// state: with as many links as there are to be, it says that no set of stands closes a loop. The
// search comes to a plan, and is told of the loops in it.
#include <algorithm>
#include <iostream>
#include <numeric>

#include "kiteknot/generator.hpp"
#include "kiteknot/solve.hpp"

namespace kk = kiteknot;

namespace {

class NoLoops final : public kk::Generator {
 public:
  NoLoops(const kk::Table& stands, const kk::Table& links, const kk::Decisions& lay)
      : stands_(stands), links_(links), lay_(lay) {}

  void look(const kk::Candidate& plan, kk::Additions& additions) override {
    // Which stands hang together: both ends of every link that is laid.
    std::vector<int> group(static_cast<std::size_t>(stands_.size()));
    std::iota(group.begin(), group.end(), 0);
    const auto group_of = [&](kk::Row stand) { return group[std::size_t(stand.index())]; };
    for (const kk::Row link : links_) {
      if (plan[lay_[link]] < 0.5) continue;
      const int joined = group_of(link.row("a")), gone = group_of(link.row("b"));
      std::replace(group.begin(), group.end(), gone, joined);
    }
    // A group of n stands takes n - 1 links; one more closes a loop.
    for (const kk::Row stand : stands_) {
      const int own = group_of(stand);
      if (own != stand.index()) continue;  // each group once
      const auto within = [&](kk::Row link) {
        return group_of(link.row("a")) == own && group_of(link.row("b")) == own;
      };
      const auto stands = std::count(group.begin(), group.end(), own);
      additions.rule("no loop around " + stand.keys()[0], total(links_, [&](kk::Row link) {
                                                            return within(link) ? 1 * lay_[link]
                                                                                : 0;
                                                          }) <= stands - 1);
    }
  }
  std::unique_ptr<kk::Generator> twin() const override { return std::make_unique<NoLoops>(*this); }

 private:
  kk::Table stands_, links_;
  kk::Decisions lay_;
};

class Told final : public kk::Observer {
  void round(const kk::Round& r) override {
    std::cout << "round " << r.number << ": " << r.added.size() << " broken";
    for (const std::string& name : r.added) std::cout << (name == r.added[0] ? ": " : ", ") << name;
    std::cout << "\n";
  }
};

}  // namespace

int main() {
  const auto stands = kk::Table::parse("stands",
                                       "stand,east,north\n"
                                       "Gate,0,0\nTea Tent,9,1\nKite Loft,12,9\nLong Strand,2,14\n"
                                       "Cove Green,21,5\nTern Flats,17,16\nNorth Mole,6,22\n"
                                       "Gull Bank,25,19\nSail Shed,14,2\nJudges,16,7\n",
                                       {.key = {"stand"}});
  auto links = kk::Table::pairs("links", stands);
  links.add_numbers("metres", [](kk::Row link) {
    const kk::Row a = link.row("a"), b = link.row("b");
    return (a.number("east") - b.number("east")).abs() +
           (a.number("north") - b.number("north")).abs();
  });
  const auto metres = links.numbers("metres");

  kk::Model model{"Lanterns on one cable"};
  const auto lay = model.binary("lay", links);
  model.minimize("cable", total(links, [&](kk::Row l) { return metres[l] * lay[l]; }));
  model.rule("enough", total(lay) == stands.size() - 1);
  model.rule("plugs", stands, [&](kk::Row s) {
    return total(links.where("a", s), lay) + total(links.where("b", s), lay) <= 3;
  });

  const auto no_loops = std::make_shared<NoLoops>(stands, links, lay);
  Told told;
  const kk::Result result = kk::solve(model, {.generator = no_loops, .in_rounds = true}, &told);
  std::cout << word(result.outcome) << ", cable " << result.goal().text() << "\n";
  for (const auto& name : result.chosen(lay)) std::cout << "  " << name << "\n";

  // The same within one search.
  const kk::Result again = kk::solve(model, {.generator = no_loops});
  std::cout << "in one search: " << word(again.outcome) << ", cable " << again.goal().text() << ", "
            << again.generated.size() << " rules found on the way\n";
}
