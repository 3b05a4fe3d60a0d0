// By how much a limit on time is overrun: every method and question on models that are hard in
// different ways, under limits from 20 ms to a second. A page of Markdown.

#include <algorithm>
#include <functional>
#include <iostream>

#include <fmt/format.h>

#include "base/random.hpp"
#include "base/work.hpp"
#include "kiteknot/kiteknot.hpp"

using namespace kiteknot;

namespace {

Model read(const std::string& text) {
  Reading<Model> model = parse_knot(text, "bench.knot", "");
  if (!model.ok()) throw UsageError(model.notes().text());
  return std::move(model).value();
}

std::string table(const std::string& name, const std::string& columns, int rows,
                  const std::function<std::string(int)>& row) {
  std::string text = fmt::format("table {0} key {0}_id rows\n  {0}_id{1}\n", name, columns);
  for (int k = 0; k < rows; ++k) text += fmt::format("  {}{}{}\n", name, k, row(k));
  return text;
}

// Lots made ahead: set-ups, stocks without bounds, one capacity a period.
std::string lots(int items, int periods, std::uint64_t seed) {
  Random random(seed);
  std::string text = table("item", ",setup,hold", items, [&](int) {
    return fmt::format(",{},{}", random.between(40, 120), random.between(1, 4));
  });
  text += fmt::format("table period key period_id ordered rows\n  period_id\n");
  for (int t = 0; t < periods; ++t) text += fmt::format("  p{}\n", t);
  text += "table want key item in item, period in period rows\n  item,period,amount\n";
  for (int i = 0; i < items; ++i)
    for (int t = 0; t < periods; ++t)
      text += fmt::format("  item{},p{},{}\n", i, t, random.between(0, 40));
  text +=
      "decide make[i in item, t in period] real 0 .. 200\n"
      "decide stock[i in item, t in period] real 0 .. inf\n"
      "decide set[i in item, t in period] binary\n"
      "minimize cost: total(i.setup * set[i, t] + i.hold * stock[i, t] over i in item, t in "
      "period)\n"
      "let wanted[i in item, t in period] = total(w.amount over w in want where w.item = i and "
      "w.period = t)\n"
      "rule used[i in item, t in period]: make[i, t] <= 200 * set[i, t]\n"
      "rule room[t in period]: total(make[i, t] + 10 * set[i, t] over i in item) <= " +
      std::to_string(30 * items) +
      "\n"
      "rule flow[i in item, t in period where not first(t)]: stock[i, before(t)] + make[i, t] - "
      "stock[i, t] = wanted[i, t]\n"
      "rule start[i in item, t in period where first(t)]: make[i, t] - stock[i, t] = wanted[i, "
      "t]\n";
  return text;
}

std::string cover(int rows, int columns, std::uint64_t seed) {
  Random random(seed);
  std::string text = table("pick", ",cost", columns,
                           [&](int) { return fmt::format(",{}", random.between(1, 100)); });
  text += "decide take[p in pick] binary\nminimize cost: total(p.cost * take[p] over p in pick)\n";
  for (int i = 0; i < rows; ++i) {
    text += fmt::format("rule need{}: ", i);
    bool first = true;
    for (int j = 0; j < columns; ++j)
      if (random.chance(0.02) || j == i) {
        text += fmt::format("{}take[\"pick{}\"]", first ? "" : " + ", j);
        first = false;
      }
    text += " >= 1\n";
  }
  return text;
}

// Rows over many items whose worth is their weight: hard to prove.
std::string packing(int items, int rows, std::uint64_t seed) {
  Random random(seed);
  std::string columns;
  for (int r = 0; r < rows; ++r) columns += fmt::format(",w{}", r);
  std::string text = table("item", columns, items, [&](int) {
    std::string row;
    for (int r = 0; r < rows; ++r) row += fmt::format(",{}", random.between(100, 999));
    return row;
  });
  text += "decide take[i in item] binary\nmaximize worth: total((";
  for (int r = 0; r < rows; ++r) text += fmt::format("{}i.w{}", r > 0 ? " + " : "", r);
  text += ") * take[i] over i in item)\nnumber half = " + std::to_string(137 * items) + "\n";
  for (int r = 0; r < rows; ++r)
    text += fmt::format("rule room{0}: total(i.w{0} * take[i] over i in item) <= 2 * half\n", r);
  return text;
}

struct Overrun {
  double most = 0.0;  // seconds
  int stopped = 0, asked = 0;
  void take(double spent, double limit) {
    ++asked;
    if (spent <= limit) return;
    ++stopped;
    most = std::max(most, spent - limit);
  }
};

void row(const std::string& model, const std::string& what, const Overrun& o) {
  std::cout << fmt::format("| {} | {} | {} of {} | {:.0f} ms |\n", model, what, o.stopped, o.asked,
                           1e3 * o.most);
  std::cout.flush();
}

constexpr double kLimits[] = {0.02, 0.1, 0.3, 1.0};

void measure(const std::string& name, const std::string& text, int swept = 0) {
  const Model model = read(text);
  SolveOptions options;
  const auto question = [&](const std::string& what, const std::function<void()>& ask) {
    Overrun o;
    for (const double limit : kLimits) {
      options.seconds = limit;
      const Stopwatch clock;
      ask();
      o.take(clock.seconds(), limit);
    }
    row(name, what, o);
  };
  for (const char* way : {"exact", "relaxed", "greedy", "rounded"})
    question(way, [&] { (void)method(way).run(model, options, nullptr); });
  const auto variants = [&](const std::string& what, const std::function<Variation()>& ask) {
    Overrun o;
    for (const double limit : kLimits) {
      options.seconds = limit;
      for (const Variant& v : ask().variants) o.take(v.seconds, limit);
    }
    row(name, what, o);
  };
  if (swept > 0)
    variants("a sweep, each value", [&] {
      return sweep(model, {"half", swept / 2, swept, 3, false}, options);
    });
  variants("rules left out, each", [&] { return without_each(model, false, options); });
  question("explain", [&] { (void)explain(model, {{}, {}, options}); });
  question("ways compared", [&] { (void)compare(model, method_names(), options); });
  question("how firm", [&] { (void)firmness(model, options, 100'000); });
  question("twenty plans", [&] {
    const Stopwatch since;
    const Result best = solve(model, options);
    SolveOptions rest = options;
    rest.seconds = std::max(0.0, options.seconds - since.seconds());
    if (best.outcome == Outcome::optimal) (void)next_best(best, {20, {}}, rest);
  });
}

// Every way to a tour that takes these stops, the bound included; then all of them as one question.
void measure_tours(const std::string& name, const Stops& stops, const std::vector<double>& limits) {
  const auto find = [&](const TourWay& way, double seconds) {
    TourOptions options;
    options.way = way.name;
    options.seconds = seconds;
    (void)find_tour(stops, options);
  };
  for (const TourWay& way : tour_ways()) {
    if (!takes(way, stops)) continue;
    Overrun o;
    for (const double limit : limits) {
      const Stopwatch clock;
      find(way, limit);
      o.take(clock.seconds(), limit);
    }
    row(name, way.name, o);
  }
}

}  // namespace

int main() {
  std::cout
      << "\n## Limits on time\n\nOverrun: the most that an answer came after its limit, for "
         "limits of 20 ms, 100 ms, 300 ms and 1 s (of tours as the row says); the aim is 50 ms. "
         "Stopped: how many of the answers came after it.\n\n"
         "| model | what | stopped | overrun |\n| --- | --- | --- | --- |\n";
  measure("lots, 6 x 15", lots(6, 15, 1));
  measure("lots, 20 x 40", lots(20, 40, 1));
  measure("cover 200 x 2,000", cover(200, 2000, 1));
  measure("packing 60 x 5", packing(60, 5, 1), 137 * 60);
  measure("packing 60,000 x 8", packing(60000, 8, 1), 137 * 60000);
  measure_tours("tour of 3,001, 0.1 to 2 s", Stops::made_up(3001, 1), {0.1, 0.3, 1.0, 2.0});
  measure_tours("tour of 100,000, 0.3 to 2 s", Stops::made_up(100'000, 1), {0.3, 1.0, 2.0});
}
