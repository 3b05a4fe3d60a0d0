// What the root of a search holds: the most memory between the problem as stated and the first
// branching, each problem in a process of its own. A page of Markdown.
// Usage: bench_memory [NAME]     that problem only, in this process: to look at it with a profiler

#include <fstream>
#include <functional>
#include <iostream>
#include <string>

#include <fmt/format.h>
#include <malloc.h>
#include <sys/wait.h>
#include <unistd.h>

#include "mip/search/search.hpp"
#include "mip_families.hpp"
#include "unit.hpp"

using namespace kiteknot;
using namespace kiteknot::bench;

namespace {

double kilobytes(const std::string& what) {
  std::ifstream status("/proc/self/status");
  for (std::string word; status >> word;)
    if (word == what + ":") {
      double value = 0.0;
      status >> value;
      return value;
    }
  return 0.0;
}

void forget_peak() {
  std::ofstream("/proc/self/clear_refs") << "5";
}

struct Measured {
  double stated = 0.0, peak = 0.0;  // MB
};

Measured measure(const std::function<mip::Problem()>& make) {
  malloc_trim(0);
  const double before = kilobytes("VmRSS");
  mip::Problem problem = make();
  malloc_trim(0);
  forget_peak();
  const double stated = kilobytes("VmRSS") - before;
  mip::SearchOptions options;
  options.budget.nodes = 1;
  options.presolving.brief_look = false;  // the root that is measured is the one after presolve
  std::vector<double> costs;              // a judge that holds nothing of the problem but these
  for (mip::Index j = 0; j < problem.num_columns(); ++j) costs.push_back(problem.cost(j));
  const mip::Judge judge = [&](std::span<const Rational> plan) {
    Rational goal = 0;
    for (std::size_t j = 0; j < costs.size(); ++j) goal += Rational::exactly(costs[j]) * plan[j];
    return mip::Verdict{true, goal};
  };
  (void)mip::Search(std::move(problem), judge, options).run();
  return {stated / 1024.0, (kilobytes("VmHWM") - before) / 1024.0};
}

// In a process of its own, so that nothing is left of the one before.
Measured apart(const std::function<mip::Problem()>& make) {
  int pipe[2];
  if (::pipe(pipe) != 0) return {};
  const pid_t child = fork();
  if (child == 0) {
    const Measured m = measure(make);
    const bool told = write(pipe[1], &m, sizeof m) == static_cast<ssize_t>(sizeof m);
    _exit(told ? 0 : 1);
  }
  Measured m;
  if (read(pipe[0], &m, sizeof m) != static_cast<ssize_t>(sizeof m)) m = {};
  (void)waitpid(child, nullptr, 0);
  close(pipe[0]);
  close(pipe[1]);
  return m;
}

}  // namespace

int main(int argc, char** argv) {
  const std::pair<std::string, std::function<mip::Problem()>> problems[] = {
      {"set cover 300 x 3,000", [] { return cover(300, 3000, 0.02, 1); }},
      {"facility 100 x 100", [] { return facility(100, 100, 3.0, 1); }},
      {"transport 2,000 x 6", [] { return transport(2000, 6, false, 1); }},
      {"generators 30 x 24", [] { return generators(30, 24, 1); }},
      {"knapsack 10,000", [] { return knapsack(kClasses[0].first, 10000, 1); }},
      {"set cover 200 x 12,000", [] { return cover(200, 12000, 0.02, 1); }},
      {"facility 200 x 200", [] { return facility(200, 200, 5.0, 1); }}};
  for (const auto& [name, make] : problems)
    if (argc > 1 && name == argv[1]) {
      const Measured m = measure(make);
      std::cout << fmt::format("{}: {:.1f} of {:.1f} MB\n", name, m.peak, m.stated);
      return 0;
    }
  std::cout << "\n## Memory\n\nThe most that a search holds up to its first branching, and the "
               "problem alone, in MB.\n\n| problem | columns | entries | stated | at the root |\n"
               "| --- | ---: | ---: | ---: | ---: |\n";
  for (const auto& [name, make] : problems) {
    const Measured m = apart(make);
    const mip::Problem p = make();
    std::cout << fmt::format("| {} | {} | {} | {:.1f} | {:.1f} |\n", name, p.num_columns(),
                             p.rows().num_nonzeros(), m.stated, m.peak)
              << std::flush;
  }
  return 0;
}
