// The linear engine on seeded families, as a page of Markdown; see lp_families.hpp.

#include <algorithm>
#include <iostream>
#include <memory>
#include <vector>

#include <fmt/format.h>

#include "lp/simplex.hpp"
#include "lp_families.hpp"
#include "unit.hpp"

using namespace kiteknot;
using namespace kiteknot::bench;

namespace {

std::string_view word_of(lp::Status s) {
  static constexpr std::string_view kWords[] = {"optimal", "infeasible", "unbounded",
                                                "cutoff",  "limit",      "undecided"};
  return kWords[static_cast<int>(s)];
}

// Solves again after each of a few basic columns' upper bound was halved; the medians.
struct Again {
  double seconds = 0.0;
  std::int64_t pivots = 0;
};

Again solve_again(lp::Simplex& simplex, const lp::SimplexOptions& options) {
  constexpr std::size_t kTries = 9;
  const lp::Program original = simplex.program();
  const lp::BasisSnapshot start = simplex.save();
  const lp::Basis basis = simplex.basis();
  const std::vector<double> x(simplex.column_values().begin(), simplex.column_values().end());
  std::vector<double> seconds;
  std::vector<std::int64_t> pivots;
  for (Index j = 0; j < original.num_columns() && seconds.size() < kTries; ++j) {
    const auto k = static_cast<std::size_t>(j);
    if (basis.columns[k] != lp::VariableStatus::basic || x[k] < 0.05) continue;
    simplex.restore(start);
    (void)simplex.solve(options);  // values as after the first solve
    simplex.set_bounds(j, original.lower(j), x[k] / 2.0);
    const Stopwatch clock;
    pivots.push_back(simplex.solve(options).pivots);
    seconds.push_back(clock.seconds());
    simplex.set_bounds(j, original.lower(j), original.upper(j));
  }
  if (seconds.empty()) return {};
  const auto middle = static_cast<std::ptrdiff_t>(seconds.size() / 2);
  std::nth_element(seconds.begin(), seconds.begin() + middle, seconds.end());
  std::nth_element(pivots.begin(), pivots.begin() + middle, pivots.end());
  return {seconds[static_cast<std::size_t>(middle)], pivots[static_cast<std::size_t>(middle)]};
}

struct Line {
  std::string name, aim;
  Index rows = 0, columns = 0;
  lp::Report report;
  double seconds = 0.0;
  Again again;
  std::string check;
  lp::Parts parts;
  double parts_seconds = 0.0;  // of the solve in which the parts were measured
};

Line measure(const std::string& name, const Family& family, const std::string& aim,
             lp::SimplexOptions options = {}) {
  Line line{name, aim, family.program.num_rows(), family.program.num_columns(), {}, 1e300, {}, {},
            {},   0.0};
  Stopwatch run_clock;
  options.interrupt.clock = &run_clock;
  options.interrupt.seconds = 300.0;
  std::unique_ptr<lp::Simplex> simplex;
  for (int repeat = 0; repeat < (line.seconds < 0.5 ? 3 : 1); ++repeat) {
    simplex = std::make_unique<lp::Simplex>(family.program);
    const Stopwatch clock;
    line.report = simplex->solve(options);
    line.seconds = std::min(line.seconds, clock.seconds());
    if (line.seconds > 1.0) break;
  }
  const double bound = simplex->bound();
  const double target = family.optimum.value_or(bound);
  line.check = std::isinf(target) ? "no finite bound"
                                  : fmt::format("{:.0e}", std::abs(line.report.objective - target) /
                                                              (1.0 + std::abs(target)));
  if (line.report.status == lp::Status::optimal) line.again = solve_again(*simplex, options);
  lp::Simplex watched(family.program);
  options.parts = &line.parts;
  const Stopwatch clock;
  (void)watched.solve(options);
  line.parts_seconds = clock.seconds();
  return line;
}

void print_times(const std::vector<Line>& lines, double unit) {
  std::cout
      << "| family | rows x columns | status | pivots | pivots a second | seconds | units | aim "
         "| again | check |\n| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |\n";
  for (const Line& line : lines)
    std::cout << fmt::format(
        "| {} | {} x {} | {} | {} | {:.0f} | {:.3f} | {:.2f} | {} | {:.1f} % ({}) "
        "| {} |\n",
        line.name, line.rows, line.columns, word_of(line.report.status), line.report.pivots,
        static_cast<double>(line.report.pivots) / line.seconds, line.seconds, line.seconds / unit,
        line.aim, 100.0 * line.again.seconds / line.seconds, line.again.pivots, line.check);
}

void print_parts(const std::vector<Line>& lines) {
  std::cout << "\n| family | pricing | FTRAN | BTRAN | ratio test | update | factor | rest |\n"
               "| --- | --- | --- | --- | --- | --- | --- | --- |\n";
  for (const Line& line : lines) {
    const lp::Parts& p = line.parts;
    const double rest =
        line.parts_seconds - p.pricing - p.ftran - p.btran - p.ratio_test - p.update - p.factor;
    std::cout << "| " << line.name;
    for (const double part : {p.pricing, p.ftran, p.btran, p.ratio_test, p.update, p.factor, rest})
      std::cout << fmt::format(" | {:.0f} %", 100.0 * part / line.parts_seconds);
    std::cout << " |\n";
  }
}

// By how much a solve overruns its limit on time, for several limits; the worst.
double worst_overrun(const Family& family) {
  double worst = 0.0;
  for (const double limit : {0.01, 0.05, 0.1, 0.2, 0.3}) {
    lp::Simplex simplex(family.program);
    const Stopwatch clock;
    lp::SimplexOptions options;
    options.interrupt.clock = &clock;
    options.interrupt.seconds = limit;
    if (simplex.solve(options).status == lp::Status::limit)
      worst = std::max(worst, clock.seconds() - limit);
  }
  return worst;
}

}  // namespace

int main(int count, char** arguments) {
  const bool quick = count > 1 && std::string(arguments[1]) == "quick";
  Unit unit;
  std::vector<Line> lines;
  const auto add = [&](const std::string& name, const Family& family, const std::string& aim = "") {
    unit.sample();
    lines.push_back(measure(name, family, aim));
  };
  add("transport 30 x 30", transport(30, 1));
  add("transport 100 x 100", transport(100, 1), "1");
  if (!quick) add("transport 300 x 300", transport(300, 1), "8");
  add("cover 100 x 1,000", cover(100, 1000, 0.02, 1));
  add("cover 500 x 5,000", cover(500, 5000, 0.02, 1), "2.5");
  add("staircase 20 x 20", staircase(20, 20, 1));
  add("staircase 60 x 60", staircase(60, 60, 1), "6");
  add("strong facility 20 x 50", facility(20, 50, 1));
  add("strong facility 50 x 200", facility(50, 200, 1), "12");
  add("random sparse 500 x 1,000", random_sparse(500, 1000, 6, 1));
  if (!quick) add("random sparse 1,000 x 2,000", random_sparse(1000, 2000, 6, 1));
  if (!quick) add("random sparse 2,000 x 4,000", random_sparse(2000, 4000, 6, 1), "12");
  add("blending 20 x 8 x 12", blending(20, 8, 12, 1));
  add("highly degenerate 60 x 60", degenerate(60, 1));
  add("badly scaled cover 200 x 1,000", badly_scaled(1));
  unit.sample();

  std::cout
      << "\n## The linear engine\n\nOne unit is "
      << fmt::format(
             "{:.3f} s here, the least of {} "
             "times taken between the families. ",
             unit.seconds(), unit.samples())
      << "Again: the share of the first\nsolve's time, and the pivots, after one basic column's "
         "upper bound was halved (medians of 9 columns). Check: distance\nfrom the known optimum, "
         "or from the safe bound.\n\n";
  print_times(lines, unit.seconds());
  std::cout << "\nWhere the time goes, in a run that watches itself:\n";
  print_parts(lines);
  std::cout
      << "\nGrowth with size is read off the families that stand here in two or three sizes.\n";
  if (quick) return 0;
  std::cout << fmt::format(
      "\nA limit on time is overrun by at most {:.0f} ms (transport 300 x 300) and {:.0f} ms "
      "(random "
      "sparse\n2,000 x 4,000), limits of 10 to 300 ms; the aim is 50 ms.\n",
      1000.0 * worst_overrun(transport(300, 1)),
      1000.0 * worst_overrun(random_sparse(2000, 4000, 6, 1)));
}
