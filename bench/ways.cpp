// Ways of planning on made cases of every kind: how near, how soon, by how much a limit is overrun,
// and how many moves a second are looked at. A page of Markdown.
//
// Usage: bench_ways [SECONDS [KIND]]

#include <filesystem>
#include <iostream>
#include <map>

#include <fmt/format.h>
#include <unistd.h>

#include "base/random.hpp"
#include "base/work.hpp"
#include "kiteknot/kiteknot.hpp"
#include "methods/walks/standing.hpp"

using namespace kiteknot;

namespace {

namespace fs = std::filesystem;

class Folder {
 public:
  Folder() { fs::create_directories(path_); }
  ~Folder() {
    std::error_code ignored;
    fs::remove_all(path_, ignored);
  }
  Folder(const Folder&) = delete;
  Folder& operator=(const Folder&) = delete;
  [[nodiscard]] Model made(const MadeAsked& asked) const {
    const MadeCase c = make_case(asked, "bench");
    for (const auto& [file, text] : c.files) write_text((path_ / file).string(), text);
    return read_model((path_ / c.files.front().first).string()).value();
  }
  // The roster with its rests said as conditions.
  [[nodiscard]] Model roster_in_words(std::int32_t people, std::int32_t days) const {
    MadeCase c = make_case({.kind = "roster", .sizes = {people, days}}, "words");
    std::string& text = c.files.front().second;
    const std::string sum =
        "works[q.person, q.day, \"night\"] + works[q.person, after(q.day), \"early\"] <= 1";
    const std::size_t at = text.find(sum);
    if (at == std::string::npos) throw UsageError("the roster has no rests");
    text.replace(at, sum.size(),
                 "works[q.person, q.day, \"night\"] implies not works[q.person, after(q.day), "
                 "\"early\"]");
    for (const auto& [file, content] : c.files) write_text((path_ / file).string(), content);
    return read_model((path_ / c.files.front().first).string()).value();
  }

 private:
  fs::path path_ = fs::temp_directory_path() / fmt::format("kiteknot-bench-{}", ::getpid());
};

// Random single moves looked at, and taken every hundredth time.
void moves(const std::string& name, const Model& model) {
  const methods::CompiledModel compiled(model.data());
  methods::Standing standing(compiled);
  Random random(1);
  std::int64_t looked = 0;
  const Stopwatch clock;
  constexpr double kSeconds = 1.0;
  constexpr int kBatch = 1000;
  while (clock.seconds() < kSeconds)
    for (int k = 0; k < kBatch; ++k, ++looked) {
      const auto d = static_cast<std::int32_t>(random.between(0, compiled.num_decisions() - 1));
      const methods::Move m{d, 1.0 - standing.value(d)};
      (void)standing.tried(std::span(&m, 1));
      if (k % 100 == 0) {
        standing.take(m);
        standing.keep();
      }
    }
  fmt::print("| {} | {} | {} | {:.2f} |\n", name, compiled.num_decisions(), compiled.rules.size(),
             static_cast<double>(looked) / clock.seconds() * 1e-6);
}

struct Size {
  std::string kind, variant;
  std::vector<std::int32_t> sizes;
};

std::string sizes_of(const Size& s) {
  std::string text = s.kind;
  for (std::size_t k = 0; k < s.sizes.size(); ++k)
    text += (k == 0 ? " " : "x") + std::to_string(s.sizes[k]);
  return s.variant.empty() ? text : text + ", " + s.variant;
}

std::string percent(double d) {
  return std::isinf(d) ? "no plan" : fmt::format("{:.2f}", 100.0 * d);
}

}  // namespace

int main(int argc, char** argv) {
  const double seconds = argc > 1 ? std::stod(argv[1]) : 2.0;
  const std::string only = argc > 2 ? argv[2] : "";
  const Folder folder;
  fmt::print("## Ways of planning\n\n");
  if (only.empty()) {
    fmt::print(
        "Millions of single moves looked at a second, every hundredth taken:\n\n"
        "| model | decisions | rules | million moves a second |\n| --- | --- | --- | --- |\n");
    moves("limits 10000x5", folder.made({.kind = "limits", .sizes = {10000, 5}}));
    moves("cover 500x5000", folder.made({.kind = "cover", .sizes = {500, 5000}}));
    moves("roster 60x28", folder.made({.kind = "roster", .sizes = {60, 28}}));
    moves("roster 60x28, rests as conditions", folder.roster_in_words(60, 28));
  }
  const std::vector<Size> all = {
      {"knapsack", "tight", {1000}},  {"limits", "", {100, 5}},     {"limits", "", {10000, 5}},
      {"cover", "", {200, 2000}},     {"cover", "", {500, 5000}},   {"assignment", "C", {10, 100}},
      {"assignment", "E", {10, 100}}, {"facilities", "", {30, 60}}, {"facilities", "", {100, 100}},
      {"staffing", "", {48, 300}},    {"lots", "", {10, 20}},       {"bins", "", {60}},
      {"roster", "", {20, 28}},       {"roster", "", {60, 28}},     {"shop", "", {8, 8}}};
  fmt::print(
      "\nThree cases each, {} s a way and case, one core. Distances from the best that "
      "anybody found in percent: mean and worst; where some case had no plan, so many. "
      "Over: the longest that the limit was overrun, in ms.\n\n"
      "| cases | way | mean | worst | to its best | over |\n"
      "| --- | --- | --- | --- | --- | --- |\n",
      seconds);
  for (const Size& size : all) {
    if (!only.empty() && size.kind != only) continue;
    std::vector<TrialCase> cases;
    for (std::uint64_t seed = 1; seed <= 3; ++seed)
      cases.push_back({fmt::format("{}", seed), [&, seed] {
                         return folder.made({size.kind, size.sizes, size.variant, seed, false});
                       }});
    TrialOptions options;
    options.seconds = seconds;
    const Trials t = run_trials(cases, options);
    std::size_t proven = 0;
    for (const TrialCaseAnswer& c : t.cases) proven += c.proven ? 1 : 0;
    std::string name = fmt::format("{} ({} of 3 proven)", sizes_of(size), proven);
    for (const WayStanding& s : standings(t)) {
      if (s.cases == 0) continue;
      double over = 0.0;
      for (const Attempt& a : t.attempts)
        if (a.way == s.way) over = std::max(over, a.seconds - seconds);
      fmt::print(
          "| {} | {} | {}{} | {} | {} | {} |\n", name, s.way, percent(s.mean),
          s.without > 0 && s.without < s.cases ? fmt::format(" ({} without)", s.without) : "",
          percent(s.worst), s.to_best ? fmt::format("{:.2f} s", *s.to_best) : "-",
          over > 0.0005 ? fmt::format("{:.0f}", 1e3 * over) : "");
      name.clear();
    }
    std::cout << std::flush;
    std::fflush(stdout);
  }
}
