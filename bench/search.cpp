// What a node of the search costs, on problems that are too hard to finish: nodes a second, and the
// work that the parts of a search booked. A page of Markdown.

#include <iostream>

#include <fmt/format.h>

#include "support/search_families.hpp"
#include "unit.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

double one_unit = 1.0;
std::string profile;  // rows of the second table

// Shares of the work that the search booked.
void add_profile(const std::string& name, const mip::SearchResult& r) {
  double propagation = 0.0, branching = 0.0, heuristics = 0.0;
  for (const mip::PartTally& p : r.parts)
    (p.kind == "propagator"  ? propagation
     : p.kind == "branching" ? branching
                             : heuristics) += static_cast<double>(p.tally.work);
  const auto all = static_cast<double>(r.counts.work);
  const auto share = [&](double work) { return 100.0 * work / all; };
  profile += fmt::format("| {} | {:.0f} | {:.1f} % | {:.1f} % | {:.1f} % | {:.1f} % |\n", name,
                         all / static_cast<double>(r.counts.nodes),
                         share(all - propagation - branching - heuristics), share(branching),
                         share(propagation), share(heuristics));
}

void measure(const std::string& name, const mip::Problem& p, std::int64_t nodes) {
  mip::SearchOptions options;
  options.budget.nodes = nodes;
  options.structures = options.finding.near_plan = false;  // nodes are what is measured
  options.cuts = mip::CutSwitches::none();
  options.budget.seconds = 120.0;
  const Stopwatch clock;
  const mip::SearchResult r = mip::Search(p, exact_judge(p), options).run();
  const double seconds = clock.seconds();
  const auto count = static_cast<double>(r.counts.nodes);
  std::cout << fmt::format(
      "| {} | {} | {:.1f} | {:.0f} | {:.0f} | {:.3f} | {} |\n", name, r.counts.nodes,
      static_cast<double>(r.counts.pivots) / count, count / seconds, 1e6 * seconds / count,
      1e3 * seconds / count / one_unit,
      r.plan ? fmt::format("{:.2f} %", 100.0 * mip::relative_gap(r.goal.to_double(), r.bound, 1.0))
             : std::string("no plan"));
  std::cout.flush();
  add_profile(name, r);
}

}  // namespace

int main() {
  one_unit = bench::unit_seconds();
  std::cout << fmt::format(
      "\n## What a node costs\n\nOne core; the search is ended after so many nodes. Units: of "
      "{:.2f} s (see above), a thousand nodes.\n\n"
      "| problem | nodes | pivots a node | nodes a second | microseconds a node | units a thousand "
      "nodes | gap then |\n| --- | --- | --- | --- | --- | --- | --- |\n",
      one_unit);
  measure("knapsacks 5 x 100", many_knapsacks(5, 100, 1), 20000);
  measure("assignment 10 x 40", assignment(10, 40, 1), 10000);
  measure("assignment 30 x 300", assignment(30, 300, 1), 3000);
  measure("cover 200 x 2,000", cover(200, 2000, 0.02, 1), 1000);
  measure("lots 5 x 24", lots(5, 24, 1), 5000);
  measure("one row of 10,000", long_row(10000, 1), 5000);
  std::cout << "\nWhere the work of a node goes (entries touched; parts book it themselves):\n\n"
               "| problem | work a node | relaxation and bounds | looks before branching | "
               "propagation | heuristics and the rest of nodes |\n"
               "| --- | --- | --- | --- | --- | --- |\n"
            << profile;
}
