#pragma once
// What every command shares: adding itself to the command line, loading a model with its settings,
// and the exit codes.

#include <functional>
#include <string>
#include <vector>

#include <CLI/CLI.hpp>

#include "kiteknot/kiteknot.hpp"

namespace kiteknot::cli {

/// 0 done, optimal or accepted; 1 internal failure, or an output could not be written; 2 wrong
/// usage; 3 the input has errors; 4 infeasible, or a plan breaks a rule; 5 unbounded; 6 stopped at
/// a limit.
enum Exit : int {
  kDone = 0,
  kFailed = 1,
  kUsage = 2,
  kBadInput = 3,
  kInfeasible = 4,
  kUnbounded = 5,
  kStopped = 6
};
int exit_code(Outcome outcome);
/// Whether a limit left any of its answers open.
bool left_open(const Variation& variation);

/// A mistake on the command line that only shows after parsing: exit code 2.
class CommandLineError : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// What an option asks for, checked before any work: a UsageError is one of the command line.
template <class Check>
void need_sensible(const std::string& option, const Check& check) {
  try {
    check();
  } catch (const UsageError& e) {
    throw CommandLineError(option + ": " + e.what());
  }
}

/// A model file and the numbers set on the command line.
struct ModelArguments {
  std::string file, scenario;
  std::vector<std::string> settings;
  void add_to(CLI::App& command);
  /// Warnings go to stderr; errors are thrown as InputError.
  /// `data_only`: a file without any decision will do.
  [[nodiscard]] Model load(bool data_only = false) const;
  /// The same with other data in place of some tables.
  [[nodiscard]] Model load_with(const std::vector<OtherData>& other) const;
  /// The same with a condition on it.
  [[nodiscard]] Question load(const std::string& condition) const;
  /// The model under each of these scenarios.
  [[nodiscard]] std::vector<std::pair<std::string, Model>> load_scenarios(
      const std::vector<std::string>& names) const;
  /// "scenario "rain" and grant = 1300"; empty where the model stands as it is stated.
  [[nodiscard]] std::string under() const;
  /// With the time it is now.
  [[nodiscard]] Origin origin() const;

 private:
  void set_numbers(Model& model) const;
};

/// Options of a search.
struct SearchArguments {
  double seconds = 0.0, seconds_each = 0.0, gap = 0.0, memory_gb = 0.0;
  std::int64_t nodes = 0;
  std::uint64_t seed = 1;
  int threads = 0;
  /// `several`: the command may take several solves.
  void add_to(CLI::App& command, bool several = false);
  /// With Ctrl-C wired to the stop switch.
  [[nodiscard]] SolveOptions options() const;
};

/// Ctrl-C and its like press it.
StopSwitch& stop_switch();
/// The tool; its exit code.
int run_tool(int count, char** arguments);

/// Of several processes that do one command together (cli/mpi): set before run_tool. All null:
/// alone.
struct Together {
  std::shared_ptr<const RankGroup> ranks;  ///< that search one tree
  std::shared_ptr<Transport> letters;      ///< of those that share out cases
  int threads = 1;                         ///< for each, where none are asked for
};
Together& together();
/// Whose words and files it is: rank 0's.
inline bool leads() {
  const Together& all = together();
  return all.ranks != nullptr ? all.ranks->leads()
                              : all.letters == nullptr || all.letters->rank() == 0;
}

using Run = std::function<int()>;
// Each adds its command and returns what runs it.
Run add_show(CLI::App& app, CLI::App*& command);
Run add_check(CLI::App& app, CLI::App*& command);
Run add_solve(CLI::App& app, CLI::App*& command);
Run add_resume(CLI::App& app, CLI::App*& command);
Run add_compare(CLI::App& app, CLI::App*& command);
Run add_tour(CLI::App& app, CLI::App*& command);
Run add_report(CLI::App& app, CLI::App*& command);
Run add_tableau(CLI::App& app, CLI::App*& command);
Run add_draw(CLI::App& app, CLI::App*& command);
Run add_vary(CLI::App& app, CLI::App*& command);
Run add_explain(CLI::App& app, CLI::App*& command);
Run add_runs(CLI::App& app, CLI::App*& command);
Run add_convert(CLI::App& app, CLI::App*& command);
Run add_make(CLI::App& app, CLI::App*& command);
Run add_demo(CLI::App& app, CLI::App*& command);

}  // namespace kiteknot::cli
