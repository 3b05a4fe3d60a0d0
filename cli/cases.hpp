#pragma once
// The cases of a comparison: files, folders, scenarios, tables of data, rows of settings.

#include <string>
#include <vector>

#include "command.hpp"

namespace kiteknot::cli {

struct CaseArguments {
  std::vector<std::string> files, settings, data;
  std::string scenario, as, each_row;
  bool each_scenario = false;
  void add_to(CLI::App& command);
  /// Whether more than one model as it stands is meant.
  [[nodiscard]] bool many() const;
  /// Where one model as it stands is meant.
  [[nodiscard]] ModelArguments one() const;
  /// All combinations; each is read when its turn comes. CommandLineError where there is none.
  [[nodiscard]] std::vector<TrialCase> cases() const;
  /// Files that are read in any case: nothing is written over them.
  [[nodiscard]] std::vector<std::string> inputs() const;
};

}  // namespace kiteknot::cli
