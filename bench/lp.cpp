// The linear engine on seeded families, as a page of Markdown; see lp_families.hpp.

#include <iostream>

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

void measure(const std::string& name, const Family& family, double unit, const std::string& aim) {
  lp::Report report;
  lp::SolveOptions options;
  Stopwatch run_clock;
  options.interrupt.clock = &run_clock;
  options.interrupt.seconds = 120.0;
  lp::Simplex simplex(family.program);
  const Stopwatch clock;
  report = simplex.solve(options);
  const double seconds = clock.seconds();
  double error = 0.0;
  if (family.optimum)
    error = std::abs(report.objective - *family.optimum) / (1.0 + std::abs(*family.optimum));
  const double bound = simplex.bound();
  // One bound moves: the first basic column is forced below its value.
  double again = 0.0;
  std::int64_t pivots = 0;
  if (report.status == lp::Status::optimal) {
    const lp::Basis basis = simplex.basis();
    for (Index j = 0; j < family.program.num_columns(); ++j) {
      const double x = simplex.column_values()[static_cast<std::size_t>(j)];
      if (basis.columns[static_cast<std::size_t>(j)] != lp::Place::basic || x < 0.05) continue;
      simplex.set_bounds(j, 0.0, x / 2.0);
      const Stopwatch warm;
      pivots = simplex.solve(options).pivots;
      again = warm.seconds();
      break;
    }
  }
  std::cout << fmt::format(
      "| {} | {} x {} | {} | {} | {:.0f} | {:.3f} | {:.2f} | {} | {:.1f} % ({}) | {} |\n", name,
      family.program.num_rows(), family.program.num_columns(), word_of(report.status),
      report.pivots, static_cast<double>(report.pivots) / seconds, seconds, seconds / unit, aim,
      100.0 * again / seconds, pivots,
      family.optimum
          ? fmt::format("{:.0e}", error)
          : (std::isinf(bound) ? "no finite bound"
                               : fmt::format("{:.0e}", std::abs(report.objective - bound) /
                                                           (1.0 + std::abs(bound)))));
  std::cout.flush();
}

}  // namespace

int main(int count, char** arguments) {
  const bool quick = count > 1 && std::string(arguments[1]) == "quick";
  const double unit = unit_seconds(5);
  std::cout
      << "\n## The linear engine\n\nOne unit is " << fmt::format("{:.3f} s here. ", unit)
      << "Again: the share of the first solve's time, and the pivots, after one basic column's "
         "upper\n"
         "bound was halved. Check: distance from the known optimum, or from the safe bound.\n\n"
         "| family | rows x columns | status | pivots | pivots a second | seconds | units | aim | "
         "again | check |\n"
         "| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |\n";
  measure("transport 30 x 30", transport(30, 1), unit, "");
  measure("transport 100 x 100", transport(100, 1), unit, "1");
  measure("cover 100 x 1,000", cover(100, 1000, 0.02, 1), unit, "");
  measure("cover 500 x 5,000", cover(500, 5000, 0.02, 1), unit, "2.5");
  measure("staircase 20 x 20", staircase(20, 20, 1), unit, "");
  measure("staircase 60 x 60", staircase(60, 60, 1), unit, "6");
  measure("strong facility 20 x 50", facility(20, 50, 1), unit, "");
  if (!quick) measure("strong facility 50 x 200", facility(50, 200, 1), unit, "12");
  measure("random sparse 500 x 1,000", random_sparse(500, 1000, 6, 1), unit, "");
  if (!quick) measure("random sparse 2,000 x 4,000", random_sparse(2000, 4000, 6, 1), unit, "12");
  measure("blending 20 x 8 x 12", blending(20, 8, 12, 1), unit, "");
  measure("badly scaled cover 200 x 1,000", badly_scaled(1), unit, "");
  if (!quick) measure("transport 300 x 300", transport(300, 1), unit, "8");
}
