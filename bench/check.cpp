// Tiny problems of every awkward kind, with any two parts of the search on or off, against what is
// known of them. A page of Markdown; fails where one answer is wrong.
// Usage: bench_check [MODELS]     100,000 if not said

#include <cstdlib>
#include <iostream>
#include <map>

#include <fmt/format.h>

#include "support/random_mips.hpp"

using namespace kiteknot;
using namespace kiteknot::test;

namespace {

struct Count {
  std::int64_t models = 0, planless = 0, searches = 0, open = 0, wrong = 0, nodes = 0;
};

}  // namespace

int main(int count, char** arguments) {
  const std::int64_t models = count > 1 ? std::atoll(arguments[1]) : 100'000;
  Random random(2027);
  std::map<std::string_view, Count> counts;
  std::int64_t wrong = 0;
  for (std::int64_t k = 0; k < models; ++k) {
    const TinyMip t = draw_tiny(random, k);
    Count& c = counts[t.kind];
    ++c.models;
    c.planless += t.outcome == Outcome::infeasible ? 1 : 0;
    for (std::size_t trial = 0; trial < Trials::kCount; ++trial) {
      const auto seed = static_cast<std::uint64_t>(random.between(1, 1'000'000));
      const Said said = asked_about(t, Trials::options(trial, seed));
      ++c.searches;
      c.nodes += said.nodes;
      c.open += said.open ? 1 : 0;
      if (said.wrong.empty()) continue;
      ++c.wrong;
      ++wrong;
      std::cerr << fmt::format("model {} ({}), trial {}, seed {}: {}\n", k, t.kind, trial, seed,
                               said.wrong);
    }
  }
  std::cout << "\n## Tiny models against what is known of them\n\n"
               "Each is searched eight times, with any two parts of the search on or off "
               "(scripts/bench check). Left open: the search says itself that the arithmetic did "
               "not suffice.\n\n"
               "| models | how many | without a plan | searches | nodes a search | left open | "
               "wrong |\n| --- | --- | --- | --- | --- | --- | --- |\n";
  for (const auto& [kind, c] : counts)
    std::cout << fmt::format(
        "| {} | {} | {} | {} | {:.1f} | {} | {} |\n", kind, c.models, c.planless, c.searches,
        static_cast<double>(c.nodes) / static_cast<double>(c.searches), c.open, c.wrong);
  return wrong == 0 ? 0 : 1;
}
