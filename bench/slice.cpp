// Speed and size of the everyday path, as a page of Markdown. Times are the least of several runs;
// beside seconds stand units, one unit being the time in which Eigen::SparseLU (COLAMD) factorises
// the 5-point matrix of a 150 x 150 grid in the same run, so that figures from different machines
// compare.

#include <filesystem>
#include <fstream>
#include <functional>
#include <iostream>

#include <fmt/format.h>
#include <sys/resource.h>
#include <unistd.h>

#include "base/random.hpp"
#include "base/work.hpp"
#include "kiteknot/kiteknot.hpp"
#include "model/lowering.hpp"
#include "unit.hpp"

using namespace kiteknot;
using bench::least_seconds;
using bench::unit_seconds;
namespace fs = std::filesystem;

namespace {

// Memory that the process holds now, in bytes.
double resident_bytes() {
  std::ifstream in("/proc/self/statm");
  double pages = 0, resident = 0;
  in >> pages >> resident;
  return resident * static_cast<double>(::sysconf(_SC_PAGESIZE));
}

// The most that it ever held.
double highest_bytes() {
  rusage use{};
  ::getrusage(RUSAGE_SELF, &use);
  return 1024.0 * static_cast<double>(use.ru_maxrss);
}

// n items, m weights each, worth random or tied to the first weight.
std::string packing_csv(int n, int m, bool correlated, std::uint64_t seed,
                        std::vector<std::int64_t>& sums) {
  Random random(seed);
  std::string csv = "item";
  for (int k = 0; k < m; ++k) csv += fmt::format(",w{}", k);
  csv += ",worth\n";
  sums.assign(static_cast<std::size_t>(m), 0);
  for (int i = 0; i < n; ++i) {
    csv += fmt::format("item {}", i);
    std::int64_t first = 0;
    for (int k = 0; k < m; ++k) {
      const std::int64_t w = random.between(10, 100);
      first = k == 0 ? w : first;
      sums[static_cast<std::size_t>(k)] += w;
      csv += fmt::format(",{}", w);
    }
    csv += fmt::format(",{}\n", correlated ? first + 10 : random.between(10, 100));
  }
  return csv;
}

std::string packing_knot(const std::string& csv, const std::vector<std::int64_t>& sums) {
  std::string text = fmt::format(
      "model \"Packing\"\ntable items from \"{}\" key item\ndecide pick[i in items] "
      "binary\nmaximize worth: total(i.worth * pick[i] over i in items)\n",
      csv);
  for (std::size_t k = 0; k < sums.size(); ++k)
    text +=
        fmt::format("rule w{}: total(i.w{} * pick[i] over i in items) <= {}\n", k, k, sums[k] / 2);
  return text;
}

class Bench {
 public:
  Bench()
      : folder_(fs::temp_directory_path() / fmt::format("kiteknot-bench-{}", ::getpid())),
        unit_(unit_seconds()) {
    fs::create_directories(folder_);
  }
  ~Bench() { fs::remove_all(folder_); }

  void run() {
    std::cout << "# Benchmarks\n\nMeasured by `scripts/bench` on the build of this tree; nothing "
                 "here is written by hand. Times are the\n"
                 "least of several runs. One unit is the time that Eigen::SparseLU (COLAMD) takes "
                 "in the same run for the\n"
                 "5-point matrix of a 150 x 150 grid: "
              << fmt::format("{:.3f} s here.\n\n", unit_);
    std::cout
        << "## The everyday path\n\n| what | seconds | units | aim |\n| --- | --- | --- | --- |\n";
    table();  // first: its memory is the most that the process held by then
    small_models();
    big_model();
    std::cout
        << "\n## Large models\n\nItems with ten figures and a group each: five rules over all "
           "items, five rule families over the groups.\nRead, and lowered to rows and columns; "
           "memory is what the process grew by at its highest.\n\n"
           "| decisions | nonzeros | read, s | lowered, s | together, s | memory, MB | aim |\n"
           "| --- | --- | --- | --- | --- | --- | --- |\n";
    for (const int n : {25000, 50000, 100000}) large(n);
    std::cout << "\n## How the search grows\n\nPacking, two rules, half of all weight allowed, "
                 "worth independent of weight (seed 5).\n\n"
                 "| items | seconds | branches | pivots |\n| --- | --- | --- | --- |\n";
    for (const int n : {20, 40, 80, 160, 320}) growth(n);
    std::cout << "\nThe relaxation's matrix is stored once and shared by all nodes "
                 "(src/mip/relaxation/relaxation.hpp); a node keeps its\n"
                 "changes and, shared by its children, one byte a column and row for the basis.\n";
  }

  // Reading a file of many rows, with all its checks.
  void table() {
    std::vector<std::int64_t> sums;
    const std::string csv = packing_csv(1'000'000, 3, false, 4, sums);
    const fs::path path = folder_ / "big.csv";
    std::ofstream(path) << csv;
    const double before = highest_bytes();
    const auto read = [&](int columns) {
      const Table t = Table::read(path.string(), {.key = {"item"}});
      for (const char* column : {"worth", "w0", "w1", "w2"})
        if (columns-- > 0) (void)t.numbers(column);
    };
    read(1);
    const double bytes = highest_bytes() - before;
    line("CSV of 1,000,000 rows, 5 columns: read, one column as figures",
         least_seconds(3, [&] { read(1); }), "0.4 s");
    line("the same, four columns as figures", least_seconds(3, [&] { read(4); }), "");
    std::cout << fmt::format(
        "| the same, one column: memory as a multiple of the file's {:.1f} MB | {:.1f} x | - | 5 x "
        "|\n",
        static_cast<double>(csv.size()) / 1e6, bytes / static_cast<double>(csv.size()));
  }

 private:
  void line(const std::string& what, double seconds, const std::string& aim) {
    std::cout << fmt::format("| {} | {:.4f} | {:.3f} | {} |\n", what, seconds, seconds / unit_,
                             aim);
  }

  Model packing(int n, int m, bool correlated, std::uint64_t seed) {
    std::vector<std::int64_t> sums;
    const std::string csv = packing_csv(n, m, correlated, seed, sums);
    std::ofstream(folder_ / "items.csv") << csv;
    const std::string text = packing_knot("items.csv", sums);
    std::ofstream(folder_ / "packing.knot") << text;
    return read_model((folder_ / "packing.knot").string()).value();
  }

  void small_models() {
    for (const bool correlated : {false, true}) {
      std::vector<double> times;
      for (std::uint64_t seed = 1; seed <= 5; ++seed) {
        const Model m = packing(40, 2, correlated, seed);
        times.push_back(least_seconds(correlated ? 1 : 3, [&] {
          if (solve(m, {.seconds = 60}).outcome != Outcome::optimal)
            std::cout << "(not proven within 60 s)\n";
        }));
      }
      std::sort(times.begin(), times.end());
      const char* kind = correlated ? "40 binaries, 2 rules, worth = weight + 10 (hard), proven"
                                    : "40 binaries, 2 rules, worth independent, proven";
      line(fmt::format("{}: median of 5 seeds", kind), times[2], correlated ? "-" : "0.1 s");
      line(fmt::format("{}: slowest of 5 seeds", kind), times[4], correlated ? "-" : "0.1 s");
    }
  }

  void big_model() {
    (void)packing(10000, 2, false, 3);
    const std::string path = (folder_ / "packing.knot").string();
    line("10,000-item packing model: read",
         least_seconds(5, [&] { (void)read_model(path).value(); }), "");
    const Model m = read_model(path).value();
    line("10,000-item packing model: shown (with lowering's algebra)",
         least_seconds(5, [&] { (void)show_page(m); }), "");
    line("10,000-item packing model: relaxed (lowered, solved, checked)",
         least_seconds(3, [&] { (void)solve_relaxed(m); }), "");
    line("10,000-item packing model: read, lowered and shown",
         least_seconds(3, [&] { (void)show_page(read_model(path).value()); }), "1 s");
    constexpr int kScalars = 16000;
    std::string scalars;
    for (int k = 0; k < kScalars; ++k) scalars += fmt::format("decide x{} binary\n", k);
    scalars += "maximize worth: x0";
    for (int k = 1; k < kScalars; k += 4) scalars += fmt::format(" + x{}", k);
    line("16,000 decisions with a name each: read",
         least_seconds(3, [&] { (void)parse_knot(scalars, "scalars.knot", "").value(); }), "0.2 s");
  }

  void large(int n) {
    Random random(17);
    std::string csv = "item,group";
    for (int k = 0; k < 10; ++k) csv += fmt::format(",w{}", k);
    csv += "\n";
    const int groups = n / 100;
    for (int i = 0; i < n; ++i) {
      csv += fmt::format("i{},g{}", i, random.between(0, groups - 1));
      for (int k = 0; k < 10; ++k) csv += fmt::format(",{}", random.between(1, 99));
      csv += "\n";
    }
    std::ofstream(folder_ / "large.csv") << csv;
    std::string table = "group\n";
    for (int g = 0; g < groups; ++g) table += fmt::format("g{}\n", g);
    std::ofstream(folder_ / "groups.csv") << table;
    std::string text =
        "table groups from \"groups.csv\" key group\n"
        "table items from \"large.csv\" key item refers group in groups\n"
        "decide pick[i in items] binary\nmaximize worth: total(i.w0 * pick[i] over i in items)\n";
    for (int k = 0; k < 5; ++k)
      text +=
          fmt::format("rule all{}: total(i.w{} * pick[i] over i in items) <= {}\n", k, k, 20 * n);
    for (int k = 5; k < 10; ++k)
      text += fmt::format(
          "rule part{}[g in groups]: total(i.w{} * pick[i] over i in items where i.group = g) <= "
          "900\n",
          k, k);
    std::ofstream(folder_ / "large.knot") << text;
    const double before = resident_bytes();
    const Stopwatch clock;
    const Model m = read_model((folder_ / "large.knot").string()).value();
    const double read = clock.seconds();
    const Lowering lowered = lower(m.data());
    const double all = clock.seconds();
    std::cout << fmt::format("| {} | {} | {:.2f} | {:.2f} | {:.2f} | {:.0f} | {} |\n", n,
                             lowered.problem.rows().num_nonzeros(), read, all - read, all,
                             (highest_bytes() - before) / 1e6, n == 100000 ? "3 s, 600 MB" : "");
  }

  void growth(int n) {
    const Model m = packing(n, 2, false, 5);
    const Stopwatch clock;
    const Result r = solve(m, {.seconds = 60});
    std::cout << fmt::format("| {} | {:.3f}{} | {} | {} |\n", n, clock.seconds(),
                             r.outcome == Outcome::optimal ? "" : " (not proven)", r.search.nodes,
                             r.search.lp_iterations);
  }

  fs::path folder_;
  double unit_;
};

}  // namespace

// "table": only the reading of a table.
int main(int argc, char** argv) {
  if (argc > 1 && std::string_view(argv[1]) == "table")
    Bench().table();
  else
    Bench().run();
}
