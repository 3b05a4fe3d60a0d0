#include <filesystem>

#include <fmt/format.h>

#include "command.hpp"
#include "terminal.hpp"
#include "values.hpp"

namespace kiteknot::cli {
namespace {

namespace fs = std::filesystem;

struct MakeArguments {
  MadeAsked asked;
  std::string size, to;
  std::int64_t count = 1;
};

// "20x400", "20 400" or "20,400".
std::vector<std::int32_t> sizes_of(const std::string& text) {
  std::vector<std::int32_t> sizes;
  std::string digits;
  for (const char c : text + "x") {
    if (c >= '0' && c <= '9') {
      digits += c;
      continue;
    }
    constexpr std::size_t kMost = 8;
    if ((c != 'x' && c != ',' && c != ' ') || digits.empty() || digits.size() > kMost)
      throw CommandLineError("--size takes whole numbers with x between, as in 20x400, not '" +
                             text + "'");
    sizes.push_back(std::stoi(digits));
    digits.clear();
  }
  return sizes;
}

std::string kinds_page() {
  std::string text = "Kinds of cases that can be made\n\n";
  for (const MadeKind& k : made_kinds()) {
    std::string usual, sizes;
    for (std::size_t i = 0; i < k.sizes.size(); ++i) {
      usual += (i > 0 ? "x" : "") + std::to_string(k.usual[i]);
      sizes += (i > 0 ? " x " : "") + k.sizes[i];
    }
    text += fmt::format("  {:<11} {}\n", k.name, k.about);
    text += fmt::format("  {:<11} --size {} ({} if not said)\n", "", sizes, usual);
    if (!k.classes.empty()) {
      std::string classes;
      for (const std::string& c : k.classes) classes += (classes.empty() ? "" : ", ") + c;
      text += fmt::format("  {:<11} --class {}\n", "", classes);
    }
    if (k.planted) text += fmt::format("  {:<11} --planted: with a known optimum\n", "");
    text += fmt::format("  {:<11} hard: {}\n  {:<11} {}\n\n", "", k.hard, "", k.source);
  }
  return text;
}

int run(const MakeArguments& a) {
  if (a.asked.kind.empty()) {
    print(kinds_page());
    return kDone;
  }
  if (a.to.empty()) throw CommandLineError("--to says into which folder the files go");
  MadeAsked asked = a.asked;
  if (!a.size.empty()) asked.sizes = sizes_of(a.size);
  std::vector<MadeCase> cases;
  std::string first;
  const std::size_t width = std::to_string(a.count).size();
  for (std::int64_t k = 1; k <= a.count; ++k) {
    const std::string name =
        a.count == 1 ? asked.kind : fmt::format("{}-{:0{}}", asked.kind, k, width);
    try {
      cases.push_back(make_case(asked, name));
    } catch (const UsageError& e) {
      throw CommandLineError(e.what());
    }
    ++asked.seed;
  }
  std::error_code code;
  fs::create_directories(a.to, code);
  if (code) throw OutputError(a.to + " cannot be made: " + code.message());
  // What is there stays, whoever put it there.
  for (const MadeCase& c : cases)
    for (const auto& [file, text] : c.files)
      if (fs::exists(fs::path(a.to) / file))
        throw OutputError((fs::path(a.to) / file).string() + " is there already");
  for (const MadeCase& c : cases) {
    for (const auto& [file, text] : c.files) write_text((fs::path(a.to) / file).string(), text);
    if (first.empty()) first = (fs::path(a.to) / c.files.front().first).string();
  }
  if (a.count == 1)
    print(cases[0].files.size() == 1
              ? first
              : fmt::format("{} with {} {}", first, cases[0].files.size() - 1,
                            cases[0].files.size() == 2 ? "table" : "tables"));
  else
    print(fmt::format("{} cases in {}, the first one {}", cases.size(), a.to, first));
  print(".\n");
  if (a.count == 1 && cases[0].optimum)
    print(fmt::format("Its best goal is {}: that plan was planted.\n", cases[0].optimum->text()));
  if (a.count > 1 && cases[0].optimum) {
    std::string text = "case,optimum\n";
    for (const MadeCase& c : cases)
      text += fmt::format("{},{}\n", fs::path(c.files.front().first).stem().string(),
                          c.optimum->text());
    const std::string file = (fs::path(a.to) / "optima.csv").string();
    write_text(file, text);
    print("Their best goals, which were planted, are in " + file + ".\n");
  }
  return kDone;
}

}  // namespace

Run add_make(CLI::App& app, CLI::App*& command) {
  command = app.add_subcommand(
      "make", "cases of the classic kinds to try ways on, drawn by seed after published recipes");
  const auto a = std::make_shared<MakeArguments>();
  std::string kinds;
  for (const MadeKind& k : made_kinds()) kinds += (kinds.empty() ? "" : ", ") + k.name;
  command->add_option("KIND", a->asked.kind, "one of " + kinds + "; without: what they are");
  command->add_option("--size", a->size, "how large, as in 20x400; see 'make' alone");
  command->add_option("--class", a->asked.variant, "which class of the kind");
  command->add_option("--seed", a->asked.seed, "for what is drawn; 1 if not said")
      ->check(a_count(true));
  command->add_option("--count", a->count, "so many cases, with seeds in a row")
      ->check(a_count(false, 10'000));
  command->add_flag("--planted", a->asked.planted,
                    "with a plan inside whose goal is known as best");
  command->add_option("--to", a->to, "into this folder");
  return [a] { return run(*a); };
}

}  // namespace kiteknot::cli
