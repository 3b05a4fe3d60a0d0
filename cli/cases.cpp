#include "cases.hpp"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <iterator>

#include <fmt/format.h>
#include <glob.h>

#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

namespace fs = std::filesystem;

// Files by a pattern, in order; a plain name is itself.
std::vector<std::string> matching(const std::string& pattern) {
  glob_t found{};
  std::vector<std::string> files;
  if (glob(pattern.c_str(), 0, nullptr, &found) == 0)
    for (std::size_t k = 0; k < found.gl_pathc; ++k) files.emplace_back(found.gl_pathv[k]);
  globfree(&found);
  if (files.empty()) throw CommandLineError("no file is called " + pattern);
  return files;
}

// A folder stands for the models in it.
std::vector<std::string> models_of(const std::vector<std::string>& files) {
  std::vector<std::string> all;
  for (const std::string& file : files) {
    if (!fs::is_directory(file)) {
      all.push_back(file);
      continue;
    }
    std::vector<std::string> inside;
    for (const auto& entry : fs::directory_iterator(file))
      if (entry.path().extension() == ".knot" || entry.path().extension() == ".mps")
        inside.push_back(entry.path().string());
    if (inside.empty()) throw CommandLineError("there is no .knot or .mps file in " + file);
    std::ranges::sort(inside);
    all.insert(all.end(), inside.begin(), inside.end());
  }
  return all;
}

// FNV-1a over everything that the model was read from (Fowler, Noll and Vo 1991): it only has to
// differ where files do.
std::string state_of(const Model& model, const std::string& under) {
  std::uint64_t hash = 0xcbf29ce484222325ULL;
  const auto add = [&](std::string_view text) {
    for (const char c : text) hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3ULL;
  };
  add(under);
  for (const std::string& file : model.inputs()) {
    std::ifstream in(file, std::ios::binary);
    add(std::string(std::istreambuf_iterator<char>(in), {}));
  }
  return fmt::format("{:016x}", hash);
}

std::string stem(const std::string& file) {
  return fs::path(file).stem().string();
}

// One case: a name for each thing that it differs in.
struct Setting {
  std::vector<std::string> names;
  ModelArguments model;
  std::vector<OtherData> other{};
};

// A table with a row for each case: its first column names it, the others are numbers of the model.
std::vector<std::pair<std::string, std::vector<std::string>>> rows_of(const std::string& file) {
  std::ifstream in(file, std::ios::binary);
  if (!in) throw CommandLineError("--each-row: " + file + " cannot be read");
  std::string header;
  std::getline(in, header);
  if (!header.empty() && header.back() == '\r') header.pop_back();
  const std::string key = header.substr(0, header.find_first_of(",;\t"));
  const Table table = Table::read(file, {.key = {KeyColumn(key)}});
  std::vector<std::pair<std::string, std::vector<std::string>>> rows;
  for (const Row row : table) {
    std::vector<std::string> settings;
    for (const std::string& column : table.columns())
      if (column != key) settings.push_back(column + "=" + row.number(column).text());
    rows.emplace_back(row.keys().front(), settings);
  }
  if (rows.empty()) throw CommandLineError("--each-row: there is no row in " + file);
  return rows;
}

}  // namespace

void CaseArguments::add_to(CLI::App& command) {
  command.add_option("FILE", files,
                     "models (.knot, .mps), folders of them, or stops; or two saved answers "
                     "(.json); alone, without any, it tells the ways");
  auto* one = command.add_option("--scenario", scenario, "make the changes of this scenario first");
  command
      .add_flag("--each-scenario", each_scenario,
                "the model as it stands and each of its "
                "scenarios are a case")
      ->excludes(one);
  auto* other = command.add_option("--data", data,
                                   "each of these files is a case: 'weeks/*.csv' in place of the "
                                   "table that --as names");
  auto* table = command.add_option("--as", as, "which table of the model --data stands for");
  other->needs(table);
  table->needs(other);
  command.add_option("--each-row", each_row,
                     "each row of this table is a case: its name, and numbers of the model to set");
  command.add_option("--set", settings, "NAME=VALUE: set a number of the model for this run")
      ->take_all()
      ->allow_extra_args(false);
}

bool CaseArguments::many() const {
  return files.size() > 1 || each_scenario || !data.empty() || !each_row.empty() ||
         (files.size() == 1 && fs::is_directory(files[0]));
}

ModelArguments CaseArguments::one() const {
  ModelArguments m;
  m.file = files.front();
  m.scenario = scenario;
  m.settings = settings;
  return m;
}

std::vector<std::string> CaseArguments::inputs() const {
  std::vector<std::string> all;
  for (const std::string& file : files)
    if (!fs::is_directory(file)) all.push_back(file);
  for (const std::string& pattern : data)
    for (const std::string& file : matching(pattern)) all.push_back(file);
  if (!each_row.empty()) all.push_back(each_row);
  return all;
}

std::vector<TrialCase> CaseArguments::cases() const {
  const std::vector<std::string> models = models_of(files);
  std::vector<Setting> all;
  for (const std::string& file : models) {
    Setting s{{}, one(), {}};
    s.model.file = file;
    if (models.size() > 1) s.names.push_back(stem(file));
    all.push_back(std::move(s));
  }
  const auto times = [&](const auto& list, const auto& make) {
    std::vector<Setting> more;
    for (const Setting& s : all)
      for (const auto& entry : list) {
        Setting next = s;
        make(next, entry);
        more.push_back(std::move(next));
      }
    all = std::move(more);
  };
  if (each_scenario) {
    std::vector<Setting> more;
    for (const Setting& s : all) {
      more.push_back(s);
      more.back().names.emplace_back("as it stands");
      for (const std::string& name : s.model.load().scenarios()) {
        more.push_back(s);
        more.back().names.push_back(name);
        more.back().model.scenario = name;
      }
    }
    all = std::move(more);
  }
  if (!data.empty()) {
    std::vector<std::string> found;
    for (const std::string& pattern : data)
      for (const std::string& file : matching(pattern)) found.push_back(file);
    times(found, [&](Setting& s, const std::string& file) {
      s.names.push_back(stem(file));
      s.other.push_back({as, file});
    });
  }
  if (!each_row.empty())
    times(rows_of(each_row), [](Setting& s, const auto& row) {
      s.names.push_back(row.first);
      s.model.settings.insert(s.model.settings.end(), row.second.begin(), row.second.end());
    });
  std::vector<TrialCase> cases;
  for (const Setting& s : all) {
    std::string name;
    for (const std::string& part : s.names) name += (name.empty() ? "" : ", ") + part;
    if (name.empty()) name = stem(s.model.file);
    // Two of one name (two folders): by all of the path.
    if (std::ranges::find(cases, name, &TrialCase::name) != cases.end())
      name += " (" + (s.other.empty() ? s.model.file : s.other.front().file) + ")";
    cases.push_back({name, [s] { return s.model.load_with(s.other); },
                     [under = s.model.under()](const Model& m) { return state_of(m, under); }});
  }
  return cases;
}

}  // namespace kiteknot::cli
