#include "own_program.hpp"

#include <csignal>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <thread>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include "terminal.hpp"

namespace kiteknot::cli {
namespace {

namespace fs = std::filesystem;

// A folder of its own that goes with the run.
class Folder {
 public:
  Folder() {
    std::string name = (fs::temp_directory_path() / "kiteknot-way-XXXXXX").string();
    if (mkdtemp(name.data()) == nullptr)
      throw OutputError("no folder could be made in " + fs::temp_directory_path().string());
    path_ = name;
  }
  ~Folder() {
    std::error_code ignored;
    fs::remove_all(path_, ignored);
  }
  Folder(const Folder&) = delete;
  Folder& operator=(const Folder&) = delete;
  [[nodiscard]] const std::string& path() const noexcept { return path_; }

 private:
  std::string path_;
};

// The last line that is not empty, cut to what fits into a sentence.
std::string last_line(const std::string& file) {
  std::ifstream in(file);
  std::string line, last;
  while (std::getline(in, line))
    if (line.find_first_not_of(" \t\r") != std::string::npos) last = line;
  constexpr std::size_t kMost = 120;
  if (last.size() > kMost) last = last.substr(0, kMost) + "...";
  while (!last.empty() && (last.back() == '.' || last.back() == '\r')) last.pop_back();
  return last;
}

struct Ended {
  bool stopped = false;  // at its limit
  int status = 0;
  double seconds = 0.0;
};

// In a group of its own, so that whatever it starts ends with it.
Ended run_program(const std::string& command, const std::string& folder,
                  const SolveOptions& options) {
  const std::string seconds = fmt::format("{}", options.seconds);
  const std::string seed = fmt::format("{}", options.seed);
  const std::string script = "exec " + command + " \"$@\"";
  const std::string said = folder + "/said.txt";
  using Clock = std::chrono::steady_clock;
  const auto start = Clock::now();
  const pid_t child = fork();
  if (child < 0) throw OutputError("no further program can be started");
  if (child == 0) {
    setpgid(0, 0);
    const int out = open(said.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0600);
    const int in = open("/dev/null", O_RDONLY);
    if (out >= 0) {
      dup2(out, STDOUT_FILENO);
      dup2(out, STDERR_FILENO);
    }
    if (in >= 0) dup2(in, STDIN_FILENO);
    execl("/bin/sh", "sh", "-c", script.c_str(), "way", folder.c_str(), seconds.c_str(),
          seed.c_str(), static_cast<char*>(nullptr));
    constexpr int kNotFound = 127;
    _exit(kNotFound);
  }
  setpgid(child, child);
  Ended ended;
  const auto gone = [&] { return std::chrono::duration<double>(Clock::now() - start).count(); };
  constexpr auto kLook = std::chrono::milliseconds(2);
  while (waitpid(child, &ended.status, WNOHANG) == 0) {
    if (gone() < options.seconds && !options.stop.pressed()) {
      std::this_thread::sleep_for(kLook);
      continue;
    }
    ended.stopped = true;
    kill(-child, SIGKILL);
    waitpid(child, &ended.status, 0);
    break;
  }
  kill(-child, SIGKILL);  // what it left running
  ended.seconds = gone();
  return ended;
}

class OwnProgram final : public Method {
 public:
  OwnProgram(std::string name, std::string command)
      : name_(std::move(name)), command_(std::move(command)) {}
  std::string name() const override { return name_; }
  std::string about() const override { return "the program " + command_; }
  bool draws_lots() const override { return true; }  // it is given a seed

  std::vector<MethodAnswer> run(const Model& model, const SolveOptions& options,
                                Observer*) const override {
    MethodAnswer a;
    a.method = a.label = name_;
    const Folder folder;
    write_model_data(folder.path(), model);
    const Ended ended = run_program(command_, folder.path(), options);
    a.seconds = ended.seconds;
    std::vector<std::string> said;
    if (ended.stopped)
      said.emplace_back("it was stopped at its limit");
    else if (WIFSIGNALED(ended.status))
      said.push_back(fmt::format("it was ended by signal {}", WTERMSIG(ended.status)));
    else if (WEXITSTATUS(ended.status) != 0)
      said.push_back(fmt::format("it ended with code {}", WEXITSTATUS(ended.status)));
    if (!said.empty())
      if (const std::string line = last_line(folder.path() + "/said.txt"); !line.empty())
        said.back() += fmt::format(" (\"{}\")", line);
    const std::string file = folder.path() + "/plan.csv";
    if (!fs::exists(file)) {
      said.emplace_back("it left no plan.csv");
    } else {
      try {
        a.plan = read_plan(file, model).value();
      } catch (const InputError& e) {
        const Diagnostic& first = e.diagnostics().items().front();
        said.push_back(
            fmt::format("its plan cannot be read: line {}: {}", first.line, first.message));
      } catch (const std::exception& e) {
        said.push_back(fmt::format("its plan cannot be read: {}", e.what()));
      }
    }
    for (const std::string& s : said) a.note += (a.note.empty() ? "" : ", ") + s;
    if (a.plan) {
      a.report = check(model, *a.plan);
      a.outcome = a.report->feasible ? Outcome::unproven : Outcome::undecided;
    }
    return {std::move(a)};
  }

 private:
  std::string name_, command_;
};

class PlanFile final : public Method {
 public:
  explicit PlanFile(std::string path) : path_(std::move(path)) {}
  std::string name() const override { return path_; }
  std::string about() const override { return "the plan in " + path_; }
  std::vector<MethodAnswer> run(const Model& model, const SolveOptions&, Observer*) const override {
    MethodAnswer a;
    a.method = a.label = path_;
    try {
      a.plan = read_plan(path_, model).value();
    } catch (const InputError& e) {
      throw UsageError(e.diagnostics().items().front().text());
    }
    a.report = check(model, *a.plan);
    a.outcome = a.report->feasible ? Outcome::unproven : Outcome::undecided;
    return {std::move(a)};
  }

 private:
  std::string path_;
};

}  // namespace

std::shared_ptr<const Method> own_program(const std::string& stated) {
  const std::size_t equals = stated.find('=');
  const auto blank = [](const std::string& s) {
    return s.find_first_not_of(" \t") == std::string::npos;
  };
  if (equals == std::string::npos || blank(stated.substr(0, equals)) ||
      blank(stated.substr(equals + 1)))
    throw CommandLineError("--way takes NAME=COMMAND, as in 'mine=./mine.py', not '" + stated +
                           "'");
  return std::make_shared<OwnProgram>(stated.substr(0, equals), stated.substr(equals + 1));
}

std::shared_ptr<const Method> plan_file(const std::string& path) {
  if (!fs::exists(path)) throw CommandLineError("--plan: there is no file " + path);
  return std::make_shared<PlanFile>(path);
}

}  // namespace kiteknot::cli
