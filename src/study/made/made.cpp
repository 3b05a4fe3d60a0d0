#include "kiteknot/made.hpp"

#include <algorithm>
#include <numeric>

#include "base/text.hpp"
#include "study/made/recipes.hpp"

namespace kiteknot {
namespace {

struct Entry {
  MadeKind kind;
  void (*make)(made::Recipe&);
};

const std::vector<Entry>& entries() {
  static const std::vector<Entry> kAll = {
      {{"knapsack",
        "items by mass and worth into one bag",
        "Pisinger 2005, \"Where are the hard knapsack problems?\"",
        "worth that follows mass closely (near, tight), and sums alone",
        {"items"},
        {100},
        {"apart", "near", "tight", "sums"},
        true},
       made::knapsack},
      {{"limits",
        "items under several limits at once",
        "Chu and Beasley 1998, \"A genetic algorithm for the multidimensional knapsack problem\"",
        "ten limits and more; class quarter, where least fits",
        {"items", "limits"},
        {100, 5},
        {"half", "quarter", "three quarters"},
        false},
       made::limits},
      {{"cover",
        "needs met by the cheapest sets",
        "Balas and Ho 1980, \"Set covering algorithms using cutting planes, heuristics, and "
        "subgradient optimization\"",
        "few needs a set and costs alike, from some hundred needs on",
        {"needs", "sets"},
        {100, 500},
        {"2 %", "5 %", "10 %"},
        true},
       made::cover},
      {{"assignment",
        "jobs to people with room, each once",
        "classes A to D: Martello and Toth 1981, Chu and Beasley 1997, \"A genetic algorithm for "
        "the generalised assignment problem\"; E: Laguna, Kelly, Gonzalez and Glover 1995, \"Tabu "
        "search for the multilevel generalized assignment problem\"",
        "classes D and E, where cheap is what needs much room",
        {"people", "jobs"},
        {5, 50},
        {"C", "A", "B", "D", "E"},
        false},
       made::assignment},
      {{"facilities",
        "depots with rent and room, fields with needs",
        "Cornuejols, Sridharan and Thizy 1991, \"A comparison of heuristics and relaxations for "
        "the capacitated plant location problem\"",
        "room that is short (class 3 times the needs)",
        {"depots", "fields"},
        {15, 30},
        {"5 times", "3 times", "10 times"},
        false},
       made::facilities},
      {{"staffing",
        "shift patterns that cover the needs of a day",
        "Dantzig 1954, \"A comment on Edie's 'Traffic delays at toll booths'\"",
        "many patterns with breaks and costs alike",
        {"hours", "patterns"},
        {24, 80},
        {},
        false},
       made::staffing},
      {{"lots",
        "what is made when, with set-up times on one machine",
        "Trigeiro, Thomas and McClain 1989, \"Capacitated lot sizing with setup times\"",
        "capacity that is short and set-ups that take time; ten items and twenty weeks are hard",
        {"items", "weeks"},
        {6, 15},
        {"short", "wide"},
        false},
       made::lots},
      {{"bins",
        "as few boxes as can be",
        "Martello and Toth 1990, \"Knapsack problems\"; planted: triplets of Falkenauer 1996, \"A "
        "hybrid grouping genetic algorithm for bin packing\"",
        "three items a box with no room left (planted)",
        {"items"},
        {24},
        {},
        true},
       made::bins},
      {{"roster",
        "who works which shift, with rests and wishes",
        "after Burke, De Causmaecker, Vanden Berghe and Van Landeghem 2004, \"The state of the art "
        "of nurse rostering\"",
        "cover that needs nearly everybody",
        {"people", "days"},
        {8, 14},
        {},
        false},
       made::roster},
      {{"shop",
        "jobs over machines, each in an order of its own",
        "Taillard 1993, \"Benchmarks for basic scheduling problems\"",
        "as many jobs as machines, from ten on",
        {"jobs", "machines"},
        {5, 4},
        {},
        false},
       made::shop},
      {{"tour",
        "stops in a square (a list of stops)",
        "Johnson and McGeoch 1997, \"The traveling salesman problem: a case study\"",
        "the proof, from some thousand stops on",
        {"stops"},
        {100},
        {"even", "in heaps"},
        false},
       made::tour},
      {{"routes",
        "stops with loads, for several trips (a list of stops)",
        "Christofides, Mingozzi and Toth 1979, \"The vehicle routing problem\"",
        "from fifty stops on",
        {"stops"},
        {30},
        {},
        false},
       made::routes}};
  return kAll;
}

}  // namespace

const std::vector<MadeKind>& made_kinds() {
  static const std::vector<MadeKind> kAll = [] {
    std::vector<MadeKind> all;
    for (const Entry& e : entries()) all.push_back(e.kind);
    return all;
  }();
  return kAll;
}

MadeCase make_case(const MadeAsked& asked, const std::string& name) {
  std::vector<std::string> names;
  for (const Entry& e : entries()) names.push_back(e.kind.name);
  const auto entry =
      std::ranges::find_if(entries(), [&](const Entry& e) { return e.kind.name == asked.kind; });
  if (entry == entries().end())
    throw UsageError(fmt::format("there is no kind '{}'{}; the kinds are {}", asked.kind,
                                 nearest_hint(asked.kind, names), listed(names)));
  const MadeKind& kind = entry->kind;
  std::vector<std::int32_t> sizes = asked.sizes.empty() ? kind.usual : asked.sizes;
  if (sizes.size() != kind.sizes.size())
    throw UsageError(fmt::format("{} has {}: {}", kind.name, counted(kind.sizes.size(), "size"),
                                 listed(kind.sizes)));
  double rows = 1.0;
  for (std::size_t k = 0; k < sizes.size(); ++k) {
    if (sizes[k] < 1) throw UsageError(fmt::format("{} are 1 at least", kind.sizes[k]));
    rows *= sizes[k];
  }
  constexpr double kMostRows = 1e7;
  if (rows > kMostRows) throw UsageError("that would be more than ten million rows");
  std::string variant = asked.variant;
  if (variant.empty() && !kind.classes.empty()) variant = kind.classes.front();
  if (!variant.empty() && std::ranges::find(kind.classes, variant) == kind.classes.end())
    throw UsageError(kind.classes.empty()
                         ? fmt::format("{} has one class only", kind.name)
                         : fmt::format("{} has no class '{}'{}; its classes are {}", kind.name,
                                       variant, nearest_hint(variant, kind.classes),
                                       listed(kind.classes)));
  if (asked.planted && !kind.planted)
    throw UsageError(fmt::format("{} has no planted cases", kind.name));
  made::Recipe recipe{asked, std::move(sizes), std::move(variant), name, Random(asked.seed)};
  entry->make(recipe);
  return std::move(recipe.out);
}

}  // namespace kiteknot
