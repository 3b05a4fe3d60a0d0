// Hard whole and mixed problems: what is proven within a time limit, and what is left. Pages of
// Markdown.
// Usage: bench_mip [SECONDS] [NAME]     20 s each if not said; problems whose name holds NAME
//        bench_mip parts [SECONDS]      each part of the search left out in turn; 5 s each
//        bench_mip seeds [SECONDS]      ten seeds of some families; 30 s each
//        bench_mip real [SECONDS] [NAME]     models of real size; 60 s each

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <functional>
#include <iostream>

#include <fmt/format.h>

#include "mip_families.hpp"
#include "real_size.hpp"
#include "unit.hpp"

using namespace kiteknot;
using namespace kiteknot::bench;

namespace {

struct Case {
  std::string family, name;
  std::function<mip::Problem()> make;
};

std::vector<Case> cases() {
  std::vector<Case> all;
  const auto add = [&](const std::string& family, std::string name,
                       std::function<mip::Problem()> make) {
    all.push_back({family, std::move(name), std::move(make)});
  };
  for (const auto& [c, name] : kClasses)
    for (const int n : {100, 1000, 10000})
      add("0-1 knapsack", fmt::format("{}, {}", name, n), [c = c, n] { return knapsack(c, n, 1); });
  for (const int rows : {5, 10})
    for (const double tightness : {0.25, 0.5, 0.75})
      add("boxes", fmt::format("{} x 100, {}", rows, tightness),
          [=] { return boxes(rows, 100, tightness, 1); });
  add("set cover", "200 x 2,000", [] { return cover(200, 2000, 0.02, 1); });
  add("set cover", "300 x 3,000", [] { return cover(300, 3000, 0.02, 1); });
  for (const char kind : {'A', 'B', 'C', 'D'}) {
    add("assignment", fmt::format("{} 5 x 50", kind), [=] { return assign(kind, 5, 50, 1); });
    add("assignment", fmt::format("{} 5 x 100", kind), [=] { return assign(kind, 5, 100, 1); });
    add("assignment", fmt::format("{} 10 x 100", kind), [=] { return assign(kind, 10, 100, 1); });
  }
  for (const double ratio : {3.0, 5.0, 10.0}) {
    add("facility", fmt::format("16 x 50, {}", ratio), [=] { return facility(16, 50, ratio, 1); });
    add("facility", fmt::format("50 x 50, {}", ratio), [=] { return facility(50, 50, ratio, 1); });
    add("facility", fmt::format("100 x 100, {}", ratio),
        [=] { return facility(100, 100, ratio, 1); });
  }
  add("lots", "5 x 8", [] { return test::lots(5, 8, 1); });
  add("lots", "6 x 15", [] { return test::lots(6, 15, 1); });
  add("lots", "12 x 30", [] { return test::lots(12, 30, 1); });
  for (const int points : {15, 27, 45})
    add("Steiner triples", fmt::format("{}", points), [=] { return steiner(points); });
  add("job shop", "4 x 4", [] { return job_shop(4, 4, 1); });
  add("job shop", "6 x 6", [] { return job_shop(6, 6, 1); });
  add("job shop", "10 x 10", [] { return job_shop(10, 10, 1); });
  add("market split", "3 rows", [] { return market_split(3, 1); });
  add("market split", "4 rows", [] { return market_split(4, 1); });
  add("stable set", "64, 0.2", [] { return stable_set(64, 0.2, 1); });
  add("queens", "5, 6 colours", [] { return queens(5, 6); });
  add("queens", "6, 7 colours", [] { return queens(6, 7); });
  for (const int points : {20, 30})
    add("colouring", fmt::format("{} points, 0.4", points),
        [=] { return colouring(points, 8, 0.4, 1); });
  for (const int points : {20, 40})
    add("network", fmt::format("{} points", points), [=] { return test::network(points, 4, 1); });
  add("flows", "one to one, 300 x 20", [] { return transport(300, 20, true, 1); });
  add("flows", "transport, 2,000 x 6", [] { return transport(2000, 6, false, 1); });
  for (const int choices : {60, 120})
    add("logical", fmt::format("{} choices", choices), [=] { return logical(choices, 1); });
  add("bins", "24", [] { return bins(24, 100.0, 1); });
  add("generators", "10 x 24", [] { return generators(10, 24, 1); });
  add("generators", "30 x 24", [] { return generators(30, 24, 1); });
  return all;
}

std::string told(const mip::SearchResult& r) {
  switch (r.outcome) {
    case Outcome::optimal:
      return "proven";
    case Outcome::infeasible:
      return "proven: no plan";
    default:
      break;
  }
  if (!r.plan) return "no plan";
  return fmt::format("{:.2f} %", 100.0 * mip::relative_gap(r.goal.to_double(), r.bound, 1.0));
}

std::string closed(const mip::SearchResult& r) {
  if (!r.plan || r.root.relaxed.status != lp::Status::optimal) return "";
  const double goal = r.goal.to_double(), all = goal - r.root.relaxed.value;
  if (!(all > 1e-9 * std::abs(goal)) || !std::isfinite(r.root.bound)) return "";
  return fmt::format("{:.0f} %",
                     100.0 * std::max(0.0, (r.root.bound - r.root.relaxed.value) / all));
}

// exp(mean(log(v + shift))) - shift
double shifted_mean(const std::vector<double>& values, double shift) {
  double sum = 0.0;
  for (const double v : values) sum += std::log(v + shift);
  return std::exp(sum / static_cast<double>(values.size())) - shift;
}

// What the search is worth without each of its parts, on problems that it proves soon.
int leave_out(double seconds) {
  constexpr std::array<const char*, 24> kSoon = {
      "boxes 5 x 100, 0.25",   "boxes 5 x 100, 0.75",
      "set cover 200 x 2,000", "assignment B 5 x 100",
      "assignment C 5 x 50",   "assignment C 5 x 100",
      "facility 16 x 50, 3",   "facility 16 x 50, 5",
      "facility 50 x 50, 10",  "lots 5 x 8",
      "lots 6 x 15",           "Steiner triples 27",
      "job shop 4 x 4",        "job shop 6 x 6",
      "market split 3 rows",   "stable set 64, 0.2",
      "queens 5, 6 colours",   "bins 24",
      "generators 10 x 24",    "colouring 20 points, 0.4",
      "network 20 points",     "logical 60 choices",
      "logical 120 choices",   "assignment B 10 x 100"};
  using Change = std::function<void(mip::SearchOptions&)>;
  const std::vector<std::pair<std::string, Change>> changes = {
      {"nothing left out", [](mip::SearchOptions&) {}},
      {"no brief look", [](mip::SearchOptions& o) { o.presolving.brief_look = false; }},
      {"no reductions", [](mip::SearchOptions& o) { o.presolving.reductions = false; }},
      {"no learning", [](mip::SearchOptions& o) { o.node.learning = false; }},
      {"no symmetries", [](mip::SearchOptions& o) { o.presolving.orbits = false; }},
      {"no cuts", [](mip::SearchOptions& o) { o.cuts = mip::CutSwitches::none(); }},
      {"no rows of the basis", [](mip::SearchOptions& o) { o.cuts.tableau = false; }},
      {"no rows along paths", [](mip::SearchOptions& o) { o.cuts.paths = false; }},
      {"no cuts below the root", [](mip::SearchOptions& o) { o.cuts.below = false; }},
      {"no cliques", [](mip::SearchOptions& o) { o.cuts.cliques = false; }},
      {"no halves", [](mip::SearchOptions& o) { o.cuts.halves = false; }},
      {"no covers", [](mip::SearchOptions& o) { o.cuts.covers = false; }},
      {"no implied bounds", [](mip::SearchOptions& o) { o.cuts.implied = false; }},
      {"no probing", [](mip::SearchOptions& o) { o.presolving.probing = false; }},
      {"no look at children", [](mip::SearchOptions& o) { o.node.strong = false; }},
      {"no fixing by prices", [](mip::SearchOptions& o) { o.node.price_fixing = false; }},
      {"no looking through", [](mip::SearchOptions& o) { o.node.enumeration = false; }},
      {"no look around the relaxation", [](mip::SearchOptions& o) { o.finding.core = false; }},
      {"no searches near the best plan",
       [](mip::SearchOptions& o) { o.finding.near_plan = false; }},
      {"no plans built first", [](mip::SearchOptions& o) { o.finding.construction = false; }},
      {"no dives", [](mip::SearchOptions& o) { o.finding.dives = false; }},
      {"no rounding to and fro", [](mip::SearchOptions& o) { o.finding.pump = false; }},
      {"no rounding", [](mip::SearchOptions& o) { o.finding.rounding = false; }}};
  std::cout << fmt::format(
      "\n### Each part left out in turn\n\n{} problems of the table above, {:.0f} s each "
      "(scripts/bench mip parts); means are shifted and geometric (a million entries touched, "
      "100 nodes), what is not proven counts with what was done until then.\n\n"
      "| left out | proven | work against the whole search | nodes against it |\n"
      "| --- | --- | --- | --- |\n",
      kSoon.size(), seconds);
  double whole_work = 0.0, whole_nodes = 0.0;
  for (const auto& [name, change] : changes) {
    std::vector<double> work, nodes;
    int proven = 0;
    for (const Case& c : cases()) {
      const std::string called = c.family + " " + c.name;
      if (std::find(kSoon.begin(), kSoon.end(), called) == kSoon.end()) continue;
      const mip::Problem p = c.make();
      mip::SearchOptions options;
      options.budget.seconds = seconds;
      change(options);
      const mip::SearchResult r = mip::Search(p, test::exact_judge(p), options).run();
      proven += r.outcome == Outcome::optimal || r.outcome == Outcome::infeasible ? 1 : 0;
      work.push_back(static_cast<double>(r.counts.work));
      nodes.push_back(static_cast<double>(r.counts.nodes));
    }
    const double all = shifted_mean(work, 1e6), count = shifted_mean(nodes, 100.0);
    if (whole_work == 0.0) {
      whole_work = all;
      whole_nodes = count;
    }
    std::cout << fmt::format("| {} | {} of {} | {:.2f} | {:.2f} |\n", name, proven, work.size(),
                             all / whole_work, count / whole_nodes);
    std::cout.flush();
  }
  return 0;
}

// The families whose aims are medians or shares: ten seeds each.
int by_seeds(double seconds) {
  constexpr std::uint64_t kSeeds = 10;
  struct Family {
    const char* name;
    std::function<mip::Problem(std::uint64_t)> make;
  };
  const std::vector<Family> families = {
      {"boxes 5 x 100, 0.25", [](std::uint64_t s) { return boxes(5, 100, 0.25, s); }},
      {"boxes 5 x 100, 0.5", [](std::uint64_t s) { return boxes(5, 100, 0.5, s); }},
      {"boxes 5 x 100, 0.75", [](std::uint64_t s) { return boxes(5, 100, 0.75, s); }},
      {"set cover 200 x 2,000", [](std::uint64_t s) { return cover(200, 2000, 0.02, s); }},
      {"set cover 300 x 3,000", [](std::uint64_t s) { return cover(300, 3000, 0.02, s); }},
      {"assignment B 5 x 100", [](std::uint64_t s) { return assign('B', 5, 100, s); }},
      {"assignment C 5 x 100", [](std::uint64_t s) { return assign('C', 5, 100, s); }},
      {"facility 16 x 50, 3", [](std::uint64_t s) { return facility(16, 50, 3.0, s); }},
      {"facility 50 x 50, 3", [](std::uint64_t s) { return facility(50, 50, 3.0, s); }},
      {"lots 6 x 15", [](std::uint64_t s) { return test::lots(6, 15, s); }},
      {"job shop 6 x 6", [](std::uint64_t s) { return job_shop(6, 6, s); }},
      {"stable set 64, 0.2", [](std::uint64_t s) { return stable_set(64, 0.2, s); }}};
  std::cout << fmt::format(
      "\n### Ten seeds each\n\n{:.0f} s each at most (scripts/bench mip seeds).\n\n"
      "| family | proven | median, s | slowest, s | nodes, median |\n"
      "| --- | --- | --- | --- | --- |\n",
      seconds);
  for (const Family& family : families) {
    std::vector<double> times, nodes;
    int proven = 0;
    for (std::uint64_t seed = 1; seed <= kSeeds; ++seed) {
      const mip::Problem p = family.make(seed);
      mip::SearchOptions options;
      options.budget.seconds = seconds;
      options.budget.seed = seed;
      const mip::SearchResult r = mip::Search(p, test::exact_judge(p), options).run();
      proven += r.outcome == Outcome::optimal || r.outcome == Outcome::infeasible ? 1 : 0;
      times.push_back(r.seconds);
      nodes.push_back(static_cast<double>(r.counts.nodes));
    }
    std::sort(times.begin(), times.end());
    std::sort(nodes.begin(), nodes.end());
    std::cout << fmt::format("| {} | {} of {} | {:.2f} | {:.2f} | {:.0f} |\n", family.name, proven,
                             kSeeds, times[kSeeds / 2], times.back(), nodes[kSeeds / 2]);
    std::cout.flush();
  }
  return 0;
}

}  // namespace

int main(int count, char** arguments) {
  if (count > 1 && std::string(arguments[1]) == "parts")
    return leave_out(count > 2 ? std::atof(arguments[2]) : 5.0);
  if (count > 1 && std::string(arguments[1]) == "seeds")
    return by_seeds(count > 2 ? std::atof(arguments[2]) : 30.0);
  if (count > 1 && std::string(arguments[1]) == "real")
    return real_size(count > 2 ? std::atof(arguments[2]) : 60.0, count > 3 ? arguments[3] : "");
  const double seconds = count > 1 ? std::atof(arguments[1]) : 20.0;
  const std::string wanted = count > 2 ? arguments[2] : "";
  const double unit = unit_seconds();
  std::cout << fmt::format(
      "\n## Hard models\n\nOne core, {:.0f} s each (scripts/bench mip); a unit is {:.2f} s (see "
      "above). Not proven: the gap that is left. bench/mip_families.hpp names the recipes.\n\n"
      "Root gap closed: of the way from the relaxation as it came to the best plan, what the "
      "root's "
      "bound went.\n\n"
      "| family | problem | columns | rows | outcome | root gap closed | cuts | nodes | s | units "
      "|\n"
      "| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |\n",
      seconds, unit);
  std::vector<double> times, nodes;
  int proven = 0;
  for (const Case& c : cases()) {
    if ((c.family + " " + c.name).find(wanted) == std::string::npos) continue;
    const mip::Problem p = c.make();
    mip::SearchOptions options;
    options.budget.seconds = seconds;
    const mip::SearchResult r = mip::Search(p, test::exact_judge(p), options).run();
    proven += r.outcome == Outcome::optimal || r.outcome == Outcome::infeasible ? 1 : 0;
    times.push_back(r.seconds / unit);
    nodes.push_back(static_cast<double>(r.counts.nodes));
    std::cout << fmt::format("| {} | {} | {} | {} | {} | {} | {} | {} | {:.2f} | {:.1f} |\n",
                             c.family, c.name, p.num_columns(), p.num_rows_in_all(), told(r),
                             closed(r), r.counts.cuts, r.counts.nodes, r.seconds, r.seconds / unit);
    std::cout.flush();
  }
  if (times.empty()) return 1;
  std::cout << fmt::format(
      "\n{} of {} are proven. Shifted geometric means: {:.1f} units (shift 10), {:.0f} nodes "
      "(shift "
      "100).\n",
      proven, times.size(), shifted_mean(times, 10.0), shifted_mean(nodes, 100.0));
  return 0;
}
