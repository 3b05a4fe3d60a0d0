// Small nonlinear models of the literature with known optima, rewritten as models
// (bench/nonlinear), and random families after published recipes: quadratic knapsacks, quadratic
// assignments, quadratics over a box. A page of Markdown. Usage: bench_nonlinear [SECONDS]    a
// limit for each, 60 unless said

#include <cmath>
#include <cstdlib>
#include <iostream>

#include <fmt/format.h>

#include "base/random.hpp"
#include "kiteknot/kiteknot.hpp"
#include "unit.hpp"

using namespace kiteknot;

namespace {

struct Known {
  const char* file;
  double best;  // as published, to the digits that were
};

constexpr Known kKnown[] = {{"synthesis1", 6.0097},    {"synthesis2", 73.0353},
                            {"synthesis3", 68.0097},   {"two_units", 7.6672},
                            {"four_real", 17.0140173}, {"four_whole", 0.0},
                            {"pooling1", 400.0},       {"pooling2", 600.0},
                            {"pooling3", 750.0},       {"heat_exchange", 7049.248},
                            {"batch_plant", 38499.8},  {"spring", 2.65856},
                            {"gear_train", 0.027009},  {"pressure_vessel", 6059.714},
                            {"alkylation", 1768.807},  {"beam", 64578.0}};

// n items whose pairs are worth something too. Gallo, Hammer and Simeone 1980, "Quadratic knapsack
// problems".
std::string knapsack(int n, std::uint64_t seed) {
  Random random(seed);
  std::string text = "model \"quadratic knapsack\"\n", goal, load;
  std::int64_t all = 0;
  for (int i = 0; i < n; ++i) {
    text += fmt::format("decide x{} binary\n", i);
    const auto mass = random.between(1, 50);
    all += mass;
    load += fmt::format("{}{} * x{}", i == 0 ? "" : " + ", mass, i);
    for (int j = i; j < n; ++j)
      if (random.chance(0.5))
        goal += fmt::format("{}{} * x{} * x{}", goal.empty() ? "" : " + ", random.between(1, 100),
                            i, j);
  }
  return text + fmt::format("maximize worth: {}\nrule mass: {} <= {}\n", goal, load, all / 3);
}

// n facilities on n places of a grid; flows between them. Koopmans and Beckmann 1957, "Assignment
// problems and the location of economic activities".
std::string assignment(int n, std::uint64_t seed) {
  Random random(seed);
  std::string text = "model \"quadratic assignment\"\n", goal, rules;
  const int side = static_cast<int>(std::ceil(std::sqrt(n)));
  const auto away = [&](int a, int b) {
    return std::abs(a / side - b / side) + std::abs(a % side - b % side);
  };
  for (int f = 0; f < n; ++f) {
    std::string once, taken;
    for (int p = 0; p < n; ++p) {
      text += fmt::format("decide x{}_{} binary\n", f, p);
      once += fmt::format("{}x{}_{}", p == 0 ? "" : " + ", f, p);
      taken += fmt::format("{}x{}_{}", p == 0 ? "" : " + ", p, f);
    }
    rules += fmt::format("rule f{}: {} = 1\nrule p{}: {} = 1\n", f, once, f, taken);
    for (int g = 0; g < f; ++g) {
      const auto flow = random.chance(0.4) ? 0 : random.between(1, 9);
      for (int p = 0; p < n && flow > 0; ++p)
        for (int q = 0; q < n; ++q)
          if (p != q)
            goal += fmt::format("{}{} * x{}_{} * x{}_{}", goal.empty() ? "" : " + ",
                                flow * away(p, q), f, p, g, q);
    }
  }
  return text + "minimize way: " + goal + "\n" + rules;
}

// Vandenbussche and Nemhauser 2005, "A branch-and-cut algorithm for nonconvex quadratic programs
// with box constraints".
std::string box(int n, double density, std::uint64_t seed) {
  Random random(seed);
  std::string text = "model \"quadratic over a box\"\n", goal;
  const auto entry = [&](double q, const std::string& of) {
    goal += fmt::format("{}{} * {}", goal.empty() ? "" : " + ", q, of);
  };
  for (int i = 0; i < n; ++i) {
    text += fmt::format("decide x{} real 0 .. 1\n", i);
    entry(static_cast<double>(random.between(-50, 50)), fmt::format("x{}", i));
    for (int j = i; j < n; ++j) {
      if (!random.chance(density)) continue;
      const auto q = static_cast<double>(random.between(-50, 50));
      if (i == j)
        entry(q / 2.0, fmt::format("x{} ^ 2", i));
      else
        entry(q, fmt::format("x{} * x{}", i, j));
    }
  }
  return text + "maximize g: " + goal + "\n";
}

// Stalls whose yield falls with their size, each with a rent once it is open; room for a few. After
// Gunluk and Linderoth 2010, "Perspective reformulations of mixed integer nonlinear programs with
// indicator variables" (separable convex costs under switches).
std::string stalls(int n, std::uint64_t seed) {
  Random random(seed);
  std::string text = "model \"stalls\"\ntable stalls key stall rows\n  stall,worth,bend,rent\n";
  for (int i = 0; i < n; ++i)
    text += fmt::format("  s{},{},{},{}\n", i, random.between(10, 99), random.between(5, 80),
                        random.between(5, 60));
  return text + fmt::format(
                    "decide open[s in stalls] binary\ndecide size[s in stalls] real 0 .. 10\n"
                    "maximize profit: total(s.worth * size[s] - s.bend / 10 * size[s] ^ 2 - s.rent "
                    "* open[s] over s in stalls)\n"
                    "rule link[s in stalls]: size[s] <= 10 * open[s]\n"
                    "rule room: total(size[s] over s in stalls) <= {}\n",
                    2 * n);
}

// The same with a swing in five winds that all stalls share, and few of them open: a convex
// quadratic of low rank beside a diagonal. After Bienstock 1996, "Computational study of a family
// of mixed-integer quadratic programming problems".
std::string swings(int n, std::uint64_t seed) {
  Random random(seed);
  std::string
      text =
          "model \"swings\"\ntable winds key wind rows\n  wind\n  w0\n  w1\n  w2\n  w3\n  w4\n"
          "table stalls key stall rows\n  stall,worth,own\n",
      reacts = "table reacts key stall in stalls, wind in winds rows\n  stall,wind,by\n";
  for (int i = 0; i < n; ++i) {
    text += fmt::format("  s{},{},{}\n", i, random.between(10, 99), random.between(1, 8));
    for (int w = 0; w < 5; ++w)
      reacts += fmt::format("  s{},w{},{}\n", i, w,
                            static_cast<double>(random.between(-100, 100)) / 100.0);
  }
  return text + reacts +
         fmt::format(
             "decide open[s in stalls] binary\ndecide size[s in stalls] real 0 .. 10\n"
             "let swing[w in winds] = total(r.by * size[r.stall] over r in reacts where r.wind = "
             "w)\n"
             "maximize profit: total(s.worth * size[s] - s.own * size[s] ^ 2 over s in stalls) - "
             "total(swing[w] ^ 2 over w in winds)\n"
             "rule link[s in stalls]: size[s] <= 10 * open[s]\n"
             "rule few: total(open[s] over s in stalls) <= {}\n"
             "rule room: total(size[s] over s in stalls) <= {}\n",
             n / 5, n);
}

// Pools that mix three inputs each, and lanes to four customers nearby, with limits on quality: the
// pooling problem (Haverly 1978) at a size of its own.
std::string blending(int n, std::uint64_t seed) {
  Random random(seed);
  const auto tenth = [&](int low, int high) {
    return static_cast<double>(random.between(low, high)) / 10.0;
  };
  std::string pools = "table pools key pool rows\n  pool,most\n",
              ends = "table ends key end rows\n  end,need,limit,pays\n",
              ins = "table ins key pool in pools, nr rows\n  pool,nr,quality,price\n",
              lanes = "table lanes key pool in pools, end in ends rows\n  pool,end,cost\n";
  constexpr double kQuality[] = {0.8, 1.7, 3.0};
  constexpr int kPrice[] = {12, 9, 5};
  for (int i = 0; i < n; ++i) {
    pools += fmt::format("  p{},{}\n", i, random.between(50, 100));
    ends += fmt::format("  e{},{},{},{}\n", i, random.between(30, 90), tenth(12, 24),
                        random.between(10, 16));
    for (int k = 0; k < 3; ++k)
      ins += fmt::format("  p{},{},{},{}\n", i, k, kQuality[k] + tenth(-2, 2),
                         kPrice[k] + random.between(-1, 1));
    for (const int away : {0, 1, 3, 7})
      lanes += fmt::format("  p{},e{},{}\n", i, (i + away) % n, tenth(1, 10));
  }
  return "model \"blending\"\n" + pools + ends + ins + lanes +
         "decide take[a in ins] real 0 .. 100\ndecide quality[p in pools] real 0.5 .. 3.5\n"
         "decide flow[l in lanes] real 0 .. 100\n"
         "maximize profit: total(l.end.pays * flow[l] - l.cost * flow[l] over l in lanes) - "
         "total(a.price * take[a] over a in ins)\n"
         "rule balance[p in pools]: total(take[a] over a in ins where a.pool = p) = total(flow[l] "
         "over l in lanes where l.pool = p)\n"
         "rule mix[p in pools]: total(a.quality * take[a] over a in ins where a.pool = p) = "
         "total(flow[l] * quality[p] over l in lanes where l.pool = p)\n"
         "rule most[p in pools]: total(flow[l] over l in lanes where l.pool = p) <= p.most\n"
         "rule need[e in ends]: total(flow[l] over l in lanes where l.end = e) <= e.need\n"
         "rule good[e in ends]: total(flow[l] * quality[l.pool] over l in lanes where l.end = e) "
         "<= e.limit * total(flow[l] over l in lanes where l.end = e)\n";
}

void tell(const std::string& name, const Model& model, std::optional<double> known, double limit,
          double unit) {
  SolveOptions options;
  options.seconds = limit;
  const Stopwatch clock;
  const Result r = solve(model, options);
  const double seconds = clock.seconds();
  const bool proven = r.outcome == Outcome::optimal;
  const std::string value =
      r.goals.empty() || !r.goals[0].value ? "-" : fmt::format("{:.8g}", r.goal().to_double());
  std::cout << fmt::format("| {} | {} | {} | {} | {} | {:.3g} |\n", name, value,
                           known ? fmt::format("{:.8g}", *known) : "",
                           proven ? "proven"
                           : r.goals.empty() || !r.goals[0].gap
                               ? std::string(word(r.outcome))
                               : fmt::format("gap {:.2g} %", 100.0 * *r.goals[0].gap),
                           r.search.nodes, seconds / unit)
            << std::flush;
}

}  // namespace

int main(int argc, char** argv) {
  const double limit = argc > 1 ? std::atof(argv[1]) : 60.0;
  const double one = bench::unit_seconds();
  std::cout << fmt::format(
      "\n## Nonlinear models (scripts/bench nonlinear)\n\n"
      "Published small problems, rewritten from the sources that their files name, and random "
      "families (two decisions a stall, eight a pool); gap 1e-6, {:.0f} s each. Time in units "
      "({:.3g} ms in this run).\n\n"
      "| problem | value | published | outcome | branches | units |\n"
      "| --- | ---: | ---: | --- | ---: | ---: |\n",
      limit, 1e3 * one);
  for (const Known& k : kKnown) {
    Reading<Model> read = read_model(fmt::format("{}/{}.knot", KITEKNOT_NONLINEAR_DIR, k.file));
    if (!read.ok()) {
      std::cerr << read.notes().text();
      return 1;
    }
    tell(k.file, std::move(read).value(), k.best == 0.0 ? std::nullopt : std::optional(k.best),
         limit, one);
  }
  const auto random = [&](const std::string& name, const std::string& text) {
    Reading<Model> read = parse_knot(text, "random.knot", "");
    if (!read.ok()) std::cerr << read.notes().text();
    tell(name, std::move(read).value(), std::nullopt, limit, one);
  };
  for (const int n : {10, 20, 30})
    random(fmt::format("quadratic knapsack of {}", n), knapsack(n, 1));
  for (const int n : {4, 6, 8})
    random(fmt::format("quadratic assignment of {}", n), assignment(n, 1));
  for (const auto& [n, density] : {std::pair(20, 0.3), {20, 0.6}, {30, 0.2}, {30, 0.4}, {30, 0.6}})
    random(fmt::format("box of {}, {:.0f} % filled", n, 100 * density), box(n, density, 1));
  for (const int n : {100, 1000, 5000}) random(fmt::format("stalls, {}", n), stalls(n, 1));
  for (const int n : {100, 2000}) random(fmt::format("swings, {}", n), swings(n, 1));
  for (const int n : {10, 100, 1000}) random(fmt::format("blending, {} pools", n), blending(n, 1));
  std::cout << "\nPublished figures are to the digits that were printed; those of the batch plant "
               "come from "
               "rounded logarithms of its data.\n";
}
