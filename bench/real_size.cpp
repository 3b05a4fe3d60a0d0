#include "real_size.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <iostream>
#include <map>

#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include "real/assigning.hpp"
#include "real/covering.hpp"
#include "real/placing.hpp"
#include "real/planning.hpp"
#include "unit.hpp"

namespace kiteknot::bench {
namespace {

struct RealCase {
  std::string name;
  double best;  // the least goal that any run here found, or that is published
  std::function<mip::Problem()> make;
};

/// Ten jobs on ten machines. Fisher and Thompson 1963; 930 is best (Carlier and Pinson 1989).
ShopSteps shop_of_1963() {
  constexpr int kSteps[10][20] = {
      {0, 29, 1, 78, 2, 9, 3, 36, 4, 49, 5, 11, 6, 62, 7, 56, 8, 44, 9, 21},
      {0, 43, 2, 90, 4, 75, 9, 11, 3, 69, 1, 28, 6, 46, 5, 46, 7, 72, 8, 30},
      {1, 91, 0, 85, 3, 39, 2, 74, 8, 90, 5, 10, 7, 12, 6, 89, 9, 45, 4, 33},
      {1, 81, 2, 95, 0, 71, 4, 99, 6, 9, 8, 52, 7, 85, 3, 98, 9, 22, 5, 43},
      {2, 14, 0, 6, 1, 22, 5, 61, 3, 26, 4, 69, 8, 21, 7, 49, 9, 72, 6, 53},
      {2, 84, 1, 2, 5, 52, 3, 95, 8, 48, 9, 72, 0, 47, 6, 65, 4, 6, 7, 25},
      {1, 46, 0, 37, 3, 61, 2, 13, 6, 32, 5, 21, 9, 32, 8, 89, 7, 30, 4, 55},
      {2, 31, 0, 86, 1, 46, 5, 74, 4, 32, 6, 88, 8, 19, 9, 48, 7, 36, 3, 79},
      {0, 76, 1, 69, 3, 76, 5, 51, 2, 85, 9, 11, 6, 40, 7, 89, 4, 26, 8, 74},
      {1, 85, 0, 13, 2, 61, 6, 7, 8, 64, 9, 76, 5, 47, 3, 52, 4, 90, 7, 45}};
  ShopSteps steps;
  for (const auto& job : kSteps) {
    steps.emplace_back();
    for (std::size_t k = 0; k < 20; k += 2) steps.back().emplace_back(job[k], job[k + 1]);
  }
  return steps;
}

std::vector<RealCase> real_cases() {
  return {
      {"lots 30 x 30", 223631.9, [] { return lots_with_overtime(30, 30, 11); }},
      {"lots 60 x 60", 907769.8, [] { return lots_with_overtime(60, 60, 11); }},
      {"lots in levels 24 x 40", 533979.0, [] { return lots_in_levels(24, 40, 1); }},
      {"partition 200 x 8,000", kInf, [] { return partition(200, 8000, 3); }},
      {"partition 400 x 30,000", kInf, [] { return partition(400, 30000, 3); }},
      {"trips 100 x 20,000", 2291.0, [] { return trips(100, 20000, 1); }},
      {"cutting 40 x 5,000", 1193.0, [] { return cutting(40, 5000, 1); }},
      {"cover 1,000 x 10,000", 182.0, [] { return cover(1000, 10000, 0.02, 1); }},
      {"cover 5,000 x 50,000", 2289.0, [] { return cover(5000, 50000, 0.002, 1); }},
      {"project 30 x 90", 46.0, [] { return project(30, 90, 1); }},
      {"project 60 x 160", 84.0, [] { return project(60, 160, 1); }},
      {"facilities 200 x 200", 40084.6, [] { return facility(200, 200, 5.0, 1); }},
      {"facilities without room 200 x 500", 73893.0, [] { return location(200, 500, 200, 1); }},
      {"near sites 800 x 800", 130282.0, [] { return location(800, 800, 20, 1); }},
      {"network 30 x 200, 40 goods", 11029.0, [] { return design(30, 200, 40, 1); }},
      {"shipping 500 x 500", 149111.0, [] { return shipping(500, 500, 1); }},
      {"roster 60 x 28", 305.0, [] { return roster(60, 28, 1); }},
      {"roster 150 x 28", 728.0, [] { return roster(150, 28, 1); }},
      {"timetable 250 x 30 x 12", 124.0, [] { return timetable(250, 30, 12, 1); }},
      {"generators 50 x 48", 303165.0, [] { return generators(50, 48, 1); }},
      {"generators 100 x 96", 1165441.0, [] { return generators(100, 96, 1); }},
      {"bins 120", 32.0, [] { return bins(120, 150.0, 1); }},
      {"bins 500", 136.0, [] { return bins(500, 150.0, 1); }},
      {"assignment E 20 x 200", 21341.0, [] { return assign_e(20, 200, 1); }},
      {"assignment E 20 x 400", 42427.0, [] { return assign_e(20, 400, 1); }},
      {"assignment E 40 x 400", 42941.0, [] { return assign_e(40, 400, 1); }},
      {"sacks 30 x 300", -83387.0, [] { return sacks(30, 300, 1); }},
      {"boxes 10 x 500", -212230.0, [] { return boxes(10, 500, 0.5, 1); }},
      {"boxes 30 x 500", -212711.0, [] { return boxes(30, 500, 0.5, 1); }},
      {"stable set 500, 0.05", -82.0, [] { return stable_set(500, 0.05, 1); }},
      {"logical 2,000", -30768.0, [] { return logical(2000, 1); }},
      {"blends 1,000 x 20", kInf, [] { return blends(1000, 20, 1); }},
      {"job shop of 1963", 930.0, [] { return job_shop(shop_of_1963()); }},
      {"job shop 15 x 15", 1811.0, [] { return job_shop(shop_steps(15, 15, 99.0, 1)); }},
  };
}

// Where the search stood at some moments.
class Watch final : public mip::Listener {
 public:
  void better_plan(const mip::Standing& now, std::span<const Rational>) override { take(now); }
  void progress(const mip::Standing& now) override { take(now); }
  [[nodiscard]] const std::vector<mip::Standing>& all() const { return all_; }

 private:
  void take(const mip::Standing& now) {
    if (!all_.empty() && all_.back().best == now.best && now.seconds < all_.back().seconds + 0.05)
      return;
    all_.push_back(now);
  }
  std::vector<mip::Standing> all_;
};

std::string value_of(double x) {
  return std::isfinite(x) ? fmt::format("{:.7g}", x) : "";
}
std::string gap_of(double best, double bound) {
  if (!std::isfinite(best)) return "no plan";
  if (!std::isfinite(bound)) return value_of(best);
  return fmt::format("{}, {:.3g} %", value_of(best), 100.0 * mip::relative_gap(best, bound, 1.0));
}

// Berthold 2013, "Measuring the impact of primal heuristics": the mean over the time of the
// distance from the best known goal, 1 while there is no plan; in percent.
double primal_integral(const std::vector<mip::Standing>& history, double known, double seconds) {
  double area = 0.0, since = 0.0, distance = 1.0;
  for (const mip::Standing& now : history) {
    const double until = std::min(now.seconds, seconds);
    area += distance * std::max(0.0, until - since);
    since = std::max(since, until);
    if (!std::isfinite(now.best)) continue;
    const double size = std::max(std::abs(now.best), std::abs(known));
    distance = size == 0.0 ? 0.0 : std::min(1.0, std::abs(now.best - known) / size);
  }
  area += distance * std::max(0.0, seconds - since);
  return 100.0 * area / seconds;
}

// The shares of the work, largest first.
std::string profile(const mip::SearchResult& r) {
  std::map<std::string, std::int64_t> by;
  std::int64_t told = 0;
  for (const mip::PartTally& part : r.parts) {
    by[std::string(part.kind) + ": " + std::string(part.name)] += part.tally.work;
    told += part.tally.work;
  }
  by["relaxations and the rest"] = std::max<std::int64_t>(0, r.counts.work - told);
  std::vector<std::pair<std::int64_t, std::string>> sorted;
  for (const auto& [name, work] : by) sorted.emplace_back(work, name);
  std::sort(sorted.rbegin(), sorted.rend());
  std::string text;
  const double all = std::max(1.0, static_cast<double>(std::max(r.counts.work, told)));
  for (std::size_t k = 0; k < std::min<std::size_t>(sorted.size(), 5); ++k) {
    const double share = 100.0 * static_cast<double>(sorted[k].first) / all;
    if (share < 1.0) break;
    text += fmt::format("{}{:.0f} % {}", text.empty() ? "" : "; ", share, sorted[k].second);
  }
  return text;
}

std::string row_of(const RealCase& c, double seconds) {
  const mip::Problem p = c.make();
  Watch watch;
  mip::SearchOptions options;
  options.budget.seconds = seconds;
  const mip::SearchResult r = mip::Search(p, test::exact_judge(p), options, &watch).run();
  const double best = r.plan ? r.goal.to_double() : kInf;
  const auto at_second = [&](double moment) -> std::string {
    if (moment > seconds) return "";
    if (r.outcome == Outcome::infeasible && r.seconds <= moment) return "there is none";
    if (r.seconds <= moment)
      return r.outcome == Outcome::optimal ? fmt::format("{}, proven", value_of(best))
                                           : gap_of(best, r.bound);
    mip::Standing then;
    for (const mip::Standing& now : watch.all()) {
      if (now.seconds > moment) break;
      then = now;
    }
    return gap_of(then.best, then.bound);
  };
  std::string first = "";
  if (!r.history.empty() && r.plan) first = fmt::format("{:.2f}", r.history.front().seconds);
  std::string closed;
  const double all = best - r.root.relaxed.value;
  if (r.plan && r.root.relaxed.status == lp::Status::optimal && all > 1e-9 * std::abs(best) &&
      std::isfinite(r.root.bound))
    closed =
        fmt::format("{:.0f} %", 100.0 * std::max(0.0, r.root.bound - r.root.relaxed.value) / all);
  const double integral = primal_integral(r.history, std::min(best, c.best), seconds);
  rusage usage{};
  getrusage(RUSAGE_SELF, &usage);
  const double in_tree = r.seconds - r.root.seconds;
  return fmt::format(
      "| {} | {} | {} | {} | {} | {} | {} | {:.2f} | {} | {} | {:.1f} | {:.1f} | {:.0f} | {} |\n",
      c.name, p.num_columns(), p.num_rows_in_all(), at_second(10.0), at_second(60.0),
      at_second(300.0), first, r.root.seconds, closed, r.counts.nodes,
      in_tree > 0.0 ? static_cast<double>(r.counts.nodes) / in_tree : 0.0, integral,
      static_cast<double>(usage.ru_maxrss) / 1024.0, profile(r));
}

}  // namespace

int real_size(double seconds, const std::string& wanted) {
  std::cout << fmt::format(
      "\n## Real size\n\nOne core, {:.0f} s each (scripts/bench mip real); bench/real names the "
      "recipes. Goal and gap after 10, 60 and 300 s; the first plan and the end of the root in "
      "seconds; share of the root gap closed before anything was branched on; the primal integral "
      "(Berthold 2013) against the best goal known, as a share of the time, in percent; memory "
      "in MB. Parts: their share of the work counted.\n\n"
      "| problem | columns | rows | 10 s | 60 s | 300 s | first plan | root | closed | nodes | "
      "nodes a second | primal integral | memory | parts |\n"
      "| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |\n",
      seconds);
  for (const RealCase& c : real_cases()) {
    if (c.name.find(wanted) == std::string::npos) continue;
    std::cout.flush();
    const pid_t child = fork();
    if (child == 0) {
      std::cout << row_of(c, seconds);
      std::cout.flush();
      _exit(0);
    }
    int status = 0;
    if (child < 0 || waitpid(child, &status, 0) < 0 || status != 0)
      std::cout << fmt::format("| {} | it ended with {} |\n", c.name, status);
  }
  return 0;
}

}  // namespace kiteknot::bench
