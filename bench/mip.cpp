// Hard whole and mixed problems: what is proven within a time limit, and what is left. Pages of
// Markdown.
// Usage: bench_mip [SECONDS] [NAME]     20 s each if not said; problems whose name holds NAME

#include <cmath>
#include <cstdlib>
#include <functional>
#include <iostream>

#include <fmt/format.h>

#include "mip_families.hpp"
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
  }
  add("lots", "5 x 8", [] { return test::lots(5, 8, 1); });
  add("lots", "6 x 15", [] { return test::lots(6, 15, 1); });
  add("lots", "12 x 30", [] { return test::lots(12, 30, 1); });
  for (const int points : {15, 27, 45})
    add("Steiner triples", fmt::format("{}", points), [=] { return steiner(points); });
  add("job shop", "4 x 4", [] { return job_shop(4, 4, 1); });
  add("job shop", "6 x 6", [] { return job_shop(6, 6, 1); });
  add("market split", "3 rows", [] { return market_split(3, 1); });
  add("market split", "4 rows", [] { return market_split(4, 1); });
  add("stable set", "64, 0.2", [] { return stable_set(64, 0.2, 1); });
  add("queens", "5, 6 colours", [] { return queens(5, 6); });
  add("queens", "6, 7 colours", [] { return queens(6, 7); });
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
  if (!r.plan || r.relaxed.status != lp::Status::optimal) return "";
  const double goal = r.goal.to_double(), all = goal - r.relaxed.value;
  if (!(all > 1e-9 * std::abs(goal)) || !std::isfinite(r.root_bound)) return "";
  return fmt::format("{:.0f} %", 100.0 * std::max(0.0, (r.root_bound - r.relaxed.value) / all));
}

// exp(mean(log(v + shift))) - shift
double shifted_mean(const std::vector<double>& values, double shift) {
  double sum = 0.0;
  for (const double v : values) sum += std::log(v + shift);
  return std::exp(sum / static_cast<double>(values.size())) - shift;
}

}  // namespace

int main(int count, char** arguments) {
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
    options.seconds = seconds;
    const mip::SearchResult r = mip::Search(p, test::exact_judge(p), options).run();
    proven += r.outcome == Outcome::optimal || r.outcome == Outcome::infeasible ? 1 : 0;
    times.push_back(r.seconds / unit);
    nodes.push_back(static_cast<double>(r.nodes));
    std::cout << fmt::format("| {} | {} | {} | {} | {} | {} | {} | {} | {:.2f} | {:.1f} |\n",
                             c.family, c.name, p.num_columns(),
                             p.num_rows() + p.num_conditional_rows(), told(r), closed(r), r.cuts,
                             r.nodes, r.seconds, r.seconds / unit);
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
