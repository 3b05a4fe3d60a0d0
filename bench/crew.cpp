// Problems of ten to sixty seconds with one worker and with several, one after the other in the
// same run: what the second core brings, and what waiting costs. A page of Markdown.
// Usage: bench_crew [SECONDS [WORKERS...]]    120 s each, 1 and 2 workers, if not said
//        bench_crew small                     everyday models: what it costs that there may be more

#include <cmath>
#include <cstdlib>
#include <functional>
#include <iostream>

#include <fmt/format.h>

#include "mip_families.hpp"
#include "support/brute_force.hpp"

using namespace kiteknot;
using namespace kiteknot::bench;

namespace {

struct Case {
  std::string name;
  std::function<mip::Problem()> make;
};

std::vector<Case> cases() {
  return {{"boxes 10 x 100, 0.25", [] { return boxes(10, 100, 0.25, 1); }},
          {"boxes 10 x 100, 0.5", [] { return boxes(10, 100, 0.5, 1); }},
          {"set cover 200 x 1,000", [] { return cover(200, 1000, 0.03, 3); }},
          {"assignment D 5 x 50", [] { return assign('D', 5, 50, 1); }},
          {"facility 50 x 50, 3", [] { return facility(50, 50, 3.0, 1); }},
          {"facility 50 x 50, 10", [] { return facility(50, 50, 10.0, 1); }},
          {"Steiner triples 45", [] { return steiner(45); }},
          {"market split 4 rows", [] { return market_split(4, 1); }},
          {"stable set 120, 0.15", [] { return stable_set(120, 0.15, 1); }},
          {"queens 6, 7 colours", [] { return queens(6, 7); }},
          {"colouring 30 points", [] { return colouring(30, 8, 0.4, 1); }},
          {"network 27 points", [] { return test::network(27, 4, 1); }},
          {"job shop 10 x 10", [] { return job_shop(10, 10, 1); }},
          {"lots 20 x 20", [] { return test::lots(20, 20, 4); }}};
}

mip::SearchResult solved(const mip::Problem& p, double seconds, int workers) {
  mip::SearchOptions options;
  options.budget.seconds = seconds;
  options.crew.threads = workers;
  return mip::Search(p, test::judge_of(p), options).run();
}

std::string told(const mip::SearchResult& r) {
  if (r.outcome == Outcome::optimal || r.outcome == Outcome::infeasible) return "";
  return r.plan ? fmt::format(" ({:.2f} %)",
                              100.0 * mip::relative_gap(r.goal.to_double(), r.bound, 1.0))
                : " (no plan)";
}

int small() {
  fmt::print("| everyday problem | one, ms | may be two, ms |\n| --- | ---: | ---: |\n");
  for (const auto& [name, make] :
       {Case{"boxes 5 x 100", [] { return boxes(5, 100, 0.25, 1); }},
        Case{"assignment C 5 x 50", [] { return assign('C', 5, 50, 1); }},
        Case{"lots 6 x 15", [] { return test::lots(6, 15, 1); }},
        Case{"bins 24", [] { return bins(24, 100.0, 1); }},
        Case{"facility 16 x 50", [] { return facility(16, 50, 10.0, 1); }}}) {
    const mip::Problem p = make();
    double least[2] = {1e300, 1e300};
    for (int round = 0; round < 7; ++round)
      for (const int workers : {1, 2})
        least[workers - 1] = std::min(least[workers - 1], solved(p, 60.0, workers).seconds);
    fmt::print("| {} | {:.1f} | {:.1f} |\n", name, 1e3 * least[0], 1e3 * least[1]);
  }
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc > 1 && std::string(argv[1]) == "small") return small();
  const double seconds = argc > 1 ? std::atof(argv[1]) : 120.0;
  std::vector<int> workers;
  std::string wanted;
  for (int k = 2; k < argc; ++k)
    if (std::atoi(argv[k]) > 0)
      workers.push_back(std::atoi(argv[k]));
    else
      wanted = argv[k];
  if (workers.empty()) workers = {2};
  fmt::print("## Several workers (scripts/bench crew)\n\n");
  fmt::print(
      "| problem | workers | s | times as fast | branches | shared, s | without a branch | "
      "ahead |\n| --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: |\n");
  std::vector<double> sums(workers.size(), 0.0);
  int count = 0;
  for (const auto& [name, make] : cases()) {
    if (name.find(wanted) == std::string::npos) continue;
    const mip::Problem p = make();
    const mip::SearchResult one = solved(p, seconds, 1);
    fmt::print("| {} | 1 | {:.2f}{} | | {} | | | |\n", name, one.seconds, told(one),
               one.counts.nodes);
    ++count;
    for (std::size_t k = 0; k < workers.size(); ++k) {
      const mip::SearchResult r = solved(p, seconds, workers[k]);
      const double all = r.crew.workers * std::max(r.crew.seconds, 1e-9);
      sums[k] += std::log(one.seconds / r.seconds);
      fmt::print("| | {} | {:.2f}{} | {:.2f} | {} | {:.2f} | {:.0f} % | {:.0f} % |\n", workers[k],
                 r.seconds, told(r), one.seconds / r.seconds, r.counts.nodes, r.crew.seconds,
                 100.0 * r.crew.idle / all, 100.0 * r.crew.ahead / all);
    }
    std::cout.flush();
  }
  for (std::size_t k = 0; k < workers.size() && count > 0; ++k)
    fmt::print("\n{} workers: {:.2f} times as fast in the geometric mean of {}.\n", workers[k],
               std::exp(sums[k] / count), count);
  return 0;
}
