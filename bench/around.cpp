// What a large model costs beside its search: reading, lowering, the exact check, pages and
// documents, in microseconds a nonzero. A page of Markdown.
// Usage: bench_around [PLACES]     links between so many places and as many shops; 500 if not said

#include <cstdlib>
#include <functional>
#include <iostream>

#include <fmt/format.h>

#include "base/random.hpp"
#include "base/work.hpp"
#include "kiteknot/kiteknot.hpp"
#include "model/internals.hpp"
#include "model/lowering.hpp"

using namespace kiteknot;

namespace {

struct Text {
  std::string name, mps, knot;
  double nonzeros = 0.0;  // of rows and the goal
};

/// What goes out of places and into shops, along all links, amounts without an upper end.
Text links(int n) {
  Random random(5);
  const auto figure = [&](int low, int high) { return random.between(low, high); };
  Text t{fmt::format("links {0} x {0}", n), "NAME links\nROWS\n N cost\n", "", 3.0 * n * n};
  std::string columns = "COLUMNS\n", right = "RHS\n";
  std::string places = "table places key place rows\n  place,stock\n",
              shops = "table shops key shop rows\n  shop,need\n",
              table = "table links key place in places, shop in shops rows\n  place,shop,rate\n";
  for (int i = 0; i < n; ++i) {
    const auto stock = figure(60, 90), need = figure(20, 50);
    t.mps += fmt::format(" L out{}\n G in{}\n", i, i);
    right += fmt::format("    R  out{}  {}\n    R  in{}  {}\n", i, stock, i, need);
    places += fmt::format("  p{},{}\n", i, stock);
    shops += fmt::format("  s{},{}\n", i, need);
    for (int j = 0; j < n; ++j) {
      const auto rate = figure(1, 99);
      columns +=
          fmt::format("    x{0}_{1}  cost  {2}  out{0}  1\n    x{0}_{1}  in{1}  1\n", i, j, rate);
      table += fmt::format("  p{},s{},{}\n", i, j, rate);
    }
  }
  t.mps += columns + right + "ENDATA\n";
  t.knot = "model \"Links\"\n" + places + shops + table +
           "decide ship[l in links] real 0 .. inf\n"
           "minimize cost: total(l.rate * ship[l] over l in links)\n"
           "rule stock[p in places]: total(ship[l] over l in links where l.place = p) <= p.stock\n"
           "rule need[s in shops]: total(ship[l] over l in links where l.shop = s) >= s.need\n";
  return t;
}

}  // namespace

int main(int count, char** arguments) {
  const int n = count > 1 ? std::atoi(arguments[1]) : 500;
  const Text t = links(n);
  std::cout << fmt::format(
      "\n## Around the solve\n\nMicroseconds a nonzero (rows and goal; {}, {:.0f} nonzeros), one "
      "core, "
      "the better of two (scripts/bench around). Aim for all of a command together: 1.0.\n\n"
      "| step | from MPS | from Knot |\n| --- | --- | --- |\n",
      t.name, t.nonzeros);
  const auto timed = [&](const std::function<void()>& step) {
    double best = 1e30;
    for (int round = 0; round < 2; ++round) {
      const Stopwatch clock;
      step();
      best = std::min(best, clock.seconds());
    }
    return 1e6 * best / t.nonzeros;
  };
  struct Row {
    std::string step;
    double from[2];
  };
  std::vector<Row> rows;
  for (const int form : {0, 1}) {
    std::size_t place = 0;
    const auto tell = [&](const std::string& step, double cost) {
      if (form == 0) rows.push_back({step, {cost, 0.0}});
      rows[place++].from[form] = cost;
    };
    std::optional<Model> model;
    tell("reading", timed([&] {
           model = form == 0 ? parse_mps(t.mps, "links.mps").value()
                             : parse_knot(t.knot, "links.knot").value();
         }));
    tell("lowering", timed([&] { (void)lower(*Internals::of(*model)); }));
    tell("a page of the model", timed([&] { (void)show_page(*model); }));
    const Result result = solve(*model);
    tell("the check of a plan", timed([&] { (void)check(*model, *result.plan); }));
    tell("a page of the answer", timed([&] { (void)answer_page(result); }));
    tell("its document", timed([&] { (void)result_document(result); }));
    tell("written as MPS", timed([&] { (void)mps_text(*model); }));
  }
  for (const Row& r : rows)
    std::cout << fmt::format("| {} | {:.2f} | {:.2f} |\n", r.step, r.from[0], r.from[1]);
  return 0;
}
